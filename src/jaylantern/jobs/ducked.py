"""What moved in a project by itself is said: by a better ear, or by another version of the program."""

from __future__ import annotations

import sqlite3

from jaylantern.core.ducking.changes import Outline, moved
from jaylantern.core.timeline.project import Project
from jaylantern.store import ducked, jobs
from jaylantern.store.connection import atomic
from jaylantern.workspace.workspace import Workspace

TITLE = "Ducking"
KIND = "hear"


def look(workspace: Workspace, db: sqlite3.Connection, project: Project) -> str:
    """Look whether the project is ducked as it was when it was last looked at, and keep how it is now where
    it is not; answers in words what moved though nobody changed anything, "" for nothing."""
    mark = ducked.fingerprint(project)
    said, now = _moved(workspace, db, project, mark)
    if said:
        ducked.keep(db, project.id, mark, now.plain)
    return said


def _moved(workspace: Workspace, db: sqlite3.Connection, project: Project, mark: str) -> tuple[str, Outline]:
    result, before = workspace.result(project), ducked.before(db, project.id, mark)
    now = Outline.of(result.plan)
    if before is None or result.troubles:
        return "", now
    try:
        return moved(Outline.from_plain(before), now).words, now
    except (ValueError, KeyError, TypeError):
        return "", now


def keep_new(workspace: Workspace, db: sqlite3.Connection, project: Project) -> None:
    """Keep how a project is ducked that a person has just changed; what is known of a state stays as it was kept."""
    result, mark = workspace.result(project), ducked.fingerprint(project)
    if not result.troubles and ducked.before(db, project.id, mark) is None:
        ducked.keep(db, project.id, mark, Outline.of(result.plan).plain)


def tell(workspace: Workspace, db: sqlite3.Connection, project: Project) -> None:
    """The same, told on the page of the project."""
    mark = ducked.fingerprint(project)
    said, now = _moved(workspace, db, project, mark)
    if said:
        with atomic(db):
            ducked.keep(db, project.id, mark, now.plain)
            number = jobs.create(db, project.id, kind=KIND, title=TITLE, payload={"media_ids": []})
            words = f"This version ducks this project otherwise than the one that showed it last. {said}"
            jobs.finish(db, number, state="done", message=words)
