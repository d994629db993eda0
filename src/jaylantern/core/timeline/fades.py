"""Fades: how a clip's level rises at its beginning and falls at its end, as amplitude over x, the share done.

straight  g = x                   amplitude straight; two of them cross at equal amplitude (g + g' = 1)
round     g = sin(πx/2)           two of them cross at equal power (g² + g'² = 1): right for unlike sounds
eased     g = (1 − cos πx)/2      soft at both ends; equal amplitude: right for like sounds
late      g = (10^(3x) − 1)/999   nearly straight in dB over 60 dB: stays low for long, then comes quickly

A fade out is the mirror of a fade in: g(1 − x). Sources: the equal-power and equal-gain laws are textbook
(Zölzer, Digital Audio Signal Processing, 2nd ed. 2008, ch. 5, on panning and crossing); the others common practice.
"""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Times
from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import TIME, Choice
from jaylantern.errors import InvalidValue

LATE_BASE = 1000.0  # 60 dB


class Shape(StrEnum):
    """The course of a fade."""

    STRAIGHT = "straight"
    ROUND = "round"
    EASED = "eased"
    LATE = "late"


def rise(shape: Shape, x: Doubles) -> Doubles:
    """Amplitude 0–1 of a fade in at the shares x (n,), 0–1, of its length."""
    if shape is Shape.ROUND:
        return np.sin(np.pi / 2 * x)
    if shape is Shape.EASED:
        return 0.5 - 0.5 * np.cos(np.pi * x)
    if shape is Shape.LATE:
        return (LATE_BASE**x - 1.0) / (LATE_BASE - 1.0)
    return x


@noun
class Fade:
    """A fade of `length_n` samples in a shape; 0 is none."""

    length_n: int = described(TIME, default=0)
    shape: Shape = described(Choice(Shape), default=Shape.ROUND)

    def __post_init__(self) -> None:
        if self.length_n < 0:
            raise InvalidValue(f"A fade can't be {self.length_n} samples long.")

    def over(self, overlap_n: int) -> Fade:
        """This fade where `overlap_n` samples of another clip lie under it: then it lasts as long as these."""
        return replace(self, length_n=overlap_n) if overlap_n else self

    def at(self, time_n: Times) -> Doubles:
        """Amplitude (n,) at samples counted from where the fade begins.

        Sample k has x = (k + ½) / length, so that a fade in and the fade out over the same samples mirror each other.
        """
        return rise(self.shape, np.clip((time_n + 0.5) / max(self.length_n, 0.5), 0.0, 1.0))


NO_FADE = Fade(0)


def envelope(fade_in: Fade, fade_out: Fade, *, length_n: int, first_n: int, last_n: int) -> NDArray[np.float32] | None:
    """Amplitudes of samples [first_n, last_n) of a clip of `length_n` samples, or None where both fades are silent.

    A sample's value depends on its place alone, not on the window that was asked for.
    """
    if first_n >= fade_in.length_n and length_n - last_n >= fade_out.length_n:
        return None
    return amplitude_at(fade_in, fade_out, length_n=length_n, time_n=np.arange(first_n, last_n)).astype(np.float32)


def amplitude_at(fade_in: Fade, fade_out: Fade, *, length_n: int, time_n: Times) -> Doubles:
    """Amplitude (n,) at samples counted from the beginning of a clip of `length_n` samples."""
    return fade_in.at(time_n) * fade_out.at(length_n - 1 - time_n)
