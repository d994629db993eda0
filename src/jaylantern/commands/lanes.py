"""Commands on lanes: add, set, order, tag, remove."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from jaylantern.commands.command import Command, NewId, maybe
from jaylantern.core.edit import lanes
from jaylantern.core.edit.draft import Draft, lane_of
from jaylantern.core.timeline.clip import GAIN, THRESHOLD, Trigger
from jaylantern.core.timeline.kinds import ID, Choice, Flag, Integer, Line, Maybe
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused

Answer = tuple[str, Project]
MOST_LANES = 200
PLACE = Integer(0, 1000, remedy="Count from the top, from 0.")


def _add_lane(project: Project, new_id: NewId, *, kind: LaneKind, name: str, below: int | None) -> Answer:
    """A new empty lane, below another if one is named."""
    if len(project.lanes) >= MOST_LANES:
        raise Refused(f"There are {MOST_LANES} lanes; no project needs more. Remove one that is empty.")
    alike = sum(lane.kind is kind for lane in project.lanes)
    name = name or f"{'Picture' if kind is LaneKind.PICTURE else 'Sound'} {alike + 1}"
    return f"Add lane {name}", lanes.with_lane(project, Lane(new_id(), name, kind), below=below)


def _set_lane(project: Project, new_id: NewId, *, lane_id: int, **changed: Any) -> Answer:
    """Rename, fade, mute, solo a lane, set its trigger, or let it stand outside the pecking order."""
    lane = lane_of(project, lane_id)
    if not changed.get("name", True):
        del changed["name"]
    changed = {name: value for name, value in changed.items() if value != getattr(lane, name)}
    if not changed:
        return "", project
    name, value = next(iter(changed.items()))
    words = {
        "name": lambda: f"Rename lane {lane.name} to {value}",
        "gain_db": lambda: f"Fader of {lane.name} to {value:g} dB",
        "muted": lambda: f"{'Mute' if value else 'Unmute'} {lane.name}",
        "soloed": lambda: f"{'Solo' if value else 'Unsolo'} {lane.name}",
        "bystander": lambda: f"{lane.name} {'stands outside' if value else 'back in'} the pecking order",
        "trigger": lambda: f"Trigger of {lane.name}: {value}",
        "level_db": lambda: f"Threshold of {lane.name}: {value:g} dBFS",
    }
    return words[name](), lanes.change(project, lane_id=lane.id, **changed)


def _tag_lane(project: Project, new_id: NewId, *, lane_id: int, tag: Tag, clear: bool) -> Answer:
    """Tag a lane; with `clear`, its clips lose the tags of their own."""
    lane = lane_of(project, lane_id)
    after = lanes.change(project, lane_id=lane.id, tag=tag)
    if clear:
        draft = Draft(after)
        for clip in lane.clips:
            draft.put(replace(clip, tag=None))
        after = draft.finish()
    return f"Tag lane {lane.name} as {tag}", after


def _order_lane(project: Project, new_id: NewId, *, lane_id: int, to: int) -> Answer:
    lane = lane_of(project, lane_id)
    return f"Move lane {lane.name}", lanes.order(project, lane_id=lane.id, to=to)


def _remove_lane(project: Project, new_id: NewId, *, lane_id: int) -> Answer:
    lane = lane_of(project, lane_id)
    return f"Remove lane {lane.name}", lanes.remove(project, lane_id=lane.id)


COMMANDS = (
    Command(
        "add_lane",
        _add_lane,
        kind=maybe(Choice(LaneKind), LaneKind.SOUND, "The kind of a lane"),
        name=maybe(Line(80), ""),
        below=maybe(Maybe(ID), None),
    ),
    Command(
        "set_lane",
        _set_lane,
        lane_id=ID,
        name=maybe(Line(80), called="The name of a lane"),
        gain_db=maybe(GAIN, called="A fader"),
        muted=maybe(Flag()),
        soloed=maybe(Flag()),
        bystander=maybe(Flag()),
        trigger=maybe(Choice(Trigger), called="A trigger"),
        level_db=maybe(THRESHOLD, called="A threshold"),
    ),
    Command("tag_lane", _tag_lane, lane_id=ID, tag=Choice(Tag), clear=maybe(Flag(), False)),
    Command("order_lane", _order_lane, lane_id=ID, to=PLACE),
    Command("remove_lane", _remove_lane, lane_id=ID),
)
