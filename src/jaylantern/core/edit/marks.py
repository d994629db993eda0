"""Markers with names, and the in and out points."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import NotFound, Refused


def add(project: Project, new_id: NewId, *, time_n: int, name: str) -> Project:
    """A new marker. Raises Refused where one stands already."""
    if any(marker.time_n == time_n for marker in project.markers):
        raise Refused("A marker stands here already. Move the playhead, or give that one another name.")
    return _ordered(project, (*project.markers, Marker(new_id(), time_n, name)))


def marker_of(project: Project, marker_id: object) -> Marker:
    """A marker by number. Raises NotFound."""
    for marker in project.markers:
        if marker.id == marker_id:
            return marker
    raise NotFound("That marker is not there any more. Undo brings it back.")


def change(project: Project, *, marker_id: int, **changed: Any) -> Project:
    """A marker moved or renamed."""
    new = replace(marker_of(project, marker_id), **changed)
    return _ordered(project, (*(m for m in project.markers if m.id != marker_id), new))


def remove(project: Project, *, marker_id: int) -> Project:
    """The project without a marker."""
    gone = marker_of(project, marker_id)
    return replace(project, markers=tuple(marker for marker in project.markers if marker is not gone))


def _ordered(project: Project, markers: tuple[Marker, ...]) -> Project:
    return replace(project, markers=tuple(sorted(markers, key=lambda marker: (marker.time_n, marker.id))))


def set_in(project: Project, time_n: int | None) -> Project:
    """The in point moved; an out point that does not lie behind it goes."""
    keep = project.out_n is not None and (time_n is None or project.out_n > time_n)
    return replace(project, in_n=time_n, out_n=project.out_n if keep else None)


def set_out(project: Project, time_n: int | None) -> Project:
    """The out point moved; an in point that does not lie before it goes."""
    keep = project.in_n is not None and (time_n is None or project.in_n < time_n)
    return replace(project, out_n=time_n, in_n=project.in_n if keep else None)
