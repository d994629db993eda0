"""Hearing again what an older ear heard: found when a project is opened, done in the background, told once."""

from __future__ import annotations

import sqlite3

from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.library import ingest
from jaylantern.library.bringing import taking_in
from jaylantern.library.library import Library
from jaylantern.store import edits, jobs, media
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress, within
from jaylantern.workspace.workspace import Workspace

KIND = "hear"
TITLE = "Speech"


def to_hear_again(library: Library, project: Project) -> list[Media]:
    """Media of a project's clips that an older ear heard."""
    used = {clip.media.id: clip.media for _, clip in project.placed()}
    return [each for each in used.values() if library.heard_by_an_older_ear(each)]


def ask(db: sqlite3.Connection, library: Library, project: Project) -> int | None:
    """Record that a project's media are to be heard again; the job's number, None where nothing is to be done or it is
    asked for already."""
    older = to_hear_again(library, project)
    if not older:
        return None
    with atomic(db):
        asked = {number for job in jobs.asked(db, kind=KIND) for number in job.payload["media_ids"]}
        wanted = [each.id for each in older if each.id not in asked]
        if not wanted:
            return None
        return jobs.create(db, project.id, kind=KIND, title=TITLE, payload={"media_ids": wanted})


def hear_again(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Hear the media of a job, each recorded as it is done; what was set by hand stays as it is."""
    numbers = job.payload["media_ids"]
    for i, number in enumerate(numbers):
        found = media.get(db, number)
        with taking_in(found.sha256):
            if workspace.library.heard_by_an_older_ear(found):
                part = within(progress, i / len(numbers), (i + 1) / len(numbers))
                ingest.hear_again(workspace.folder.media(found.sha256), workspace.library.about(found), part)
                with atomic(db):
                    edits.news(db, [number])
    files = "1 file was" if len(numbers) == 1 else f"{len(numbers)} files were"
    said = f"{files} heard again by a better ear: some speech begins or ends elsewhere. What you set by hand stays."
    jobs.finish(db, job.id, state="done", message=said)
