"""Voice takes: recorded bit by bit, then kept or discarded. One whose keeping was undone is in hand again."""

from __future__ import annotations

import secrets
import sqlite3
from dataclasses import dataclass

from jaylantern.errors import NotFound
from jaylantern.store import ours
from jaylantern.store.connection import atomic, now

COLUMNS = "token, project_id, name, at_n, latency_n, state, media_id"
IN_HAND = (
    "(state IN ('recording', 'recorded') OR (state = 'kept' AND media_id IS NOT NULL AND NOT EXISTS"
    " (SELECT 1 FROM edit e WHERE e.id = take.edit_id AND e.undone = 0)))"
)


@dataclass(frozen=True)
class Take:
    """A take that is neither kept nor discarded yet. Its sound began to be recorded at `at_n` of the timeline.

    What was spoken there arrived `latency_n` samples later. One that was kept before has a medium.
    """

    token: str
    project_id: int
    name: str
    at_n: int
    latency_n: int
    state: str
    media_id: int | None = None


def create(connection: sqlite3.Connection, project_id: int, *, at_n: int, latency_n: int) -> Take:
    """Begin a take; it is called by the next number no take of the project has had."""
    token = secrets.token_hex(16)
    with atomic(connection):
        number = connection.execute("SELECT count(*) AS n FROM take WHERE project_id = ?", (project_id,)).fetchone()[
            "n"
        ]
        ours.begin(connection, f"takes/{token}", f"takes/{token}.wav")
        connection.execute(
            "INSERT INTO take (token, project_id, name, at_n, latency_n, state, created_at)"
            " VALUES (?, ?, ?, ?, ?, 'recording', ?)",
            (token, project_id, f"Take {number + 1}", at_n, latency_n, now()),
        )
    return get(connection, token)


def get(connection: sqlite3.Connection, token: str) -> Take:
    """A take in hand. Raises NotFound."""
    row = connection.execute(f"SELECT {COLUMNS} FROM take WHERE token = ? AND {IN_HAND}", (token,)).fetchone()
    if row is None:
        raise NotFound("That take is not in hand any more: it was kept or discarded. Undo brings a kept one back.")
    return Take(**row)


def in_hand(connection: sqlite3.Connection, project_id: int) -> list[Take]:
    """Takes neither kept nor discarded, oldest first."""
    found = connection.execute(
        f"SELECT {COLUMNS} FROM take WHERE project_id = ? AND {IN_HAND} ORDER BY rowid",
        (project_id,),
    )
    return [Take(**row) for row in found]


def tokens_in_hand(connection: sqlite3.Connection) -> set[str]:
    """Tokens of all takes neither kept nor discarded."""
    return {row["token"] for row in connection.execute(f"SELECT token FROM take WHERE {IN_HAND}")}


def set_state(connection: sqlite3.Connection, token: str, state: str) -> None:
    """A take is recorded, kept or discarded."""
    connection.execute("UPDATE take SET state = ? WHERE token = ?", (state, token))


def laid(connection: sqlite3.Connection, token: str, *, media_id: int, edit_id: int) -> None:
    """A take lies on the timeline as this medium, by this step of the history."""
    connection.execute(
        "UPDATE take SET state = 'kept', media_id = ?, edit_id = ? WHERE token = ?", (media_id, edit_id, token)
    )
