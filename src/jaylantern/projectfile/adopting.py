"""A project from elsewhere made one of this place, and media that were missing relinked."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from jaylantern import commands
from jaylantern.core.edit.relinking import relink
from jaylantern.core.timeline.imported import ImportedProject, renumbered
from jaylantern.core.timeline.media import Media
from jaylantern.errors import Refused
from jaylantern.store import media, projects
from jaylantern.store.connection import atomic, next_id

NOT_EMPTY = "A project opens as a project of its own. Drop its file on the shelf."


@dataclass(frozen=True)
class Here:
    """A medium that is here, and times that may stand for its first sample: where its own timecode begins."""

    media: Media
    origins: Sequence[int] = ()


def untouched(connection: sqlite3.Connection, project_id: int) -> bool:
    """Is the project as it was made, with nothing on it? Raises NotFound."""
    project = projects.load(connection, project_id)
    return not project.lanes and not project.revision


def adopt(connection: sqlite3.Connection, project_id: int, imported: ImportedProject, here: Mapping[int, Here]) -> int:
    """Make an empty project the one that was opened; returns how many clips reach beyond their files.

    `here` are the media that are here, by the numbers of their stand-ins in `imported`; for the others the stand-ins
    stay. It has no history: it is as if it had always been so. Raises Refused for a project that is not empty.
    """
    with atomic(connection):
        if not untouched(connection, project_id):
            raise Refused(NOT_EMPTY)
        new = renumbered(imported, lambda: next_id(connection), project_id=project_id)
        project, short = replace(new.project, name=projects.clean_name(imported.project.name)), 0
        found = {number: here.get(old) for number, old in zip(new.missing, imported.missing, strict=True)}
        for number, missing in new.missing.items():
            each = found[number]
            if each is not None:
                relinked = relink(project, missing_id=number, found=each.media, origins=each.origins)
                project, short = relinked.project, short + relinked.short
                if each.media.tailored is None:
                    media.remember(connection, project_id, each.media, name=missing.name)
            left = [clip.media for _, clip in project.placed() if clip.media.id == number]
            if each is None or left:
                media.insert_missing(connection, number, missing, length_n=left[0].length_n if left else 1)
                if missing.tailored is None:
                    media.remember(connection, project_id, media.get(connection, number), name=missing.name)
        for alias in new.aliases:
            each = found[alias.media_id]
            if each is not None:
                media.remember(connection, project_id, each.media, name=alias.name, is_take=alias.is_take)
        commands.do(connection, project_id, "open", {"opened": project})
    return short


def relink_media(connection: sqlite3.Connection, project_id: int, missing_id: int, here: Here, *, name: str) -> int:
    """Give the clips of a missing medium the file that was meant; returns how many reach beyond what it holds.

    One step of the history. Raises Refused where nothing is missing under that number any more.
    """
    values = {"missing_id": missing_id, "media_id": here.media.id, "origins": list(here.origins), "name": name}
    with atomic(connection):
        media.remember(connection, project_id, here.media, name=name)
        before = commands.carry_out(connection, project_id, "relink", values).before
    return relink(before, missing_id=missing_id, found=here.media, origins=here.origins).short
