"""Processes of ours never take modules from where the person stands."""

from __future__ import annotations

import os
import subprocess
import sys

from jaylantern.support import own_python


def test_a_file_that_is_called_like_a_library_is_not_taken(tmp_path):
    (tmp_path / "av.py").write_text("raise SystemExit('taken from where the person stands')\n")
    env = {key: value for key, value in os.environ.items() if key != own_python.SAFE}

    def ran(command):
        return subprocess.run(command, cwd=tmp_path, env=env, capture_output=True, text=True, timeout=180, check=False)

    for script in ("import av", "import jaylantern.jobs.worker", "from jaylantern.render import worker"):
        made = ran(own_python.command("-c", script))
        assert made.returncode == 0, made.stderr
    assert "taken from where" in ran([sys.executable, "-c", "import av"]).stderr  # what would happen without


def test_processes_that_libraries_begin_keep_to_it_too(tmp_path, monkeypatch):
    (tmp_path / "av.py").write_text("raise SystemExit('taken from where the person stands')\n")
    monkeypatch.setenv(own_python.SAFE, "")
    own_python.guard()
    made = subprocess.run(
        [sys.executable, "-c", "import av"], cwd=tmp_path, capture_output=True, timeout=180, check=False
    )
    assert made.returncode == 0
