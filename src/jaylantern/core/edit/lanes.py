"""Lanes: add, order, set, remove; picture and sound linked and unlinked."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from jaylantern.core.edit.draft import Draft, clip_of, lane_of, together
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import Refused


def with_lane(project: Project, lane: Lane, *, below: int | None = None) -> Project:
    """The project with a new lane below another, or (None) where its kind ends: pictures stand above all sound."""
    lanes = list(project.lanes)
    places = [i for i, each in enumerate(lanes) if each.id == below]
    pictures = [i for i, each in enumerate(lanes) if each.kind is LaneKind.PICTURE]
    if places:
        at = places[0] + 1
    elif lane.kind is LaneKind.PICTURE:
        at = max(pictures, default=-1) + 1
    else:
        at = len(lanes)
    return replace(project, lanes=(*lanes[:at], lane, *lanes[at:]))


def order(project: Project, *, lane_id: int, to: int) -> Project:
    """Put a lane at a place in the order from the top, 0 being the first; beyond the ends means at the end."""
    lane = lane_of(project, lane_id)
    rest = [each for each in project.lanes if each.id != lane.id]
    at = max(0, min(to, len(rest)))
    return replace(project, lanes=(*rest[:at], lane, *rest[at:]))


def change(project: Project, *, lane_id: int, **changed: Any) -> Project:
    """A lane with some fields changed."""
    lane_of(project, lane_id)
    return replace(
        project, lanes=tuple(replace(each, **changed) if each.id == lane_id else each for each in project.lanes)
    )


def remove(project: Project, *, lane_id: int) -> Project:
    """The project without a lane and its clips; clips that were linked with them stay, for themselves."""
    gone = lane_of(project, lane_id)
    kept = tuple(lane for lane in project.lanes if lane.id != gone.id)
    draft = Draft(replace(project, lanes=kept))
    for link in {clip.link for clip in gone.clips} - {None}:
        left = [clip for lane in kept for clip in lane.clips if clip.link == link]
        if len(left) == 1:
            draft.put(replace(left[0], link=None))
    perches = tuple(perch for perch in project.perches if perch != perch_of_lane(lane_id))
    pairs = tuple(pair for pair in project.pairs if perch_of_lane(lane_id) not in (pair.upper, pair.lower))
    return draft.finish(perches=perches, pairs=pairs)


def link(project: Project, new_id: NewId, *, clip_ids: Iterable[int]) -> Project:
    """Link clips of different lanes so that they are cut and moved together. Raises Refused."""
    found = [clip_of(project, number) for number in dict.fromkeys(clip_ids)]
    lanes = [lane.id for lane, _ in found]
    if len(found) < 2 or len(set(lanes)) < len(lanes):
        raise Refused("To link, choose one clip on each of two or more lanes, such as a picture and its sound.")
    if any(clip.link is not None for _, clip in found):
        project = unlink(project, clip_ids=[clip.id for _, clip in found])
    draft, number = Draft(project), new_id()
    for _, clip in found:
        draft.put(replace(clip, link=number))
    return draft.finish()


def unlink(project: Project, *, clip_ids: Iterable[int]) -> Project:
    """Let linked clips be moved and cut each for itself. Raises Refused if none is linked."""
    group = [clip for _, clip in together(project, clip_ids) if clip.link is not None]
    if not group:
        raise Refused("None of these clips is linked with another: they act for themselves already.")
    draft = Draft(project)
    for clip in group:
        draft.put(replace(clip, link=None))
    return draft.finish()
