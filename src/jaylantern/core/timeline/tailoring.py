"""A tailored medium: music made of pieces of a recording, with the wish it answers and what its end follows."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from jaylantern.core.tailoring.cut import Cut, Piece, Speed
from jaylantern.core.tailoring.wish import Span, Wish
from jaylantern.core.timeline.kinds import LENGTH, TIME, Choice, Flag, Integer, Kind, Line, Listed, Number, refused
from jaylantern.errors import InvalidValue

MOST_PIECES = 500
PIECES = Number(0.0, 100.0, "", "Choose a value in between.")
SHARE = Number(-1.0, 1.0, "")


class Until(StrEnum):
    """What the end of a tailored clip follows when the film is cut anew."""

    LENGTH = ""  # nothing: it has its length
    PICTURE = "picture"
    TALK = "talk"
    RANGE = "range"  # from the in point to the out point
    MARKER = "marker"  # the first one after it begins


@dataclass(frozen=True)
class SpanKind(Kind):
    """A stretch of a recording, or a fold: a list of two times in samples."""

    @property
    def script(self) -> str:
        """An array of two numbers."""
        return "[number, number]"

    def checked(self, value: object, what: str) -> Span:
        """As a pair."""
        if not isinstance(value, (list, tuple)) or len(value) != 2:
            raise refused(what, value, "a list of two times in samples", "Choose the stretch again.")
        first, last = (TIME.checked(each, what) for each in value)
        return first, last

    def plain(self, value: Span) -> list[int]:
        """As a list."""
        return list(value)


SPANS = Listed(SpanKind(), most=200, remedy="Take some of them back.")
WISH: dict[str, Kind] = {
    "length_n": LENGTH,
    "pieces": PIECES,
    "exact": Flag(),
    "keep_start": Flag(),
    "keep_end": Flag(),
    "protect": SPANS,
    "leave_out": SPANS,
    "chosen": SPANS,
    "forbidden": SPANS,
}


@dataclass(frozen=True)
class Tailoring:
    """`source`: the content hash of the recording."""

    source: str
    wish: Wish
    cut: Cut
    until: Until = Until.LENGTH

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON."""
        return {
            "source": self.source,
            "until": str(self.until),
            "wish": {
                name: [list(span) for span in value] if isinstance(value, tuple) else value
                for name, value in vars(self.wish).items()
            },
            "pieces": [[p.from_n, p.to_n, p.length_n, str(p.speed)] for p in self.cut.pieces],
            "likeness": list(self.cut.likeness),
        }

    @property
    def sha256(self) -> str:
        """What tells it from any other."""
        return hashlib.sha256(f"tailored {self.text}".encode()).hexdigest()

    @property
    def text(self) -> str:
        """As JSON text, the same for the same."""
        return json.dumps(self.plain, sort_keys=True)

    @property
    def stretched(self) -> bool:
        """Is it the whole recording stretched in time, not folded?"""
        return any(piece.speed is Speed.STRETCH for piece in self.cut.pieces)

    @classmethod
    def of(cls, plain: Mapping[str, Any], what: str = "tailored") -> Tailoring:
        """And back, everything checked. Raises InvalidValue."""
        source = Line(64).checked(plain.get("source"), f"{what}.source")
        wish, pieces, likeness = plain.get("wish"), plain.get("pieces"), plain.get("likeness")
        if len(source) != 64 or not isinstance(wish, Mapping) or not isinstance(pieces, list):
            raise InvalidValue(f"{what} does not say what it is made of.")
        if not isinstance(likeness, list) or not 0 < len(pieces) <= MOST_PIECES:
            raise InvalidValue(f"{what} must have 1 to {MOST_PIECES} pieces.")
        shares = tuple(SHARE.checked(each, f"{what}.likeness") for each in likeness)
        until = Until(Choice(Until).checked(plain.get("until", ""), f"{what}.until"))
        return cls(
            source, _wish(wish, f"{what}.wish"), Cut(tuple(_piece(each, what) for each in pieces), shares), until
        )


def _wish(plain: Mapping[str, Any], what: str) -> Wish:
    values: dict[str, Any] = {
        name: kind.checked(plain[name], f"{what}.{name}") for name, kind in WISH.items() if name in plain
    }
    if "length_n" not in values:
        raise InvalidValue(f"{what}.length_n is not there.")
    made: dict[str, Any] = {name: tuple(each) if isinstance(each, list) else each for name, each in values.items()}
    return Wish(**made)


def _piece(plain: object, what: str) -> Piece:
    if not isinstance(plain, list) or len(plain) != 4:
        raise InvalidValue(f"{what}: a piece is where it begins, where it ends, how long it lasts, and its speed.")
    from_n, to_n, length_n = (Integer(0).checked(each, f"{what}.pieces") for each in plain[:3])
    return Piece(from_n, to_n, length_n, Speed(Choice(Speed).checked(plain[3], f"{what}.pieces")))


@dataclass(frozen=True)
class TailoringKind(Kind):
    """What a tailored medium is made of, as an object; in the database as its text."""

    def checked(self, value: object, what: str) -> Tailoring:
        """From its object."""
        if not isinstance(value, Mapping):
            raise InvalidValue(f"{what} must be an object.")
        return Tailoring.of(value, what)

    def plain(self, value: Tailoring) -> dict[str, Any]:
        """As an object."""
        return value.plain

    def stored(self, value: Tailoring) -> str:
        """As JSON text."""
        return value.text

    def restored(self, value: Any) -> Tailoring:
        """From JSON text."""
        return Tailoring.of(json.loads(value))
