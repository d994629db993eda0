"""The watch over files sees what it is there for: each way of taking away, renaming and writing over, here and in
processes that are begun; and what is the program's own it lets pass."""

from __future__ import annotations

import subprocess
import sys

import pytest

from jaylantern.support import atomic_file, scratch
from tests import watched_files

WAYS = {  # done by a line of the program, to a file that a test laid
    "removes it": "path.unlink()",
    "renames it": "path.rename(path.with_name('other'))",
    "takes its folder away": "import shutil; shutil.rmtree(path.parent)",
    "writes over it": "path.write_text('x')",
    "puts something in its place": "(path.parent / 'new').write_text('x'); (path.parent / 'new').replace(path)",
    "cuts it short": "import os; os.truncate(path, 0)",
    "opens it to write": "path.open('r+').close()",
}


def program(code, path):
    """Run a line as if it stood in the program."""
    exec(compile(code, f"/any{watched_files.SOURCE}fault.py", "exec"), {"path": path})


@pytest.mark.parametrize("way", WAYS)
def test_each_way_is_seen(tmp_path, way):
    path = tmp_path / "theirs" / "tax.pdf"
    path.parent.mkdir()
    path.write_text("mine")
    program(WAYS[way], path)
    assert len(watched_files.faults()) == 1


@pytest.mark.parametrize("way", WAYS)
def test_what_the_program_made_is_its_own(tmp_path, way):
    (tmp_path / "ours").mkdir()
    path = tmp_path / "ours" / "mix.wav"
    program("path.write_text('ours')", path)
    program(WAYS[way], path)
    assert watched_files.faults() == []


def test_a_test_may_do_what_it_likes(tmp_path):
    path = tmp_path / "a"
    path.write_text("a")
    path.rename(tmp_path / "b").unlink()
    assert watched_files.faults() == []


def test_outside_of_what_is_ours_nothing_is_touched(tmp_path, monkeypatch):
    monkeypatch.setenv(watched_files.PLACES, _without_roots())
    path = tmp_path / "a"
    program("path.write_text('x'); path.unlink()", path)
    found = watched_files.faults()
    assert [line.split(" ")[:2] for line in found] == [["open", "over"], ["os.remove", "takes"]]
    assert all("outside of what is ours" in line for line in found)


def _without_roots() -> str:
    import os

    return os.pathsep.join([*os.environ[watched_files.PLACES].split(os.pathsep)[:2], "/nowhere-at-all/"])


CHILD = """
import sys
from pathlib import Path
code = compile("path.unlink()", "/any/jaylantern/fault.py", "exec")
exec(code, {"path": Path(sys.argv[1])})
"""


def test_processes_that_are_begun_are_watched_too(tmp_path):
    path = tmp_path / "tax.pdf"
    path.write_text("mine")
    subprocess.run([sys.executable, "-P", "-c", CHILD, str(path)], check=True)
    [line] = watched_files.faults()
    assert line.startswith(f"os.remove takes {path}: a test laid it there")


def test_whole_files_and_folders_to_work_in_are_made_and_cleared_without_a_word(tmp_path):
    atomic_file.put_text(tmp_path / "a.txt", "one")
    atomic_file.put_text(tmp_path / "a.txt", "two")
    with scratch.scratch(tmp_path) as folder:
        atomic_file.put_text(folder / "b", "x")
    assert watched_files.faults() == []
    (tmp_path / "theirs.txt").write_text("mine")
    atomic_file.put_text(tmp_path / "theirs.txt", "ours")  # who calls has to know that this may be
    assert len(watched_files.faults()) == 1
