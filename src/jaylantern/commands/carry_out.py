"""Carrying out a command in three steps: prepared and edited outside of any lock, compared and written in one
transaction.

    load ─ prepare (however long it takes) ─ edit ─┬─ nothing came between: the difference is written with its inverse
                                                   ├─ only what is known of media has: the same
                                                   └─ the project was changed: refused, or worked out anew
"""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.command import Command
from jaylantern.commands.provider import Provider
from jaylantern.commands.registry import COMMANDS
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Refit
from jaylantern.errors import InvalidValue, Refused, Stale
from jaylantern.store import edits, projects
from jaylantern.store.connection import atomic, free_id, take_ids
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
    provider: Provider | None = None,
) -> Done:
    """Carry out a command by name with values from outside.

    `values` may say which revision the person had `seen`, and the `gesture` it belongs to: edits of one gesture become
    one step of the history. What follows from an edit by itself (music fitted anew) is part of its step. Raises
    InvalidValue for an unknown name or a bad value, Stale if the project has moved on.
    """
    if name not in COMMANDS:
        raise InvalidValue(f"There is no command called {name[:40]!r}.")
    provider, seen = provider or Provider(connection, project_id), values.get("seen")
    for _ in range(MOST_TRIES):
        before = projects.load(connection, project_id)
        if seen is not None and seen != before.revision:
            raise Stale(CHANGED)
        numbers = Numbers(connection)
        label, after = _edited(COMMANDS[name], before, values, provider, numbers)
        label, after = _followed(before, after, name, label, values, provider, numbers)
        try:
            done = _committed(connection, before, after, name, label, values, numbers)
        except NumbersGone:
            continue
        except Stale:
            if seen is not None:
                raise
            continue
        if not connection.in_transaction:
            projects.keep(connection, done.after)
        return done
    raise Stale(CHANGED)


class NumbersGone(Exception):
    """Numbers that an edit uses were taken for something else before it was committed: it is done again."""


class Numbers:
    """Numbers for what an edit adds, from the first that is free on; they are taken when the edit is committed."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self._connection, self._count = connection, 0
        self._first: int | None = None

    def __call__(self) -> int:
        """The next one."""
        if self._first is None:
            self._first = free_id(self._connection)
        self._count += 1
        return self._first + self._count - 1

    def take(self) -> None:
        """Take what was given out. Raises NumbersGone where somebody else has taken any of it meanwhile."""
        if self._first is not None and not take_ids(self._connection, self._first, count=self._count):
            raise NumbersGone


def _edited(
    command: Command, project: Project, values: Mapping[str, Any], provider: Provider, numbers: Numbers
) -> tuple[str, Project]:
    checked = command.checked(values)
    return command.edit(project, numbers, **checked, **command.prepared(project, checked, provider))


MINUS = re.compile(r"(?<=\s)-(?=\d)")  # of a figure in the words of a step


def _committed(
    connection: sqlite3.Connection,
    before: Project,
    after: Project,
    name: str,
    label: str,
    values: Mapping[str, Any],
    numbers: Numbers,
) -> Done:
    """Write the difference. Raises Stale where the project was changed since `before` was read, NumbersGone where
    numbers it uses have gone to something else."""
    ops = difference(before, after)
    if not ops:
        return Done(before, before)
    gesture = values.get("gesture")
    label = MINUS.sub("−", label)
    with atomic(connection):
        if not _unchanged(connection, before):
            raise Stale(CHANGED)
        numbers.take()
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
    before: Project,
    after: Project,
    name: str,
    label: str,
    values: Mapping[str, Any],
    provider: Provider,
    numbers: Numbers,
) -> tuple[str, Project]:
    """With what follows from an edit by itself: music whose end follows something is fitted anew. While a knob is
    dragged nothing is."""
    dragged = values.get("gesture") and after.lanes == before.lanes
    if after.settings.refit is not Refit.ITSELF or name == "refit" or dragged or after is before:
        return label, after
    try:
        words, fitted = _edited(COMMANDS["refit"], after, {}, provider, numbers)
    except Refused:
        return label, after  # the page says what has moved, and nothing else is held up
    return (label, after) if fitted is after else (f"{label}, {words[0].lower()}{words[1:]}", fitted)


def do(
    connection: sqlite3.Connection,
    project_id: int,
    name: str,
    values: Mapping[str, Any],
    provider: Provider | None = None,
) -> int:
    """As `carry_out`; answers the revision that is kept."""
    return carry_out(connection, project_id, name, values, provider).after.revision
