"""Carrying out a command: the edit of the project as it is, the difference written with its inverse, all or nothing."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.at_hand import AtHand
from jaylantern.commands.registry import COMMANDS
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue, Stale
from jaylantern.store import edits, projects
from jaylantern.store.connection import atomic
from jaylantern.store.difference import difference

LONGEST_GESTURE = 60


@dataclass(frozen=True)
class Done:
    """A command that was carried out: the project before and after; `after.revision` is the one that is kept."""

    before: Project
    after: Project


def carry_out(
    connection: sqlite3.Connection,
    project_id: int,
    name: str,
    values: Mapping[str, Any],
    at_hand: AtHand | None = None,
) -> Done:
    """Carry out a command by name with values from outside.

    `values` may say which revision the person had `seen`, and the `gesture` it belongs to: edits of one gesture become
    one step of the history. Raises InvalidValue for an unknown name or a bad value, Stale if the project has moved on.
    """
    if name not in COMMANDS:
        raise InvalidValue(f"There is no command called {name[:40]!r}.")
    command, seen, gesture = COMMANDS[name], values.get("seen"), values.get("gesture")
    with atomic(connection):
        before = projects.load(connection, project_id)
        if seen is not None and seen != before.revision:
            raise Stale("This project was changed elsewhere meanwhile. Look at it as it is now, then do it again.")
        label, after = command(before, values, at_hand or AtHand(connection, project_id))
        ops = difference(before, after)
        if not ops:
            return Done(before, before)
        step = str(gesture)[:LONGEST_GESTURE] if gesture else None
        after = replace(after, revision=edits.perform(connection, project_id, label, ops, gesture=step))
        if command.lasting:
            edits.forget(connection, project_id)
    if not connection.in_transaction:
        projects.keep(connection, after)
    return Done(before, after)


def do(
    connection: sqlite3.Connection,
    project_id: int,
    name: str,
    values: Mapping[str, Any],
    at_hand: AtHand | None = None,
) -> int:
    """As `carry_out`; answers the revision that is kept."""
    return carry_out(connection, project_id, name, values, at_hand).after.revision
