"""Listening for the beats of a recording in the background, when tailoring first asks for them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from jaylantern.core.ducking.pecking_order import order_of
from jaylantern.core.ducking.plan import yielding
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import RiseOn
from jaylantern.library import tailored_media
from jaylantern.library.library import Library
from jaylantern.store import edits, jobs, media
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

KIND = "beats"
TITLE = "Beats"


@dataclass(frozen=True)
class Waiting:
    """How far listening is: a job is `active`, or `ended` without having heard; in words."""

    words: str
    active: bool = False
    ended: bool = False


def waiting(db: sqlite3.Connection, project_id: int, source: Media) -> Waiting:
    """How far listening to a recording is that was not heard yet."""
    found = [job for job in jobs.of_project(db, project_id, kind=KIND) if job.payload["media_id"] == source.id]
    last = max(found, key=lambda job: job.id, default=None)
    if last is None or last.state == "done":
        return Waiting(f"Listening for the beats of {source.name} …")
    if last.active:
        return Waiting(f"Listening for the beats of {source.name} … {100 * last.share:.0f} %", active=True)
    return Waiting(f"{source.name} was not listened to: {last.message}", ended=True)


def request(db: sqlite3.Connection, project_id: int, source: Media) -> int | None:
    """Record that a recording is to be heard; the job's number, None where it is asked for already."""
    with atomic(db):
        if waiting(db, project_id, source).active:
            return None
        return jobs.create(db, project_id, kind=KIND, title=TITLE, payload={"media_id": source.id})


def listen(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Hear the recording of a job."""
    found = media.get(db, job.payload["media_id"])
    tailored_media.listen_for_beats(workspace.library, found, progress)
    with atomic(db):
        edits.news(db, [found.id, *media.made_of(db, found.sha256)])  # rises may end on its beats
        jobs.finish(db, job.id, state="done")


def wanted(db: sqlite3.Connection, library: Library, project: Project) -> list[int]:
    """Have the beats of music listened to that rises are to end on; numbers of the new jobs. What failed or was stopped
    is not tried again."""
    if project.settings.rise_on is RiseOn.ANYWHERE:
        return []
    found = {clip.media.id: clip.media for _, _, clips in yielding(project, order_of(project)) for clip in clips}
    sources = {source.id: source for each in found.values() if (source := media.recording(db, each))}
    made = []
    for source in sources.values():
        if not source.missing and not library.has_features(source) and not waiting(db, project.id, source).ended:
            made.append(request(db, project.id, source))
    return [number for number in made if number is not None]
