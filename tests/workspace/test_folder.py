"""A data folder is opened by whom it belongs to: this version, one server, one person."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
from contextlib import closing, nullcontext
from datetime import UTC, datetime, timedelta

import pytest

from jaylantern.errors import NotFound, Refused
from jaylantern.jobs.queue import Queue
from jaylantern.store import jobs, made, media, ours, projects, takes
from jaylantern.workspace.folder import DATABASE, MARK, SECRET_BYTES, DataFolder
from jaylantern.workspace.workspace import Workspace
from tests.watched_files import unwatched


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


@pytest.mark.skipif(sys.platform == "win32", reason="there rights are those of the account's folders")
def test_it_is_its_owners_alone(folder):
    assert folder.path.stat().st_mode & 0o777 == 0o700
    folder.path.chmod(0o755)  # as older versions left it
    folder.prepare()
    assert folder.path.stat().st_mode & 0o777 == 0o700
    folder.secret()
    assert (folder.path / "secret").stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("there", [b"", b"half of it"])
def test_a_secret_that_was_not_written_whole_is_made_anew(folder, there):
    with unwatched():
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
    with unwatched():
        (folder.path / "queue.sqlite3").write_bytes(there)
    with closing(Queue(Workspace(folder.path))) as queue:
        assert queue.begin_again() == 0
        queue.wake(1)
        assert len(queue.huey) == 1


KNOWN, GONE = f"ab{0:062x}", f"cd{0:062x}"  # hashes of a medium that is there, and of one that was never finished
PART = f"part-{0:032x}-"
LEFT = [
    f"media/{KNOWN[:2]}/{KNOWN}/{PART}peaks.bin", f"media/{KNOWN[:2]}/{KNOWN}/care-1/{PART}0.f32",
    f"media/{GONE[:2]}/{GONE}/sound.raw", f"{PART}secret", f"runs/{PART}20260101-101010-000001.json",
    "jaylantern-00112233445566778899aabbccddeeff/held",
]  # fmt: skip
THEIRS = [  # what a person laid into the data folder, called like ours as far as that goes
    "part-jaylantern", "made-with-love/x", "incoming/mail.eml", "takes/interview.wav", "exports/2024/tax.pdf",
    "exports/part-two/film.mp4", "media/ab/abcd/sound.raw", "media/photos/part-1.jpg", "docs/part-two.txt",
    "backup.zip", f"{PART}letter.txt", "runs/part-one.json", "jaylantern-notes/held", f"media/ef/{'ef' * 32}/original",
]  # fmt: skip


def laid(folder, names):
    for name in names:
        (folder.path / name).parent.mkdir(parents=True, exist_ok=True)
        (folder.path / name).write_bytes(b"x")


def left(folder, names):
    """Laid as the program would have."""
    with unwatched():
        laid(folder, names)


def gone(folder, names):
    return [name for name in names if not (folder.path / name).exists()]


def test_what_a_kill_left_behind_is_cleared_at_the_next_start_and_nothing_else(folder):
    with closing(folder.connect()) as db:
        number = projects.create(db, "Film")
        token = jobs.create_upload(db, number, name="a.wav", size_bytes=9, at_n=0)
        given_up = jobs.create_upload(db, number, name="b.wav", size_bytes=9, at_n=0)
        jobs.drop_upload(db, given_up)
        waiting = jobs.create(db, number, kind="import", title="b", payload={"token": "b0b", "name": "b", "at_n": 0})
        done = jobs.create(db, number, kind="export", title="c", payload={"what": "mix"})
        jobs.finish(db, done, state="done")
        broken = jobs.create(db, number, kind="export", title="d", payload={"what": "mix"})
        ours.begin(db, f"exports/{broken}", ours.of_media(GONE), ours.of_media(KNOWN))
        take, thrown = (takes.create(db, number, at_n=0, latency_n=0) for _ in range(2))
        takes.set_state(db, thrown.token, "discarded")
        media.insert(
            db, sha256=KNOWN, name="a", size_bytes=1, length_n=1, has_sound=True, has_picture=False
        )  # it was recorded, and the kill came before the ledger knew
        ours.begin(db, ours.of_media(KNOWN))
    kept = [f"incoming/{token}", "incoming/b0b", f"takes/{take.token}", f"exports/{done}/mix.wav"]
    kept.append(f"media/{KNOWN[:2]}/{KNOWN}/sound.raw")
    gone_then = [*LEFT, f"exports/{broken}/half.wav", f"incoming/{given_up}", f"incoming/{PART}{token}"]
    gone_then += [f"takes/{thrown.token}", f"takes/{thrown.token}.wav", f"takes/{PART}{take.token}.wav"]
    left(folder, (*gone_then, *kept))
    laid(folder, THEIRS)
    folder.prepare()
    assert gone(folder, gone_then) == []  # another process may be at work in it
    folder.prepare_alone().release()
    assert gone(folder, (*kept, *THEIRS)) == []
    assert sorted(gone(folder, gone_then)) == sorted(gone_then)
    with closing(folder.connect()) as db:
        assert waiting in [job.id for job in jobs.unfinished(db)]
        assert all(path.startswith(("incoming/", "takes/")) for path in ours.paths(db))


SEVEN = [
    "exports/2024/tax.pdf", "takes/interview.wav", "incoming/mail.eml", "photos/part-1/p.jpg", "docs/part-two.txt",
    "made-with-love/x", "jaylantern.txt",
]  # fmt: skip


@pytest.mark.parametrize("name", SEVEN)
@pytest.mark.parametrize("way", ["prepare", "prepare_alone"])
def test_a_folder_of_the_persons_own_is_refused_in_words_and_nothing_of_it_changes(tmp_path, name, way):
    folder = DataFolder(tmp_path / "own")
    laid(folder, [name])
    folder.path.chmod(0o755)
    with pytest.raises(Refused, match=rf"not empty.*there is {name.split('/')[0]}\. Choose .* with --data") as told:
        getattr(folder, way)()
    assert "Nothing in it was changed" in str(told.value)
    assert [path.relative_to(folder.path).as_posix() for path in folder.path.rglob("*") if path.is_file()] == [name]
    if sys.platform != "win32":  # there rights are the account's
        assert folder.path.stat().st_mode & 0o777 == 0o755


@pytest.mark.parametrize(
    ("there", "taken"),
    [([], True), (["lost+found/x"], True), ([".DS_Store"], True), (["lock"], False), (["media/x"], False)],
)
def test_an_empty_folder_is_taken_and_marked(tmp_path, there, taken):
    folder = DataFolder(tmp_path / "new")
    folder.path.mkdir()
    laid(folder, there)
    if taken:
        folder.prepare_alone().release()
        assert (folder.path / MARK).read_text(encoding="utf-8").startswith("This folder holds the projects")
        assert gone(folder, there) == []
    else:
        with pytest.raises(Refused, match="Jay Lantern did not make it"):
            folder.prepare()


def test_a_file_is_no_folder(tmp_path):
    (tmp_path / "letter.txt").write_text("Dear")
    with pytest.raises(Refused, match="is a file, not a folder"):
        DataFolder(tmp_path / "letter.txt").prepare_alone()
    assert (tmp_path / "letter.txt").read_text() == "Dear"


def test_work_does_not_take_a_place_where_something_else_lies(folder):
    laid(folder, ["exports/7/tax.pdf"])
    with closing(folder.connect()) as db:
        with pytest.raises(Refused, match="in the way"):
            folder.claim(db, "exports/7")
        assert gone(folder, ["exports/7/tax.pdf"]) == []
        left(folder, ["exports/8/half.wav"])
        ours.begin(db, "exports/8")  # it was ours, and broke off
        assert not folder.claim(db, "exports/8").exists()


def test_what_was_removed_stays_a_day_and_can_be_brought_back(folder):
    with closing(folder.connect()) as db:
        number = projects.create(db, "Film")
        job = jobs.create(db, number, kind="export", title="Mix", payload={"what": "mix"})
        jobs.finish(db, job, state="done")
        left(folder, [f"exports/{job}/mix.wav"])
        made.remove(db, job)
        jobs.dismiss(db, job)
        day = timedelta(hours=made.KEPT_AFTER_H)
        now = datetime.now(UTC)
        assert folder.clear_removed(db, at=now + day - timedelta(minutes=1)) == 0
        made.bring_back(db, job)
        assert folder.clear_removed(db, at=now + 2 * day) == 0
        made.remove(db, job)
        assert folder.clear_removed(db, at=now + 2 * day) == 1
        assert not folder.exports(job).exists()
        with pytest.raises(NotFound, match="not there any more"):
            made.bring_back(db, job)
        assert made.everything(db) == [] == ours.paths(db)


@pytest.mark.parametrize(("name", "goes"), [("7.json", True), ("notes.txt", False)])
def test_runs_that_came_before_the_first_start_do_not_make_a_folder_foreign(tmp_path, name, goes):
    (tmp_path / "runs").mkdir()
    (tmp_path / "runs" / name).write_text("{}")
    with nullcontext() if goes else pytest.raises(Refused, match="there is runs"):
        Workspace(tmp_path).folder.prepare()
    assert (tmp_path / "runs" / name).read_text() == "{}"
