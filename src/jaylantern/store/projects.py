"""Projects: creating, listing, and loading one as core's model."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import columns_of, of_row
from jaylantern.core.timeline.held_draft import HeldDraft
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, PointPin, SpeechPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED, Settings
from jaylantern.core.timeline.tag import USUAL_PERCHES
from jaylantern.errors import InvalidValue, NotFound, Refused
from jaylantern.store import rows
from jaylantern.store.connection import atomic, next_id, now


@dataclass(frozen=True)
class Card:
    """A project on the shelf."""

    id: int
    name: str
    updated_at: str


OF_PROJECT: dict[str, tuple[str, type[Any], str]] = {  # fields of a project: their table, what is in it, in which order
    "markers": ("marker", Marker, "time_n, id"),
    "captions": ("captions", Captions, "id"),
    "pairs": ("pair", Pair, "upper, lower"),
    "speech_pins": ("speech_pin", SpeechPin, "id"),
    "dip_pins": ("dip_pin", DipPin, "id"),
    "point_pins": ("point_pin", PointPin, "id"),
}
SET_DEFAULT = "INSERT OR IGNORE INTO setting (project_id, name, value) VALUES (?, ?, ?)"


def clean_name(name: str) -> str:
    """A name fit to be kept. Raises InvalidValue for an empty one."""
    tidy = " ".join(name.split())[:200]
    if not tidy:
        raise InvalidValue("Give the project a name.")
    return tidy


def create(connection: sqlite3.Connection, name: str) -> int:
    """Make an empty project and return its number."""
    with atomic(connection):
        number = next_id(connection)
        connection.execute(
            "INSERT INTO project (id, name, created_at, updated_at) VALUES (?, ?, ?, ?)",
            (number, clean_name(name), now(), now()),
        )
        connection.executemany(SET_DEFAULT, [(number, each.name, each.default) for each in NAMED.values()])
        connection.executemany(
            "INSERT INTO perch (project_id, name, position) VALUES (?, ?, ?)",
            [(number, perch, float(i)) for i, perch in enumerate(USUAL_PERCHES)],
        )
    return number


def complete(connection: sqlite3.Connection) -> None:
    """Give projects of an older version the settings that have come since."""
    with atomic(connection):
        for row in connection.execute("SELECT id FROM project").fetchall():
            connection.executemany(SET_DEFAULT, [(row["id"], each.name, each.default) for each in NAMED.values()])


def cards(connection: sqlite3.Connection, *, removed: bool = False) -> list[Card]:
    """The projects on the shelf, the one worked on last first; or those taken off it."""
    found = connection.execute(
        "SELECT id, name, updated_at FROM project WHERE (removed_at IS NOT NULL) = ? ORDER BY updated_at DESC, id DESC",
        (removed,),
    )
    return [Card(**row) for row in found]


def set_removed(connection: sqlite3.Connection, project_id: int, removed: bool) -> None:
    """Take a project off the shelf, or put it back. Nothing of it is lost either way. Raises NotFound."""
    card(connection, project_id)
    connection.execute("UPDATE project SET removed_at = ? WHERE id = ?", (now() if removed else None, project_id))


def discard(connection: sqlite3.Connection, project_id: int) -> None:
    """Forget a project that nothing was ever put into, or that a file could not be opened as. Raises NotFound, Refused
    for any other."""
    with atomic(connection):
        if (
            revision(connection, project_id)
            or connection.execute(
                "SELECT EXISTS (SELECT 1 FROM project_media WHERE project_id = ?1) OR EXISTS (SELECT 1 FROM job WHERE"
                " project_id = ?1 AND state NOT IN ('failed', 'stopped')) OR EXISTS (SELECT 1 FROM upload WHERE"
                " project_id = ?1) AS used",
                (project_id,),
            ).fetchone()["used"]
        ):
            raise Refused("There is something in this project. Take it off the shelf instead.")
        connection.execute("DELETE FROM project WHERE id = ?", (project_id,))


def card(connection: sqlite3.Connection, project_id: int) -> Card:
    """One project's name and time of last change. Raises NotFound."""
    row = connection.execute("SELECT id, name, updated_at FROM project WHERE id = ?", (project_id,)).fetchone()
    if row is None:
        raise NotFound(f"There is no project {project_id}. It may have been removed; the shelf shows what there is.")
    return Card(**row)


