"""The work itself: bringing a file in, and making files to hand off. Each can be begun again after a kill."""

from __future__ import annotations

import hashlib
import os
import shutil
import sqlite3
import threading
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

from jaylantern import handoff, intake, pipeline
from jaylantern.core.curve import Curve
from jaylantern.core.mix import Variant
from jaylantern.core.model import Clip, Lane, LaneKind, Media, Project, Tag
from jaylantern.core.timebase import RATE
from jaylantern.errors import JayError, Refused, Stopped
from jaylantern.media.film import suffix_for
from jaylantern.pipeline import Decided
from jaylantern.store import commands, jobs, media
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.workbench import Workbench

MOST_ATTEMPTS = 3
REPORT_EVERY_S = 0.15
HASH_BYTES = 1 << 20
BYTES_PER_SECOND = RATE * 2 * 3
_taking_in: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)  # by content: the same file twice waits
Report = Callable[[float, str], None]  # share done, what is being done; may raise Stopped


class Reporter:
    """Tells the database how far a job is, a few times a second, and raises Stopped when it should end."""

    def __init__(self, db: sqlite3.Connection, job_id: int) -> None:
        self._db, self._job_id, self._next = db, job_id, 0.0

    def __call__(self, share: float, doing: str) -> None:
        if time.monotonic() >= self._next:
            self._next = time.monotonic() + REPORT_EVERY_S
            if jobs.report(self._db, self._job_id, share=min(max(share, 0.0), 1.0), doing=doing):
                raise Stopped("Stopped.")


def run(bench: Workbench, job_id: int) -> None:
    """Do a job and record what became of it; anything the person should know ends up in its message.

    What it leaves to be done in the background stands in the job table afterwards.
    """
    db = bench.connect()
    try:
        job = jobs.get(db, job_id)
        if not job.active:
            return
        if job.attempts >= MOST_ATTEMPTS:
            raise Refused(f"{job.title}: the program broke off {job.attempts} times at this. The file may be damaged.")
        jobs.begin(db, job_id)
        report = Reporter(db, job_id)
        report(0.0, "beginning")
        {"import": _import, "export": _export, "picture": _picture}[job.kind](bench, db, job, report)
    except Stopped:
        jobs.finish(db, job_id, state="stopped", message="Stopped. Nothing was kept.")
        _clean_up(bench, db, job_id)
    except (JayError, OSError, MemoryError) as error:
        jobs.finish(db, job_id, state="failed", message=_said(error))
        _clean_up(bench, db, job_id)
    except Exception as error:
        jobs.finish(db, job_id, state="failed", message=f"Something unforeseen went wrong ({type(error).__name__}).")
        _clean_up(bench, db, job_id)
        raise
    finally:
        db.close()


def _said(error: BaseException) -> str:
    if isinstance(error, OSError):
        return f"The data folder can't be written: {error.strerror or error}. Free some space or check its rights."
    return str(error)


def _clean_up(bench: Workbench, db: sqlite3.Connection, job_id: int) -> None:
    job = jobs.get(db, job_id)
    if job.kind == "picture":
        return
    if job.kind == "import":
        bench.incoming(job.payload["token"]).unlink(missing_ok=True)
    else:
        shutil.rmtree(bench.export_folder(job_id), ignore_errors=True)


def _import(bench: Workbench, db: sqlite3.Connection, job: Job, report: Reporter) -> None:
    """Take the file in, then place its clips and end the job in one transaction."""
    source, name = bench.incoming(job.payload["token"]), job.payload["name"]
    found = bring_in(bench, db, source, name, report)
    with atomic(db):
        _place(db, job, found)
        if found.has_picture and not bench.picture_mime(found):
            jobs.create(db, job.project_id, kind="picture", title=name, payload={"media_id": found.id})
        jobs.finish(db, job.id, state="done", message=_word(bench, found))
    source.unlink(missing_ok=True)


def _place(db: sqlite3.Connection, job: Job, found: Media) -> None:
    """Lay the medium where the person wanted it."""
    name, at_n, take = job.payload["name"], job.payload["at_n"], job.payload.get("take")
    if take is None:
        commands.place_media(db, job.project_id, found, name=name, at_n=at_n)
    else:
        commands.lay_take(db, job.project_id, found, name=name, at_n=at_n, **take)


def _picture(bench: Workbench, db: sqlite3.Connection, job: Job, report: Reporter) -> None:
    """Make the picture of a film in a form the browser plays."""
    found = media.get(db, job.payload["media_id"])
    with _taking_in[found.sha256]:
        if not bench.picture_mime(found):
            intake.make_proxy(bench.media_folder(found.sha256), name=job.title, progress=report)
    jobs.finish(db, job.id, state="done")


def bring_in(bench: Workbench, db: sqlite3.Connection, source: Path, name: str, report: Report) -> Media:
    """The medium of a file's content, taken in and recorded unless it is there already. `source` stays."""
    sha256 = _hash(source, report)
    with _taking_in[sha256]:
        known = media.find(db, sha256)
        if known is not None:
            return known
        about = _take_in(bench, source, name, sha256, report)
        return media.insert(
            db,
            sha256=sha256,
            name=name,
            size_bytes=source.stat().st_size,
            length_n=about.length_n,
            has_sound=about.has_sound,
            has_picture=about.has_picture,
        )


