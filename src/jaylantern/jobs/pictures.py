"""Pictures that the browser can't play as they are, made anew in the background while the film is already worked on."""

from __future__ import annotations

import sqlite3

from jaylantern.core.timeline.media import Media
from jaylantern.library import ingest
from jaylantern.library.bringing import taking_in
from jaylantern.store import jobs, media
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

KIND = "picture"


def have_made(
    workspace: Workspace, db: sqlite3.Connection, project_id: int, found: Media, name: str, *, again: bool = True
) -> int | None:
    """Leave it to be done in the background where the browser can't play the picture; the job's number, None where
    nothing is to be done or it is asked for already. Where it failed before it is tried again only if wanted."""
    if found.missing or not found.has_picture or workspace.library.picture_mime(found):
        return None
    if any(job.payload["media_id"] == found.id for job in jobs.asked(db, kind=KIND, ended_badly=not again)):
        return None
    return jobs.create(db, project_id, kind=KIND, title=name, payload={"media_id": found.id})


def make(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Make the picture of a film in a form the browser plays."""
    found = media.get(db, job.payload["media_id"])
    with taking_in(found.sha256):
        if not found.missing and not workspace.library.picture_mime(found):
            ingest.make_proxy(workspace.folder.media(found.sha256), name=job.title, progress=progress)
    jobs.finish(db, job.id, state="done")
