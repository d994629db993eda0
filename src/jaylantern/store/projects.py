"""Projects: creating, listing, and loading one as core's model."""

from __future__ import annotations

import sqlite3
import threading
from dataclasses import dataclass

from jaylantern.core.timeline.clip import Channels, Clip, Trigger
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import USUAL_PERCHES
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound, Refused
from jaylantern.store import pins
from jaylantern.store.connection import atomic, next_id, now


@dataclass(frozen=True)
class Card:
    """A project on the shelf."""

    id: int
    name: str
    updated_at: str


MOST_KEPT = 16
SET_DEFAULT = "INSERT OR IGNORE INTO setting (project_id, name, value) VALUES (?, ?, ?)"
_kept: dict[tuple[str, int, int], Project] = {}
_keeping = threading.Lock()


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
    """Forget a project that nothing was ever put into. Raises NotFound, Refused for any other."""
    with atomic(connection):
        if (
            revision(connection, project_id)
            or connection.execute(
                "SELECT EXISTS (SELECT 1 FROM project_media WHERE project_id = ?1) OR EXISTS (SELECT 1 FROM job WHERE"
                " project_id = ?1) OR EXISTS (SELECT 1 FROM upload WHERE project_id = ?1) AS used",
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

    Projects loaded or kept lately are remembered by revision: the same revision is the same project.
    """
    known = _kept.get(_key(connection, project_id, revision(connection, project_id)))
    if known is not None:
        return known
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
    """Remember a project whose revision is committed."""
    with _keeping:
        _kept[_key(connection, project.id, project.revision)] = project
        while len(_kept) > MOST_KEPT:
            del _kept[next(iter(_kept))]


def _key(connection: sqlite3.Connection, project_id: int, at_revision: int) -> tuple[str, int, int]:
    file = connection.execute("PRAGMA database_list").fetchone()["file"]
    return file, project_id, at_revision


def read(connection: sqlite3.Connection, project_id: int) -> Project:
    """The project as its rows say. Raises NotFound."""
    row = connection.execute(
        "SELECT id, name, revision, in_n, out_n FROM project WHERE id = ?", (project_id,)
    ).fetchone()
    if row is None:
        card(connection, project_id)
    settings = connection.execute("SELECT name, value FROM setting WHERE project_id = ?", (project_id,))
    known = {each["name"]: each["value"] for each in settings if each["name"] in NAMED}
    clips = _clips(connection, project_id)
    lanes = connection.execute(
        "SELECT id, name, kind, tag, gain_db, muted, soloed, bystander, trigger, level_db, frozen FROM lane"
        " WHERE project_id = ? ORDER BY position, id",
        (project_id,),
    )
    return Project(
        row["id"],
        row["name"],
        row["revision"],
        tuple(
            Lane(
                each["id"],
                each["name"],
                LaneKind(each["kind"]),
                Tag(each["tag"]),
                each["gain_db"],
                bool(each["muted"]),
                bool(each["soloed"]),
                bool(each["bystander"]),
                tuple(clips.get(each["id"], ())),
                Trigger(each["trigger"]),
                each["level_db"],
                bool(each["frozen"]),
            )
            for each in lanes
        ),
        Settings().changed(known),
        _markers(connection, project_id),
        row["in_n"],
        row["out_n"],
        **pins.read(connection, project_id),
    )


def _markers(connection: sqlite3.Connection, project_id: int) -> tuple[Marker, ...]:
    found = connection.execute(
        "SELECT id, time_n, name FROM marker WHERE project_id = ? ORDER BY time_n, id", (project_id,)
    )
    return tuple(Marker(**row) for row in found)


def _clips(connection: sqlite3.Connection, project_id: int) -> dict[int, list[Clip]]:
    """Clips by lane number, in order of time."""
    found = connection.execute(
        "SELECT c.id, c.lane_id, c.name, c.start_n, c.offset_n, c.length_n, c.tag, c.gain_db, c.muted, c.link,"
        " c.channels, c.fade_in_n, c.fade_in_shape, c.fade_out_n, c.fade_out_shape, c.bystander,"
        " c.trigger, c.level_db, c.root,"
        " m.id AS media_id, m.sha256, m.name AS media_name, m.length_n AS media_n, m.has_sound, m.has_picture,"
        " m.missing"
        " FROM clip c JOIN lane l ON l.id = c.lane_id JOIN media m ON m.id = c.media_id"
        " WHERE l.project_id = ? ORDER BY c.start_n, c.id",
        (project_id,),
    )
    clips: dict[int, list[Clip]] = {}
    known: dict[int, Media] = {}
    for row in found:
        number = row["media_id"]
        if number not in known:
            known[number] = Media(
                number,
                row["sha256"],
                row["media_name"],
                row["media_n"],
                bool(row["has_sound"]),
                bool(row["has_picture"]),
                bool(row["missing"]),
            )
        clips.setdefault(row["lane_id"], []).append(
            Clip(
                row["id"],
                row["name"],
                known[number],
                row["start_n"],
                row["offset_n"],
                row["length_n"],
                Tag(row["tag"]) if row["tag"] else None,
                row["gain_db"],
                bool(row["muted"]),
                row["link"],
                Channels(row["channels"]),
                Fade(row["fade_in_n"], Shape(row["fade_in_shape"])),
                Fade(row["fade_out_n"], Shape(row["fade_out_shape"])),
                bool(row["bystander"]),
                Trigger(row["trigger"]) if row["trigger"] else None,
                row["level_db"],
                row["root"],
            )
        )
    return clips
