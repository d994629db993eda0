"""What only some systems have is taken away: processes, limits and locks go on. `./jay lacking` runs all tests so."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from tests import sounds

SHIM = Path(__file__).parent / "shim"


def run(*words: object, at: Path) -> subprocess.CompletedProcess[str]:
    path = os.pathsep.join(filter(None, (str(SHIM), os.environ.get("PYTHONPATH"))))
    command = [sys.executable, *map(str, words)]
    return subprocess.run(command, cwd=at, env={**os.environ, "PYTHONPATH": path}, capture_output=True, text=True)


@pytest.mark.parametrize(
    ("code", "said"),
    [
        ("import os; os.fork()", "no attribute 'fork'"),
        ("import os; os.sched_getaffinity(0)", "no attribute 'sched_getaffinity'"),
        ("__name__ = 'jaylantern.web'; import fcntl", "jaylantern.web asks for fcntl"),
        ("__name__ = 'jaylantern.support.system'; import fcntl, resource", ""),
        ("import subprocess, sys; subprocess.run([sys.executable, '-c', ''])", ""),
    ],
)
def test_it_is_taken_away(tmp_path, code, said):
    done = run("-c", code, at=tmp_path)
    assert said in done.stderr
    assert bool(done.returncode) == bool(said)


def test_films_are_made_by_processes_and_documents_read_apart(tmp_path):
    for name in ("one", "two"):
        (tmp_path / "films" / name).mkdir(parents=True)
        soundfile.write(tmp_path / "films" / name / "talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=5), RATE)
        soundfile.write(tmp_path / "films" / name / "music.wav", sounds.noise(seconds=6, channels=2), RATE)
    recipe = {"talk": "talk*", "music": "music*", "hand_off": ["mix", "timeline"]}
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    made = run("-m", "jaylantern.cli.main", "batch", "films", "--recipe", "r.json", "--out", "out", at=tmp_path)
    assert made.returncode == 0, made.stderr
    [timeline, _] = sorted((tmp_path / "out").glob("*/*.otio"))
    words = ("render", timeline, "--out", tmp_path / "mix.wav", "--media", tmp_path / "films" / "one")
    rendered = run("-m", "jaylantern.cli.main", *words, at=tmp_path)
    assert rendered.returncode == 0, rendered.stderr
    assert (tmp_path / "mix.wav").stat().st_size > 5 * RATE
