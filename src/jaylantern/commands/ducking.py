"""Commands on the pecking order and on what ducks at all."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jaylantern.commands import params
from jaylantern.core.edit import corrections, order
from jaylantern.core.edit.draft import NewId, lane_of
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


def perch_word(project: Project, perch: str) -> str:
    """What a perch is called: its tag, or its lane's name."""
    names = {f"lane {lane.id}": lane.name for lane in project.lanes}
    return names.get(perch, perch)


def own_values(values: Mapping[str, Any]) -> dict[str, Any]:
    """What a dip is to have of its own, checked; None takes a value back."""
    found = values.get("own")
    if not isinstance(found, Mapping) or not found:
        raise InvalidValue("Say what the dip is to have of its own.")
    unknown = [name for name in found if name not in NAMED]
    if unknown:
        raise InvalidValue(f"There is no setting called {str(unknown[0])[:40]!r}.")
    return {name: None if value is None else NAMED[name].checked(value) for name, value in found.items()}


def said_own(values: Mapping[str, Any]) -> str:
    """Values of its own, in words."""
    words = [
        f"{NAMED[n].label} {'as all' if v is None else f'{v:g}' if isinstance(v, float) else v}"
        for n, v in values.items()
    ]
    return ", ".join(words)


def _perch(project: Project, values: Mapping[str, Any], name: str) -> str:
    perch = str(values.get(name, ""))[:80]
    if perch not in project.perches:
        raise InvalidValue(f"There is no perch called {perch[:40]!r}.")
    return perch


def _move_perch(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    perch = _perch(project, values, "perch")
    to = params.whole(values.get("to"), "The place of a perch", low=0, high=1000)
    return f"Perch of {perch_word(project, perch)} moved", order.move_perch(project, perch=perch, to=to)


def _raise_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    return f"{lane.name} on a perch of its own", order.raise_lane(project, lane_id=lane.id)


def _lower_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    return f"{lane.name} back on the perch of its tag", order.lower_lane(project, lane_id=lane.id)


def _set_pair(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    upper, lower = _perch(project, values, "upper"), _perch(project, values, "lower")
    own = own_values(values)
    after = order.set_pair(project, upper=upper, lower=lower, values=own)
    return f"{perch_word(project, lower)} under {perch_word(project, upper)}: {said_own(own)}", after


def _duck_only(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids = params.clip_ids(values) if values.get("clip_ids") is not None else None
    word = "All music gives way" if ids is None else "Only the chosen music gives way"
    return word, order.duck_only(project, clip_ids=ids)


def _lift_pin(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    return "Lift a pin", corrections.lift_pin(project, pin_id=params.whole(values.get("pin_id"), "A pin", low=1))


def _lift_passages(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    count = len(project.speech_pins) + len(project.dip_pins)
    return f"Lift {count} pins of passages", corrections.lift_all(project)


COMMANDS = {
    "move_perch": _move_perch,
    "raise_lane": _raise_lane,
    "lower_lane": _lower_lane,
    "set_pair": _set_pair,
    "duck_only": _duck_only,
    "lift_pin": _lift_pin,
    "lift_passages": _lift_passages,
}
