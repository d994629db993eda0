"""Edits: a command and its inverse in one transaction, undo and redo that survive a restart.

… done ─ done ─ done │ undone ─ undone       undo moves the bar left, redo right
                     └ a new edit forgets what stands right of it
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from jaylantern.errors import NotFound, Refused, Stale
from jaylantern.store import rows
from jaylantern.store.connection import atomic, now
from jaylantern.store.rows import Op


@dataclass(frozen=True)
class Steps:
    """What undo and redo would do now, in words and by the number of the step; None where there is nothing."""

    undo: str | None
    redo: str | None
    undo_id: int | None = None
    redo_id: int | None = None


def perform(
    connection: sqlite3.Connection, project_id: int, label: str, ops: Sequence[Op], *, gesture: str | None = None
) -> int:
    """Carry out an edit and return the project's new revision.

    Edits of one `gesture` (a slider being dragged) become one step of the history.
    """
    with atomic(connection):
        inverse = _run(connection, ops)
        connection.execute("DELETE FROM edit WHERE project_id = ? AND undone = 1", (project_id,))
        last = connection.execute(
            "SELECT id, gesture, undo, redo, created_at FROM edit WHERE project_id = ? ORDER BY id DESC LIMIT 1",
            (project_id,),
        ).fetchone()
        if gesture and last and last["gesture"] == gesture:
            _merge(connection, last, label, list(ops), inverse)
        else:
            at = max(now(), last["created_at"]) if last else now()  # clocks are put back; a history never is
            connection.execute(
                "INSERT INTO edit (project_id, label, gesture, undo, redo, created_at) VALUES (?, ?, ?, ?, ?, ?)",
                (project_id, label, gesture, json.dumps(inverse), json.dumps(list(ops)), at),
            )
        return _touch(connection, project_id)


def _run(connection: sqlite3.Connection, ops: Sequence[Op]) -> list[Op]:
    """Carry out operations in order; their inverses come back in the order to undo them in."""
    inverse = [rows.apply(connection, op) for op in ops]
    return inverse[::-1]


def _merge(connection: sqlite3.Connection, last: sqlite3.Row, label: str, ops: list[Op], inverse: list[Op]) -> None:
    undo = _latest(json.loads(last["undo"])[::-1] + inverse[::-1], first=True)[::-1]
    redo = _latest(json.loads(last["redo"]) + ops, first=False)
    connection.execute(
        "UPDATE edit SET label = ?, undo = ?, redo = ? WHERE id = ?",
        (label, json.dumps(undo), json.dumps(redo), last["id"]),
    )


def _latest(ops: list[Op], *, first: bool) -> list[Op]:
    """Of several `set`s of the same columns of the same row keep the first or the last."""
    kept: dict[str, Op] = {}
    for i, op in enumerate(ops):
        same = op["do"] == "set" and json.dumps([op["table"], op["key"], sorted(op["values"])])
        name = same or f"#{i}"
        if not (first and name in kept):
            kept[name] = op
    return list(kept.values())


def undo(connection: sqlite3.Connection, project_id: int, *, seen: object = None) -> str:
    """Take back the last edit; returns its label. Raises Refused when there is none, Stale if the project is not at the
    revision the person had `seen`."""
    return _step(connection, project_id, undone=0, order="DESC", column="undo", word="undo", seen=seen)


def redo(connection: sqlite3.Connection, project_id: int, *, seen: object = None) -> str:
    """Do again the edit taken back last; returns its label. Raises Refused when there is none, Stale as `undo`."""
    return _step(connection, project_id, undone=1, order="ASC", column="redo", word="redo", seen=seen)


def _step(
    connection: sqlite3.Connection, project_id: int, *, undone: int, order: str, column: str, word: str, seen: object
) -> str:
    with atomic(connection):
        at = connection.execute("SELECT revision FROM project WHERE id = ?", (project_id,)).fetchone()
        if seen is not None and at is not None and seen != at["revision"]:
            raise Stale(f"This project was changed elsewhere meanwhile: see what was done before you {word}.")
        row = connection.execute(
            f"SELECT id, label, {column} AS ops FROM edit "
            f"WHERE project_id = ? AND undone = ? ORDER BY id {order} LIMIT 1",
            (project_id, undone),
        ).fetchone()
        if row is None:
            raise Refused(f"There is nothing to {word}.")
        _run(connection, json.loads(row["ops"]))
        connection.execute("UPDATE edit SET undone = ?, gesture = NULL WHERE id = ?", (1 - undone, row["id"]))
        _touch(connection, project_id)
    return str(row["label"])


def steps(connection: sqlite3.Connection, project_id: int) -> Steps:
    """The next undo and redo."""
    found = [
        connection.execute(
            f"SELECT id, label FROM edit WHERE project_id = ? AND undone = ? ORDER BY id {order} LIMIT 1",
            (project_id, undone),
        ).fetchone()
        for undone, order in ((0, "DESC"), (1, "ASC"))
    ]
    return Steps(*(row[name] if row else None for name in ("label", "id") for row in found))


@dataclass(frozen=True)
class Done:
    """One step of the history."""

    id: int
    label: str
    undone: bool
    at: str


def history(connection: sqlite3.Connection, project_id: int, *, most: int = 200) -> list[Done]:
    """The steps of the history, oldest first, at most so many of the newest."""
    found = connection.execute(
        "SELECT id, label, undone, created_at AS at FROM edit WHERE project_id = ? ORDER BY id DESC LIMIT ?",
        (project_id, most),
    ).fetchall()
    return [Done(row["id"], row["label"], bool(row["undone"]), row["at"]) for row in found[::-1]]


def go_to(connection: sqlite3.Connection, project_id: int, edit_id: int) -> str:
    """Undo or redo until a step of the history (0: none) is the last one done, in one transaction; returns its label.

    Raises NotFound for a step that is not in the history.
    """
    with atomic(connection):
        row = connection.execute(
            "SELECT label, undone FROM edit WHERE project_id = ? AND id = ?", (project_id, edit_id)
        ).fetchone()
        if row is None and edit_id != 0:
            raise NotFound("That step is not in the history any more. Open the history again.")
        undone = bool(row and row["undone"])
        way = redo if undone else undo
        beyond = "id <= ? AND undone = 1" if undone else "id > ? AND undone = 0"
        count = connection.execute(
            f"SELECT count(*) AS n FROM edit WHERE project_id = ? AND {beyond}", (project_id, edit_id)
        ).fetchone()["n"]
        for _ in range(count):
            way(connection, project_id)
    return str(row["label"]) if row else "the beginning"


def forget(connection: sqlite3.Connection, project_id: int) -> None:
    """Begin the history anew: what was done so far can't be undone any more."""
    connection.execute("DELETE FROM edit WHERE project_id = ?", (project_id,))


def news(connection: sqlite3.Connection, media_ids: Collection[int]) -> None:
    """What is known of some media has changed, and with it what follows from the projects that use them."""
    marks = ", ".join("?" * len(media_ids))
    found = connection.execute(
        f"SELECT DISTINCT project_id FROM lane JOIN clip ON clip.lane_id = lane.id WHERE clip.media_id IN ({marks})",
        list(media_ids),
    )
    for row in found.fetchall():
        _touch(connection, row["project_id"])


def _touch(connection: sqlite3.Connection, project_id: int) -> int:
    row = connection.execute(
        "UPDATE project SET revision = revision + 1, updated_at = max(updated_at, ?) WHERE id = ? RETURNING revision",
        (now(), project_id),
    ).fetchone()
    if row is None:
        raise NotFound(f"There is no project {project_id}.")
    return int(row["revision"])
