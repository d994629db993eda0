"""A copy of the database in one consistent state, also while it is in use."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Known:
    """What a database speaks of: content hashes of media, numbers of the jobs whose files are kept."""

    media: frozenset[str]
    exports: frozenset[int]


def take(source: Path, target: Path) -> Known:
    """Copy a database into a new file. What is waiting, under way or half brought in is not in the copy."""
    with closing(sqlite3.connect(source)) as old, closing(sqlite3.connect(target)) as new:
        old.backup(new)
        new.execute(
            "UPDATE job SET state = 'stopped', message = 'It was under way when the backup was made.'"
            " WHERE state IN ('queued', 'running')"
        )
        for table in ("upload", "asked_state", "ours"):
            new.execute(f"DELETE FROM {table}")
        new.execute("DELETE FROM made WHERE removed_at IS NOT NULL")
        new.commit()
        media = new.execute("SELECT sha256 FROM media WHERE missing = 0")
        exports = new.execute("SELECT job_id FROM made WHERE removed_at IS NULL")
        return Known(frozenset(row[0] for row in media), frozenset(row[0] for row in exports))
