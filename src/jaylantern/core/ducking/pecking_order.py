"""The pecking order: perches one above the other; what sits lower gives way to what sits higher, by an amount a pair.

─┬─ lane "Narrator"        a single lane may have a perch of its own
 ├─ narration
 ├─ dialogue    ← −6 dB under narration
 ├─ effects
 ├─ music       ← −14 dB under dialogue, and so under the Narrator too where nothing else is said
 └─ atmosphere  ← −4 dB under dialogue
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import DuckBy, Settings
from jaylantern.core.timeline.tag import SPEAKING, Tag, usual_of


class Role(StrEnum):
    """What a clip does in the pecking order."""

    KEY = "key"  # others give way to it
    YIELDS = "yields"
    BOTH = "both"  # it gives way, and others give way to it
    OUTSIDE = "outside"  # its level is left alone, and it leaves others alone


@dataclass(frozen=True)
class Order:
    """The pecking order of a project, resolved.

    `above` holds for each perch that gives way the perches it gives way to, from the top, each with the settings of
    that pair (`amount_db` under 0).
    """

    perches: tuple[str, ...]
    above: Mapping[str, Mapping[str, Settings]]
    keys: frozenset[str]

    def perch(self, lane: Lane, clip: Clip) -> str | None:
        """The perch a clip sits on; None outside the order."""
        return perch_of(self.perches, lane, clip)

    def perch_for(self, lane: Lane, tag: Tag) -> str | None:
        """The perch that sound of a tag sits on when it lies on a lane; None where there is none for it."""
        return _perch_for(self.perches, lane, tag)

    def yielding(self, lane: Lane, clip: Clip) -> str | None:
        """The perch a clip gives way from; None where it gives way to nothing."""
        perch = self.perch(lane, clip)
        return perch if perch in self.above else None

    def role(self, lane: Lane, clip: Clip) -> Role:
        """The role a clip has; a bystander has none."""
        perch = self.perch(lane, clip)
        above, below = perch in self.above, perch in self.keys
        if above and below:
            return Role.BOTH
        return Role.KEY if below else Role.YIELDS if above else Role.OUTSIDE


def perches_of(project: Project) -> tuple[str, ...]:
    """The perches of a project from the top; those of lanes that are not there are passed over."""
    lanes = {perch_of_lane(lane.id) for lane in project.lanes}
    return tuple(perch for perch in project.perches if perch in lanes or perch in tuple(Tag))


def perch_of(perches: tuple[str, ...], lane: Lane, clip: Clip) -> str | None:
    """The perch of these that a clip sits on; None outside the order."""
    return None if lane.outside(clip) else _perch_for(perches, lane, lane.tag_of(clip))


def _perch_for(perches: tuple[str, ...], lane: Lane, tag: Tag) -> str | None:
    if lane.kind is not LaneKind.SOUND:
        return None
    own = perch_of_lane(lane.id)
    perch = own if own in perches else str(tag)
    return perch if perch in perches else None


def order_of(project: Project) -> Order:
    """The pecking order of a project: tags that wait for something to sit on them are passed over."""
    tags = {perch_of_lane(lane.id): lane.main_tag for lane in project.lanes}
    used = {lane.tag_of(clip) for lane, clip in project.placed() if lane.kind is LaneKind.SOUND}
    waiting = {str(tag) for tag in Tag if tag.row.waits and tag not in used}
    there = perches_of(project)
    above: dict[str, Mapping[str, Settings]] = {}
    for i, lower in enumerate(there):
        pairs = {upper: pair_settings(project, upper, lower, tags) for upper in there[:i] if upper not in waiting}
        pairs = {upper: found for upper, found in pairs.items() if gives_way(found)}
        if pairs:
            above[lower] = pairs
    return Order(there, above, frozenset(upper for pairs in above.values() for upper in pairs))


def pair_settings(project: Project, upper: str, lower: str, tags: Mapping[str, Tag]) -> Settings:
    """The settings by which one perch gives way to another.

    What the pair has of its own counts; a lane's perch without that is taken as its tag. Usually a tag gives way as its
    row says: music to talk by the duck amount, atmosphere by its own, dialogue to narration by 6 dB.
    """
    tag_above, tag_below = _tag(upper, tags), _tag(lower, tags)
    usual_db = _usual(project.settings, tag_above, tag_below)
    clear = may_stand_clear(tag_above, tag_below) and (usual_db < 0 or tag_below == Tag.MUSIC)
    by = project.settings.duck_by if clear else DuckBy.AMOUNT
    usual = project.settings.changed({"amount_db": usual_db, "duck_by": by})
    for pair in ((upper, lower), (upper, tag_below), (tag_above, lower), (tag_above, tag_below)):
        if pair in project.own_pairs:
            return project.own_pairs[pair].over(usual)
    return usual


def main_tag(project: Project, perch: str) -> Tag | None:
    """The tag of a perch, or of the lane whose own it is; None where that lane is not there."""
    lanes = {perch_of_lane(lane.id): lane.main_tag for lane in project.lanes}
    return lanes.get(perch) or next((tag for tag in Tag if tag == perch), None)


def may_stand_clear(tag_above: str | None, tag_below: str | None) -> bool:
    """Can one give way to the other by clearance? That is a matter of speech, and of what does not speak."""
    return tag_above in SPEAKING and tag_below not in SPEAKING


def gives_way(found: Settings) -> bool:
    """Does anything give way by the settings of a pair?"""
    return found.amount_db < 0 if found.duck_by is DuckBy.AMOUNT else found.deepest_db < 0


def _tag(perch: str, tags: Mapping[str, Tag]) -> str:
    return str(tags.get(perch, perch))


def _usual(settings: Settings, upper: str, lower: str) -> float:
    usual = usual_of(lower, upper)
    return float(getattr(settings, usual)) if isinstance(usual, str) else usual
