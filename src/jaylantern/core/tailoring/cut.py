"""A tailored piece of music: which stretches of the recording follow one another, and how they are joined.

    recording   ├────────A────────┤▒▒▒▒▒▒▒▒▒├──────B──────┤
    tailored    ├────────A────────┼──────B──────┤
                             fold ╳ crossfade of FADE_N around it

Outside the crossfades its samples are those of the recording.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Samples
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue

FADE_N = RATE * 30 // 1000
HALF_N = FADE_N // 2

Source = Callable[[int, int], Samples]


class Speed(StrEnum):
    """How a piece that lasts longer or shorter than what it plays was made."""

    NONE = ""
    SPEED = "speed"  # played faster or slower, pitch and all: at most 1 %
    STRETCH = "stretch"  # stretched in time, the pitch kept


@dataclass(frozen=True)
class Piece:
    """A stretch [from_n, to_n) of the recording that lasts `length_n`."""

    from_n: int
    to_n: int
    length_n: int
    speed: Speed = Speed.NONE

    def __post_init__(self) -> None:
        if not 0 <= self.from_n < self.to_n or self.length_n <= 0:
            raise InvalidValue(f"A piece of music must end after it begins; {self.from_n} to {self.to_n} does not.")
        if (self.length_n == self.to_n - self.from_n) != (self.speed is Speed.NONE):
            raise InvalidValue("A piece lasts as long as what it plays unless its speed is changed.")

    @property
    def rate(self) -> float:
        """How many times as fast as the recording it is."""
        return (self.to_n - self.from_n) / self.length_n


@dataclass(frozen=True)
class Cut:
    """Pieces in the order they are heard; for each fold between two the `likeness` of both sides there, −1 to 1."""

    pieces: tuple[Piece, ...]
    likeness: tuple[float, ...] = field(default=())

    def __post_init__(self) -> None:
        if not self.pieces or len(self.likeness) != len(self.pieces) - 1:
            raise InvalidValue("Tailored music has a piece at least, and a likeness for each fold.")

    @property
    def length_n(self) -> int:
        """How long it is."""
        return sum(piece.length_n for piece in self.pieces)

    @cached_property
    def starts_n(self) -> tuple[int, ...]:
        """Where each piece begins, in the tailored music."""
        return (0, *accumulate(piece.length_n for piece in self.pieces[:-1]))

    @property
    def folds(self) -> tuple[tuple[int, int, int], ...]:
        """Each fold: where it is heard, the place of the recording that is left, the place that follows."""
        pairs = zip(self.starts_n[1:], self.pieces, self.pieces[1:], strict=False)
        return tuple((at_n, before.to_n, after.from_n) for at_n, before, after in pairs)

    def between(self, first_n: int, last_n: int) -> Iterator[tuple[Piece, int, int, int]]:
        """What is heard in [first_n, last_n): each piece, where of the recording it begins there, where that is heard,
        how long."""
        for piece, start_n in zip(self.pieces, self.starts_n, strict=True):
            lo, hi = max(start_n, first_n), min(start_n + piece.length_n, last_n)
            if lo < hi:
                yield piece, piece.from_n + round((lo - start_n) * piece.rate), lo, hi - lo

    def heard_at(self, source_n: int, *, near_n: int = 0) -> int | None:
        """Where a sample of the recording is heard, nearest to `near_n` where it is said again; None where it is left
        out."""
        found = [
            start + round((source_n - piece.from_n) / piece.rate)
            for start, piece in zip(self.starts_n, self.pieces, strict=True)
            if piece.from_n <= source_n < piece.to_n
        ]
        return min(found, key=lambda at: abs(at - near_n), default=None)

    def heard(self, source_n: NDArray[np.int64]) -> NDArray[np.int64]:
        """Where samples of the recording are heard, rising; each as often as it is said."""
        found = [
            start + np.round((source_n[(source_n >= p.from_n) & (source_n < p.to_n)] - p.from_n) / p.rate)
            for start, p in zip(self.starts_n, self.pieces, strict=True)
        ]
        return np.concatenate(found).astype(np.int64)

    def played_at(self, at_n: int) -> int:
        """Which sample of the recording is heard at a sample of the tailored music; before and after it, as if its
        first and last piece went on."""
        number = max(0, bisect_right(self.starts_n, at_n) - 1)
        piece = self.pieces[number]
        return piece.from_n + round((at_n - self.starts_n[number]) * piece.rate)


def fold_gains(likeness: float, first_n: int, last_n: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Gains out and in for samples [first_n, last_n) of a crossfade of FADE_N.

    Linear, over √(out² + in² + 2 · likeness · out · in): equal gain where both sides are the same, equal power where
    they have nothing to do with each other (common practice).
    """
    x = (np.arange(first_n, last_n) + 0.5) / FADE_N
    r = float(np.clip(likeness, 0.0, 1.0))
    power = np.sqrt(x * x + (1 - x) ** 2 + 2 * r * x * (1 - x))
    return ((1 - x) / power).astype(np.float32), (x / power).astype(np.float32)


