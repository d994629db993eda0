"""A disk that fills up or turns read-only in the middle of things: said plainly, nothing acknowledged is lost.

The disk is a real one, of 24 MB in memory; where a test may not mount one, these are skipped.
"""

from __future__ import annotations

import errno
import shutil
import subprocess
from pathlib import Path

import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.export import handoff
from jaylantern.jobs import work
from jaylantern.jobs.queue import Queue
from jaylantern.library import ingest
from jaylantern.render import pool
from jaylantern.store import jobs, projects
from jaylantern.web import create_app
from jaylantern.workspace.folder import DataFolder
from jaylantern.workspace.workspace import Workspace
from tests import sounds
from tests.web.conftest import Visitor

FULL = "No space left|no space is left"


class Disk:
    """A small disk that can be filled to the brim, emptied again, and turned read-only."""

    def __init__(self, place: Path) -> None:
        self.place = place
        self.ballast = place / "ballast"

    def mount(self, options: str) -> bool:
        command = ["mount", *options.split(), str(self.place)]
        return subprocess.run(command, capture_output=True, check=False).returncode == 0

    def fill(self, *, but: int = 0) -> None:
        """Leave no more than so many bytes."""
        with self.ballast.open("wb", buffering=0) as file:
            try:
                while True:
                    file.write(bytes(1 << 16))
            except OSError:
                pass
        if but:
            with self.ballast.open("r+b") as file:
                file.truncate(max(0, self.ballast.stat().st_size - but))

    def empty(self) -> None:
        self.ballast.unlink(missing_ok=True)


@pytest.fixture
def disk(tmp_path):
    place = tmp_path / "disk"
    place.mkdir()
    made = Disk(place)
    if not shutil.which("mount") or not made.mount("-t tmpfs -o size=24m none"):
        pytest.skip("a small disk may not be mounted here")
    yield made
    subprocess.run(["umount", "-l", str(place)], check=True)


@pytest.fixture
def workspace(disk, monkeypatch) -> Workspace:
    """A data folder on the small disk; the check of what is free beforehand is off, so that it fills in the middle."""
    monkeypatch.setattr(DataFolder, "free_bytes", lambda self: 1 << 40)
    made = Workspace(disk.place / "data")
    made.folder.prepare()
    return made


@pytest.fixture
def song(tmp_path) -> Path:
    soundfile.write(tmp_path / "Song.wav", sounds.noise(seconds=20, channels=2), RATE)
    return tmp_path / "Song.wav"


@pytest.fixture
def safe(db, project_id, bring, tmp_path):
    """A project with a clip and an edit that were acknowledged; what it was."""
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=4, channels=2), RATE)
    assert bring(tmp_path / "Bed.wav").state == "done"
    commands.do(db, project_id, "set_settings", {"settings": {"amount_db": -9}})
    return projects.load(db, project_id)


def files(workspace: Workspace, *folders: str) -> list[Path]:
    return [path for name in folders for path in (workspace.folder.path / name).rglob("*") if path.is_file()]


@pytest.mark.parametrize("when", ["unpacked", "reading the sound", "listening for speech"])
def test_an_import_on_a_disk_that_fills_up_waits_with_all_that_was_sent_and_goes_on_when_there_is_room(
    workspace, db, disk, project_id, safe, bring, song, monkeypatch, when
):
    there = sorted(files(workspace, "media"))
    told = work.Reporter.__call__
    if when == "unpacked":
        monkeypatch.setattr(work, "hash_of", filling(work.hash_of, disk))
    monkeypatch.setattr(work.Reporter, "__call__", lambda self, share, doing: (doing == when and disk.fill(), told(self, share, doing)))  # fmt: skip  # noqa: E501
    job = bring(song)
    assert job.active
    if when != "unpacked":  # there it may be too full even for this
        assert (job.state, job.doing, job.attempts) == ("queued", "waiting for room on the disk", 0)
    assert sorted(files(workspace, "media")) == there
    assert len(files(workspace, "incoming")) == 1
    assert projects.load(db, project_id) == safe
    disk.empty()
    monkeypatch.undo()
    assert work.run(workspace, job.id)
    assert jobs.get(db, job.id).state == "done"
    assert projects.load(db, project_id).length_n == 20 * RATE
    assert files(workspace, "incoming") == []


def test_what_waits_for_room_is_woken_when_there_is_more_or_it_is_to_be_stopped(
    workspace, db, disk, bring, song, monkeypatch
):
    queue = Queue(workspace)
    monkeypatch.setattr(ingest, "take_in", out_of_room)
    numbers = [bring(song).id, bring(song).id]
    disk.fill(but=1 << 17)  # the database has some
    for number in numbers:
        queue._run(number)
    queue.look_for_room()
    assert len(queue.huey) == 0  # there is no more than there was
    jobs.ask_stop(db, numbers[0])
    queue.look_for_room()
    assert len(queue.huey) == 1
    disk.empty()
    monkeypatch.undo()
    queue.look_for_room()
    queue.look_for_room()
    assert len(queue.huey) == 2
    for number in numbers:
        queue._run(number)
    assert [jobs.get(db, number).state for number in numbers] == ["stopped", "done"]
    queue.close()
    assert files(workspace, "incoming") == []


