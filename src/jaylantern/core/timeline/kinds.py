"""Kinds of values: what a value from outside may be, with its unit and limits, and the forms it takes elsewhere.

The fields of every noun (`described.py`) and the parameters of every command are described by these, so that a value is
checked in one place and an error always names the value, the limit and the remedy:

    Number(-90, 24, "dB")   99   →   gain_db must be a number from -90 to 24 dB; '99' is not. Choose one in between.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from jaylantern.errors import InvalidValue

LARGEST_N = 48_000 * 3600 * 24  # the timeline ends after a day
LARGEST_ID = 1 << 60
MOST_LISTED = 200_000
FIGURES = len(str(LARGEST_ID))
SHOWN = 40  # characters of a wrong value that an error shows


def refused(what: str, value: object, limit: str, remedy: str = "") -> InvalidValue:
    """The error for a value that is not what it must be: what it is, its limit, the value, and what to do about it."""
    return InvalidValue(f"{what} must be {limit}; {_shown(value)!r} is not. {remedy}".rstrip())


def _shown(value: object) -> str:
    """The beginning of a wrong value."""
    try:
        return str(value)[:SHOWN]
    except ValueError:  # an integer of more figures than Python writes
        return "a number of thousands of figures"


def number_in(text: str) -> int | None:
    """The number that a text of figures names, as numbers of things stand in addresses and as names in objects; None
    for any other text, also one longer than any of our numbers."""
    if not (text.isascii() and text.isdecimal() and len(text) <= FIGURES):
        return None
    number = int(text)
    return number if number <= LARGEST_ID else None


def _finite(value: float) -> bool:
    """Is it a number that a float can hold?"""
    try:
        return math.isfinite(value)
    except OverflowError:  # an integer beyond all floats
        return False


@dataclass(frozen=True)
class Kind:
    """What a value may be. This one is anything: it is checked where it is used."""

    @property
    def script(self) -> str:
        """Its type in the page's scripts, as JSDoc has it."""
        return "any"

    def checked(self, value: object, what: str) -> Any:
        """The value as the program keeps it. Raises InvalidValue, which calls it `what`."""
        return value

    def plain(self, value: Any) -> Any:
        """The value as it stands in JSON."""
        return value

    def stored(self, value: Any) -> Any:
        """The value as it stands in a column of the database."""
        return self.plain(value)

    def restored(self, value: Any) -> Any:
        """The value from its column; what stands there was checked before it was written."""
        return value


@dataclass(frozen=True)
class Integer(Kind):
    """An integer within limits, in a unit."""

    low: int
    high: int = LARGEST_N
    unit: str = ""
    remedy: str = "Choose one in between."
    words: str = ""  # its limits in words, where figures say little

    @property
    def script(self) -> str:
        """A number."""
        return "number"

    def checked(self, value: object, what: str) -> int:
        """The integer; true and false are none."""
        if isinstance(value, bool) or not isinstance(value, int) or not self.low <= value <= self.high:
            limit = self.words or f"a whole number from {self.low} to {self.high} {self.unit}".rstrip()
            raise refused(what, value, limit, self.remedy)
        return value


@dataclass(frozen=True)
class Number(Kind):
    """A finite number within limits, in a unit."""

    low: float
    high: float
    unit: str = ""
    remedy: str = "Choose one in between."

    @property
    def script(self) -> str:
        """A number."""
        return "number"

    def checked(self, value: object, what: str) -> float:
        """The number as a float; true and false are none."""
        if (
            isinstance(value, bool)
            or not isinstance(value, (int, float))
            or not _finite(value)
            or not self.low <= value <= self.high
        ):
            limit = f"a number from {self.low:g} to {self.high:g} {self.unit}".rstrip()
            raise refused(what, value, limit, self.remedy)
        return float(value)


@dataclass(frozen=True)
class Flag(Kind):
    """True or false."""

    @property
    def script(self) -> str:
        """A boolean."""
        return "boolean"

    def checked(self, value: object, what: str) -> bool:
        """The flag."""
        if not isinstance(value, bool):
            raise refused(what, value, "true or false")
        return value

    def stored(self, value: bool) -> int:
        """0 or 1."""
        return int(value)

    def restored(self, value: Any) -> bool:
        """The flag of 0 or 1."""
        return bool(value)


@dataclass(frozen=True)
class Choice(Kind):
    """One of the words of a kind."""

    words: type[StrEnum]
    remedy: str = "Choose one of them."

    @property
    def script(self) -> str:
        """The words."""
        return "|".join(f'"{word}"' for word in self.words)

    def checked(self, value: object, what: str) -> StrEnum:
        """The member; a word that a member had in an older version is known, too."""
        try:
            return self.words(str(value))
        except ValueError:
            raise refused(what, value, f"one of {', '.join(self.words)}", self.remedy) from None

    def plain(self, value: StrEnum) -> str:
        """Its word."""
        return str(value)

    def restored(self, value: Any) -> StrEnum:
        """The member of a word."""
        return self.words(value)


