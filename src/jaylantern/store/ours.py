"""The ledger of what the program made in its data folder: nothing is cleared away that does not stand here.

    begin ─ made ─┬─ settle    whole, and another row speaks of it from now on
                  └─ (killed)  cleared at the next start

Paths are within the data folder, with `/` between their parts.
"""

from __future__ import annotations

import re
import sqlite3

SHA256 = re.compile("[0-9a-f]{64}")  # what the folders of media are called


def of_media(sha256: str) -> str:
    """The folder of a medium, by the hash of its content."""
    return f"media/{sha256[:2]}/{sha256}"


def begin(connection: sqlite3.Connection, *paths: str) -> None:
    """These files or folders are about to be made, and are ours."""
    connection.executemany("INSERT OR IGNORE INTO ours (path) VALUES (?)", [(path,) for path in paths])


def settle(connection: sqlite3.Connection, *paths: str) -> None:
    """These are gone, or another row says what they are."""
    connection.executemany("DELETE FROM ours WHERE path = ?", [(path,) for path in paths])


def is_ours(connection: sqlite3.Connection, path: str) -> bool:
    """Does the ledger say that we made this?"""
    return connection.execute("SELECT 1 FROM ours WHERE path = ?", (path,)).fetchone() is not None


def paths(connection: sqlite3.Connection) -> list[str]:
    """All that stands in the ledger."""
    return [row["path"] for row in connection.execute("SELECT path FROM ours ORDER BY path")]
