"""Commands on lanes: add, set, order, tag, remove."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from jaylantern.commands import params
from jaylantern.core.edit import lanes
from jaylantern.core.edit.draft import Draft, NewId, lane_of
from jaylantern.core.timeline.clip import Trigger
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused

Answer = tuple[str, Project]
MOST_LANES = 200


def changed(project: Project, **values: Any) -> Project:
    """The project with some of its own fields changed."""
    return replace(project, **values)


def _add_lane(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    """A new empty lane, below another if one is named."""
    kind = params.one_of(LaneKind, values.get("kind", "sound"), "The kind of a lane")
    if len(project.lanes) >= MOST_LANES:
        raise Refused(f"There are {MOST_LANES} lanes; no project needs more. Remove one that is empty.")
    alike = sum(lane.kind is kind for lane in project.lanes)
    name = params.line(
        values.get("name"), otherwise=f"{'Picture' if kind is LaneKind.PICTURE else 'Sound'} {alike + 1}"
    )
    return f"Add lane {name}", lanes.with_lane(project, Lane(new_id(), name, kind), below=values.get("below"))


def _set_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Rename, fade, mute, solo a lane, or let it stand outside the pecking order."""
    lane = lane_of(project, values.get("lane_id"))
    wanted: dict[str, Any] = {}
    if "name" in values:
        wanted["name"] = params.line(values["name"], otherwise=lane.name)
    if "gain_db" in values:
        wanted["gain_db"] = params.gain_db(values["gain_db"], "A fader")
    wanted |= {name: values[name] is True for name in ("muted", "soloed", "bystander") if name in values}
    if "trigger" in values:
        wanted["trigger"] = params.one_of(Trigger, values["trigger"], "A trigger")
    if "level_db" in values:
        wanted["level_db"] = params.threshold_db(values["level_db"])
    wanted = {name: value for name, value in wanted.items() if value != getattr(lane, name)}
    words = {
        "name": f"Rename lane {lane.name} to {wanted.get('name')}",
        "gain_db": f"Fader of {lane.name} to {wanted.get('gain_db', 0):g} dB",
        "muted": f"{'Mute' if wanted.get('muted') else 'Unmute'} {lane.name}",
        "soloed": f"{'Solo' if wanted.get('soloed') else 'Unsolo'} {lane.name}",
        "trigger": f"Trigger of {lane.name}: {wanted.get('trigger')}",
        "level_db": f"Threshold of {lane.name}: {params.dbfs(wanted.get('level_db', 0.0))}",
        "bystander": f"{lane.name} {'stands outside' if wanted.get('bystander') else 'back in'} the pecking order",
    }
    label = words[next(iter(wanted))] if wanted else ""
    return label, lanes.change(project, lane_id=lane.id, **wanted)


def _tag_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Tag a lane; with `clear`, its clips lose the tags of their own."""
    lane, tag = lane_of(project, values.get("lane_id")), params.one_of(Tag, values.get("tag"), "A tag")
    after = lanes.change(project, lane_id=lane.id, tag=tag)
    if values.get("clear") is True:
        draft = Draft(after)
        for clip in lane.clips:
            draft.put(replace(clip, tag=None))
        after = draft.finish()
    return f"Tag lane {lane.name} as {tag}", after


def _order_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    to = params.whole(values.get("to"), "The place of a lane", low=0, high=1000)
    return f"Move lane {lane.name}", lanes.order(project, lane_id=lane.id, to=to)


def _remove_lane(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    lane = lane_of(project, values.get("lane_id"))
    return f"Remove lane {lane.name}", lanes.remove(project, lane_id=lane.id)


COMMANDS = {
    "add_lane": _add_lane,
    "set_lane": _set_lane,
    "tag_lane": _tag_lane,
    "order_lane": _order_lane,
    "remove_lane": _remove_lane,
}
