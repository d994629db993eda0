"""What is taken away with a data folder: what we made, all of it, and nothing else."""

from __future__ import annotations

import subprocess
import sys
from contextlib import closing

import pytest

from jaylantern.errors import InvalidValue, Refused
from jaylantern.support import scratch
from jaylantern.workspace import leaving
from jaylantern.workspace.folder import DataFolder
from tests.watched_files import unwatched


@pytest.fixture
def closed(film, db):
    """A film in a data folder that nobody has open any more."""
    db.close()


def test_a_folder_with_nothing_else_in_it_is_gone(workspace, closed):
    folder = workspace.folder
    there = leaving.what_is_there(folder)
    assert (there.projects, there.media) == (1, 3)
    lies = sum(path.stat().st_size for path in folder.path.rglob("*") if path.is_file())
    assert there.size_bytes == pytest.approx(
        lies, abs=100_000
    )  # but for what the database has beside it while it is open
    folder.secret(), folder.key()
    assert leaving.take_data_away(folder) == []
    assert not folder.path.exists()


FOREIGN = ["notes.txt", "exports/mine.wav", "media/ab/mine.mov", "takes/mine.wav", "jaylantern.sqlite3.old", "sub/a"]


@pytest.mark.parametrize("foreign", FOREIGN)
def test_what_is_not_ours_stays_where_it_is(workspace, closed, foreign):
    path = workspace.folder.path / foreign
    with unwatched():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text("mine")
    [left] = leaving.take_data_away(workspace.folder)
    assert path.read_text() == "mine"
    assert path == left or left in path.parents
    assert [each for each in workspace.folder.path.rglob("*") if each.is_file()] == [path]


def test_a_folder_that_is_called_as_one_within_it_keeps_what_is_not_ours(tmp_path):
    folder = DataFolder(tmp_path / "runs")
    folder.prepare()
    mine = folder.path / "notes.json"
    with unwatched():
        mine.write_text("mine")
    assert leaving.take_data_away(folder) == [mine]
    assert mine.read_text() == "mine"


def test_a_link_is_taken_away_and_not_what_it_leads_to(workspace, closed, tmp_path):
    with unwatched():
        (tmp_path / "elsewhere").mkdir()
        (tmp_path / "elsewhere" / "a").write_text("mine")
        (workspace.folder.path / "takes" / "link").symlink_to(tmp_path / "elsewhere")
    leaving.take_data_away(workspace.folder)
    assert (tmp_path / "elsewhere" / "a").read_text() == "mine"


def test_what_another_holds_or_nobody_made_is_refused(workspace, closed, tmp_path):
    lock = workspace.folder.hold()
    with pytest.raises(Refused, match="in use by another"):
        leaving.take_data_away(workspace.folder)
    lock.release()
    with closing(workspace.folder.connect()) as db:
        assert db.execute("SELECT count(*) AS n FROM project").fetchone()["n"] == 1
    workspace.folder.path = tmp_path
    with pytest.raises(InvalidValue, match="no data folder"):
        leaving.what_is_there(workspace.folder)


def test_the_cache_goes_and_what_is_at_work_in_it_stays(tmp_path, monkeypatch):
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    killed = "from jaylantern.support.scratch import scratch; scratch().__enter__(); __import__('os')._exit(9)"
    subprocess.run([sys.executable, "-c", killed], check=False)
    with scratch.scratch() as at_work:
        leaving.take_caches_away()
        assert at_work.is_dir()
    leaving.take_caches_away()
    assert not (tmp_path / "jaylantern").exists()
