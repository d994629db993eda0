"""Commands on markers and the in and out points."""

from __future__ import annotations

from typing import Any

from jaylantern.commands.command import Command, NewId, maybe
from jaylantern.core.edit import marks
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline.kinds import ID, TIME, Line, Maybe
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


def _add_marker(project: Project, new_id: NewId, *, at_n: int, name: str) -> Answer:
    called = f"Marker {name or len(project.markers) + 1}"
    after = marks.add(project, new_id, time_n=at_n, name=name or called)
    return f"{called} at {clock(at_n, decimals=2)}", after


def _set_marker(
    project: Project, new_id: NewId, *, marker_id: int, name: str | None = None, at_n: int | None = None
) -> Answer:
    marker = marks.marker_of(project, marker_id)
    if at_n is None and name is None:
        raise InvalidValue("Say what to change of the marker: its name, or where it stands (at_n).")
    changed: dict[str, Any] = {}
    if name is not None:
        changed["name"] = name or marker.name
        label = f"Rename marker {marker.name} to {changed['name']}"
    if at_n is not None:
        changed["time_n"] = at_n
        label = f"Move marker {marker.name} to {clock(at_n, decimals=2)}"
    return label, marks.change(project, marker_id=marker.id, **changed)


def _remove_marker(project: Project, new_id: NewId, *, marker_id: int) -> Answer:
    marker = marks.marker_of(project, marker_id)
    return f"Remove marker {marker.name}", marks.remove(project, marker_id=marker.id)


def _set_in(project: Project, new_id: NewId, *, at_n: int | None) -> Answer:
    label = "Clear the in point" if at_n is None else f"In point at {clock(at_n, decimals=2)}"
    return label, marks.set_in(project, at_n)


def _set_out(project: Project, new_id: NewId, *, at_n: int | None) -> Answer:
    if at_n == 0:
        raise InvalidValue("The out point can't lie at the very start.")
    label = "Clear the out point" if at_n is None else f"Out point at {clock(at_n, decimals=2)}"
    return label, marks.set_out(project, at_n)


def _clear_range(project: Project, new_id: NewId) -> Answer:
    return "Clear the in and out points", marks.set_in(marks.set_out(project, None), None)


COMMANDS = (
    Command("add_marker", _add_marker, at_n=TIME, name=maybe(Line(80), "")),
    Command("set_marker", _set_marker, marker_id=ID, name=maybe(Line(80)), at_n=maybe(TIME)),
    Command("remove_marker", _remove_marker, marker_id=ID),
    Command("set_in", _set_in, at_n=maybe(Maybe(TIME), None)),
    Command("set_out", _set_out, at_n=maybe(Maybe(TIME), None)),
    Command("clear_range", _clear_range),
)
