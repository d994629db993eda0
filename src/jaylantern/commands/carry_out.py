"""Carrying out a command in three steps: prepared and worked out outside of any lock, compared and written in one
transaction.

    load ─ edit (takes as long as it takes) ─┬─ nothing came between: the difference is written with its inverse
                                             ├─ only what is known of media has: the same
                                             └─ the project was changed: refused, or worked out anew
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.at_hand import AtHand
from jaylantern.commands.registry import COMMANDS
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Refit
from jaylantern.errors import InvalidValue, Refused, Stale
from jaylantern.store import edits, projects
from jaylantern.store.connection import atomic
from jaylantern.store.difference import difference

LONGEST_GESTURE = 60
MOST_TRIES = 8  # of one that nobody watches, where others change the project again and again
CHANGED = "This project was changed elsewhere meanwhile. Look at it as it is now, then do it again."


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
    one step of the history. What follows from an edit by itself (music fitted anew) is part of its step. Raises
    InvalidValue for an unknown name or a bad value, Stale if the project has moved on.
    """
    if name not in COMMANDS:
        raise InvalidValue(f"There is no command called {name[:40]!r}.")
    at_hand, seen = at_hand or AtHand(connection, project_id), values.get("seen")
    for _ in range(MOST_TRIES):
        before = projects.load(connection, project_id)
        if seen is not None and seen != before.revision:
            raise Stale(CHANGED)
        label, after = COMMANDS[name](before, values, at_hand)
        label, after = _followed(before, after, name, label, values, at_hand)
        done = _committed(connection, before, after, name, label, values)
        if done is not None:
            if not connection.in_transaction:
                projects.keep(connection, done.after)
            return done
        if seen is not None:
            break
    raise Stale(CHANGED)


MINUS = re.compile(r"(?<=\s)-(?=\d)")  # of a figure in the words of a step


def _committed(
    connection: sqlite3.Connection, before: Project, after: Project, name: str, label: str, values: Mapping[str, Any]
) -> Done | None:
    """Write the difference; None where the project was changed since `before` was read."""
    ops = difference(before, after)
    if not ops:
        return Done(before, before)
    gesture = values.get("gesture")
    label = MINUS.sub("−", label)
    with atomic(connection):
        if not _unchanged(connection, before):
            return None
        step = str(gesture)[:LONGEST_GESTURE] if gesture else None
        after = replace(after, revision=edits.perform(connection, before.id, label, ops, gesture=step))
        if COMMANDS[name].lasting:
            edits.forget(connection, before.id)
    return Done(before, after)


def _unchanged(connection: sqlite3.Connection, before: Project) -> bool:
    """Is the project still what it was? What was heard of its media meanwhile changes nothing that stands in it."""
    revision = projects.revision(connection, before.id)
    return revision == before.revision or projects.load(connection, before.id) == replace(before, revision=revision)


def _followed(
    before: Project, after: Project, name: str, label: str, values: Mapping[str, Any], at_hand: AtHand
) -> tuple[str, Project]:
    """With what follows from an edit by itself: music whose end follows something is fitted anew. While a knob is
    dragged nothing is."""
    dragged = values.get("gesture") and after.lanes == before.lanes
    if after.settings.refit is not Refit.ITSELF or name == "refit" or dragged or after is before:
        return label, after
    try:
        words, fitted = COMMANDS["refit"](after, {}, at_hand)
    except Refused:
        return label, after  # the page says what has moved, and nothing else is held up
    return (label, after) if fitted is after else (f"{label}, {words[0].lower()}{words[1:]}", fitted)


def do(
    connection: sqlite3.Connection,
    project_id: int,
    name: str,
    values: Mapping[str, Any],
    at_hand: AtHand | None = None,
) -> int:
    """As `carry_out`; answers the revision that is kept."""
    return carry_out(connection, project_id, name, values, at_hand).after.revision