def out_of_room(*args, **kwargs):
    raise OSError(errno.ENOSPC, "No space left on device")


def filling(real, disk):
    def full(*args):
        found = real(*args)
        disk.fill()
        return found

    return full


@pytest.mark.parametrize("several", [False, True])  # processes that write
def test_an_export_on_a_disk_that_fills_up_leaves_no_half_file(
    workspace, db, disk, project_id, safe, several, monkeypatch
):
    if several:
        monkeypatch.setattr(pool, "LONG_N", 0)

    def export(what: str) -> jobs.Job:
        job_id = jobs.create(db, project_id, kind="export", title=what, payload={"what": what})
        work.run(workspace, job_id)
        return jobs.get(db, job_id)

    for what in ("mix", "stems", "archive", "keyframes", "timeline"):
        commands.do(db, project_id, "tag_lane", {"lane_id": safe.lanes[0].id, "tag": "music"})
        monkeypatch.setattr(handoff, "_bytes", lambda task: disk.fill(but=1 << 16) or 0)
        job = export(what)
        if job.state == "failed":
            assert any(word in job.message for word in FULL.split("|"))
            assert files(workspace, "exports") == []
        else:
            assert what in ("keyframes", "timeline")  # they are small enough for what is left
        disk.empty()
    monkeypatch.setattr(handoff, "_bytes", lambda task: 0)
    assert export("mix").state == "done"


def test_an_edit_on_a_full_disk_is_refused_in_words_and_the_last_one_kept(workspace, db, disk, project_id, safe):
    visitor = Visitor(create_app(workspace, keyed=False).test_client())
    disk.fill()
    refused, done = 0, 0
    for i in range(400):  # until the write-ahead log needs room
        answer = visitor.post(
            f"/projects/{project_id}/do/set_settings", json={"settings": {"amount_db": -10 - i / 100}}
        )
        if answer.status_code == 200:
            assert not refused
            done = i
            continue
        assert answer.status_code == 507
        assert "no space is left" in answer.json["error"]
        refused += 1
        if refused > 3:
            break
    assert refused
    kept = projects.load(db, project_id)
    assert kept.settings.amount_db in (pytest.approx(-10 - done / 100), -9)
    assert kept.lanes == safe.lanes
    assert visitor.client.get(f"/projects/{project_id}/duck").status_code == 200  # it can still be looked at
    disk.empty()
    assert (
        visitor.post(f"/projects/{project_id}/do/set_settings", json={"settings": {"amount_db": -20}}).status_code
        == 200
    )
    assert projects.load(db, project_id).settings.amount_db == -20


def test_an_upload_goes_on_where_it_stood_when_there_is_room_again(workspace, db, disk, project_id, safe, song):
    visitor = Visitor(create_app(workspace, keyed=False).test_client())
    data = song.read_bytes()
    announced = {"name": "Song.wav", "size_bytes": len(data), "at_n": 0}
    token = visitor.post(f"/projects/{project_id}/imports", json=announced).json["token"]
    half = len(data) // 2
    assert visitor.send("PUT", f"/imports/{token}?offset=0", data=data[:half]).status_code == 200
    disk.fill(but=1 << 17)
    full = visitor.send("PUT", f"/imports/{token}?offset={half}", data=data[half:])
    assert full.status_code == 507
    assert "no space is left" in full.json["error"]
    stands = visitor.client.get(f"/imports/{token}").json["received_bytes"]
    assert half <= stands < len(data)
    disk.empty()
    assert visitor.send("PUT", f"/imports/{token}?offset={stands}", data=data[stands:]).json["job"]
    for job in jobs.unfinished(db):
        work.run(workspace, job.id)
    assert projects.load(db, project_id).length_n == 20 * RATE


def test_a_data_folder_that_turns_read_only_is_said_to_be_and_is_whole_afterwards(
    workspace, db, disk, project_id, safe
):
    visitor = Visitor(create_app(workspace, keyed=False).test_client())
    db.close()
    assert disk.mount("-o remount,ro")
    try:
        edit = visitor.post(f"/projects/{project_id}/do/set_settings", json={"settings": {"amount_db": -20}})
        assert edit.status_code == 507
        assert "can't be" in edit.json["error"]
        upload = visitor.post(f"/projects/{project_id}/imports", json={"name": "a.wav", "size_bytes": 10, "at_n": 0})
        assert upload.status_code == 507
        export = visitor.post(f"/projects/{project_id}/exports", json={"what": "mix"})
        assert export.status_code == 507
    finally:
        assert disk.mount("-o remount,rw")
    after = workspace.folder.connect()
    assert projects.load(after, project_id) == safe
    assert not jobs.unfinished(after)
    after.close()
    edit = visitor.post(f"/projects/{project_id}/do/set_settings", json={"settings": {"amount_db": -20}})
    assert edit.status_code == 200
