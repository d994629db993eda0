"""Suggested tags a person does not want to see again, by project and medium."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from jaylantern.store.connection import atomic


def ignored(connection: sqlite3.Connection, project_id: int) -> set[int]:
    """Numbers of the media for which nothing is suggested."""
    rows = connection.execute("SELECT media_id FROM suggestion_ignored WHERE project_id = ?", (project_id,))
    return {row["media_id"] for row in rows}


def ignore(connection: sqlite3.Connection, project_id: int, media_ids: Iterable[int]) -> None:
    """Suggest nothing for these media any more."""
    with atomic(connection):
        connection.executemany(
            "INSERT INTO suggestion_ignored (project_id, media_id) VALUES (?, ?) ON CONFLICT DO NOTHING",
            [(project_id, media_id) for media_id in media_ids],
        )


def heed(connection: sqlite3.Connection, project_id: int) -> None:
    """Suggest for all media again."""
    with atomic(connection):
        connection.execute("DELETE FROM suggestion_ignored WHERE project_id = ?", (project_id,))
