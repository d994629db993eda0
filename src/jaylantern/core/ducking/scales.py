"""How clear speech stands, on either of two scales: by how many LU above the rest, or how well it can be made out.

LU     10·log10(Σ speech / Σ rest) of K-weighted powers
SII    Speech Intelligibility Index, 0 to 1, of third-octave powers, all talk of the film together at 62.35 dB SPL
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from jaylantern.core.ducking.media_power import Spoken
from jaylantern.core.signal import intelligibility
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.timeline.settings import ClearIn


@dataclass(frozen=True)
class Marks:
    """What a figure on a scale is worth: speech under `masked` is hard to follow, from `clear` on it is followed
    without effort. `slack`: a difference nobody hears; `decimals`, and the unit, as it is shown."""

    clear: float
    masked: float
    slack: float
    decimals: int
    unit: str

    def shown(self, value: float) -> float:
        """As it is shown, and so as it counts."""
        return round(value, self.decimals)

    def in_words(self, value: float) -> str:
        """In words."""
        return f"{self.figure(value)} LU" if self.unit == "LU" else f"SII {self.figure(value)}"

    def figure(self, value: float) -> str:
        """The figure alone."""
        return f"{value:.{self.decimals}f}".replace("-", "−")

    def wished(self, value: float) -> str:
        """A wish, in words."""
        return f"{self.bare(value)} LU" if self.unit == "LU" else f"SII {self.bare(value)}"

    def bare(self, value: float) -> str:
        """A wish without its unit."""
        return f"{value:g}" if self.unit == "LU" else f"{value:.2f}"


MARKS: Mapping[ClearIn, Marks] = {
    # common practice: speech some 10 LU over the bed is followed without effort, under about 7 LU listeners complain
    ClearIn.LOUDNESS: Marks(10.0, 7.0, 10 * float(np.log10(1.1)), 1, "LU"),
    ClearIn.INTELLIGIBILITY: Marks(intelligibility.GOOD, intelligibility.POOR, 0.01, 2, "SII"),
}


class Scale(Protocol):
    """Says how clear speech stands."""

    marks: Marks
    halvings: int  # after which a depth is found finely enough

    def of(self, speech: Doubles, rest: Doubles) -> Doubles:
        """How clear in each of n stretches, (n,), from the mean powers there, (n, …)."""


class Loudness:
    """Above the rest, in LU; inf where all else is silent."""

    marks = MARKS[ClearIn.LOUDNESS]
    halvings = 40

    def of(self, speech: Doubles, rest: Doubles) -> Doubles:
        """Of K-weighted powers, (n,)."""
        with np.errstate(divide="ignore", invalid="ignore"):
            clear = 10.0 * np.log10(speech / rest)
        return np.where(np.isnan(clear), 0.0, clear)


@dataclass(frozen=True)
class Intelligibility:
    """As the Speech Intelligibility Index, 0 to 1. `level_db`: what full scale is in dB SPL."""

    level_db: float
    marks = MARKS[ClearIn.INTELLIGIBILITY]
    halvings = 17  # a thousandth of a decibel

    @classmethod
    def heard(cls, spoken: Spoken, talk: Doubles) -> Intelligibility:
        """All talk together, (steps + 1, 18) as `Spoken.total` gives it, heard at the level of normal speech."""
        mean = float(talk[-1].sum()) / max(1, spoken.count)
        return cls(intelligibility.NORMAL_SPL_DB - 10 * float(np.log10(mean)) if mean > 0 else 0.0)

    def of(self, speech: Doubles, rest: Doubles) -> Doubles:
        """Of mean powers in the bands of speech, (n, 18)."""
        levels = (intelligibility.spectrum_db(power, self.level_db) for power in (speech, rest))
        return intelligibility.index(*levels)


def scale_of(clear_in: ClearIn, spoken: Spoken, talk: Doubles) -> Scale:
    """The scale that clearance is measured on, for a film with so much talk, as `Spoken.total` gives it."""
    return Intelligibility.heard(spoken, talk) if clear_in is ClearIn.INTELLIGIBILITY else Loudness()
