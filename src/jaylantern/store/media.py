"""Media rows: one per content hash."""

from __future__ import annotations

import hashlib
import re
import sqlite3
from dataclasses import dataclass

from jaylantern.core.timeline.described import columns_of, of_row, row
from jaylantern.core.timeline.imported import MissingMedia
from jaylantern.core.timeline.kinds import Maybe
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tailoring import Tailoring, TailoringKind
from jaylantern.errors import NotFound
from jaylantern.store import ours
from jaylantern.store.connection import atomic, next_id, now

COLUMNS = ", ".join(columns_of(Media))


def media_from(row: sqlite3.Row) -> Media:
    """Core's Media from a row with the columns of this file."""
    return of_row(Media, row)


def find(connection: sqlite3.Connection, sha256: str) -> Media | None:
    """The medium with this content, if it was brought in before."""
    row = connection.execute(f"SELECT {COLUMNS} FROM media WHERE sha256 = ?", (sha256,)).fetchone()
    return media_from(row) if row else None


def hashes(connection: sqlite3.Connection) -> set[str]:
    """The content hashes of all media."""
    return {row["sha256"] for row in connection.execute("SELECT sha256 FROM media")}


def everything(connection: sqlite3.Connection) -> list[Media]:
    """All media, in the order they came."""
    return [media_from(row) for row in connection.execute(f"SELECT {COLUMNS} FROM media ORDER BY id")]


IN_USE = (
    "SELECT media_id FROM clip UNION SELECT media_id FROM speech_pin UNION SELECT media_id FROM dip_pin"
    " UNION SELECT media_id FROM take WHERE media_id IS NOT NULL"
)
SPOKEN_OF = (  # texts in which numbers of media stand: what a step of a history can bring back counts as used
    "SELECT undo FROM edit UNION ALL SELECT redo FROM edit UNION ALL SELECT body FROM draft"
    " UNION ALL SELECT payload FROM job WHERE state IN ('queued', 'running')"
    " UNION ALL SELECT body FROM asked_state"
)
_NUMBER = re.compile(r"media_ids?\W+(\d+(?:\W+\d+)*)")


def unused(connection: sqlite3.Connection) -> list[Media]:
    """Media that no clip, no correction, no take and no step of a history speaks of, nor what is tailored from them."""
    used = {row[0] for row in connection.execute(IN_USE)}
    for (text,) in connection.execute(SPOKEN_OF):
        used |= {int(number) for group in _NUMBER.findall(text) for number in re.findall(r"\d+", group)}
    found = everything(connection)
    sources = {each.tailored.source for each in found if each.id in used and each.tailored is not None}
    return [each for each in found if each.id not in used and each.sha256 not in sources and not each.missing]


def remove(connection: sqlite3.Connection, media_id: int) -> None:
    """Forget a medium that is not used, in every project that remembers it; the ledger has its folder from now on."""
    with atomic(connection):
        for table in ("project_media", "suggestion_ignored"):
            connection.execute(f"DELETE FROM {table} WHERE media_id = ?", (media_id,))
        sha256 = get(connection, media_id).sha256
        ours.begin(connection, ours.of_media(sha256))
        connection.execute("DELETE FROM media WHERE id = ?", (media_id,))


def recording(connection: sqlite3.Connection, media: Media) -> Media | None:
    """The recording of tailored music, itself for any other; None where the recording is not here."""
    return media if media.tailored is None else find(connection, media.tailored.source)


def played_in(connection: sqlite3.Connection, project_id: int, media_id: int) -> bool:
    """Does a clip of a project play a medium, or music that is tailored from it?"""
    sql = (
        "SELECT 1 FROM clip c JOIN lane l ON l.id = c.lane_id JOIN media m ON m.id = c.media_id WHERE l.project_id = ?1"
        " AND (m.id = ?2 OR json_extract(m.tailored, '$.source') = (SELECT sha256 FROM media WHERE id = ?2)) LIMIT 1"
    )
    return connection.execute(sql, (project_id, media_id)).fetchone() is not None


def made_of(connection: sqlite3.Connection, sha256: str) -> list[int]:
    """Numbers of the tailored music that is made of a recording."""
    found = connection.execute("SELECT id FROM media WHERE json_extract(tailored, '$.source') = ?", (sha256,))
    return [each["id"] for each in found]


def get(connection: sqlite3.Connection, media_id: int) -> Media:
    """A medium by number. Raises NotFound."""
    row = connection.execute(f"SELECT {COLUMNS} FROM media WHERE id = ?", (media_id,)).fetchone()
    if row is None:
        raise NotFound(f"There is no media {media_id}.")
    return media_from(row)


def insert(
    connection: sqlite3.Connection,
    *,
    sha256: str,
    name: str,
    size_bytes: int,
    length_n: int,
    has_sound: bool,
    has_picture: bool,
    tailored: Tailoring | None = None,
) -> Media:
    """Record a medium whose folder is complete."""
    media = Media(next_id(connection), sha256, name, length_n, has_sound, has_picture, tailored=tailored)
    columns = {**row(media), "size_bytes": size_bytes, "created_at": now()}
    with atomic(connection):
        connection.execute(
            f"INSERT INTO media ({', '.join(columns)}) VALUES ({', '.join('?' * len(columns))})", list(columns.values())
        )
        ours.settle(connection, ours.of_media(sha256))
    return media


