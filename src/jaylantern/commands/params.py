"""Values from outside, checked one by one. All raise InvalidValue with the value, the limit and the remedy."""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any, TypeVar

from jaylantern.core.edit.draft import LARGEST_N
from jaylantern.core.timeline.clip import GAIN_LIMITS_DB
from jaylantern.errors import InvalidValue

MOST_CLIPS = 20_000
E = TypeVar("E", bound=StrEnum)


def whole(value: object, what: str, *, low: int, high: int = LARGEST_N) -> int:
    """A whole number within limits."""
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise InvalidValue(f"{what} must be a whole number from {low} to {high}; {str(value)[:40]!r} is not.")
    return value


def time_n(values: Mapping[str, Any], name: str = "at_n") -> int:
    """A time on the timeline, in samples."""
    value = values.get(name)
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= LARGEST_N:
        raise InvalidValue(f"A time on the timeline lies anywhere from 0 to 24 hours; {str(value)[:40]!r} does not.")
    return value


def by_n(values: Mapping[str, Any], name: str = "by_n") -> int:
    """A difference in time, in samples."""
    return whole(values.get(name), "A move in samples", low=-LARGEST_N)


def clip_ids(values: Mapping[str, Any], name: str = "clip_ids") -> list[int]:
    """The numbers of clips."""
    found = values.get(name)
    if not isinstance(found, list) or len(found) > MOST_CLIPS or any(type(each) is not int for each in found):
        raise InvalidValue("Say which clips, as a list of their numbers.")
    return list(dict.fromkeys(found))


def gain_db(value: object, what: str = "A gain", *, low: float = GAIN_LIMITS_DB[0]) -> float:
    """A gain in dB."""
    high = GAIN_LIMITS_DB[1]
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= value <= high:
        raise InvalidValue(f"{what} goes from {low:g} to {high:g} dB; {str(value)[:40]!r} is not in there.")
    return float(value)


def threshold_db(value: object) -> float:
    """A threshold in dBFS."""
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not GAIN_LIMITS_DB[0] <= value <= 0:
        raise InvalidValue(
            f"A threshold goes from {GAIN_LIMITS_DB[0]:g} to 0 dBFS; {str(value)[:40]!r} is not in there."
        )
    return float(value)


def dbfs(value: float) -> str:
    """A level in words."""
    return f"{value:g} dBFS"


def one_of(kind: type[E], value: object, what: str) -> E:
    """A member of a choice by its word."""
    try:
        return kind(str(value))
    except ValueError:
        raise InvalidValue(f"{what} is one of {', '.join(kind)}; {str(value)[:40]!r} is not.") from None


def line(value: object, *, otherwise: str = "") -> str:
    """One line of text of at most 80 characters."""
    return " ".join(str(value or "").split())[:80] or otherwise
