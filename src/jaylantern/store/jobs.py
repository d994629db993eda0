"""Jobs and uploads: what is being worked on, how far it is, and what became of it."""

from __future__ import annotations

import json
import secrets
import sqlite3
from dataclasses import dataclass
from typing import Any

from jaylantern.errors import NotFound
from jaylantern.store import asked_state, made, ours
from jaylantern.store.connection import atomic, next_id, now

COLUMNS = "id, project_id, kind, title, payload, state, share, doing, message, stop_asked, attempts, finished_at"
MOST_ATTEMPTS = 3  # a job that broke off so often is not begun again by itself
UNFINISHED = "state IN ('queued', 'running')"


@dataclass(frozen=True)
class Job:
    """One piece of long work."""

    id: int
    project_id: int
    kind: str
    title: str
    payload: dict[str, Any]
    state: str
    share: float
    doing: str
    message: str
    stop_asked: bool
    attempts: int
    finished_at: str | None

    @property
    def active(self) -> bool:
        """Still waiting or at work?"""
        return self.state in ("queued", "running")


def _job(row: sqlite3.Row) -> Job:
    return Job(**{**dict(row), "payload": json.loads(row["payload"]), "stop_asked": bool(row["stop_asked"])})


def create(connection: sqlite3.Connection, project_id: int, *, kind: str, title: str, payload: dict[str, Any]) -> int:
    """Record a job to be done and return its number; with a hand-off the project is kept as it is now."""
    with atomic(connection):
        number = next_id(connection)
        connection.execute(
            "INSERT INTO job (id, project_id, kind, title, payload, state, created_at)"
            " VALUES (?, ?, ?, ?, ?, 'queued', ?)",
            (number, project_id, kind, title, json.dumps(payload), now()),
        )
        if kind == "export":
            asked_state.keep(connection, number, project_id)
    return number


def get(connection: sqlite3.Connection, job_id: int) -> Job:
    """A job by number. Raises NotFound."""
    row = connection.execute(f"SELECT {COLUMNS} FROM job WHERE id = ?", (job_id,)).fetchone()
    if row is None:
        raise NotFound(f"There is no job {job_id}.")
    return _job(row)


def of_token(connection: sqlite3.Connection, token: str) -> Job | None:
    """The import that was made of what was sent under a token; None where there is none."""
    row = connection.execute(
        f"SELECT {COLUMNS} FROM job WHERE kind = 'import' AND json_extract(payload, '$.token') = ?"
        " ORDER BY id DESC LIMIT 1",
        (token,),
    ).fetchone()
    return None if row is None else _job(row)


def of_project(connection: sqlite3.Connection, project_id: int, *, kind: str | None = None) -> list[Job]:
    """Jobs of a project that have not been dismissed: what is at work, what waits, then the newest of the others."""
    found = connection.execute(
        f"SELECT {COLUMNS} FROM job WHERE project_id = ? AND dismissed = 0 AND kind = coalesce(?, kind)"
        " ORDER BY state = 'running' DESC, state = 'queued' DESC, id DESC LIMIT 200",
        (project_id, kind),
    )
    return [_job(row) for row in found]


def unfinished(connection: sqlite3.Connection) -> list[Job]:
    """All jobs that a stop of the program left undone, oldest first."""
    return [_job(r) for r in connection.execute(f"SELECT {COLUMNS} FROM job WHERE {UNFINISHED} ORDER BY id")]


def asked(connection: sqlite3.Connection, *, kind: str, ended_badly: bool = False) -> list[Job]:
    """Jobs of a kind that wait or are at work; with `ended_badly` those too that failed or were stopped."""
    which = "state != 'done'" if ended_badly else UNFINISHED
    found = connection.execute(f"SELECT {COLUMNS} FROM job WHERE kind = ? AND {which}", (kind,))
    return [_job(row) for row in found]


def broke_off(connection: sqlite3.Connection, *, how: str) -> None:
    """What was at work has broken off; note in words how."""
    connection.execute("UPDATE job SET doing = ? WHERE state = 'running'", (how,))


def begin_afresh(connection: sqlite3.Connection) -> None:
    """The whole program had ended: that is nobody's fault, and what was at work is tried as often as if it had not."""
    connection.execute("UPDATE job SET state = 'queued', attempts = max(0, attempts - 1) WHERE state = 'running'")


def begin(connection: sqlite3.Connection, job_id: int) -> None:
    """The worker has taken the job up."""
    connection.execute("UPDATE job SET state = 'running', attempts = attempts + 1 WHERE id = ?", (job_id,))


def report(connection: sqlite3.Connection, job_id: int, *, share: float, doing: str) -> bool:
    """Record how far the job is; True if the person has asked to stop it."""
    row = connection.execute(
        "UPDATE job SET share = ?, doing = ? WHERE id = ? RETURNING stop_asked", (share, doing, job_id)
    ).fetchone()
    return bool(row and row["stop_asked"])