def _hash(path: Path, report: Report) -> str:
    digest, done, size = hashlib.sha256(), 0, max(path.stat().st_size, 1)
    with path.open("rb") as file:
        while block := file.read(HASH_BYTES):
            digest.update(block)
            done += len(block)
            report(0.05 * done / size, "checking the file")
    return digest.hexdigest()


def _take_in(bench: Workbench, source: Path, name: str, sha256: str, report: Report) -> intake.About:
    folder = bench.media_folder(sha256)
    shutil.rmtree(folder, ignore_errors=True)  # what a kill left behind
    try:
        about = intake.take_in(
            source, name=name, folder=folder, progress=lambda share, doing: report(0.05 + 0.95 * share, doing)
        )
        _keep(source, folder / "original")
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    return about


def _keep(source: Path, target: Path) -> None:
    """The file itself under another name: a second link where the disk allows it, else a copy."""
    try:
        os.link(source, target)
    except OSError:
        part = target.with_suffix(".part")
        shutil.copyfile(source, part)
        part.replace(target)


def _word(bench: Workbench, found: Media) -> str:
    about = bench.about(found)
    if about.has_sound:
        return ""
    return "Its sound is silent." if about.sound_word == "silent" else "It has no sound."


def _export(bench: Workbench, db: sqlite3.Connection, job: Job, report: Reporter) -> None:
    """Make the file asked for from the project as it is now."""
    project, decided = bench.load(db, job.project_id)
    if not project.length_n:
        raise Refused("The timeline is empty: there is nothing to hand off.")
    folder = bench.export_folder(job.id)
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    if project.length_n / RATE * BYTES_PER_SECOND > bench.free_bytes():
        raise Refused("There is not enough room in the data folder for this file.")
    message = EXPORTS[job.payload["what"]](bench, project, decided, folder / job.payload["stem"], report)
    jobs.finish(db, job.id, state="done", message=message)


def _wav(bench: Workbench, project: Project, decided: Decided, stem: Path, report: Reporter, variant: Variant) -> str:
    blocks = handoff.rendered(decided.programme, bench.reader(project), variant, report)
    over = handoff.write_wav(stem.with_name(stem.name + ".wav"), blocks)
    return f"{over} samples were held at full scale: lower the lane's fader." if over else ""


def _mix(bench: Workbench, project: Project, decided: Decided, stem: Path, report: Reporter) -> str:
    return _wav(bench, project, decided, stem, report, Variant.DUCKED)


def _music(bench: Workbench, project: Project, decided: Decided, stem: Path, report: Reporter) -> str:
    if not any(voice.tag is Tag.MUSIC for voice in decided.programme.voices):
        raise Refused("No lane that is heard is tagged music, so there is no music to hand off. Tag one under Tag.")
    return _wav(bench, project, decided, stem, report, Variant.MUSIC)


def _film(bench: Workbench, project: Project, decided: Decided, stem: Path, report: Reporter) -> str:
    clip = _only_picture(project)
    about = bench.about(clip.media)
    blocks = handoff.rendered(
        decided.programme, bench.reader(project), Variant.DUCKED, report, start_n=clip.start_n, stop_n=clip.stop_n
    )
    handoff.write_film_with(
        stem.with_name(stem.name + suffix_for(about.picture_codec)),
        source=bench.media_folder(clip.media.sha256) / "original",
        name=clip.name,
        blocks=blocks,
    )
    return ""


def _only_picture(project: Project) -> Clip:
    """The one uncut picture clip whose picture can be copied."""
    clips = [clip for lane in project.lanes if lane.kind is LaneKind.PICTURE for clip in lane.clips]
    if not clips:
        raise Refused("There is no picture on the timeline. Bring in the film, or hand off the mix as sound.")
    if len(clips) > 1 or clips[0].offset_n or clips[0].length_n != clips[0].media.length_n:
        raise Refused("The picture can only be copied whole: leave one uncut film on the timeline.")
    return clips[0]


def _keyframes(bench: Workbench, project: Project, decided: Decided, stem: Path, report: Reporter) -> str:
    """One CSV for each music clip; a single one carries the plain name."""
    music = [(lane, c) for lane in project.lanes for c in lane.clips if _yields(lane, c)]
    if not music:
        raise Refused("No lane is tagged music, so there is no curve. Tag one under Tag.")
    for i, (lane, clip) in enumerate(music, 1):
        ending = ".csv" if len(music) == 1 else f" {i}.csv"
        curve = pipeline.keyframes(decided.plan.curve_of(lane, clip) or Curve.flat(), clip)
        handoff.write_keyframes(stem.with_name(stem.name + ending), curve)
    return ""


def _yields(lane: Lane, clip: Clip) -> bool:
    return lane.kind is LaneKind.SOUND and lane.tag_of(clip) is Tag.MUSIC


EXPORTS = {"mix": _mix, "music": _music, "film": _film, "keyframes": _keyframes}
