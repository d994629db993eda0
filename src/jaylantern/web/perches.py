"""The pecking order as a picture of perches: who sits where, and who gives way to whom by how much."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jaylantern.core.ducking.pecking_order import gives_way, pair_settings
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import DuckBy
from jaylantern.core.timeline.tag import Tag


@dataclass(frozen=True)
class PairShown:
    """By how much a perch gives way to one above it, in dB, or how clear that one is to stand, in LU; `own`: not as
    usual; `gives`: whether it gives way at all."""

    upper: str
    word: str
    value: float
    unit: str
    own: bool
    gives: bool


@dataclass(frozen=True)
class Perch:
    """One perch with the lanes on it and the pairs that matter; `others` are the perches above it that do not yet."""

    name: str
    word: str
    tag: Tag
    lane_id: int | None
    lanes: list[Lane]
    clips: int  # of lanes whose clips differ
    pairs: list[PairShown]
    others: list[PairShown]


def context(project: Project) -> dict[str, Any]:
    """What the picture speaks of."""
    sound = [lane for lane in project.lanes if lane.kind is LaneKind.SOUND]
    perches = [_perch(project, name, sound) for name in project.perches if _there(name, sound)]
    outside_clips = [clip for lane in sound if not lane.bystander for clip in lane.clips if clip.bystander]
    return {
        "perches": perches,
        "bystander_lanes": [lane for lane in sound if lane.bystander],
        "bystander_clips": outside_clips,
        "untagged_lanes": [lane for lane in sound if lane.common_tag is Tag.UNTAGGED and not lane.bystander],
        "music_outside": any(_is_music(lane, clip) for lane in sound for clip in lane.clips if clip.bystander),
    }


def _is_music(lane: Lane, clip: Clip) -> bool:
    return lane.tag_of(clip) is Tag.MUSIC


def _there(name: str, sound: list[Lane]) -> bool:
    return name in tuple(Tag) or any(perch_of_lane(lane.id) == name for lane in sound)


def _taken(name: str, sound: list[Lane]) -> bool:
    """Is anything asked of others from this perch: does a lane or a clip sit on it, or does it count without?"""
    if name not in tuple(Tag) or not Tag(name).row.waits:
        return True
    return any(lane.common_tag == name or any(lane.tag_of(clip) == name for clip in lane.clips) for lane in sound)


def _perch(project: Project, name: str, sound: list[Lane]) -> Perch:
    own = {perch_of_lane(lane.id): lane for lane in sound}
    lane = own.get(name)
    tag = lane.main_tag if lane else Tag(name)
    raised = [each for each in sound if perch_of_lane(each.id) in project.perches]
    here = [lane] if lane else [each for each in sound if each.common_tag is tag and each not in raised]
    others = [each for each in sound if each.common_tag is None and each not in raised]
    strays = 0 if lane else sum(each.tag_of(clip) is tag for each in others for clip in each.clips)
    above = project.perches[: project.perches.index(name)]
    pairs = [_pair(project, upper, name, own) for upper in above if _there(upper, sound)]
    pairs = [pair for pair in pairs if pair.own or _taken(pair.upper, sound)]
    return Perch(
        name=name,
        word=lane.name if lane else str(tag),
        tag=tag,
        lane_id=lane.id if lane else None,
        lanes=[each for each in here if not each.bystander],
        clips=strays,
        pairs=[pair for pair in pairs if pair.gives],
        others=[pair for pair in pairs if not pair.gives],
    )


def _pair(project: Project, upper: str, lower: str, own: dict[str, Lane]) -> PairShown:
    tags = {name: lane.main_tag for name, lane in own.items()}
    found = pair_settings(project, upper, lower, tags)
    word = own[upper].name if upper in own else str(upper)
    clear = found.duck_by is DuckBy.CLEARANCE
    value, unit = (found.wish, MARKS[found.clear_in].unit) if clear else (found.amount_db, "dB")
    return PairShown(str(upper), word, value, unit, not project.own_of_pair(upper, lower).empty, gives_way(found))
