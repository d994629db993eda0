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
    kept = project.__dict__  # it takes a while of a long one, and an edit asks for it twice
    if "fingerprint" not in kept:
        words = repr(replace(project, revision=0))
        kept["fingerprint"] = hashlib.sha256(words.encode("utf-8", "surrogatepass")).hexdigest()
    found: str = kept["fingerprint"]
    return found


def keep(connection: sqlite3.Connection, project: Project, outline: dict[str, Any]) -> None:
    """Keep how the project is ducked as it is now."""
    connection.execute(
        "INSERT INTO ducked (project_id, fingerprint, outline) VALUES (?, ?, ?) ON CONFLICT (project_id) DO UPDATE SET"
        " fingerprint = excluded.fingerprint, outline = excluded.outline",
        (project.id, fingerprint(project), json.dumps(outline)),
    )


def before(connection: sqlite3.Connection, project: Project) -> dict[str, Any] | None:
    """How this very project was ducked when it was last looked at; None where that is not known."""
    row = connection.execute(
        "SELECT outline FROM ducked WHERE project_id = ? AND fingerprint = ?", (project.id, fingerprint(project))
    ).fetchone()
    return None if row is None else dict(json.loads(row["outline"]))
