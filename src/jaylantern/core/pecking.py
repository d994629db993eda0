"""The pecking order: which tags make which others give way, and by how much."""

from __future__ import annotations

from enum import StrEnum

from jaylantern.core.model import Clip, Lane, Tag
from jaylantern.core.settings import Settings

KEYS = frozenset({Tag.DIALOGUE})  # what stands on top and is listened for by voice
YIELDING = frozenset({Tag.MUSIC, Tag.AMBIENCE})


class Role(StrEnum):
    """What a clip does in the pecking order."""

    KEY = "key"  # others give way to it
    YIELDS = "yields"
    OUTSIDE = "outside"  # its level is left alone, and it leaves others alone


def role(lane: Lane, clip: Clip) -> Role:
    """The role a clip's tag gives it; a bystander has none."""
    tag = lane.tag_of(clip)
    if lane.outside(clip):
        return Role.OUTSIDE
    if tag in KEYS:
        return Role.KEY
    return Role.YIELDS if tag in YIELDING else Role.OUTSIDE


def amounts(settings: Settings) -> dict[Tag, float]:
    """Gain in dB that each yielding tag goes down to under dialogue."""
    return {Tag.MUSIC: settings.amount_db, Tag.AMBIENCE: settings.ambience_db}
