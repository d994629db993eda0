"""Voice takes: recorded bit by bit, then kept or discarded."""

from __future__ import annotations

import secrets
import sqlite3
from dataclasses import dataclass

from jaylantern.errors import NotFound
from jaylantern.store.connection import atomic, now

COLUMNS = "token, project_id, name, at_n, latency_n, state"


@dataclass(frozen=True)
class Take:
    """A take that is neither kept nor discarded yet. Its sound began to be recorded at `at_n` of the timeline.

    What was spoken there arrived `latency_n` samples later.
    """

    token: str
    project_id: int
    name: str
    at_n: int
    latency_n: int
    state: str


def create(connection: sqlite3.Connection, project_id: int, *, at_n: int, latency_n: int) -> Take:
    """Begin a take; it is called by the next number no take of the project has had."""
    token = secrets.token_hex(16)
    with atomic(connection):
        number = connection.execute("SELECT count(*) AS n FROM take WHERE project_id = ?", (project_id,)).fetchone()[
            "n"
        ]
        connection.execute(
            "INSERT INTO take (token, project_id, name, at_n, latency_n, state, created_at)"
            " VALUES (?, ?, ?, ?, ?, 'recording', ?)",
            (token, project_id, f"Take {number + 1}", at_n, latency_n, now()),
        )
    return get(connection, token)


def get(connection: sqlite3.Connection, token: str) -> Take:
    """A take in hand. Raises NotFound."""
    row = connection.execute(
        f"SELECT {COLUMNS} FROM take WHERE token = ? AND state IN ('recording', 'recorded')", (token,)
    ).fetchone()
    if row is None:
        raise NotFound("That take is not in hand any more: it was kept or discarded.")
    return Take(**row)


def in_hand(connection: sqlite3.Connection, project_id: int) -> list[Take]:
    """Takes neither kept nor discarded, oldest first."""
    found = connection.execute(
        f"SELECT {COLUMNS} FROM take WHERE project_id = ? AND state IN ('recording', 'recorded')"
        " ORDER BY created_at, rowid",
        (project_id,),
    )
    return [Take(**row) for row in found]


def set_state(connection: sqlite3.Connection, token: str, state: str) -> None:
    """A take is recorded, kept or discarded."""
    connection.execute("UPDATE take SET state = ? WHERE token = ?", (state, token))
