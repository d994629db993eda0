"""Folders to work in: gone afterwards, also after a kill, and never anybody else's."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import pytest
import soundfile

from jaylantern.support import scratch
from jaylantern.support.atomic_file import put_text
from tests import sounds

WORKS = """
import sys, time
from pathlib import Path
from jaylantern.support.atomic_file import put_text
from jaylantern.support.scratch import scratch
with scratch(Path(sys.argv[1])) as folder:
    put_text(folder / "sound.raw", "x" * 1000)
    print(folder, flush=True)
    time.sleep(600)
"""


@pytest.fixture
def at_work(tmp_path):
    """Another process at work; it and the folder it works in."""
    process = subprocess.Popen([sys.executable, "-c", WORKS, str(tmp_path)], stdout=subprocess.PIPE, text=True)
    yield process, Path(process.stdout.readline().strip())
    process.kill()
    process.communicate()


def test_it_is_nobody_elses_to_read_and_gone_afterwards(tmp_path):
    with scratch.scratch(tmp_path / "root") as folder:
        if sys.platform != "win32":  # there rights are the account's
            assert folder.stat().st_mode & 0o777 == 0o700
        put_text(folder / "a", "x")
    assert list((tmp_path / "root").iterdir()) == []
    with pytest.raises(ZeroDivisionError), scratch.scratch(tmp_path / "root"):
        raise ZeroDivisionError
    assert list((tmp_path / "root").iterdir()) == []


def test_what_a_kill_left_goes_with_the_next_work_and_what_somebody_works_in_stays(tmp_path, at_work):
    process, theirs = at_work
    with scratch.scratch(tmp_path):
        assert (theirs / "sound.raw").exists()
    process.kill()
    process.wait()
    assert (theirs / "sound.raw").exists()
    with scratch.scratch(tmp_path):
        assert not theirs.exists()


NOT_OURS = ["jaylantern-notes/held", "jaylantern-0123/held", f"jaylantern-{'0' * 32}/tax.pdf", "held", "x/files/held"]


@pytest.mark.parametrize("name", NOT_OURS)
def test_what_only_looks_like_it_stays(tmp_path, name):
    path = tmp_path / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text("mine")
    with scratch.scratch(tmp_path):
        assert path.read_text() == "mine"
    assert path.read_text() == "mine"


def test_one_that_was_killed_before_anything_was_in_it_goes_after_an_hour(tmp_path):
    empty = tmp_path / f"jaylantern-{'a' * 32}"
    empty.mkdir()
    with scratch.scratch(tmp_path):
        assert empty.exists()  # somebody may just be beginning
    os.utime(empty, (time.time() - 2 * 3600,) * 2)
    with scratch.scratch(tmp_path):
        assert not empty.exists()


def test_a_killed_detect_leaves_nothing_in_the_systems_temporary_folder(tmp_path):
    """What it decodes lies where the next command clears it: 60 s of sound, killed while it listens."""
    path, temporary = tmp_path / "long.wav", tmp_path / "temporary"
    temporary.mkdir()
    soundfile.write(path, sounds.noise(seconds=60, channels=2), 48_000)
    place = {**os.environ, "TMPDIR": str(temporary)}
    command = [sys.executable, "-m", "jaylantern.cli.main", "detect", str(path)]
    with subprocess.Popen(command, env=place, stdout=subprocess.PIPE) as process:
        until = time.monotonic() + 300
        while not list(temporary.rglob("sound.raw")):
            assert process.poll() is None
            assert time.monotonic() < until
            time.sleep(0.01)
        process.kill()
    assert [each.name for each in temporary.iterdir()] == ["jaylantern"]
    short = tmp_path / "short.wav"
    soundfile.write(short, sounds.noise(seconds=0.2), 48_000)
    subprocess.run([*command[:-1], str(short)], env=place, stdout=subprocess.PIPE, check=True, timeout=300)
    assert list((temporary / "jaylantern").iterdir()) == []