@dataclass(frozen=True)
class Line(Kind):
    """A line of text: printable, spaces made single, cut to so many characters; with `needed`, not empty."""

    most: int = 80
    needed: bool = False

    @property
    def script(self) -> str:
        """A string."""
        return "string"

    def checked(self, value: object, what: str) -> str:
        """The text, tidied."""
        if not isinstance(value, str):
            raise refused(what, value, "text")
        tidy = " ".join("".join(c if c.isprintable() else " " for c in value).split())[: self.most]
        if self.needed and not tidy:
            raise refused(what, value, f"text of 1 to {self.most} characters", "Give it a name.")
        return tidy


@dataclass(frozen=True)
class Maybe(Kind):
    """A value of a kind, or none."""

    kind: Kind

    @property
    def script(self) -> str:
        """Its type or null."""
        return f"{self.kind.script}|null"

    def checked(self, value: object, what: str) -> Any:
        """The value; None for null."""
        return None if value is None else self.kind.checked(value, what)

    def plain(self, value: Any) -> Any:
        """The value, null for None."""
        return None if value is None else self.kind.plain(value)

    def stored(self, value: Any) -> Any:
        """The value, NULL for None."""
        return None if value is None else self.kind.stored(value)

    def restored(self, value: Any) -> Any:
        """The value, None for NULL."""
        return None if value is None else self.kind.restored(value)


@dataclass(frozen=True)
class Listed(Kind):
    """A list of values of a kind."""

    kind: Kind
    least: int = 0
    most: int = MOST_LISTED
    remedy: str = ""

    @property
    def script(self) -> str:
        """An array."""
        return f"({self.kind.script})[]"

    def checked(self, value: object, what: str) -> list[Any]:
        """The values, each checked."""
        if not isinstance(value, (list, tuple)) or not self.least <= len(value) <= self.most:
            raise refused(what, value, f"a list of {self.least} to {self.most}", self.remedy)
        return [self.kind.checked(each, f"{what}, number {i}") for i, each in enumerate(value, 1)]


@dataclass(frozen=True)
class Ids(Kind):
    """Numbers of things, each once, in the order they were named."""

    remedy: str = "Choose them again."
    most: int = 20_000

    @property
    def script(self) -> str:
        """An array of numbers."""
        return "number[]"

    def checked(self, value: object, what: str) -> list[int]:
        """The numbers."""
        if not isinstance(value, list) or len(value) > self.most or any(type(each) is not int for each in value):
            raise refused(what, value, f"a list of at most {self.most} numbers", self.remedy)
        return list(dict.fromkeys(value))


@dataclass(frozen=True)
class Values(Kind):
    """An object whose values are of one kind, by names; at least so many of them."""

    kind: Kind
    least: int = 0
    remedy: str = ""

    @property
    def script(self) -> str:
        """A record."""
        return f"Record<string, {self.kind.script}>"

    def checked(self, value: object, what: str) -> dict[str, Any]:
        """The object, each value checked."""
        if not isinstance(value, Mapping) or not self.least <= len(value) <= MOST_LISTED:
            limit = "an object of names with values" + (", and not an empty one" if self.least else "")
            raise refused(what, value, limit, self.remedy)
        return {str(name): self.kind.checked(each, f"{what}, {str(name)[:SHOWN]}") for name, each in value.items()}


@dataclass(frozen=True)
class Thing(Kind):
    """Something made here that never comes from outside: an instance of a class."""

    of: type[Any]

    @property
    def script(self) -> str:
        """The page has none."""
        return "never"

    def checked(self, value: object, what: str) -> Any:
        """Itself."""
        if not isinstance(value, self.of):
            raise refused(what, type(value).__name__, f"a {self.of.__name__} that was made here")
        return value


TIME = Integer(0, LARGEST_N, "samples", "Choose a time on the timeline.", "a time from 0 to 24 hours, in samples")
MOVE = Integer(-LARGEST_N, LARGEST_N, "samples")
LENGTH = Integer(1, LARGEST_N, "samples", "Choose a shorter one.", "a length of 1 sample to 24 hours, in samples")
ID = Integer(1, LARGEST_ID, remedy="It may have gone: choose it again.", words="the number of something that is there")
LINK = Integer(0, LARGEST_ID)  # a number that may stand for nothing, or for something that has gone
