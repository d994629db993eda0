"""Hearing in the background: what an older ear heard, told once; and what nobody listened to when it was brought in,
because nothing gave way to it: effects and atmosphere, heard when first needed."""

from __future__ import annotations

import sqlite3

from jaylantern.core.ducking.pecking_order import Order, order_of
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.jobs import ducked
from jaylantern.library import ingest
from jaylantern.library.bringing import taking_in
from jaylantern.library.library import Library
from jaylantern.store import edits, jobs, media, projects
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress, within
from jaylantern.workspace.workspace import Workspace

KIND = "hear"
TITLE = "Speech"
UNSPOKEN = (Tag.EFFECTS, Tag.ATMOSPHERE)  # what is said in them matters where something gives way to them


def _matters(order: Order, tag: Tag, perch: str | None) -> bool:
    """Does it matter what is said in sound of this tag on this perch?"""
    return tag not in UNSPOKEN or perch in order.keys


def wanted_on(project: Project, lane_id: int | None) -> bool:
    """Is what is laid on this lane to be listened to at once? On a lane of its own it always is."""
    lane = next((each for each in project.lanes if each.id == lane_id), None)
    order = order_of(project)
    return lane is None or _matters(order, lane.tag, order.perch_for(lane, lane.tag))


def to_hear(library: Library, project: Project) -> list[Media]:
    """Media of a project's clips that an older ear heard, or that nobody listened to though it matters now."""
    found: dict[int, Media] = {}
    order = order_of(project)
    for lane, clip in project.placed():
        track = library.track(clip.media) if lane.kind is LaneKind.SOUND else None
        if track is None:
            continue
        if track.older or (track.unheard and _matters(order, lane.tag_of(clip), order.perch(lane, clip))):
            found[clip.media.id] = clip.media
    return list(found.values())


def request(db: sqlite3.Connection, library: Library, project: Project, *, opened: bool = True) -> int | None:
    """Record that a project's media are to be heard; the job's number, None where nothing is to be done or it is asked
    for already. What failed or was stopped is tried again when the project is `opened` the next time, not before."""
    found = to_hear(library, project)
    if not found:
        return None
    with atomic(db):
        asked = {
            number for job in jobs.asked(db, kind=KIND, ended_badly=not opened) for number in job.payload["media_ids"]
        }
        wanted = [each.id for each in found if each.id not in asked]
        if not wanted:
            return None
        return jobs.create(db, project.id, kind=KIND, title=TITLE, payload={"media_ids": wanted})


def hear_again(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Hear the media of a job, each recorded as it is done; what was set by hand stays as it is. What moved is said."""
    numbers, again = job.payload["media_ids"], 0
    ducked.keep_new(workspace, db, projects.load(db, job.project_id))  # how it was before
    for i, number in enumerate(numbers):
        found = media.get(db, number)
        with taking_in(found.sha256):
            track = workspace.library.track(found)
            if track is not None and (track.older or track.unheard):
                again += track.older
                part = within(progress, i / len(numbers), (i + 1) / len(numbers))
                ingest.hear_again(workspace.folder.media(found.sha256), workspace.library.about(found), part)
                with atomic(db):
                    edits.news(db, [number])
    moved = ducked.look(workspace, db, projects.load(db, job.project_id))
    files = "1 file was" if again == 1 else f"{again} files were"
    said = f"{files} heard again by a better ear. {moved} What you set by hand stays."
    jobs.finish(db, job.id, state="done", message=said if again and moved else "")
