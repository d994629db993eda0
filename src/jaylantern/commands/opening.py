"""A project from elsewhere made one of this place, and media that were missing relinked."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import jaylantern.commands as all_commands
from jaylantern.core.edit.relinking import relink
from jaylantern.core.timeline.imported import Opened, renumbered
from jaylantern.core.timeline.media import Media
from jaylantern.errors import Refused
from jaylantern.store import edits, media, projects
from jaylantern.store.connection import atomic, next_id
from jaylantern.store.difference import difference


@dataclass(frozen=True)
class Here:
    """A medium that is here, and times that may stand for its first sample: where its own timecode begins."""

    media: Media
    origins: Sequence[int] = ()


def untouched(connection: sqlite3.Connection, project_id: int) -> bool:
    """Is the project as it was made, with nothing on it? Raises NotFound."""
    project = projects.load(connection, project_id)
    return not project.lanes and not project.revision


def adopt(connection: sqlite3.Connection, project_id: int, opened: Opened, here: Mapping[int, Here]) -> int:
    """Make an empty project the one that was opened; returns how many clips reach beyond their files.

    `here` are the media that are here, by the numbers of their stand-ins in `opened`; for the others the stand-ins
    stay. It has no history: it is as if it had always been so. Raises Refused for a project that is not empty.
    """
    with atomic(connection):
        if not untouched(connection, project_id):
            raise Refused("A project opens as a project of its own. Drop its file on the shelf.")
        empty = projects.load(connection, project_id)
        new = renumbered(opened, lambda: next_id(connection), project_id=project_id)
        project, short = replace(new.project, name=projects.clean_name(opened.project.name)), 0
        found = {number: here.get(old) for number, old in zip(new.wanted, opened.wanted, strict=True)}
        for number, wanted in new.wanted.items():
            each = found[number]
            if each is not None:
                relinked = relink(project, missing_id=number, found=each.media, origins=each.origins)
                project, short = relinked.project, short + relinked.short
                media.remember(connection, project_id, each.media, name=wanted.name)
            left = [clip.media for _, clip in project.placed() if clip.media.id == number]
            if each is None or left:
                media.insert_missing(connection, number, wanted, length_n=left[0].length_n if left else 1)
                media.remember(connection, project_id, media.get(connection, number), name=wanted.name)
        for called in new.called:
            each = found[called.media_id]
            if each is not None:
                media.remember(connection, project_id, each.media, name=called.name, is_take=called.is_take)
        edits.perform(connection, project_id, "Open", difference(empty, project))
        edits.forget(connection, project_id)
    return short


def relink_media(connection: sqlite3.Connection, project_id: int, missing_id: int, here: Here, *, name: str) -> int:
    """Give the clips of a missing medium the file that was meant; returns how many reach beyond what it holds.

    One step of the history. Raises Refused where nothing is missing under that number any more.
    """
    with atomic(connection):
        project = projects.load(connection, project_id)
        if all(clip.media.id != missing_id or not clip.media.missing for _, clip in project.placed()):
            raise Refused("That file is not missing any more.")
        result = relink(project, missing_id=missing_id, found=here.media, origins=here.origins)
        media.remember(connection, project_id, here.media, name=name)
        all_commands.carry_out(connection, project_id, lambda *_: (f"Relink {name}", result.project))
    return result.short