def insert_missing(connection: sqlite3.Connection, number: int, wanted: MissingMedia, *, length_n: int) -> None:
    """Record a stand-in for a file that is not here, under a number given out before."""
    nothing = hashlib.sha256(f"missing {number}".encode()).hexdigest()
    connection.execute(
        "INSERT INTO media (id, sha256, name, size_bytes, length_n, has_sound, has_picture, created_at, missing,"
        " wanted_sha256, wanted_url, tailored) VALUES (?, ?, ?, 0, ?, 0, 0, ?, 1, ?, ?, ?)",
        (
            number,
            nothing,
            wanted.name,
            length_n,
            now(),
            wanted.sha256,
            wanted.url,
            wanted.tailored and wanted.tailored.text,
        ),
    )


def lose(connection: sqlite3.Connection, media_id: int) -> None:
    """Something of a medium has gone from the data folder: it is missing, and what is wanted is just its content."""
    connection.execute(
        "UPDATE media SET missing = 1, has_sound = 0, has_picture = 0, wanted_sha256 = sha256 WHERE id = ?"
        " AND missing = 0",
        (media_id,),
    )


def is_lost(connection: sqlite3.Connection, media_id: int) -> bool:
    """Is a medium missing that was here before?"""
    row = connection.execute("SELECT missing AND wanted_sha256 = sha256 AS lost FROM media WHERE id = ?", (media_id,))
    found = row.fetchone()
    return bool(found and found["lost"])


def here_again(
    connection: sqlite3.Connection, media_id: int, length_n: int, *, has_sound: bool, has_picture: bool
) -> None:
    """A medium that was lost is here again."""
    connection.execute(
        "UPDATE media SET missing = 0, wanted_sha256 = '', length_n = ?, has_sound = ?, has_picture = ? WHERE id = ?",
        (length_n, has_sound, has_picture, media_id),
    )


def project_with(connection: sqlite3.Connection, media_id: int) -> int | None:
    """A project that uses a medium, or remembers it, or what is tailored from it; None where none does."""
    row = connection.execute(
        "SELECT l.project_id AS id FROM clip c JOIN lane l ON l.id = c.lane_id JOIN media ON media.id = c.media_id"
        " WHERE ?1 = media.id OR json_extract(tailored, '$.source') = (SELECT sha256 FROM media WHERE id = ?1)"
        " UNION ALL SELECT project_id FROM project_media WHERE media_id = ?1 LIMIT 1",
        (media_id,),
    ).fetchone()
    return None if row is None else int(row["id"])


def wanted_in(connection: sqlite3.Connection, project_id: int, *, tailored: bool = False) -> dict[int, MissingMedia]:
    """What files are missing of a project's clips, by number of the stand-in, in the order of the timeline: those that
    clips play, and the recordings of tailored music; or what `tailored` music is, because its recording is."""
    which = "m.tailored IS NOT NULL" if tailored else "m.tailored IS NULL"
    found = connection.execute(
        f"""
        SELECT m.id, m.name, m.wanted_sha256, m.wanted_url, m.tailored, min(c.start_n) AS first_n FROM clip c
        JOIN lane l ON l.id = c.lane_id JOIN media played ON played.id = c.media_id
        JOIN media m ON m.id = played.id
            OR (m.wanted_sha256 != '' AND m.wanted_sha256 = json_extract(played.tailored, '$.source')
                AND (m.wanted_sha256 = m.sha256 OR m.id IN (SELECT media_id FROM project_media WHERE project_id = ?1)))
        WHERE l.project_id = ?1 AND m.missing = 1 AND {which}
        GROUP BY m.id ORDER BY first_n, m.id
        """,
        (project_id,),
    )
    kind = Maybe(TailoringKind())
    return {
        each["id"]: MissingMedia(
            each["name"], each["wanted_sha256"], each["wanted_url"], tailored=kind.restored(each["tailored"])
        )
        for each in found
    }


def called_like(connection: sqlite3.Connection, name: str) -> list[Media]:
    """The media that were brought in under a name, in this project or another."""
    found = connection.execute(
        f"SELECT {COLUMNS} FROM media WHERE missing = 0 AND (name = ?1 COLLATE NOCASE OR id IN"
        " (SELECT media_id FROM project_media WHERE name = ?1 COLLATE NOCASE)) ORDER BY id",
        (name,),
    )
    return [media_from(row) for row in found]


def remember(
    connection: sqlite3.Connection, project_id: int, found: Media, *, name: str, is_take: bool = False
) -> None:
    """Put a medium among a project's media, where it stays whatever becomes of its clips."""
    connection.execute(
        "INSERT INTO project_media (project_id, media_id, name, is_take, added_at) VALUES (?, ?, ?, ?, ?)"
        " ON CONFLICT DO NOTHING",
        (project_id, found.id, name, int(is_take), now()),
    )


def forget(connection: sqlite3.Connection, project_id: int, media_id: int) -> None:
    """Take a medium out of a project's media; where a clip shows it, it stays on the timeline."""
    connection.execute("DELETE FROM project_media WHERE project_id = ? AND media_id = ?", (project_id, media_id))


@dataclass(frozen=True)
class Brought:
    """A medium as it was brought into a project."""

    media: Media
    name: str
    is_take: bool
    added_at: str


def of_project(connection: sqlite3.Connection, project_id: int) -> list[Brought]:
    """The media of a project in the order they were brought in."""
    found = connection.execute(
        f"SELECT {', '.join(f'm.{name}' for name in columns_of(Media))}, p.name AS called,"
        " p.is_take, p.added_at FROM project_media p JOIN media m ON m.id = p.media_id WHERE p.project_id = ?"
        " ORDER BY p.added_at, m.id",
        (project_id,),
    )
    return [Brought(media_from(row), row["called"], bool(row["is_take"]), row["added_at"]) for row in found]
