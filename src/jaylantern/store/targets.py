"""The person's own loudness targets, shared by all projects of a data folder."""

from __future__ import annotations

import sqlite3

from jaylantern.core.mixing.loudness_targets import TARGETS, Target
from jaylantern.errors import NotFound, Refused
from jaylantern.store.connection import atomic, next_id, now


def all_of(connection: sqlite3.Connection) -> list[Target]:
    """Those that ship, then one's own by name."""
    rows = connection.execute(
        "SELECT name, lufs, dbtp, tolerance_lu, source, id FROM target ORDER BY name COLLATE NOCASE"
    )
    return [*TARGETS, *(Target(**dict(row)) for row in rows)]


def add(connection: sqlite3.Connection, target: Target) -> None:
    """Keep one. Raises Refused where its name is taken."""
    with atomic(connection):
        if target.name.casefold() in {each.name.casefold() for each in all_of(connection)}:
            raise Refused(f"There is a target called {target.name} already. Give this one another name.")
        connection.execute(
            "INSERT INTO target (id, name, lufs, dbtp, tolerance_lu, source, created_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
            (
                next_id(connection),
                target.name,
                target.lufs,
                target.dbtp,
                target.tolerance_lu,
                target.source,
                now(),
            ),
        )


def remove(connection: sqlite3.Connection, target_id: int) -> None:
    """Forget one of one's own. Raises NotFound."""
    with atomic(connection):
        if not connection.execute("DELETE FROM target WHERE id = ?", (target_id,)).rowcount:
            raise NotFound("That target is not there any more. Open the table again.")
