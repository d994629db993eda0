"""Perches of the pecking order, and what pairs of them have of their own."""

from __future__ import annotations

from collections.abc import Iterable

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import Line
from jaylantern.core.timeline.pin import OWN, Own
from jaylantern.core.timeline.tag import USUAL_PERCHES, WORDS_BEFORE


def perch_of_lane(lane_id: int) -> str:
    """What a lane's own perch is called."""
    return f"lane {lane_id}"


@noun
class Pair:
    """How one perch gives way to one above it, where that is not as usual."""

    upper: str = described(Line(40))
    lower: str = described(Line(40))
    own: Own = described(OWN)


def pairs_among(pairs: Iterable[Pair], perches: Iterable[str]) -> tuple[Pair, ...]:
    """The pairs of which both perches are among these."""
    there = set(perches)
    return tuple(pair for pair in pairs if {pair.upper, pair.lower} <= there)


def completed(perches: Iterable[str]) -> tuple[str, ...]:
    """A pecking order from an older version: words of today, and every tag in it. One that is missing comes right above
    the next lower one of the usual order that is there."""
    found = list(dict.fromkeys(perch_today(perch) for perch in perches))
    for i, tag in reversed(list(enumerate(USUAL_PERCHES))):
        if tag not in found:
            below = next((each for each in USUAL_PERCHES[i + 1 :] if each in found), None)
            found.insert(len(found) if below is None else found.index(below), str(tag))
    return tuple(found)


def perch_today(perch: str) -> str:
    """What a perch is called today: a tag may have had another word in an older version."""
    return WORDS_BEFORE.get(perch, perch)