def finish(connection: sqlite3.Connection, job_id: int, *, state: str, message: str = "") -> None:
    """Record what became of the job: done, failed or stopped; what an export has made is a thing of its own then."""
    with atomic(connection):
        row = connection.execute(
            "UPDATE job SET state = ?, message = ?, finished_at = ?, share = iif(? = 'done', 1, share) WHERE id = ?"
            " RETURNING kind",
            (state, message, now(), state, job_id),
        ).fetchone()
        connection.execute("DELETE FROM asked_state WHERE job_id = ?", (job_id,))
        if row is not None and row["kind"] == "export" and state == "done":
            made.keep(connection, job_id)


def wait(connection: sqlite3.Connection, job_id: int, *, doing: str) -> None:
    """The job has to wait for something; this attempt does not count."""
    connection.execute(
        "UPDATE job SET state = 'queued', share = 0, doing = ?, attempts = max(0, attempts - 1) WHERE id = ?",
        (doing, job_id),
    )


def ask_stop(connection: sqlite3.Connection, job_id: int) -> None:
    """Ask the worker to stop; one that waits its turn is stopped when its turn comes."""
    connection.execute("UPDATE job SET stop_asked = 1 WHERE id = ? AND " + UNFINISHED, (job_id,))


def dismiss(connection: sqlite3.Connection, job_id: int) -> None:
    """Put the word about a finished job away. What it made stays: that is a thing of its own (`store/made.py`)."""
    connection.execute("UPDATE job SET dismissed = 1 WHERE id = ? AND NOT " + UNFINISHED, (job_id,))


def note(connection: sqlite3.Connection, job_id: int, payload: dict[str, Any]) -> None:
    """Keep what became of a job with what it was asked."""
    connection.execute("UPDATE job SET payload = ? WHERE id = ?", (json.dumps(payload), job_id))


def batch_waits(connection: sqlite3.Connection, job: Job) -> bool:
    """Is a file that came together with this one, and before it, still being worked on?"""
    batch = job.payload.get("batch")
    row = connection.execute(
        f"SELECT 1 FROM job WHERE {UNFINISHED} AND id < ? AND project_id = ? AND json_extract(payload, '$.batch') = ?",
        (job.id, job.project_id, batch),
    ).fetchone()
    return batch is not None and row is not None


def before_in_batch(connection: sqlite3.Connection, job: Job) -> dict[str, Any] | None:
    """Where the file before it, of those that came together, came to lie; None for the first."""
    row = connection.execute(
        "SELECT json_extract(payload, '$.landed') AS landed FROM job WHERE id < ? AND project_id = ? AND state = 'done'"
        " AND json_extract(payload, '$.batch') = ? AND landed IS NOT NULL ORDER BY id DESC LIMIT 1",
        (job.id, job.project_id, job.payload.get("batch")),
    ).fetchone()
    return json.loads(row["landed"]) if row else None


@dataclass(frozen=True)
class Upload:
    """A file on its way in."""

    token: str
    project_id: int
    name: str
    size_bytes: int
    at_n: int
    more: dict[str, Any]  # what its job is told besides


def create_upload(
    connection: sqlite3.Connection,
    project_id: int,
    *,
    name: str,
    size_bytes: int,
    at_n: int,
    more: dict[str, Any] | None = None,
) -> str:
    """Announce a file; returns the token its parts are sent under."""
    token = secrets.token_hex(16)
    with atomic(connection):
        ours.begin(connection, f"incoming/{token}")
        connection.execute(
            "INSERT INTO upload (token, project_id, name, size_bytes, at_n, created_at, more)"
            " VALUES (?, ?, ?, ?, ?, ?, ?)",
            (token, project_id, name, size_bytes, at_n, now(), json.dumps(more or {})),
        )
    return token


def get_upload(connection: sqlite3.Connection, token: str) -> Upload:
    """An announced file. Raises NotFound."""
    row = connection.execute(
        "SELECT token, project_id, name, size_bytes, at_n, more FROM upload WHERE token = ?", (token,)
    ).fetchone()
    if row is None:
        raise NotFound("That upload is not known any more; bring the file in again.")
    return _upload(row)


def _upload(row: sqlite3.Row) -> Upload:
    return Upload(**{**dict(row), "more": json.loads(row["more"])})


def uploads(connection: sqlite3.Connection) -> list[Upload]:
    """Every file announced and not yet handed to a job."""
    found = connection.execute("SELECT token, project_id, name, size_bytes, at_n, more FROM upload")
    return [_upload(row) for row in found]


def drop_upload(connection: sqlite3.Connection, token: str) -> None:
    """Forget an announced file."""
    connection.execute("DELETE FROM upload WHERE token = ?", (token,))
