"""The pecking order edited: perches moved, lanes given one of their own, amounts of pairs, who ducks at all."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace
from typing import Any

from jaylantern.core.ducking.pecking_order import main_tag, may_stand_clear
from jaylantern.core.edit.draft import Draft, lane_of
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.perch import Pair, perch_of_lane
from jaylantern.core.timeline.pin import BY, WISHES
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import DuckBy
from jaylantern.core.timeline.tag import Tag, usual_of
from jaylantern.errors import InvalidValue, Refused

LEAST_OVER_DB = -10.0  # by how much a tag first gives way to a lane of its kind that is put above it


def move_perch(project: Project, *, perch: str, to: int) -> Project:
    """Put a perch at a place counted from the top."""
    _known(project, perch)
    rest = [each for each in project.perches if each != perch]
    at = max(0, min(to, len(rest)))
    return replace(project, perches=(*rest[:at], perch, *rest[at:]))


def raise_lane(project: Project, *, lane_id: int) -> Project:
    """Give a lane a perch of its own, right above that of its tag; talk gives way to one of its own kind."""
    lane = lane_of(project, lane_id)
    if lane.kind is not LaneKind.SOUND:
        raise Refused("A picture lane has no perch: only what sounds gives way or is given way to.")
    name = perch_of_lane(lane_id)
    if name in project.perches:
        raise Refused(f"{lane.name} has a perch of its own already. Move that one.")
    tag = lane.main_tag
    at = project.perches.index(tag) if tag in project.perches else 0
    perches = (*project.perches[:at], name, *project.perches[at:])
    after = replace(project, perches=perches)
    if tag.speaks:
        after = set_pair(after, upper=name, lower=tag, values={"amount_db": LEAST_OVER_DB})
    return after


def lower_lane(project: Project, *, lane_id: int) -> Project:
    """Let a lane sit on the perch of its tag again."""
    name = perch_of_lane(lane_id)
    _known(project, name)
    return replace(
        project,
        perches=tuple(perch for perch in project.perches if perch != name),
        pairs=tuple(pair for pair in project.pairs if name not in (pair.upper, pair.lower)),
    )


def set_pair(project: Project, *, upper: str, lower: str, values: Mapping[str, Any]) -> Project:
    """Change what a pair has of its own; a value of None follows the project again.

    The amounts of dialogue over music and over atmosphere are settings of the project, and are set there; so is the
    clearance of dialogue over music where the project goes by clearance.
    """
    _known(project, upper)
    _known(project, lower)
    if project.perches.index(upper) >= project.perches.index(lower):
        raise InvalidValue("What sits lower gives way to what sits higher, never the other way.")
    wanted = dict(values)
    settings = project.settings
    wishes = [name for name in WISHES if wanted.get(name) is not None]
    if wishes and not may_stand_clear(main_tag(project, upper), main_tag(project, lower)):
        raise Refused(
            "Only speech is wished clear, of what does not speak. Elsewhere an amount says how much gives way."
        )
    name = usual_of(lower, upper) if upper == Tag.DIALOGUE else None
    by_amount = settings.duck_by is DuckBy.AMOUNT
    if isinstance(name, str) and by_amount and wanted.get("amount_db") is not None:
        settings = settings.changed({name: wanted["amount_db"]})
        wanted |= dict.fromkeys(BY)
    elif name == "amount_db" and not by_amount and wishes:
        settings = settings.changed({name: wanted[name] for name in wishes})
        wanted |= dict.fromkeys(BY)
    own = project.own_of_pair(upper, lower).changed(wanted)
    rest = [pair for pair in project.pairs if (pair.upper, pair.lower) != (upper, lower)]
    pairs = tuple(rest) if own.empty else (*rest, Pair(str(upper), str(lower), own))
    return replace(project, pairs=pairs, settings=settings)


def duck_only(project: Project, *, clip_ids: Collection[int] | None) -> Project:
    """Let only these music clips give way, the others standing outside; None: all of them again."""
    draft = Draft(project)
    if clip_ids is None:
        for lane, clip in project.placed():
            if clip.bystander and lane.tag_of(clip) is Tag.MUSIC:
                draft.put(replace(clip, bystander=False))
        return draft.finish()
    music = [(lane, clip) for lane, clip in project.placed() if lane.tag_of(clip) is Tag.MUSIC]
    if not any(clip.id in clip_ids for _, clip in music):
        raise Refused("None of the chosen clips is music. Choose the music clips that are to give way.")
    for _, clip in music:
        outside = clip.id not in clip_ids
        if outside != clip.bystander:
            draft.put(replace(clip, bystander=outside))
    return draft.finish()


def _known(project: Project, perch: str) -> None:
    if perch not in project.perches:
        raise InvalidValue(f"There is no perch called {str(perch)[:40]!r}.")