def revision(connection: sqlite3.Connection, project_id: int) -> int:
    """A number that grows with every change of the project. Raises NotFound."""
    row = connection.execute("SELECT revision FROM project WHERE id = ?", (project_id,)).fetchone()
    if row is None:
        card(connection, project_id)
    return int(row["revision"])


def load(connection: sqlite3.Connection, project_id: int) -> Project:
    """The project as core's model, lanes in order, read in one transaction. Raises NotFound.

    What the connection's memo has of this revision is not read again: the same revision is the same project.
    """
    memo = getattr(connection, "memo", None)
    read_before: Project | None = memo and memo.peek(("project", project_id, revision(connection, project_id)))
    if read_before is not None:
        return read_before
    if connection.in_transaction:
        return read(connection, project_id)  # what is not committed may be taken back, and is not remembered
    connection.execute("BEGIN")
    try:
        project = read(connection, project_id)
    finally:
        connection.execute("COMMIT")
    keep(connection, project)
    return project


def keep(connection: sqlite3.Connection, project: Project) -> None:
    """Have the connection's memo keep a project whose revision is committed."""
    memo = getattr(connection, "memo", None)
    if memo is not None:
        memo.keep(("project", project.id, project.revision), project)


def read(connection: sqlite3.Connection, project_id: int) -> Project:
    """The project as its rows say. Raises NotFound; Refused where a row holds what this version does not know."""
    try:
        return _read(connection, project_id)
    except NotFound:
        raise
    except (ValueError, LookupError, TypeError) as error:
        raise Refused(
            f"Project {project_id} can't be read: {str(error)[:120]}. A newer version may have changed it, or the"
            " database is damaged; a backup can be restored. Nothing was changed."
        ) from error


def _read(connection: sqlite3.Connection, project_id: int) -> Project:
    row = connection.execute(
        "SELECT id, name, revision, in_n, out_n FROM project WHERE id = ?", (project_id,)
    ).fetchone()
    if row is None:
        card(connection, project_id)
    found = connection.execute("SELECT name, value FROM setting WHERE project_id = ?", (project_id,))
    settings = Settings().changed({each["name"]: each["value"] for each in found if each["name"] in NAMED})
    clips = _clips(connection, project_id)
    lanes = tuple(
        of_row(Lane, each, given={"clips": tuple(clips.get(each["id"], ()))})
        for each in _rows(connection, "lane", project_id, order="position, id")
    )
    own: dict[str, Any] = {
        name: tuple(of_row(kind, each) for each in _rows(connection, table, project_id, order=order))
        for name, (table, kind, order) in OF_PROJECT.items()
    }
    drafts = _rows(connection, "draft", project_id, order="project_id")
    perches = tuple(each["name"] for each in _rows(connection, "perch", project_id, order="position, name"))
    return Project(
        row["id"],
        row["name"],
        row["revision"],
        lanes,
        settings,
        in_n=row["in_n"],
        out_n=row["out_n"],
        perches=perches,
        held=HeldDraft.of_text(drafts[0]["body"]) if drafts else None,
        **own,
    )


def _rows(connection: sqlite3.Connection, table: str, project_id: int, *, order: str) -> list[sqlite3.Row]:
    """The rows of a table that belong to a project."""
    sql = f"SELECT {', '.join(rows.COLUMNS[table])} FROM {table} WHERE project_id = ? ORDER BY {order}"
    return connection.execute(sql, (project_id,)).fetchall()


def _clips(connection: sqlite3.Connection, project_id: int) -> dict[int, list[Clip]]:
    """Clips by lane number, in order of time."""
    ours = ", ".join(f"c.{name}" for name in rows.COLUMNS["clip"])
    theirs = ", ".join(f"m.{name} AS media__{name}" for name in columns_of(Media))
    found = connection.execute(
        f"SELECT {ours}, {theirs} FROM clip c JOIN lane l ON l.id = c.lane_id JOIN media m ON m.id = c.media_id"
        " WHERE l.project_id = ? ORDER BY c.start_n, c.id",
        (project_id,),
    )
    clips: dict[int, list[Clip]] = {}
    known: dict[int, Media] = {}
    for row in found:
        number = row["media_id"]
        if number not in known:
            known[number] = of_row(Media, {name: row[f"media__{name}"] for name in columns_of(Media)})
        clips.setdefault(row["lane_id"], []).append(of_row(Clip, row, given={"media": known[number]}))
    return clips
