"""The person's own presets, shared by all projects of a data folder."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jaylantern.core.timeline import presets
from jaylantern.errors import NotFound, Refused
from jaylantern.store.connection import atomic, next_id, now


@dataclass(frozen=True)
class Kept:
    """A preset that was kept."""

    id: int
    name: str
    settings: Mapping[str, Any]


def all_of(connection: sqlite3.Connection) -> list[Kept]:
    """All of them, by name."""
    found = connection.execute("SELECT id, name, settings FROM preset ORDER BY name COLLATE NOCASE")
    return [Kept(row["id"], row["name"], presets.checked(json.loads(row["settings"]))) for row in found]


def get(connection: sqlite3.Connection, preset_id: int) -> Kept:
    """One of them. Raises NotFound."""
    for kept in all_of(connection):
        if kept.id == preset_id:
            return kept
    raise NotFound("That preset is not there any more.")


def keep(connection: sqlite3.Connection, found: Mapping[str, Mapping[str, Any]]) -> list[str]:
    """Keep presets by name; one whose name is taken gets a number behind it. The names they got."""
    names = []
    with atomic(connection):
        for name, settings in found.items():
            free = _free(connection, presets.clean_name(name))
            connection.execute(
                "INSERT INTO preset (id, name, settings, created_at) VALUES (?, ?, ?, ?)",
                (next_id(connection), free, json.dumps(presets.checked(settings), sort_keys=True), now()),
            )
            names.append(free)
    return names


def _free(connection: sqlite3.Connection, name: str) -> str:
    taken = {row["name"].casefold() for row in connection.execute("SELECT name FROM preset")}
    if name.casefold() not in taken:
        return name
    numbers = (f"{name[:74]} {n}" for n in range(2, 1000))
    free = next((each for each in numbers if each.casefold() not in taken), None)
    if free is None:
        raise Refused(f"There are a thousand presets called {name}. Choose another name.")
    return free


def rename(connection: sqlite3.Connection, preset_id: int, name: object) -> None:
    """Give one another name. Raises NotFound, or Refused where that name is taken."""
    tidy = presets.clean_name(name)
    with atomic(connection):
        kept = get(connection, preset_id)
        if tidy.casefold() != kept.name.casefold() and _free(connection, tidy) != tidy:
            raise Refused(f"There is a preset called {tidy} already. Give this one another name.")
        connection.execute("UPDATE preset SET name = ? WHERE id = ?", (tidy, preset_id))


def remove(connection: sqlite3.Connection, preset_id: int) -> Kept:
    """Remove one; answers what it was, so that it can be kept again. Raises NotFound."""
    with atomic(connection):
        kept = get(connection, preset_id)
        connection.execute("DELETE FROM preset WHERE id = ?", (preset_id,))
    return kept
