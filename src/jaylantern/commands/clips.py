"""Commands on clips: move, trim, split, slip, delete, close gaps, copies, links."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from jaylantern.commands import params
from jaylantern.core.edit import cutting, lanes, moving
from jaylantern.core.edit.cutting import Edge, Ripple
from jaylantern.core.edit.draft import NewId, clip_of, lane_of, named, together
from jaylantern.core.edit.moving import Copied
from jaylantern.core.signal.timebase import RATE, clock
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


def _names(project: Project, clip_ids: Sequence[int]) -> str:
    return named([clip for _, clip in together(project, clip_ids)])


def _by(by_n: int) -> str:
    return f"{abs(by_n) / RATE:.3f} s {'later' if by_n > 0 else 'earlier'}"


def _move_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Move clips along their lanes and, with the leader, to lanes above or below."""
    ids = params.clip_ids(values)
    by_n = params.by_n(values)
    lanes_by = params.whole(values.get("lanes_by", 0), "The number of lanes", low=-1000, high=1000)
    leader_id = values.get("leader_id") if lanes_by else None
    after = moving.move(project, clip_ids=ids, by_n=by_n, leader_id=leader_id, lanes_by=lanes_by)
    lane, first = clip_of(after, leader_id or ids[0])
    was, _clip = clip_of(project, first.id)
    where = f" on {lane.name}" if lane.id != was.id else ""
    return f"Move {_names(project, ids)} to {clock(first.start_n, decimals=2)}{where}", after


def _trim_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids, edge = params.clip_ids(values), params.one_of(Edge, values.get("edge"), "An end")
    if values.get("to_n") is not None:
        to_n = params.time_n(values, "to_n")
        _lane, clip = clip_of(project, ids[0] if ids else None)
        by_n = to_n - (clip.start_n if edge is Edge.START else clip.stop_n)
    else:
        by_n = params.by_n(values)
    after = cutting.trim(project, clip_ids=ids, edge=edge, by_n=by_n)
    return f"Trim the {'start' if edge is Edge.START else 'end'} of {_names(project, ids)}", after


def _slip_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids, by_n = params.clip_ids(values), params.by_n(values)
    return f"Slip {_names(project, ids)}: {_by(by_n)}", cutting.slip(project, clip_ids=ids, by_n=by_n)


def _split_clips(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    at_n = params.time_n(values)
    ids = params.clip_ids(values) if values.get("clip_ids") is not None else None
    what = "all lanes" if ids is None else _names(project, ids)
    return f"Split {what} at {clock(at_n, decimals=2)}", cutting.split(project, new_id, at_n=at_n, clip_ids=ids)


def _delete_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids = params.clip_ids(values)
    close = params.one_of(Ripple, values.get("close", "none"), "What becomes of the gap")
    how = {Ripple.NONE: "", Ripple.LANE: " and close the gap", Ripple.ALL: " and close up all lanes"}[close]
    word = "Cut" if values.get("cut") is True else "Delete"
    return f"{word} {_names(project, ids)}{how}", cutting.delete(project, clip_ids=ids, close=close)


def _close_gaps(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    lane_id = values.get("lane_id")
    where = "all lanes" if lane_id is None else lane_of(project, lane_id).name
    return f"Close the gaps of {where}", cutting.close_gaps(project, lane_id=lane_id)


def _cut_out(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    """Cut a stretch of timeline out of all lanes."""
    start_n, stop_n = params.time_n(values, "start_n"), params.time_n(values, "stop_n")
    if stop_n <= start_n:
        raise InvalidValue("The out point must lie behind the in point. Set them with I and O.")
    spans = np.array([[start_n, stop_n]], np.int64)
    label = f"Cut out {clock(start_n, decimals=2)} to {clock(stop_n, decimals=2)}"
    return label, cutting.cut_out(project, new_id, spans=spans)


def _paste_clips(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    """Lay copies on the timeline; `clips` are as the score shows them, each with its lane."""
    found = values.get("copied")
    if not isinstance(found, list) or not all(isinstance(each, Copied) for each in found):
        raise InvalidValue("What is on the clipboard can't be pasted. Copy the clips again.")
    at_n = params.time_n(values)
    names = named([each.clip for each in found]) if found else "nothing"
    return f"Paste {names} at {clock(at_n, decimals=2)}", moving.paste(project, new_id, copied=found, at_n=at_n)


def _duplicate_clips(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    ids = params.clip_ids(values)
    return f"Duplicate {_names(project, ids)}", moving.duplicate(project, new_id, clip_ids=ids)


def _link_clips(project: Project, values: Mapping[str, Any], new_id: NewId) -> Answer:
    ids = params.clip_ids(values)
    names = " and ".join(dict.fromkeys(_name(project, number) for number in ids))
    return f"Link {names}", lanes.link(project, new_id, clip_ids=ids)


def _name(project: Project, clip_id: int) -> str:
    found: Clip = clip_of(project, clip_id)[1]
    return found.name


def _unlink_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids = params.clip_ids(values)
    return f"Unlink {_names(project, ids)}", lanes.unlink(project, clip_ids=ids)


COMMANDS = {
    "move_clips": _move_clips,
    "trim_clips": _trim_clips,
    "slip_clips": _slip_clips,
    "split_clips": _split_clips,
    "delete_clips": _delete_clips,
    "close_gaps": _close_gaps,
    "cut_out": _cut_out,
    "paste_clips": _paste_clips,
    "duplicate_clips": _duplicate_clips,
    "link_clips": _link_clips,
    "unlink_clips": _unlink_clips,
}
