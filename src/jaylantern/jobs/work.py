"""The work itself: bringing files in and running what hands them off. Each can be begun again after a kill."""

from __future__ import annotations

import shutil
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing, suppress
from dataclasses import dataclass

from jaylantern.core.edit import landing
from jaylantern.core.edit.landing import Landing
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.timecode import rate_of_text
from jaylantern.errors import Damaged, JayError, Refused, Stopped
from jaylantern.export.handoff import export
from jaylantern.jobs import beats, care, hearing, pictures, repair
from jaylantern.jobs.keeping import lay_take
from jaylantern.jobs.stopping import Interrupted
from jaylantern.library import repair as mended
from jaylantern.library.bringing import bring_in, hash_of
from jaylantern.projectfile import captions_in, opening, reading
from jaylantern.store import jobs, media, ours, projects, takes
from jaylantern.store.connection import atomic, disk_trouble
from jaylantern.store.jobs import Job
from jaylantern.support import disk, system
from jaylantern.workspace.workspace import Workspace

UNSEEN = (hearing.KIND, beats.KIND, care.KIND, repair.KIND)  # work that leaves nothing behind when it is stopped
NONE_MISSING = "{} is none of the files that are missing. Bring it in as a new one instead."
NO_ROOM = "waiting for room on the disk"
BEHIND = (pictures.KIND, repair.KIND)  # work that other work leaves to be done
REPORT_EVERY_S = 0.15
WAIT_S = 0.05


class Reporter:
    """Tells the database how far a job is, a few times a second, and raises Stopped when it should end."""

    def __init__(self, db: sqlite3.Connection, job_id: int) -> None:
        self._db, self._job_id, self._next = db, job_id, 0.0

    def __call__(self, share: float, doing: str) -> None:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + REPORT_EVERY_S
            if jobs.report(self._db, self._job_id, share=min(max(share, 0.0), 1.0), doing=doing):
                raise Stopped("Stopped.")


def run(workspace: Workspace, job_id: int) -> bool:
    """Do a job and record what became of it; anything the person should know ends up in its message. Answers whether it
    has ended: an import for which the disk has no room waits, with all that was sent of it, to be done again.

    What it leaves to be done in the background stands in the job table afterwards.
    """
    with closing(workspace.folder.connect()) as db:
        broke_off = _worked(workspace, db, job_id)
        if broke_off is None:
            return True
        if broke_off.state == "waiting":
            with suppress(sqlite3.Error):  # there may be no room even for this
                jobs.wait(db, job_id, doing=broke_off.message)
            return False
        # not within what caught it: a file that was open there is closed now, and Windows removes nothing that is open
        _end(workspace, db, job_id, broke_off.state, broke_off.message)
        if broke_off.damaged:
            repair.found_out(workspace, db, broke_off.damaged)
        if broke_off.fault is not None:
            raise broke_off.fault
        return True


@dataclass(frozen=True)
class _BrokeOff:
    """How work ended that did not end well: what is said of it, the medium that is damaged, the fault of ours."""

    state: str
    message: str
    damaged: str = ""
    fault: Exception | None = None


def _worked(workspace: Workspace, db: sqlite3.Connection, job_id: int) -> _BrokeOff | None:
    """Do a job; None where it has ended well, or had before."""
    try:
        job = jobs.get(db, job_id)
        if not job.active:
            return None
        if job.attempts >= jobs.MOST_ATTEMPTS:
            raise Refused(
                f"{job.title}: work on this broke off {job.attempts} times, so it is not begun again by itself."
                f" Last time {job.doing if job.state == 'running' else system.in_words(None)}."
            )
        jobs.begin(db, job_id)
        report = Reporter(db, job_id)
        report(0.0, "beginning")
        with Interrupted(workspace.folder.connect, job_id):
            DOES[job.kind](workspace, db, job, report)
        _tidy(workspace, db, jobs.get(db, job_id))
    except Stopped:
        return _BrokeOff("stopped", "Stopped." if job.kind in UNSEEN else "Stopped. Nothing was kept.")
    except Damaged as error:
        return _BrokeOff("failed", f"{error} Try again then.", damaged=error.sha256)
    except (JayError, OSError, MemoryError, sqlite3.Error) as error:
        if disk.full(error) and jobs.get(db, job_id).kind == "import":
            return _BrokeOff("waiting", NO_ROOM)
        return _BrokeOff("failed", _said(error))
    except Exception as error:
        return _BrokeOff("failed", f"Something unforeseen went wrong ({type(error).__name__}).", fault=error)
    return None


def _end(workspace: Workspace, db: sqlite3.Connection, job_id: int, state: str, message: str) -> None:
    """Record the end, then take away what is of no use any more. Where the disk is too full to record it, what was half
    made goes first and makes the room; what was sent stays until the end stands there."""
    half_made = f"exports/{job_id}"
    if not jobs.get(db, job_id).active:
        return  # it had ended well when it was stopped
    try:
        jobs.finish(db, job_id, state=state, message=message)
    except sqlite3.Error:
        if ours.is_ours(db, half_made):
            shutil.rmtree(workspace.folder.path / half_made, ignore_errors=True)
        jobs.finish(db, job_id, state=state, message=message)
    _tidy(workspace, db, jobs.get(db, job_id))


def _tidy(workspace: Workspace, db: sqlite3.Connection, job: Job) -> None:
    """Take away what a job that has ended worked on, or had half made."""
    with suppress(sqlite3.Error):  # then the next start does it
        if job.kind == "export":
            workspace.folder.remove(db, f"exports/{job.id}")
        if job.kind == "import":
            _tidy_import(workspace, db, job, job.payload["token"])


