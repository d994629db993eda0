"""Perches of the pecking order, and what pairs of them have of their own."""

from __future__ import annotations

from dataclasses import dataclass

from jaylantern.core.timeline.pin import Own
from jaylantern.core.timeline.tag import Tag

USUAL_PERCHES = (Tag.DIALOGUE, Tag.EFFECTS, Tag.MUSIC, Tag.AMBIENCE)


def perch_of_lane(lane_id: int) -> str:
    """What a lane's own perch is called."""
    return f"lane {lane_id}"


@dataclass(frozen=True)
class Pair:
    """How one perch gives way to one above it, where that is not as usual."""

    upper: str
    lower: str
    own: Own
