"""How a file that is brought in comes onto the timeline: where there is room, pushing along what is later, or over what
is there.

    before   ├──a──┤├──b──┤        insert at │     ├─a┤├─new─┤├a┤├──b──┤
                  │                overwrite       ├─a┤├─new─┤├─b─┤
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from jaylantern.core.edit.cutting import split
from jaylantern.core.edit.draft import Draft, lane_of, together
from jaylantern.core.edit.moving import make_room, move, moved, place
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import NewId, Project


class Landing(StrEnum):
    """What becomes of what lies where a file lands."""

    OWN = "own"  # nothing: it gets lanes of its own
    INSERT = "insert"  # it is cut there, and what is later on its lanes moves along
    OVERWRITE = "overwrite"  # what lies under it is cut away

    def says(self, own: str) -> str:
        """What is done, in a word; `own`: where nothing else gives way."""
        return {Landing.INSERT: "Insert", Landing.OVERWRITE: "Lay over"}.get(self, own)


@dataclass(frozen=True)
class Landed:
    """Where a file came to lie: its clips' lanes, and when they end."""

    lane_ids: tuple[int, ...]
    stop_n: int


def land(
    project: Project,
    new_id: NewId,
    *,
    media: Media,
    name: str,
    at_n: int,
    how: Landing,
    lane_ids: tuple[int, ...] = (),
) -> Project:
    """Bring picture and sound of a medium onto these lanes, each onto the first of its kind, else onto new ones.

    With OWN lanes are taken only if nothing lies there from `at_n` on.
    """
    here = [lane for lane in project.lanes if lane.id in lane_ids]
    kinds = [k for k, there in ((LaneKind.PICTURE, media.has_picture), (LaneKind.SOUND, media.has_sound)) if there]
    kinds = kinds or [LaneKind.SOUND]
    targets = {kind: next((lane for lane in here if lane.kind is kind), None) for kind in kinds}
    if how is Landing.OWN:
        targets = {k: lane if lane and _free(lane, at_n) else None for k, lane in targets.items()}
    if not any(targets.values()):
        return place(project, new_id, media=media, name=name, at_n=at_n)
    return _onto(project, new_id, targets, media=media, name=name, at_n=at_n, how=how)


def _onto(
    project: Project,
    new_id: NewId,
    targets: dict[LaneKind, Lane | None],
    *,
    media: Media,
    name: str,
    at_n: int,
    how: Landing,
) -> Project:
    """Picture and sound onto lanes that are there; of a kind without a lane a new one is made."""
    lanes = [lane for lane in targets.values() if lane is not None]
    after = _pushed(project, new_id, lanes, at_n, media.length_n) if how is Landing.INSERT else project
    bare = place(after, new_id, media=media, name=name, at_n=at_n)
    fresh = {lane.kind: lane for lane in bare.lanes if all(lane.id != each.id for each in after.lanes)}
    kept = tuple(lane for lane in bare.lanes if lane not in fresh.values() or targets.get(lane.kind) is None)
    draft = Draft(replace(bare, lanes=kept))
    for kind, lane in targets.items():
        if lane is None:
            continue
        (clip,) = fresh[kind].clips
        if how is Landing.OVERWRITE:
            for under in list(next(each for each in after.lanes if each.id == lane.id).clips):
                make_room(draft, new_id, lane, under, clip)
        draft.put(clip, lane.id)
    return draft.finish()


def move_onto(
    project: Project,
    new_id: NewId,
    *,
    clip_ids: Iterable[int],
    by_n: int,
    leader_id: int | None = None,
    lanes_by: int = 0,
    how: Landing,
) -> Project:
    """Move clips and lay them over what is there, or insert them: what is later on the lanes they come to makes room.

    See `moving.move`; where they were a gap stays.
    """
    if how is Landing.OWN:
        return move(project, clip_ids=clip_ids, by_n=by_n, leader_id=leader_id, lanes_by=lanes_by)
    group = moved(project, clip_ids=clip_ids, by_n=by_n, leader_id=leader_id, lanes_by=lanes_by)
    draft = Draft(project)
    for clip, _ in group:
        draft.drop(clip.id)
    after = draft.finish()
    if how is Landing.INSERT:
        start_n, stop_n = min(clip.start_n for clip, _ in group), max(clip.stop_n for clip, _ in group)
        ids = {lane_id for _, lane_id in group}
        after = _pushed(after, new_id, [lane for lane in after.lanes if lane.id in ids], start_n, stop_n - start_n)
    else:
        for clip, lane_id in group:
            lane, draft = lane_of(after, lane_id), Draft(after)
            for under in lane.clips:
                make_room(draft, new_id, lane, under, clip)
            after = draft.finish()
    draft = Draft(after)
    for clip, lane_id in group:
        draft.put(clip, lane_id)
    return draft.finish()


def _pushed(project: Project, new_id: NewId, lanes: list[Lane], at_n: int, by_n: int) -> Project:
    """Lanes cut at a time and what is later on them, with what is linked to it, moved along."""
    ids = {lane.id for lane in lanes}
    under = [c.id for lane in project.lanes if lane.id in ids for c in lane.clips if c.start_n < at_n < c.stop_n]
    after = split(project, new_id, at_n=at_n, clip_ids=under) if under else project
    later = [c.id for lane in after.lanes if lane.id in ids for c in lane.clips if c.start_n >= at_n]
    draft = Draft(after)
    for _, clip in together(after, later) if later else []:
        draft.put(replace(clip, start_n=clip.start_n + by_n))
    return draft.finish()


def _free(lane: Lane, at_n: int) -> bool:
    return all(clip.stop_n <= at_n for clip in lane.clips)


def landed(before: Project, after: Project, media: Media) -> Landed:
    """Where a medium came to lie that was brought in between two states of a project."""
    known = {clip.id for _, clip in before.placed()}
    fresh = [(lane, clip) for lane, clip in after.placed() if clip.id not in known and not clip.root]
    mine = [(lane, clip) for lane, clip in fresh if clip.media.id == media.id]
    return Landed(tuple(dict.fromkeys(lane.id for lane, _ in mine)), max((clip.stop_n for _, clip in mine), default=0))


def lanes_for(project: Project, media: Media, chosen: int | None) -> tuple[int, ...]:
    """The lanes a medium lands on when it is to be inserted or laid over: the one that was named, for its other half
    one whose clips are linked with those there; else the first of its kind."""
    first = {kind: next((lane.id for lane in project.lanes if lane.kind is kind), None) for kind in LaneKind}
    named = next((lane for lane in project.lanes if lane.id == chosen), None)
    if named is not None:
        links = {clip.link for clip in named.clips} - {None}
        kin = next((lane.id for lane in project.lanes if lane.kind is not named.kind and _linked(lane, links)), None)
        first = dict.fromkeys(LaneKind) | {named.kind: named.id}
        other = LaneKind.SOUND if named.kind is LaneKind.PICTURE else LaneKind.PICTURE
        first[other] = kin
    elif media.has_picture and first[LaneKind.PICTURE] is not None:
        return lanes_for(project, media, first[LaneKind.PICTURE])
    return tuple(lane_id for lane_id in first.values() if lane_id is not None)


def _linked(lane: Lane, links: set[int | None]) -> bool:
    return any(clip.link in links for clip in lane.clips)
