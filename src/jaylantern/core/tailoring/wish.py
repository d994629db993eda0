"""What is wished of a tailored piece of music, and the ways through the music that answer it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from jaylantern.core.signal.timebase import RATE, n_to_seconds
from jaylantern.errors import InvalidValue

Span = tuple[int, int]  # samples of the recording, half-open
SHORTEST_N, LONGEST_N = RATE, 24 * 3600 * RATE
FEWEST, MOST = 0.0, 100.0
FADE_OUT_N = 3 * RATE  # of music whose end is not kept


@dataclass(frozen=True)
class Wish:
    """A length in samples and how to come to it.

    `pieces` 0 (few long ones) to 100 (many short ones). `exact`: to the sample, by at most 1 % of speed. Stretches of
    the recording that are `protect`ed stay whole, those `left_out` are not heard. A fold is (place left, place that
    follows): `chosen` ones are kept where the length allows, `forbidden` ones are not used.
    """

    length_n: int
    pieces: float = 40.0
    exact: bool = False
    keep_start: bool = True
    keep_end: bool = True
    protect: tuple[Span, ...] = field(default=())
    leave_out: tuple[Span, ...] = field(default=())
    chosen: tuple[Span, ...] = field(default=())
    forbidden: tuple[Span, ...] = field(default=())

    def __post_init__(self) -> None:
        if not SHORTEST_N <= self.length_n <= LONGEST_N:
            raise InvalidValue(
                f"Music can be tailored to lengths from 1 s to 24 hours; {n_to_seconds(self.length_n):.2f} s is not."
            )
        if not FEWEST <= self.pieces <= MOST:
            raise InvalidValue(f"Few or many pieces goes from 0 to 100; {self.pieces:g} does not.")
        for start_n, stop_n in (*self.protect, *self.leave_out):
            if not 0 <= start_n < stop_n:
                raise InvalidValue(
                    f"A stretch must end after it begins; {n_to_seconds(start_n):.2f} to {n_to_seconds(stop_n):.2f} s"
                    " does not."
                )


def promised(wish: Wish, heard: Sequence[Span], length_n: int) -> tuple[bool, bool]:
    """Of stretches of a recording, `length_n` long, that are heard one after another: is nothing heard that is left
    out, and everything that is protected heard whole?"""
    left = not any(a < stop and start < b for start, stop in wish.leave_out for a, b in heard)
    kept = all(any(a <= start and min(stop, length_n) <= b for a, b in heard) for start, stop in wish.protect)
    return left, kept


@dataclass(frozen=True)
class Way:
    """A way through the places of a grid: `folds` (place left, place that follows) by number, in the order heard;
    from `start_n` of the recording to `stop_n`; `length_n` before folds are set to the sample."""

    folds: tuple[tuple[int, int], ...]
    start_n: int
    stop_n: int
    length_n: int
    cost: float
