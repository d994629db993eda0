"""A data folder is opened by whom it belongs to: this version, one server, one person."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
from contextlib import closing

import pytest

from jaylantern.errors import Refused
from jaylantern.jobs.queue import Queue
from jaylantern.store import jobs, projects, takes
from jaylantern.workspace.folder import DATABASE, SECRET_BYTES, DataFolder
from jaylantern.workspace.workspace import Workspace


@pytest.fixture
def folder(tmp_path) -> DataFolder:
    made = DataFolder(tmp_path / "data")
    made.prepare()
    with closing(made.connect()) as db:
        projects.create(db, "A film")
    return made


def everything(folder: DataFolder) -> dict[str, bytes]:
    return {str(path): path.read_bytes() for path in sorted(folder.path.rglob("*")) if path.is_file()}


def test_one_that_a_newer_version_made_is_refused_and_not_touched(folder):
    with closing(folder.connect()) as db:
        db.execute("INSERT INTO migration VALUES ('0099_of_tomorrow.sql', 'then')")
        db.execute("ALTER TABLE project RENAME COLUMN name TO title")
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    before = everything(folder)
    with pytest.raises(Refused, match=r"made by a newer version .*0099_of_tomorrow\.sql"):
        folder.prepare()
    assert everything(folder) == before


def test_an_older_one_is_brought_up_to_date(folder):
    with closing(folder.connect()) as db:
        db.execute("DELETE FROM migration WHERE name LIKE '0013%'")
        db.execute("DROP TABLE draft")
    folder.prepare()
    with closing(folder.connect()) as db:
        assert db.execute("SELECT count(*) FROM draft").fetchone()[0] == 0


@pytest.mark.parametrize("how", ["empty", "gone"])
def test_an_empty_database_beside_media_is_no_empty_shelf(folder, how):
    (folder.path / "media" / "ab").mkdir()
    path = folder.path / DATABASE
    path.unlink()
    for beside in folder.path.glob(f"{DATABASE}-*"):
        beside.unlink()
    if how == "empty":
        path.touch()
    with pytest.raises(Refused, match="though its media are there"):
        folder.prepare()
    assert path.exists() is (how == "empty")


def test_an_empty_database_without_media_is_a_beginning(tmp_path):
    (tmp_path / DATABASE).touch()
    DataFolder(tmp_path).prepare()
    with closing(sqlite3.connect(tmp_path / DATABASE)) as db:
        assert db.execute("SELECT count(*) FROM project").fetchone() == (0,)


def test_it_is_its_owners_alone(folder):
    assert folder.path.stat().st_mode & 0o777 == 0o700
    folder.path.chmod(0o755)  # as older versions left it
    folder.prepare()
    assert folder.path.stat().st_mode & 0o777 == 0o700
    folder.secret()
    assert (folder.path / "secret").stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("there", [b"", b"half of it"])
def test_a_secret_that_was_not_written_whole_is_made_anew(folder, there):
    (folder.path / "secret").write_bytes(there)
    secret = folder.secret()
    assert len(secret) == SECRET_BYTES
    assert folder.secret() == secret


def test_a_secret_stays(folder):
    assert folder.secret() == folder.secret() == DataFolder(folder.path).secret()


HOLD = """
import sys
from pathlib import Path
from jaylantern.workspace.folder import DataFolder
lock = DataFolder(Path(sys.argv[1])).hold()
lock.say("at http://127.0.0.1:1234/")
print("held", flush=True)
sys.stdin.read()
"""


def test_a_second_server_is_told_which_one_has_it_until_that_one_is_gone(folder):
    other = subprocess.Popen(
        [sys.executable, "-c", HOLD, str(folder.path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    try:
        assert other.stdout.readline() == "held\n"
        with pytest.raises(Refused, match=rf"in use .*process {other.pid}, at http://127\.0\.0\.1:1234/"):
            folder.hold()
    finally:
        other.kill()
        other.communicate()
    folder.hold().release()


def test_the_command_line_says_it_in_one_line(folder):
    lock = folder.hold()
    lock.say("at http://127.0.0.1:1234/")
    serve = [sys.executable, "-m", "jaylantern.cli.main", "serve", "--data", str(folder.path), "--port", "0"]
    said = subprocess.run(serve, capture_output=True, text=True, timeout=180, check=False)
    lock.release()
    assert said.returncode == 2
    assert said.stderr.count("\n") == 1
    assert "in use by another Jay Lantern" in said.stderr


@pytest.mark.parametrize("there", [b"no database at all" * 100, b"SQLite format 3\x00" + b"\xff" * 4000])
def test_a_damaged_queue_is_made_anew(folder, there):
    (folder.path / "queue.sqlite3").write_bytes(there)
    queue = Queue(Workspace(folder.path))
    assert queue.begin_again() == 0
    queue.wake(1)
    assert len(queue.huey) == 1


LEFT = [
    "part-jaylantern", "made-abc/film.mp4", "incoming/dead", "takes/dead", "takes/dead.wav", "exports/77/film.wav",
    "media/ab/abcd/sound.raw", "media/ab/abcd/part-peaks.bin", "media/cd/cdef/tailored.json", "media/cd/cdef/original",
]  # fmt: skip
STAYS = ["media/ef/efgh/original", "media/ef/efgh/about.json", "backup.zip"]


def test_what_a_kill_left_behind_is_cleared_at_the_next_start_and_nothing_else(folder):
    with closing(folder.connect()) as db:
        number = projects.create(db, "Film")
        token = jobs.create_upload(db, number, name="a.wav", size_bytes=9, at_n=0)
        waiting = jobs.create(db, number, kind="import", title="b", payload={"token": "b0b", "name": "b", "at_n": 0})
        done = jobs.create(db, number, kind="export", title="c", payload={"what": "mix"})
        jobs.finish(db, done, state="done")
        broken = jobs.create(db, number, kind="export", title="d", payload={"what": "mix"})
        take = takes.create(db, number, at_n=0, latency_n=0)
    wanted = [*STAYS, f"incoming/{token}", "incoming/b0b", f"takes/{take.token}", f"exports/{done}/mix.wav"]
    for name in (*LEFT, *wanted, f"exports/{broken}/half.wav"):
        (folder.path / name).parent.mkdir(parents=True, exist_ok=True)
        (folder.path / name).write_bytes(b"x")
    folder.prepare()
    assert all((folder.path / name).exists() for name in LEFT)  # another process may be at work in it
    folder.prepare_alone().release()
    assert [name for name in wanted if not (folder.path / name).exists()] == []
    assert [name for name in (*LEFT, f"exports/{broken}/half.wav") if (folder.path / name).exists()] == []
    assert waiting
