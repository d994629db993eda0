"""What systems differ in, tried on the one that is here; what only another one does is tried with a stand-in."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path
from types import SimpleNamespace

import pytest

from jaylantern.errors import Refused
from jaylantern.support import atomic_file, own_python, system
from jaylantern.support.one_at_a_time import Lock
from jaylantern.support.system import SharedMemory
from tests.support.test_child_process import ends


def test_a_lock_is_held_by_one_and_gone_with_its_process(tmp_path):
    path = tmp_path / "lock"
    code = "import sys; from pathlib import Path; from jaylantern.support.one_at_a_time import Lock\n"
    code += "held = Lock(Path(sys.argv[1]), str); held.say('it'); print('held', flush=True); sys.stdin.read()"
    command = own_python.command("-c", code, str(path))
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as other:
        assert other.stdout.readline().strip() == "held"
        with pytest.raises(Refused, match=f"process {other.pid}, it"):
            Lock(path, str)
        other.kill()
        other.wait()
        Lock(path, str).release()


def test_within_a_process_too_one_holds_it_and_anybody_reads_it(tmp_path):
    held = Lock(tmp_path / "lock", str)
    with pytest.raises(Refused):
        Lock(tmp_path / "lock", str)
    assert str(os.getpid()) in Lock.holder(tmp_path / "lock")
    held.release()
    Lock(tmp_path / "lock", str).release()


class Read:
    """A file that somebody reads for a while, on a system that does not let it be replaced meanwhile."""

    def __init__(self, monkeypatch, path, times: int) -> None:
        self.left = times
        monkeypatch.setattr(system, "WINDOWS", True)
        self._replace, self._unlink = type(path).replace, type(path).unlink
        monkeypatch.setattr(type(path), "replace", lambda *given, **how: self._tried(self._replace, *given, **how))
        monkeypatch.setattr(type(path), "unlink", lambda *given, **how: self._tried(self._unlink, *given, **how))

    def _tried(self, do, *given, **how):
        if self.left:
            self.left -= 1
            raise PermissionError(13, "It is being used by another process")
        return do(*given, **how)


def test_what_somebody_reads_is_replaced_when_he_has_done(tmp_path, monkeypatch):
    path = tmp_path / "a.txt"
    atomic_file.put_text(path, "old")
    held = Read(monkeypatch, path, 3)
    atomic_file.put_text(path, "new")
    assert held.left == 0
    assert path.read_text() == "new"
    held.left = 2
    system.remove(path)
    assert not path.exists()


def test_who_never_lets_go_is_not_waited_for_for_ever_and_nothing_is_lost(tmp_path, monkeypatch):
    path = tmp_path / "a.txt"
    atomic_file.put_text(path, "old")
    monkeypatch.setattr(system, "REPLACED_WITHIN_S", 0.1)
    Read(monkeypatch, path, 10**6)
    begun = time.monotonic()
    with pytest.raises(PermissionError):
        atomic_file.put_text(path, "new")
    assert time.monotonic() - begun < 5
    assert path.read_text() == "old"


@pytest.mark.skipif(system.WINDOWS, reason="rights are those of POSIX")
def test_elsewhere_a_refusal_is_told_at_once(tmp_path, monkeypatch):
    held = Read(monkeypatch, tmp_path / "a", 1)
    monkeypatch.setattr(system, "WINDOWS", False)
    with pytest.raises(PermissionError):
        system.remove(tmp_path / "a")
    assert held.left == 0


def test_memory_is_seen_by_its_name_and_has_none_when_it_is_forgotten():
    made = SharedMemory(4096)
    seen = SharedMemory(4096, made.name)
    made.memory[:5] = b"lamps"
    assert seen.memory[:5] == b"lamps"
    made.forget()
    seen.memory[:5] = b"LAMPS"
    assert made.memory[:5] == b"LAMPS"
    if not system.WINDOWS:
        with pytest.raises(FileNotFoundError):
            SharedMemory(4096, made.name)


def test_who_lives():
    with subprocess.Popen([sys.executable, "-c", "input()"], stdin=subprocess.PIPE) as other:
        assert system.lives(other.pid)
        other.kill()
        assert ends(other.pid)  # and nobody has asked for how
    assert not system.lives(other.pid)
    assert system.lives(os.getpid())


def test_cores_are_those_this_process_may_use(monkeypatch):
    if hasattr(os, "sched_setaffinity"):
        may = os.sched_getaffinity(0)
        os.sched_setaffinity(0, {min(may)})
        try:
            assert system.cores() == 1
        finally:
            os.sched_setaffinity(0, may)
    monkeypatch.delattr(os, "sched_getaffinity", raising=False)
    assert system.cores() == (os.cpu_count() or 1)


@pytest.mark.parametrize(
    ("at_s", "said"),
    [
        (0, "1970-01-01T00:00:00"),
        (1_000_000_000.9, "2001-09-09T01:46:40"),  # handbooks' example of a round number of seconds
        (4_102_444_800, "2100-01-01T00:00:00"),
        (-2_000_000_000, "1970-01-01T00:00:00"),  # Windows' own functions refuse what is before
        (1e13, "9999-12-31T00:00:00"),
    ],
)
def test_when_a_file_was_changed(monkeypatch, at_s, said):
    monkeypatch.setattr(Path, "stat", lambda self: SimpleNamespace(st_mtime=at_s))
    assert system.changed_at(Path("any")).isoformat() == f"{said}+00:00"
