"""How each project was ducked when it was last looked at: so that it can be said when a better ear, or another version,
makes something else of the same project."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from dataclasses import replace
from typing import Any

from jaylantern.core.timeline.project import Project


def fingerprint(project: Project) -> str:
    """A hash of all that a person has decided in a project; its revision, which other things move, has no say."""
    return hashlib.sha256(repr(replace(project, revision=0)).encode("utf-8", "surrogatepass")).hexdigest()


def keep(connection: sqlite3.Connection, project_id: int, mark: str, outline: dict[str, Any]) -> None:
    """Keep how a project is ducked in the state of a fingerprint."""
    connection.execute(
        "INSERT INTO ducked (project_id, fingerprint, outline) VALUES (?, ?, ?) ON CONFLICT (project_id) DO UPDATE SET"
        " fingerprint = excluded.fingerprint, outline = excluded.outline",
        (project_id, mark, json.dumps(outline)),
    )


def before(connection: sqlite3.Connection, project_id: int, mark: str) -> dict[str, Any] | None:
    """How a project was ducked when this very state of it was last looked at; None where that is not known."""
    row = connection.execute(
        "SELECT outline FROM ducked WHERE project_id = ? AND fingerprint = ?", (project_id, mark)
    ).fetchone()
    return None if row is None else dict(json.loads(row["outline"]))
