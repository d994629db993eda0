"""Care: what is done to a voice before it is mixed, part by part, each with its own switch. Off by default.

low cut → presence → hush → softer s, fewer breaths → evenness
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any, TypeAlias

from jaylantern.core.timeline.kinds import LARGEST_N, Kind, Number, refused
from jaylantern.errors import InvalidValue


@dataclass(frozen=True)
class Part:
    """One thing that can be done to a voice: its switch and its amount in Care, its word, unit and limits."""

    name: str
    word: str
    unit: str
    low: float
    high: float
    step: float
    usual: float
    about: str

    @property
    def amount(self) -> Number:
        """What its amount may be."""
        return Number(self.low, self.high, self.unit)


PARTS = (
    Part("low_cut", "Low cut", "Hz", 30, 250, 5, 80, "rumble, handling, popped p: 12 dB an octave under the frequency"),
    Part("presence", "Presence", "dB", -9, 9, 0.5, 2, "a broad lift, or a cut, between 2 and 5 kHz"),
    Part("hush", "Hush", "dB", 1, 24, 1, 10, "noise between and under the words, lowered by so much"),
    Part("evenness", "Evenness", "dB", 1, 12, 0.5, 4, "loud words lowered by at most so much, then made up for"),
    Part("soft_s", "Softer s", "dB", 1, 15, 0.5, 5, "hiss of s and sh over 4 kHz, lowered by so much"),
    Part("breaths", "Fewer breaths", "dB", 1, 24, 1, 9, "breaths between words, lowered by so much"),
)
BY_NAME = {part.name: part for part in PARTS}
MOST_SPARED = 5000


@dataclass(frozen=True)
class Care:
    """The parts that are switched on, each with its amount (None: off), and the places, by the media time at which they
    begin, that softer s and fewer breaths leave alone. Raises InvalidValue."""

    low_cut: float | None = None
    presence: float | None = None
    hush: float | None = None
    evenness: float | None = None
    soft_s: float | None = None
    breaths: float | None = None
    spared: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        for part in PARTS:
            value = getattr(self, part.name)
            if value is not None:
                object.__setattr__(self, part.name, part.amount.checked(value, part.word))
        if len(self.spared) > MOST_SPARED:
            raise InvalidValue(f"At most {MOST_SPARED} places can be spared.")
        object.__setattr__(self, "spared", tuple(sorted(set(self.spared))))

    @property
    def on(self) -> bool:
        """Does it do anything?"""
        return any(getattr(self, part.name) is not None for part in PARTS)

    @property
    def plain(self) -> dict[str, Any]:
        """What is on, as an object."""
        found = {part.name: getattr(self, part.name) for part in PARTS if getattr(self, part.name) is not None}
        return {**found, **({"spared": list(self.spared)} if self.spared else {})}

    @property
    def text(self) -> str:
        """The same as JSON text, always the same for the same."""
        return json.dumps(self.plain, sort_keys=True, separators=(",", ":"))

    @classmethod
    def of(cls, plain: Mapping[str, Any]) -> Care:
        """And back. Raises InvalidValue."""
        known = {each.name for each in fields(cls)}
        unknown = [name for name in plain if name not in known]
        if unknown:
            raise InvalidValue(f"Nothing called {str(unknown[0])[:40]!r} can be done to a voice.")
        spared = plain.get("spared", [])
        if not isinstance(spared, (list, tuple)) or any(
            isinstance(n, bool) or not isinstance(n, int) or not 0 <= n <= LARGEST_N for n in spared
        ):
            raise InvalidValue("Places that are spared must be a list of media times in samples.")
        values = {name: value for name, value in plain.items() if name != "spared"}
        return cls(**values, spared=tuple(spared))


NO_CARE = Care()
Source: TypeAlias = int | tuple[int, Care]  # a medium by number, alone or with what is done to its sound


@dataclass(frozen=True)
class CareKind(Kind):
    """Care as an object of what is on; in the database as its text."""

    @property
    def script(self) -> str:
        """An object."""
        return "Record<string, any>"

    def checked(self, value: object, what: str) -> Care:
        """From its object."""
        if not isinstance(value, Mapping):
            raise refused(what, value, "an object of what is done to a voice")
        return Care.of(value)

    def plain(self, value: Care) -> dict[str, Any]:
        """As an object."""
        return value.plain

    def stored(self, value: Care) -> str:
        """As JSON text."""
        return value.text

    def restored(self, value: Any) -> Care:
        """From JSON text."""
        return Care.of(json.loads(value)) if value != "{}" else NO_CARE


CARE = CareKind()
