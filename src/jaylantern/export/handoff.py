"""Making the files that are handed off, from a project as it was when they were asked for."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from jaylantern.core.mixing.mix import STEMS
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.imported import MediaAlias
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused
from jaylantern.export import data, film, sound
from jaylantern.export.request import ExportRequest, request_of
from jaylantern.export.task import Task
from jaylantern.projectfile import archive
from jaylantern.projectfile.archive import Belonging
from jaylantern.store import asked_state, jobs, media, projects
from jaylantern.store.jobs import Job
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

FILM_BYTES_PER_S = 24_000  # of its sound
LATER = "Made of the project as it was when the work began: an older version did not keep how it was asked for."
FORMS = {**sound.FORMS, **film.FORMS, **data.FORMS}  # all that can be handed off, by name


def asked(values: Mapping[str, Any]) -> ExportRequest:
    """A request as it was sent or kept. Raises InvalidValue."""
    return request_of(values, tuple(FORMS))


def export(workspace: Workspace, db: sqlite3.Connection, job: Job, progress: Progress) -> None:
    """Make the files asked for. What is made is whole or not there."""
    project = asked_state.read(db, job.id)
    said = "" if project is not None else LATER
    project = project or projects.load(db, job.project_id)
    if not project.length_n:
        raise Refused("The timeline is empty: there is nothing to hand off. Bring in files first.")
    folder = workspace.folder.claim(db, f"exports/{job.id}")
    folder.mkdir(parents=True)
    result = workspace.decide(project)
    task = Task(workspace, project, result, folder, asked(job.payload), progress, belonging(db, project))
    if _bytes(task) > workspace.folder.free_bytes():
        workspace.folder.clear_removed(db, at=datetime.max.replace(tzinfo=UTC))  # room is worth more than taking back
    jobs.finish(db, job.id, state="done", message=f"{make(task)} {said}".strip())


def make(task: Task) -> str:
    """Make what is asked for in the task's folder; returns what the person should know of it."""
    if _bytes(task) > task.workspace.folder.free_bytes():
        raise Refused(
            "There is not enough room in the data folder for this file. Free some, or remove what was made before."
        )
    said = FORMS[task.request.what].make(task)
    missing = sum(clip.media.missing for _, clip in task.project.placed())
    if missing and task.request.what in (*sound.FORMS, *film.FORMS):
        said = f"{said} {missing} clip{'s are' if missing > 1 else ' is'} silent or black: the file is missing.".strip()
    return said


def belonging(db: sqlite3.Connection, project: Project) -> Belonging:
    """What belongs to a project beside its clips."""
    brought = media.of_project(db, project.id)
    made_of = {clip.media.tailored.source for _, clip in project.placed() if clip.media.tailored is not None}
    recordings = [found for sha256 in sorted(made_of) if (found := media.find(db, sha256)) is not None]
    return Belonging(
        [*(each.media for each in brought), *recordings],
        [MediaAlias(each.media.id, each.name, each.is_take) for each in brought],
        media.wanted_in(db, project.id),
    )


def _bytes(task: Task) -> float:
    """How large what is asked for will be at most, in bytes."""
    if task.request.what == "archive":
        return archive.size_bytes(task.workspace, archive.media_of(task.project, task.belonging))
    if task.request.what == "film":
        return task.project.length_n / RATE * FILM_BYTES_PER_S + _picture_bytes(task)
    if task.request.what not in sound.FORMS:
        return task.project.length_n / RATE * FILM_BYTES_PER_S
    start_n, stop_n = task.span
    files = {"stems": len(STEMS) + 2, "objects": 2 * len(STEMS)}.get(task.request.what, 1)
    return files * (stop_n - start_n) / RATE * task.request.form.bytes_per_s * task.request.rate / RATE


def _picture_bytes(task: Task) -> float:
    """What the pictures that are seen take in the files they come from, their sound included."""
    return sum(
        (task.workspace.folder.media(piece.clip.media.sha256) / "original").stat().st_size
        * (piece.stop_n - piece.start_n)
        / piece.clip.media.length_n
        for piece in picture.pieces(task.project)
        if piece.clip is not None
    )
