"""Commands on the pecking order and on what ducks at all."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jaylantern.commands.command import CLIPS, Command, NewId, maybe
from jaylantern.commands.lanes import PLACE
from jaylantern.core.edit import corrections, order
from jaylantern.core.edit.draft import lane_of
from jaylantern.core.timeline.kinds import ID, Kind, Line, Maybe
from jaylantern.core.timeline.perch import perch_of_lane, perch_today
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED, WAS
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


@dataclass(frozen=True)
class OwnValues(Kind):
    """Settings that a dip is to have of its own, by name; null takes one back."""

    @property
    def script(self) -> str:
        """A record of figures and words."""
        return "Record<string, number|string|null>"

    def checked(self, value: object, what: str) -> dict[str, Any]:
        """The settings, each checked."""
        if not isinstance(value, Mapping) or not value:
            raise InvalidValue("Say what the dip is to have of its own: settings by name.")
        found = {WAS.get(str(name), str(name)): each for name, each in value.items()}
        unknown = [name for name in found if name not in NAMED]
        if unknown:
            raise InvalidValue(f"There is no setting called {unknown[0][:40]!r}.")
        return {name: None if each is None else NAMED[name].checked(each) for name, each in found.items()}


OWN_VALUES = OwnValues()
PERCH = Line(80)


def perch_word(project: Project, perch: str) -> str:
    """What a perch is called: its tag, or its lane's name."""
    names = {perch_of_lane(lane.id): lane.name for lane in project.lanes}
    return names.get(perch, perch)


def own_words(values: Mapping[str, Any]) -> str:
    """Values of its own, in words."""
    words = [
        f"{NAMED[n].label} {'as all' if v is None else f'{v:g}' if isinstance(v, float) else v}"
        for n, v in values.items()
    ]
    return ", ".join(words)


def _move_perch(project: Project, new_id: NewId, *, perch: str, to: int) -> Answer:
    perch = perch_today(perch)
    return f"Perch of {perch_word(project, perch)} moved", order.move_perch(project, perch=perch, to=to)


def _raise_lane(project: Project, new_id: NewId, *, lane_id: int) -> Answer:
    lane = lane_of(project, lane_id)
    return f"{lane.name} on a perch of its own", order.raise_lane(project, lane_id=lane.id)


def _lower_lane(project: Project, new_id: NewId, *, lane_id: int) -> Answer:
    lane = lane_of(project, lane_id)
    return f"{lane.name} back on the perch of its tag", order.lower_lane(project, lane_id=lane.id)


def _set_pair(project: Project, new_id: NewId, *, upper: str, lower: str, own: dict[str, Any]) -> Answer:
    upper, lower = perch_today(upper), perch_today(lower)
    after = order.set_pair(project, upper=upper, lower=lower, values=own)
    return f"{perch_word(project, lower)} under {perch_word(project, upper)}: {own_words(own)}", after


def _duck_only(project: Project, new_id: NewId, *, clip_ids: list[int] | None) -> Answer:
    word = "All music gives way" if clip_ids is None else "Only the chosen music gives way"
    return word, order.duck_only(project, clip_ids=clip_ids)


def _lift_pin(project: Project, new_id: NewId, *, pin_id: int) -> Answer:
    return "Lift a pin", corrections.lift_pin(project, pin_id=pin_id)


def _lift_passages(project: Project, new_id: NewId) -> Answer:
    count = len(project.speech_pins) + len(project.dip_pins)
    return f"Lift {count} pins of passages", corrections.lift_all(project)


COMMANDS = (
    Command("move_perch", _move_perch, perch=PERCH, to=PLACE),
    Command("raise_lane", _raise_lane, lane_id=ID),
    Command("lower_lane", _lower_lane, lane_id=ID),
    Command("set_pair", _set_pair, upper=PERCH, lower=PERCH, own=OWN_VALUES),
    Command("duck_only", _duck_only, clip_ids=maybe(Maybe(CLIPS), None)),
    Command("lift_pin", _lift_pin, pin_id=ID),
    Command("lift_passages", _lift_passages),
)
