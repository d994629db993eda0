"""Pins: what a person corrected by hand. They belong to media and media time, so that they survive every recut.

media time   ──────[speech pin]─────|apart|────[···joined···]──────
a passage    [ dip pin: its own amount, times, or no dip at all ]
the music    ─────────o point pin──────────────
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType
from typing import Any

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import ID, LARGEST_N, LINK, TIME, Choice, Flag, Integer, Kind, Maybe, Number
from jaylantern.core.timeline.settings import NAMED, SHAPING, DuckBy, Settings
from jaylantern.errors import InvalidValue

WISHES = ("wish_lu", "wish_sii")
BY = {"amount_db": DuckBy.AMOUNT, **dict.fromkeys(WISHES, DuckBy.CLEARANCE)}  # what of its own says how deep a dip is
POINT_LIMITS_DB = (-90.0, 12.0)


class Heard(StrEnum):
    """What a speech pin says of its stretch."""

    SPEECH = "speech"
    NOT_SPEECH = "not speech"
    APART = "apart"  # here one passage ends and another begins, however short the pause
    JOINED = "joined"  # this pause is bridged, however long
    BEGINS = "begins"  # a passage begins just where this does, whatever is heard around it
    ENDS = "ends"  # a passage ends just where this does, whatever is heard around it


@noun
class SpeechPin:
    """A correction of what counts, over media [start_n, stop_n). Later pins count before earlier ones."""

    id: int = described(ID)
    media_id: int = described(ID)
    heard: Heard = described(Choice(Heard))
    start_n: int = described(TIME)
    stop_n: int = described(TIME)

    def __post_init__(self) -> None:
        if not 0 <= self.start_n < self.stop_n:
            raise InvalidValue(f"A stretch must end after it begins; {self.start_n} to {self.stop_n} does not.")

    @property
    def edge_n(self) -> int | None:
        """Where it holds what comes before and after apart; None where it does not."""
        if self.heard is Heard.ENDS:
            return self.stop_n
        return self.start_n if self.heard in (Heard.APART, Heard.BEGINS) else None


@dataclass(frozen=True)
class Own:
    """What a dip has of its own: some of `SHAPING`, or no dip at all. What is not named follows the project; an amount
    of its own means that it goes by that, a clearance (`WISHES`) that it goes by clearance."""

    values: Mapping[str, Any] = field(default_factory=dict)
    none: bool = False

    def __post_init__(self) -> None:
        unknown = [name for name in self.values if name not in SHAPING]
        if unknown:
            raise InvalidValue(f"A dip can't have a {str(unknown[0])[:40]!r} of its own.")
        checked = {name: NAMED[name].checked(value) for name, value in self.values.items()}
        object.__setattr__(self, "values", MappingProxyType(dict(sorted(checked.items()))))

    def __hash__(self) -> int:
        return hash((tuple(self.values.items()), self.none))

    @property
    def empty(self) -> bool:
        """Does it say nothing?"""
        return not self.values and not self.none

    def over(self, settings: Settings) -> Settings:
        """The settings with what is its own."""
        if not self.values:
            return settings
        by = next((kind for name, kind in BY.items() if name in self.values), settings.duck_by)
        return settings.changed({**self.values, "duck_by": by})

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON."""
        return {**self.values, **({"none": True} if self.none else {})}

    @classmethod
    def of(cls, plain: Mapping[str, Any]) -> Own:
        """And back. Raises InvalidValue."""
        return cls({name: value for name, value in plain.items() if name != "none"}, bool(plain.get("none", False)))

    def changed(self, values: Mapping[str, Any]) -> Own:
        """With some values of its own more, or (None) fewer. Of an amount and a clearance the one set last counts."""
        merged = {name: value for name, value in {**self.values, **values}.items() if value is not None}
        said = [name for name in BY if values.get(name) is not None]
        for name in BY:
            if said and name != said[-1]:
                merged.pop(name, None)
        return Own(merged, self.none)


NOTHING_OWN = Own()


@dataclass(frozen=True)
class OwnKind(Kind):
    """What a dip has of its own, as an object; in the database as its text."""

    def checked(self, value: object, what: str) -> Own:
        """From its object."""
        if not isinstance(value, Mapping):
            raise InvalidValue(f"{what} must be an object.")
        return Own.of(value)

    def plain(self, value: Own) -> dict[str, Any]:
        """As an object."""
        return value.plain

    def stored(self, value: Own) -> str:
        """As JSON text."""
        return json.dumps(value.plain, sort_keys=True)

    def restored(self, value: Any) -> Own:
        """From JSON text."""
        return Own.of(json.loads(value))


OWN = OwnKind()
MEDIA_TIME = Integer(-LARGEST_N, LARGEST_N, "samples")  # where something was, also before a medium's beginning


@noun
class DipPin:
    """What the dip under a passage has of its own; the passage is known by a stretch of media it holds."""

    id: int = described(ID)
    media_id: int = described(ID)
    start_n: int = described(TIME)
    stop_n: int = described(TIME)
    own: Own = described(OWN)


@noun
class PointPin:
    """A point of the gain curve set by hand, in the media time of a music clip and all that was split off it.

    `root` is the clip it was set on. `gain_db` None: the point computed there is taken away. `instead_n` is where the
    computed point lies that it takes the place of, None for one that was added; such a one holds only while the curve
    is as it was there: `dipped` or not.
    """

    id: int = described(ID)
    root: int = described(LINK)
    at_n: int = described(MEDIA_TIME)
    gain_db: float | None = described(Maybe(Number(*POINT_LIMITS_DB, "dB")))
    instead_n: int | None = described(Maybe(MEDIA_TIME), default=None)
    dipped: bool = described(Flag(), default=False)

    def __post_init__(self) -> None:
        low, high = POINT_LIMITS_DB
        if self.gain_db is not None and not low <= self.gain_db <= high:
            raise InvalidValue(f"A point lies from {low:g} to {high:g} dB; {self.gain_db:g} does not.")
        if self.gain_db is None and self.instead_n is None:
            raise InvalidValue("A point that is taken away must say which.")


PINS: dict[str, type[Any]] = {  # the fields of a project that hold pins, and of which kind
    "speech_pins": SpeechPin,
    "dip_pins": DipPin,
    "point_pins": PointPin,
}
