"""The state of a project as it was when something was asked of it: kept with the job, so that what waits in the queue,
or is begun again after a kill, is made of that and of nothing later."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing

from jaylantern.core.timeline.project import Project
from jaylantern.errors import JayError, Refused
from jaylantern.store import projects, rows
from jaylantern.store.connection import migrate

OF_LANES = {"clip": "SELECT clip.* FROM clip JOIN lane ON lane.id = clip.lane_id WHERE lane.project_id = ?"}
ITSELF = {"project": "SELECT * FROM project WHERE id = ?"}


def keep(connection: sqlite3.Connection, job_id: int, project_id: int) -> None:
    """Keep the project as it is now with a job; in the transaction that records the job."""
    queries = {table: f"SELECT * FROM {table} WHERE project_id = ?" for table in rows.COLUMNS} | OF_LANES | ITSELF
    body = {table: [dict(row) for row in connection.execute(sql, (project_id,))] for table, sql in queries.items()}
    connection.execute("INSERT INTO asked_state (job_id, body) VALUES (?, ?)", (job_id, json.dumps(body)))


def read(connection: sqlite3.Connection, job_id: int) -> Project | None:
    """The project as it was asked for; None for a job with which nothing was kept.

    Media are as they are now: what has gone missing since is silent. Raises Refused where that state can't be had any
    more.
    """
    row = connection.execute(
        "SELECT body, job.project_id FROM asked_state JOIN job ON job.id = job_id WHERE job_id = ?", (job_id,)
    ).fetchone()
    if row is None:
        return None
    try:
        return _read(connection, json.loads(row["body"]), row["project_id"])
    except (JayError, sqlite3.Error, ValueError, LookupError) as error:
        raise Refused(
            "The project as it was when this was asked for can't be had any more: a file of it was taken away, or"
            " another version kept it. Ask for it again to have it made of the project as it is now."
        ) from error


def _read(connection: sqlite3.Connection, body: dict[str, list[dict[str, object]]], project_id: int) -> Project:
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as memory:
        memory.row_factory = sqlite3.Row
        migrate(memory)
        for table, found in body.items():
            for each in found:
                _add(memory, table, each)
        for number in {each["media_id"] for each in body["clip"]}:
            found = connection.execute("SELECT * FROM media WHERE id = ?", (number,)).fetchone()
            if found is None:
                raise LookupError(f"medium {number}")
            _add(memory, "media", dict(found))
        return projects.read(memory, project_id)


def _add(memory: sqlite3.Connection, table: str, values: dict[str, object]) -> None:
    memory.execute(
        f"INSERT INTO {table} ({', '.join(values)}) VALUES ({', '.join('?' * len(values))})", list(values.values())
    )
