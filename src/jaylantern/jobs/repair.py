"""Media of which something was lost: shown as missing, and made again in the background where the file is there."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection

from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.jobs import pictures
from jaylantern.library import repair
from jaylantern.store import edits, jobs, media
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress, within
from jaylantern.workspace.workspace import Workspace

KIND = "mend"
TITLE = "Files"


def look_after(workspace: Workspace, db: sqlite3.Connection, project: Project) -> list[int]:
    """Look whether everything is there that is known of a project's media. What is not is shown as missing from now on;
    numbers of the jobs that make it again."""
    found = {clip.media.id: clip.media for _, clip in project.placed()}
    recordings = [(each, media.recording(db, each)) for each in found.values() if each.tailored is not None]
    ids = [each.id for each in found.values() if _not_whole(workspace, db, each)]
    for made, source in recordings:
        if source is not None and source.id not in ids and _not_whole(workspace, db, source):
            ids += [source.id, *([] if made.id in ids else [made.id])]
    pictured = [
        pictures.have_made(workspace, db, project.id, each, each.name, again=False)
        for each in found.values()
        if each.id not in ids and each.has_picture
    ]
    return [*lost(workspace, db, project.id, ids), *(number for number in pictured if number is not None)]


def _not_whole(workspace: Workspace, db: sqlite3.Connection, each: Media) -> bool:
    """Was something of a medium lost, or is it now?"""
    return media.is_lost(db, each.id) if each.missing else not repair.sound(workspace.library, each)


def lost(workspace: Workspace, db: sqlite3.Connection, project_id: int, media_ids: Collection[int]) -> list[int]:
    """Something of these media is damaged or gone: they are missing until it is made again. Numbers of the jobs."""
    if not media_ids:
        return []
    with atomic(db):
        fresh = [each for each in media_ids if not media.is_lost(db, each)]
        for each in fresh:
            media.lose(db, each)
        edits.news(db, fresh)
        asked = {
            number
            for job in jobs.asked(db, kind=KIND, ended_badly=True)
            if job.active or (job.attempts < jobs.MOST_ATTEMPTS and not fresh)  # one that was killed is worth another
            for number in job.payload["media_ids"]
        }
        wanted = [
            each
            for each in media_ids
            if each not in asked and repair.can_be_mended(workspace.library, db, media.get(db, each))
        ]
        if not wanted:
            return []
        return [jobs.create(db, project_id, kind=KIND, title=TITLE, payload={"media_ids": wanted})]


def mend(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Make again what was lost of the media of a job, each recorded as it is done."""
    done = _mended(workspace, db, job, progress)
    files = f"{len(done)} files were" if len(done) > 1 else f"{done[0].name} was" if done else ""
    said = f"{files} damaged in the data folder, and made again from what you brought in." if files else ""
    jobs.finish(db, job.id, state="done", message=said)


def _mended(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> list[Media]:
    done, numbers = [], job.payload["media_ids"]
    for i, number in enumerate(numbers):
        found = media.get(db, number)
        if media.is_lost(db, number):
            part = within(progress, i / len(numbers), (i + 1) / len(numbers))
            done.append(repair.mend(workspace.library, db, found, part))
            pictures.have_made(workspace, db, job.project_id, done[-1], found.name)
    return done


def found_out(workspace: Workspace, db: sqlite3.Connection, sha256: str) -> list[int]:
    """The medium of a content hash was found to be damaged; as `lost`, with all that is tailored from it."""
    found = media.find(db, sha256)
    project_id = None if found is None else media.project_with(db, found.id)
    if found is None or project_id is None:
        return []
    return lost(workspace, db, project_id, [found.id, *media.made_of(db, sha256)])
