"""A gain line: what a person draws on a clip by hand, in the clip's media time. No recomputation touches it.

dB  +3        o────────o            its gain is added to that of ducking, leveller, clip and lane;
     0  ──────o        o──────      before the first point and after the last it stays as it is there
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.core.timeline.kinds import LARGEST_N, Kind, refused
from jaylantern.core.timeline.settings import Ramp
from jaylantern.errors import InvalidValue

LINE_LIMITS_DB = (-60.0, 24.0)
MOST_POINTS = 20_000


@dataclass(frozen=True)
class LinePoint:
    """A point: media time in samples, gain in dB, and the course of the gain to the next point."""

    at_n: int
    gain_db: float
    ramp: Ramp = Ramp.DB


@dataclass(frozen=True)
class GainLine:
    """Points in order of time, each at a time of its own; none: 0 dB throughout. Raises InvalidValue."""

    points: tuple[LinePoint, ...] = ()

    def __post_init__(self) -> None:
        low, high = LINE_LIMITS_DB
        if len(self.points) > MOST_POINTS:
            raise InvalidValue(f"A gain line has at most {MOST_POINTS} points; {len(self.points)} are too many.")
        for before, point in zip(self.points, self.points[1:], strict=False):
            if before.at_n >= point.at_n:
                raise InvalidValue("The points of a gain line must be in order of time, each at a time of its own.")
        for point in self.points:
            if not low <= point.gain_db <= high:
                raise InvalidValue(f"A gain line lies from {low:g} to {high:g} dB; {point.gain_db:g} does not.")
            if not -LARGEST_N <= point.at_n <= LARGEST_N:
                raise InvalidValue("A point of a gain line lies within 24 hours of the beginning of its medium.")

    def __bool__(self) -> bool:
        return bool(self.points)

    def shifted(self, by_n: int) -> GainLine:
        """The same line so much later in media time."""
        if not by_n or not self.points:
            return self
        return GainLine(tuple(replace(point, at_n=point.at_n + by_n) for point in self.points))

    @property
    def plain(self) -> list[list[Any]]:
        """As lists of time, dB and, where it is not straight in dB, the word of the ramp."""
        return [
            [point.at_n, point.gain_db] if point.ramp is Ramp.DB else [point.at_n, point.gain_db, str(point.ramp)]
            for point in self.points
        ]


NO_LINE = GainLine()


@dataclass(frozen=True)
class LineKind(Kind):
    """A gain line; in documents a list of points, in the database its text."""

    @property
    def script(self) -> str:
        """A list of points."""
        return "any[][]"

    def checked(self, value: object, what: str) -> GainLine:
        """From its list."""
        if not isinstance(value, (list, tuple)):
            raise refused(what, value, "a list of points: time in samples, gain in dB, ramp")
        return GainLine(tuple(_point(each, what) for each in value))

    def plain(self, value: GainLine) -> list[list[Any]]:
        """As a list."""
        return value.plain

    def stored(self, value: GainLine) -> str:
        """As JSON text."""
        return json.dumps(value.plain, separators=(",", ":"))

    def restored(self, value: Any) -> GainLine:
        """From JSON text."""
        return _kept(json.loads(value)) if value != "[]" else NO_LINE


def _kept(points: list[Sequence[Any]]) -> GainLine:
    return GainLine(tuple(LinePoint(each[0], each[1], Ramp(each[2]) if len(each) > 2 else Ramp.DB) for each in points))


def _point(value: object, what: str) -> LinePoint:
    """A point from outside. Raises InvalidValue."""
    if not isinstance(value, (list, tuple)) or not 2 <= len(value) <= 3:
        raise refused(what, value, "a list of points: time in samples, gain in dB, ramp")
    at_n, gain_db = value[:2]
    if isinstance(at_n, bool) or not isinstance(at_n, int):
        raise refused(what, at_n, "a time in whole samples")
    if isinstance(gain_db, bool) or not isinstance(gain_db, (int, float)) or gain_db != gain_db:
        raise refused(what, gain_db, "a gain in dB")
    try:
        ramp = Ramp(str(value[2])) if len(value) == 3 else Ramp.DB
    except ValueError:
        raise refused(what, value[2], f"one of {', '.join(Ramp)}") from None
    return LinePoint(at_n, float(gain_db), ramp)


LINE = LineKind()
