"""The draft that is held beside the present one, to choose between the two by ear."""

from __future__ import annotations

import json
from collections.abc import Mapping
from enum import StrEnum
from typing import Any

from jaylantern.core.timeline.described import described, nested, noun, read
from jaylantern.core.timeline.kinds import Choice, Ids, Kind, refused
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, PointPin, SpeechPin
from jaylantern.core.timeline.settings import NAMED, Settings


class Letter(StrEnum):
    """What a draft is called."""

    A = "A"
    B = "B"

    @property
    def other(self) -> Letter:
        """The draft beside it."""
        return Letter.B if self is Letter.A else Letter.A


class SettingsKind(Kind):
    """All settings; names that are not known are left out, what is not named is as usual."""

    def checked(self, value: object, what: str) -> Settings:
        """From its object."""
        if not isinstance(value, Mapping):
            raise refused(what, value, "an object", "Leave it out for the usual settings.")
        return Settings().changed({name: each for name, each in value.items() if name in NAMED})

    def plain(self, value: Settings) -> dict[str, Any]:
        """As an object."""
        return dict(vars(value))


class Names(Kind):
    """Names of perches, from the top."""

    def checked(self, value: object, what: str) -> tuple[str, ...]:
        """From a list of words."""
        if not isinstance(value, (list, tuple)) or not all(isinstance(each, str) for each in value):
            raise refused(what, value, "a list of names", "Leave it out for the usual order.")
        return tuple(value)

    def plain(self, value: tuple[str, ...]) -> list[str]:
        """As a list."""
        return [str(each) for each in value]


class Lanes(Ids):
    """Numbers of lanes."""

    def checked(self, value: object, what: str) -> Any:
        """From a list of them."""
        return tuple(super().checked(value, what))

    def plain(self, value: tuple[int, ...]) -> list[int]:
        """As a list."""
        return list(value)


class Listed(Kind):
    """A row of one noun."""

    def __init__(self, of: type[Any]) -> None:
        self._of = of

    def checked(self, value: object, what: str) -> tuple[Any, ...]:
        """From a list of their nested forms."""
        if not isinstance(value, (list, tuple)):
            raise refused(what, value, "a list", "Leave it out where there is nothing.")
        return tuple(read(self._of, each, what=f"{what} {i}") for i, each in enumerate(value, 1))

    def plain(self, value: tuple[Any, ...]) -> list[dict[str, Any]]:
        """As a list of their nested forms."""
        return [nested(each) for each in value]


@noun
class HeldDraft:
    """A draft under its letter: settings, pecking order, corrections by hand, which lanes are `frozen` (their numbers).
    What is cut, tagged and triggered is the project's, which itself is the other draft."""

    letter: Letter = described(Choice(Letter))
    settings: Settings = described(SettingsKind())
    perches: tuple[str, ...] = described(Names())
    pairs: tuple[Pair, ...] = described(Listed(Pair), default=())
    speech_pins: tuple[SpeechPin, ...] = described(Listed(SpeechPin), default=())
    dip_pins: tuple[DipPin, ...] = described(Listed(DipPin), default=())
    point_pins: tuple[PointPin, ...] = described(Listed(PointPin), default=())
    frozen: tuple[int, ...] = described(Lanes(), default=())

    @property
    def text(self) -> str:
        """As JSON text, for the database."""
        return json.dumps(nested(self), ensure_ascii=False, sort_keys=True)

    @classmethod
    def of_text(cls, text: str) -> HeldDraft:
        """And back. Raises InvalidValue."""
        return read(cls, json.loads(text), what="draft")
