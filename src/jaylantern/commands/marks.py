"""Commands on markers and the in and out points."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jaylantern.commands import params
from jaylantern.core.edit import marks
from jaylantern.core.edit.draft import NewId
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


def _add_marker(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    time_n = params.time_n(values)
    name = params.line(values.get("name"), otherwise=f"Marker {len(project.markers) + 1}")
    return f"Marker {name} at {clock(time_n, decimals=2)}", marks.add(project, new_id, time_n=time_n, name=name)


def _set_marker(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    marker = marks.marker_of(project, values.get("marker_id"))
    changed: dict[str, Any] = {}
    label = ""
    if "name" in values:
        changed["name"] = params.line(values["name"], otherwise=marker.name)
        label = f"Rename marker {marker.name} to {changed['name']}"
    if "at_n" in values:
        changed["time_n"] = params.time_n(values)
        label = f"Move marker {marker.name} to {clock(changed['time_n'], decimals=2)}"
    if not changed:
        raise InvalidValue("Say what to change of the marker.")
    return label, marks.change(project, marker_id=marker.id, **changed)


def _remove_marker(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    marker = marks.marker_of(project, values.get("marker_id"))
    return f"Remove marker {marker.name}", marks.remove(project, marker_id=marker.id)


def _set_in(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    time_n = params.time_n(values) if values.get("at_n") is not None else None
    label = "Clear the in point" if time_n is None else f"In point at {clock(time_n, decimals=2)}"
    return label, marks.set_in(project, time_n)


def _set_out(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    time_n = params.time_n(values) if values.get("at_n") is not None else None
    if time_n == 0:
        raise InvalidValue("The out point can't lie at the very start.")
    label = "Clear the out point" if time_n is None else f"Out point at {clock(time_n, decimals=2)}"
    return label, marks.set_out(project, time_n)


def _clear_range(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    return "Clear the in and out points", marks.set_in(marks.set_out(project, None), None)


COMMANDS = {
    "add_marker": _add_marker,
    "set_marker": _set_marker,
    "remove_marker": _remove_marker,
    "set_in": _set_in,
    "set_out": _set_out,
    "clear_range": _clear_range,
}