def assembled(cut: Cut, read: Callable[[int, int, int], Samples], start_n: int, stop_n: int, channels: int) -> Samples:
    """Samples [start_n, stop_n) of tailored music, shape (n, channels), the same whatever windows are asked for.

    `read(k, first_n, last_n)` gives what piece k plays at [first_n, last_n) of the tailored music, also up to HALF_N
    before it begins and after it ends.
    """
    alone = _untouched(cut, start_n, stop_n)
    if alone is not None:
        return read(alone, start_n, stop_n)
    out = np.zeros((stop_n - start_n, channels), np.float32)
    starts, last = cut.starts_n, len(cut.pieces) - 1
    for k, piece in enumerate(cut.pieces):
        begin, end = starts[k], starts[k] + piece.length_n
        lo = max(start_n, begin - HALF_N if k else begin)
        hi = min(stop_n, end + HALF_N if k < last else end)
        if lo >= hi:
            continue
        sound = np.array(read(k, lo, hi))
        if k and lo < begin + HALF_N:
            _fade(
                sound, fold_gains(cut.likeness[k - 1], lo - begin + HALF_N, min(hi, begin + HALF_N) - begin + HALF_N)[1]
            )
        if k < last and hi > end - HALF_N:
            gains = fold_gains(cut.likeness[k], max(lo, end - HALF_N) - end + HALF_N, hi - end + HALF_N)[0]
            _fade(sound[len(sound) - len(gains) :], gains)
        out[lo - start_n : hi - start_n] += sound
    return out


def _untouched(cut: Cut, start_n: int, stop_n: int) -> int | None:
    """The piece that alone is heard in a window; None where a fold touches it."""
    k = bisect_right(cut.starts_n, start_n) - 1
    begin, end = cut.starts_n[k], cut.starts_n[k] + cut.pieces[k].length_n
    first = begin + HALF_N if k else begin
    last = end - HALF_N if k < len(cut.pieces) - 1 else end
    return k if first <= start_n and stop_n <= last else None


def _fade(sound: Samples, gains: NDArray[np.float32]) -> None:
    sound[: len(gains)] *= gains[:, None]


def of_recording(cut: Cut, source: Source) -> Callable[[int, int, int], Samples]:
    """What `assembled` reads of pieces that play the recording as it is; before its first sample there is silence."""
    starts = cut.starts_n

    def played(k: int, first_n: int, last_n: int) -> Samples:
        """What piece k plays there."""
        shift = cut.pieces[k].from_n - starts[k]
        begin = max(0, first_n + shift)
        sound = source(begin, max(begin, last_n + shift))
        missing = last_n - first_n - len(sound)
        return np.pad(sound, ((missing, 0), (0, 0))) if missing else sound

    return played
