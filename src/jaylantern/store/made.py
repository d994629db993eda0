"""What was handed off: files that stay until a person removes them, and then for a while: that can be taken back."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from jaylantern.errors import NotFound
from jaylantern.store.connection import atomic, now

COLUMNS = "job_id, project_id, title, message, made_at, removed_at"
GONE = "That file is not there any more. Make it again under Hand off."
KEPT_AFTER_H = 24  # hours for which what was removed can be brought back


@dataclass(frozen=True)
class Made:
    """The files that one piece of work made; they lie in the folder of its number."""

    job_id: int
    project_id: int
    title: str
    message: str
    made_at: str
    removed_at: str | None

    @property
    def goes_at(self) -> str | None:
        """When what was removed goes for good; None of what stays."""
        if self.removed_at is None:
            return None
        return (datetime.fromisoformat(self.removed_at) + timedelta(hours=KEPT_AFTER_H)).isoformat()


def keep(connection: sqlite3.Connection, job_id: int) -> None:
    """Record what a job has made, whole; in the transaction that ends the job."""
    connection.execute(
        "INSERT OR REPLACE INTO made (job_id, project_id, title, message, made_at)"
        " SELECT id, project_id, title, message, coalesce(finished_at, created_at) FROM job WHERE id = ?",
        (job_id,),
    )
    connection.execute("DELETE FROM ours WHERE path = ?", (f"exports/{job_id}",))


def of_project(connection: sqlite3.Connection, project_id: int) -> list[Made]:
    """What was made of a project, newest first, what was removed lately too."""
    found = connection.execute(f"SELECT {COLUMNS} FROM made WHERE project_id = ? ORDER BY job_id DESC", (project_id,))
    return [Made(**row) for row in found]


def everything(connection: sqlite3.Connection) -> list[Made]:
    """All that was made, of all projects, oldest first."""
    return [Made(**row) for row in connection.execute(f"SELECT {COLUMNS} FROM made ORDER BY job_id")]


def get(connection: sqlite3.Connection, job_id: int) -> Made:
    """What a job made. Raises NotFound."""
    row = connection.execute(f"SELECT {COLUMNS} FROM made WHERE job_id = ?", (job_id,)).fetchone()
    if row is None:
        raise NotFound(GONE)
    return Made(**row)


def remove(connection: sqlite3.Connection, job_id: int) -> None:
    """A person has removed it; its files stay for a while. Raises NotFound."""
    get(connection, job_id)
    connection.execute("UPDATE made SET removed_at = ? WHERE job_id = ? AND removed_at IS NULL", (now(), job_id))


def bring_back(connection: sqlite3.Connection, job_id: int) -> None:
    """Take a removal back. Raises NotFound where its files have gone."""
    get(connection, job_id)
    connection.execute("UPDATE made SET removed_at = NULL WHERE job_id = ?", (job_id,))


def over(connection: sqlite3.Connection, *, at: datetime | None = None) -> list[Made]:
    """What was removed so long ago that it goes for good; with `at` as if it were then."""
    moment = (at or datetime.now(UTC)).astimezone(UTC)
    return [each for each in everything(connection) if each.goes_at and datetime.fromisoformat(each.goes_at) <= moment]


def give_up(connection: sqlite3.Connection, job_id: int) -> None:
    """Its files go for good: the ledger has them until they are gone."""
    with atomic(connection):
        connection.execute("INSERT OR IGNORE INTO ours (path) VALUES (?)", (f"exports/{job_id}",))
        connection.execute("DELETE FROM made WHERE job_id = ?", (job_id,))
