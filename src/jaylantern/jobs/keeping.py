"""Keeping a voice take: laid on the timeline by a command, and remembered as laid, so that undo brings it back."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from jaylantern import commands
from jaylantern.core.timeline.media import Media
from jaylantern.store import edits, media, takes
from jaylantern.store.connection import atomic


def lay_take(
    db: sqlite3.Connection, project_id: int, found: Media, *, token: str, name: str, values: Mapping[str, Any]
) -> None:
    """Lay the take of this token, which has become a medium; `values` say where, as the command has them."""
    with atomic(db):
        media.remember(db, project_id, found, name=name, is_take=True)
        commands.do(db, project_id, "lay_take", {**values, "media_id": found.id, "name": name})
        done = edits.steps(db, project_id).undo_id
        if done is not None:
            takes.laid(db, token, media_id=found.id, edit_id=done)
