"""Tags: what a lane or clip is."""

from __future__ import annotations

from enum import StrEnum


class Tag(StrEnum):
    """What a lane or clip is. A clip without a tag of its own takes its lane's."""

    DIALOGUE = "dialogue"
    MUSIC = "music"
    EFFECTS = "effects"
    AMBIENCE = "ambience"
    UNTAGGED = "untagged"
