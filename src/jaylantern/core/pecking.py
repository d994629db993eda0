"""The pecking order: which tags make which others give way, and by how much."""

from __future__ import annotations

from jaylantern.core.model import Tag
from jaylantern.core.settings import Settings

KEYS = frozenset({Tag.DIALOGUE})  # what stands on top and is listened for by voice


def amounts(settings: Settings) -> dict[Tag, float]:
    """Gain in dB that each yielding tag goes down to under dialogue."""
    return {Tag.MUSIC: settings.amount_db, Tag.AMBIENCE: settings.ambience_db}