def _tidy_import(workspace: Workspace, db: sqlite3.Connection, job: Job, token: str) -> None:
    """What was sent goes; a take that could not be taken in is in hand again, as it was recorded."""
    if job.payload.get("take") is not None:
        if job.state == "done":
            workspace.folder.remove(db, f"takes/{token}", f"takes/{token}.wav")
        else:
            takes.set_state(db, token, "recorded")
    workspace.folder.remove(db, f"incoming/{token}")


def _said(error: BaseException) -> str:
    if isinstance(error, sqlite3.Error):
        return f"The data folder can't be used: {disk_trouble(error) or error}."
    if isinstance(error, OSError):
        return disk.trouble(error)
    if isinstance(error, MemoryError):
        return "There is not enough memory for this."
    return str(error)


def _import(workspace: Workspace, db: sqlite3.Connection, job: Job, report: Reporter) -> None:
    """Take the file in, then place its clips and end the job in one transaction."""
    source, name = workspace.folder.incoming(job.payload["token"]), job.payload["name"]
    if reading.is_project(name):
        fps = job.payload.get("fps")
        report(0.0, "reading")
        imported = reading.read(source, name, fps=rate_of_text(fps) if fps else None)
        jobs.note(db, job.id, {**job.payload, "read": True})
        opened = opening.open_project(workspace, db, job.project_id, source, name, report, imported=imported)
        with atomic(db):
            for each in {clip.media.id: clip.media for _, clip in projects.load(db, job.project_id).placed()}.values():
                pictures.have_made(workspace, db, job.project_id, each, each.name)
            jobs.finish(db, job.id, state="done", message=opened.in_words("Find them under Lay out, Media."))
        return
    if captions_in.is_captions(name):
        if job.payload.get("relink"):
            raise Refused(NONE_MISSING.format(name))
        report(0.0, "reading")
        read_in = captions_in.read(source, name)
        with atomic(db):
            message = captions_in.bring(db, job.project_id, read_in, name)
            jobs.finish(db, job.id, state="done", message=message)
        return
    listen = hearing.wanted_on(projects.load(db, job.project_id), _lane_of(job))
    sha256 = hash_of(source, report)
    lost = media.find(db, sha256)
    if lost is not None and (lost.missing or not mended.as_brought(workspace.library, lost, report)):
        mended.taken_in_again(workspace.library, db, lost, source, report, listen=listen)
        if media.played_in(db, job.project_id, lost.id):
            jobs.finish(db, job.id, state="done", message=f"{lost.name} is here again.")
            return
    found = bring_in(workspace.library, db, source, name, report, sha256=sha256, listen=listen)
    _wait_turn(db, job, report)
    file, word = opening.meant(workspace, db, job.project_id, found, job.payload.get("relink", ""), name), ""
    if file is None and job.payload.get("relink"):
        raise Refused(NONE_MISSING.format(name))
    if file is None:
        word = _word(workspace, found)
    with atomic(db):
        if file is None:
            _place(workspace, db, job, found)
        else:
            word = opening.relink(db, job.project_id, file, name)
        pictures.have_made(workspace, db, job.project_id, found, name)
        jobs.finish(db, job.id, state="done", message=word)


def _lane_of(job: Job) -> int | None:
    """The lane that a file is laid on; None where it gets one of its own, or is a take."""
    own = job.payload.get("how", Landing.OWN) == Landing.OWN or job.payload.get("take") is not None
    return None if own else job.payload.get("lane_id")


def _place(workspace: Workspace, db: sqlite3.Connection, job: Job, found: Media) -> None:
    """Lay the medium where the person wanted it; of files that came together each after the one before it."""
    name, at_n, take = job.payload["name"], job.payload["at_n"], job.payload.get("take")
    if take is not None:
        lay_take(db, job.project_id, found, token=job.payload["token"], name=name, values={"at_n": at_n, **take})
        return
    media.remember(db, job.project_id, found, name=name)
    before = jobs.before_in_batch(db, job)
    how, lane_id = Landing(job.payload.get("how", "own")), job.payload.get("lane_id")
    lane_ids: list[int] = []
    if before is not None and job.payload.get("row") == "one":
        at_n, lane_ids = before["stop_n"], before["lane_ids"]
    elif before is not None:
        how = Landing.OWN
    if how is Landing.OWN:
        lane_id = None
    values = {"media_id": found.id, "name": name, "at_n": at_n, "how": how, "lane_id": lane_id, "lane_ids": lane_ids}
    done = workspace.do(db, job.project_id, "place", values)
    landed = landing.landed(done.before, done.after, found)
    jobs.note(db, job.id, {**job.payload, "landed": {"lane_ids": landed.lane_ids, "stop_n": landed.stop_n}})


def _wait_turn(db: sqlite3.Connection, job: Job, report: Reporter) -> None:
    """Files that came together land in the order they were chosen in, however long each takes to be read."""
    while jobs.batch_waits(db, job):
        report(0.99, "waiting for the file before it")
        time.sleep(WAIT_S)


def _word(workspace: Workspace, found: Media) -> str:
    about = workspace.library.about(found)
    if about.has_sound or about.remark:
        return about.remark
    return "Its sound is silent." if about.sound_word == "silent" else "It has no sound."


DOES: dict[str, Callable[[Workspace, sqlite3.Connection, Job, Reporter], None]] = {
    "import": _import,
    "export": export,
    pictures.KIND: pictures.make,
    hearing.KIND: hearing.hear_again,
    beats.KIND: beats.listen,
    care.KIND: care.treat,
    repair.KIND: repair.mend,
}
