"""What a person can do to a project: by name and with values from outside, each an edit of the core with its words."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeAlias

from jaylantern.commands import clipboard, clips, ducking, lanes, marks, params, sound
from jaylantern.core.edit import landing, moving
from jaylantern.core.edit.draft import LARGEST_N, NewId
from jaylantern.core.edit.landing import Landed, Landing
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, OPTION
from jaylantern.errors import InvalidValue, Stale
from jaylantern.store import edits, media, projects, takes
from jaylantern.store.connection import atomic, next_id
from jaylantern.store.difference import difference

__all__ = ["COMMANDS", "LARGEST_N", "carry_out", "do", "lay_take", "place_media"]

MOST_NAMED = 4  # settings that are named in the history one by one
Command: TypeAlias = Callable[[Project, Mapping[str, Any], NewId], tuple[str, Project]]


def carry_out(
    connection: sqlite3.Connection,
    project_id: int,
    edit: Callable[[Project, NewId], tuple[str, Project]],
    *,
    gesture: str | None = None,
    seen: object = None,
) -> int:
    """Do an edit, which answers its words and the project after it; returns the new revision.

    `seen` is the revision the person was looking at. Raises Stale if the project has moved on since.
    """
    with atomic(connection):
        project = projects.load(connection, project_id)
        if seen is not None and seen != project.revision:
            raise Stale("This project was changed elsewhere meanwhile. Look at it as it is now, then do it again.")
        label, after = edit(project, lambda: next_id(connection))
        ops = difference(project, after)
        if not ops:
            return project.revision
        revision = edits.perform(connection, project_id, label, ops, gesture=gesture)
    if not connection.in_transaction:
        projects.keep(connection, replace(after, revision=revision))
    return revision


def do(connection: sqlite3.Connection, project_id: int, kind: str, values: Mapping[str, Any]) -> int:
    """Carry out a command by name with values from outside, checked; returns the new revision."""
    if kind not in COMMANDS:
        raise InvalidValue(f"There is no command called {kind[:40]!r}.")
    gesture = values.get("gesture")
    if kind == "paste_clips":
        values = {**values, "copied": clipboard.read(connection, values.get("copied"))}
    return carry_out(
        connection,
        project_id,
        lambda project, new_id: COMMANDS[kind](project, values, new_id),
        gesture=str(gesture)[:60] if gesture else None,
        seen=values.get("seen"),
    )


def place_media(
    connection: sqlite3.Connection,
    project_id: int,
    found: Media,
    *,
    name: str,
    at_n: int,
    lane_id: int | None = None,
    how: Landing = Landing.OWN,
    lane_ids: Sequence[int] = (),
    seen: object = None,
) -> Landed:
    """Put a medium on the timeline and among the project's media; answers where it came to lie.

    It goes onto lanes of its own, or (`lane_ids`) after what is there on these; inserted or laid over on the lane that
    is named, or on the first that fit.
    """
    landed = Landed((), at_n)

    def edit(project: Project, new_id: NewId) -> tuple[str, Project]:
        nonlocal landed
        there = tuple(lane_ids) or (landing.lanes_for(project, found, lane_id) if how is not Landing.OWN else ())
        if how is Landing.OWN and lane_id is not None:
            return f"Bring in {name}", moving.place_on(
                project, new_id, media=found, name=name, at_n=at_n, lane_id=lane_id
            )
        after, landed = landing.land(project, new_id, media=found, name=name, at_n=at_n, how=how, lane_ids=there)
        word = {Landing.INSERT: "Insert", Landing.OVERWRITE: "Lay over"}.get(how, "Bring in")
        return f"{word} {name}", after

    with atomic(connection):
        media.remember(connection, project_id, found, name=name)
        carry_out(connection, project_id, edit, seen=seen)
    return landed


def lay_take(
    connection: sqlite3.Connection,
    project_id: int,
    found: Media,
    *,
    name: str,
    at_n: int,
    offset_n: int,
    lane_id: int | None,
    token: str | None = None,
) -> int:
    """Put a voice take where it was spoken, and among the project's media; returns the new revision.

    Without a lane, or with one that has gone meanwhile, it goes onto a lane of its own. The take of this `token` is in
    hand again when that is undone.
    """

    def edit(project: Project, new_id: NewId) -> tuple[str, Project]:
        there = any(lane.id == lane_id for lane in project.lanes)
        after = moving.lay_take(
            project, new_id, media=found, name=name, at_n=at_n, offset_n=offset_n, lane_id=lane_id if there else None
        )
        return f"Keep {name}", after

    with atomic(connection):
        media.remember(connection, project_id, found, name=name, is_take=True)
        revision = carry_out(connection, project_id, edit)
        done = edits.steps(connection, project_id).undo_id
        if token is not None and done is not None:
            takes.laid(connection, token, media_id=found.id, edit_id=done)
        return revision


def _set_settings(project: Project, values: Mapping[str, Any], _: NewId) -> tuple[str, Project]:
    wanted = values.get("settings")
    if not isinstance(wanted, Mapping) or not wanted:
        raise InvalidValue("Say which settings to change.")
    after = project.settings.changed({str(name): value for name, value in wanted.items()})
    words = [said_setting(name, getattr(after, name)) for name in wanted]
    label = ", ".join(words) if len(words) < MOST_NAMED else f"{len(words)} settings"
    name = params.line(values.get("as"))
    return f"Preset {name}" if name else label, lanes.changed(project, settings=after)


def said_setting(name: str, value: Any) -> str:
    """A setting with its value, in words."""
    if name in OPTION:
        return f"{OPTION[name].label}: {OPTION[name].words[value]}"
    return f"{KNOB[name].label} {value:g} {KNOB[name].unit}".strip()


def _rename_project(project: Project, values: Mapping[str, Any], _: NewId) -> tuple[str, Project]:
    name = projects.clean_name(str(values.get("name", "")))
    return f"Rename project to {name}", lanes.changed(project, name=name)


COMMANDS: dict[str, Command] = {
    **clips.COMMANDS,
    **sound.COMMANDS,
    **lanes.COMMANDS,
    **marks.COMMANDS,
    **ducking.COMMANDS,
    "set_settings": _set_settings,
    "rename_project": _rename_project,
}
