"""Treating voices in the background: once a voice is treated whole, its loudness is known as it is heard, and no render
treats it again. Until then what is decided goes by the voice as it was recorded."""

from __future__ import annotations

import sqlite3

from jaylantern.core.timeline.care import Care
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.library.library import Library
from jaylantern.store import edits, jobs, projects
from jaylantern.store.connection import atomic
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

KIND = "care"
TITLE = "Voice"
LOOK_PARTS = 8  # parts treated between two looks at what is wanted now


def untreated(library: Library, project: Project) -> list[tuple[Media, Care]]:
    """Voices of a project whose care was not carried out on all of them yet."""
    found = {}
    for lane, clip in project.sounding():
        care = lane.care_of(clip)
        if care is not None and not clip.media.missing and library.cared_power(clip.media, care) is None:
            found[clip.media.id, care] = clip.media, care
    return list(found.values())


def wanted(db: sqlite3.Connection, library: Library, project: Project) -> list[int]:
    """Have them treated; the number of the new job, none where nothing is to be done or one is at it. What failed or
    was stopped is not tried again by itself."""
    left = untreated(library, project)
    if not left:
        return []
    with atomic(db):
        mine = jobs.of_project(db, project.id, kind=KIND)
        given_up = {text for job in mine if not job.active and job.state != "done" for text in job.payload["cares"]}
        texts = [text for media, care in left if (text := f"{media.id} {care.text}") not in given_up]
        if not texts or any(job.active for job in mine):
            return []
        return [jobs.create(db, project.id, kind=KIND, title=TITLE, payload={"cares": texts})]


def treat(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Treat what the project of a job wants now, until nothing is left."""
    while left := untreated(workspace.library, projects.load(db, job.project_id)):
        media, care = left[0]
        if _treated(workspace, db, job.project_id, media, care, progress):
            with atomic(db):
                edits.news(db, [media.id])
    jobs.finish(db, job.id, state="done")


def _treated(
    workspace: Workspace, db: sqlite3.Connection, project_id: int, media: Media, care: Care, progress: Progress
) -> bool:
    """Treat one voice; False where it was given up because something else is wanted of it by now."""
    for k, share in enumerate(workspace.library.treat(media, care)):
        progress(share, f"treating {media.name}")
        if k % LOOK_PARTS == LOOK_PARTS - 1:
            now = untreated(workspace.library, projects.load(db, project_id))
            if (media.id, care) not in {(each.id, wanted) for each, wanted in now}:
                return False
    return True
