"""All commands by name. Adding one is a row in the table of its noun."""

from __future__ import annotations

from itertools import chain

from jaylantern.commands import (
    captions,
    care,
    clips,
    drafts,
    ducking,
    lanes,
    levels,
    lines,
    marks,
    media,
    passages,
    points,
    settings,
    sound,
    tailoring,
)
from jaylantern.commands.command import Command

NOUNS = (
    clips,
    sound,
    lanes,
    marks,
    media,
    ducking,
    passages,
    points,
    lines,
    care,
    settings,
    drafts,
    captions,
    levels,
    tailoring,
)
COMMANDS: dict[str, Command] = {each.name: each for each in chain.from_iterable(noun.COMMANDS for noun in NOUNS)}
