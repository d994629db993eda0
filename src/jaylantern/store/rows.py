"""Row operations and their inverses: what every command is made of, and what undo is made of.

{"do": "add",  "table": "clip", "values": {…all columns…}}      inverse: drop
{"do": "set",  "table": "clip", "key": {"id": 7}, "values": {…}} inverse: set to what was there
{"do": "drop", "table": "clip", "key": {"id": 7}}               inverse: add what was there
"""

from __future__ import annotations

import sqlite3
from typing import Any

from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import columns_of
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, PointPin, SpeechPin
from jaylantern.errors import NotFound

Op = dict[str, Any]
OF_PROJECT = ("project_id",)
COLUMNS = {
    "lane": (*columns_of(Lane), *OF_PROJECT, "position"),
    "clip": (*columns_of(Clip), "lane_id"),
    "marker": (*columns_of(Marker), *OF_PROJECT),
    "setting": (*OF_PROJECT, "name", "value"),
    "project": ("id", "name", "in_n", "out_n"),
    "perch": (*OF_PROJECT, "name", "position"),
    "pair": (*columns_of(Pair), *OF_PROJECT),
    "speech_pin": (*columns_of(SpeechPin), *OF_PROJECT),
    "dip_pin": (*columns_of(DipPin), *OF_PROJECT),
    "point_pin": (*columns_of(PointPin), *OF_PROJECT),
    "captions": (*columns_of(Captions), *OF_PROJECT),
    "draft": (*OF_PROJECT, "body"),
}
KEYS = dict.fromkeys(COLUMNS, ("id",)) | {
    "setting": ("project_id", "name"),
    "draft": OF_PROJECT,
    "perch": ("project_id", "name"),
    "pair": ("project_id", "upper", "lower"),
}


def add(table: str, **values: Any) -> Op:
    """The operation that adds a row."""
    return {"do": "add", "table": table, "values": values}


def put(table: str, key: dict[str, Any], **values: Any) -> Op:
    """The operation that changes columns of a row."""
    return {"do": "set", "table": table, "key": key, "values": values}


def drop(table: str, key: dict[str, Any]) -> Op:
    """The operation that removes a row."""
    return {"do": "drop", "table": table, "key": key}


def apply(connection: sqlite3.Connection, op: Op) -> Op:
    """Carry out one operation and return its inverse. Raises NotFound if its row is not there."""
    return {"add": _add, "set": _set, "drop": _drop}[op["do"]](connection, op["table"], op)


def _checked(table: str, names: Any) -> list[str]:
    unknown = [name for name in names if name not in COLUMNS[table]]
    if unknown:
        raise ValueError(f"{table} has no column {unknown[0]!r}")
    return list(names)


def _where(table: str) -> str:
    return " AND ".join(f"{name} = ?" for name in KEYS[table])


def _key_values(table: str, values: dict[str, Any]) -> list[Any]:
    return [values[name] for name in KEYS[table]]


def _add(connection: sqlite3.Connection, table: str, op: Op) -> Op:
    names = _checked(table, op["values"])
    sql = f"INSERT INTO {table} ({', '.join(names)}) VALUES ({', '.join('?' * len(names))})"
    connection.execute(sql, list(op["values"].values()))
    return drop(table, {name: op["values"][name] for name in KEYS[table]})


def _row(connection: sqlite3.Connection, table: str, key: dict[str, Any]) -> dict[str, Any]:
    sql = f"SELECT {', '.join(COLUMNS[table])} FROM {table} WHERE {_where(table)}"
    row = connection.execute(sql, _key_values(table, key)).fetchone()
    if row is None:
        raise NotFound(f"That {table} is not there any more.")
    return dict(row)


def _set(connection: sqlite3.Connection, table: str, op: Op) -> Op:
    names = _checked(table, op["values"])
    before = _row(connection, table, op["key"])
    sql = f"UPDATE {table} SET {', '.join(f'{n} = ?' for n in names)} WHERE {_where(table)}"
    connection.execute(sql, [*op["values"].values(), *_key_values(table, op["key"])])
    return put(table, op["key"], **{name: before[name] for name in names})


def _drop(connection: sqlite3.Connection, table: str, op: Op) -> Op:
    before = _row(connection, table, op["key"])
    connection.execute(f"DELETE FROM {table} WHERE {_where(table)}", _key_values(table, op["key"]))
    return add(table, **before)
