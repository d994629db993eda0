"""Corrections by hand that need to know what was found: passages marked, split, joined, given dips of their own; points
of the curve moved; a curve frozen."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from flask import Blueprint
from flask.typing import ResponseReturnValue

from jaylantern.commands import carry_out, ducking, params
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.edit import automation, corrections
from jaylantern.core.edit.automation import Moved
from jaylantern.core.edit.cutting import Edge
from jaylantern.core.edit.draft import NewId, lane_of
from jaylantern.core.signal.timebase import clock, ms_to_n
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue, NotFound
from jaylantern.web.connection import bench, db
from jaylantern.web.fields import body
from jaylantern.web.page_document import scored

blueprint = Blueprint("shaping", __name__, url_prefix="/projects/<int:project_id>/shape")
Answer = tuple[str, Project]
Deed = Callable[[Project, Plan, Mapping[str, Any], NewId], Answer]
MOST_POINTS = 20_000


def _index(values: Mapping[str, Any]) -> int:
    return params.whole(values.get("index"), "The number of a passage", low=0)


def _mark(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    if values.get("index") is not None:
        passage = corrections.passage_of(plan, values["index"])
        start_n, stop_n = passage.start_n, passage.stop_n
    else:
        start_n, stop_n = params.time_n(values, "start_n"), params.time_n(values, "stop_n")
    if stop_n <= start_n:
        raise InvalidValue("A stretch must end after it begins. Set the in point before the out point.")
    speech = values.get("speech") is True
    ids = params.clip_ids(values) if values.get("clip_ids") is not None else []
    label = f"{clock(start_n, decimals=2)} to {clock(stop_n, decimals=2)} is {'speech' if speech else 'not speech'}"
    return label, corrections.mark(project, new_id, start_n=start_n, stop_n=stop_n, speech=speech, clip_ids=ids)


def _edge(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    edge, to_n = params.one_of(Edge, values.get("edge"), "An end"), params.time_n(values, "to_n")
    word = "begins" if edge is Edge.START else "ends"
    after = corrections.drag_edge(project, plan, new_id, index=_index(values), edge=edge, to_n=to_n)
    return f"Passage {_index(values) + 1} {word} at {clock(to_n, decimals=2)}", after


def _split(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    at_n = params.time_n(values)
    return f"Split the passage at {clock(at_n, decimals=2)}", corrections.split(project, plan, new_id, at_n=at_n)


def _join(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    index = _index(values)
    return f"Join passages {index + 1} and {index + 2}", corrections.join(project, plan, new_id, index=index)


def _own(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    index, none = _index(values), values.get("none")
    if none is not None and not isinstance(none, bool):
        raise InvalidValue("Say whether there is no dip: true or false.")
    own = ducking.own_values(values) if values.get("own") is not None else {}
    said = ducking.said_own(own) if own else ("no dip" if none else "its dip again")
    after = corrections.set_own(project, plan, new_id, index=index, values=own, none=none)
    return f"Passage {index + 1}: {said}", after


def _lift(project: Project, plan: Plan, values: Mapping[str, Any], _: NewId) -> Answer:
    return f"Lift the pins of passage {_index(values) + 1}", corrections.lift(project, plan, index=_index(values))


# — points —


def _points(values: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    found = values.get("points")
    if not isinstance(found, list) or not 0 < len(found) <= MOST_POINTS:
        raise InvalidValue("Say which points, as a list.")
    if not all(isinstance(each, Mapping) for each in found):
        raise InvalidValue("A point is an object with a time.")
    return found


def _pin(each: Mapping[str, Any]) -> int | None:
    return None if not each.get("pin") else params.whole(each["pin"], "The number of a pin", low=1)


def _count(points: list[Any]) -> str:
    return "a point" if len(points) == 1 else f"{len(points)} points"


def _move_points(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    moved = [
        Moved(
            params.time_n(each), _pin(each), params.time_n(each, "to_n"), params.gain_db(each.get("to_db"), "A point")
        )
        for each in _points(values)
    ]
    where = f" to {moved[0].to_db:g} dB at {clock(moved[0].to_n, decimals=2)}" if len(moved) == 1 else ""
    after = automation.move(project, plan, new_id, lane_id=lane.id, points=moved)
    return f"Move {_count(moved)} of {lane.name}{where}", after


def _add_point(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    lane, at_n = lane_of(project, values.get("lane_id")), params.time_n(values)
    gain_db = params.gain_db(values.get("gain_db"), "A point")
    dipped = values.get("dipped") is True
    after = automation.add(project, plan, new_id, lane_id=lane.id, at_n=at_n, gain_db=gain_db, dipped=dipped)
    return f"Add a point to {lane.name} at {clock(at_n, decimals=2)}", after


def _remove_points(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    lane, points = lane_of(project, values.get("lane_id")), [(params.time_n(p), _pin(p)) for p in _points(values)]
    after = automation.remove(project, plan, new_id, lane_id=lane.id, points=points)
    return f"Take away {_count(points)} of {lane.name}", after


def _freeze(project: Project, plan: Plan, values: Mapping[str, Any], new_id: NewId) -> Answer:
    lane, settings = lane_of(project, values.get("lane_id")), project.settings
    least_n = ms_to_n(settings.thin_ms)
    after, count, error = automation.freeze(
        project, plan, new_id, lane_id=lane.id, largest_db=settings.thin_db, least_n=least_n
    )
    return f"Freeze {lane.name}: {count} points, within {error:.2f} dB", after


def _clear(project: Project, _: Plan, values: Mapping[str, Any], __: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    return f"Clear the automation of {lane.name}", automation.clear(project, lane_id=lane.id)


def _follow(project: Project, _: Plan, values: Mapping[str, Any], __: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    word = "Let {} follow the speech again" if lane.frozen else "Lift the points of {}"
    return word.format(lane.name), automation.follow(project, lane_id=lane.id)


DEEDS: dict[str, Deed] = {
    "mark": _mark,
    "edge": _edge,
    "split": _split,
    "join": _join,
    "own": _own,
    "lift": _lift,
    "move_points": _move_points,
    "add_point": _add_point,
    "remove_points": _remove_points,
    "freeze": _freeze,
    "clear": _clear,
    "follow": _follow,
}


@blueprint.post("/<deed>")
def shape(project_id: int, deed: str) -> ResponseReturnValue:
    """Carry out a correction; the answer is the new score."""
    if deed not in DEEDS:
        raise NotFound(f"There is no correction called {deed[:40]!r}.")
    sent = body()
    gesture = sent.get("gesture")

    def edit(project: Project, new_id: NewId) -> Answer:
        return DEEDS[deed](project, bench().decided(project).plan, sent, new_id)

    carry_out(db(), project_id, edit, seen=sent.get("seen"), gesture=str(gesture)[:60] if gesture else None)
    return scored(project_id)
