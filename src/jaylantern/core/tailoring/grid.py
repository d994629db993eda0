"""The grid of a piece of music: its beats and bars, where it may be folded, and how well each fold would fit."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.tailoring import bars, likeness
from jaylantern.core.tailoring.beats import find_beats
from jaylantern.core.tailoring.features import MusicFeatures
from jaylantern.core.tailoring.likeness import Floats

AHEAD_S = 0.015  # a fold lies so far before its beat, which then begins unbroken
FREE_STEP_S = 0.4  # between places where no beat can be followed
STEADY = 0.25  # share of a beat by which bars of a steady piece differ in length, at most
MOST_PLACES = 1400  # a piece so long that it has more beats is folded at its bars, or at every second one, …

Places = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Grid:
    """What a piece can be folded by.

    `places_n` (n,), rising, inside [0, length_n): where folds may lie, one for each beat; `bar` places make a bar,
    1 where there is no beat, and `first_bar` is the first place that begins one. `fit` (n, n): how well it fits to
    leave at one place and go on at another, per cent, 0 best. `beats_n` are the beats themselves, `bars_n` those
    that begin a bar.
    """

    length_n: int
    places_n: Places
    bar: int
    first_bar: int
    tempo_bpm: float
    certainty: float
    fit: Floats
    beats_n: Places
    free: bool
    bars_n: Places

    @property
    def step_n(self) -> float:
        """The usual distance between places, samples."""
        return float(np.median(np.diff(self.places_n))) if len(self.places_n) > 1 else float(max(self.length_n, RATE))

    def nearest(self, time_n: int) -> int:
        """The number of the place nearest to a sample; there must be one."""
        return int(np.abs(self.places_n - time_n).argmin())

    @property
    def steady(self) -> bool:
        """Is every bar about as long as any other?"""
        if len(self.places_n) <= 2 * self.bar:
            return True
        spans = (self.places_n[self.bar :] - self.places_n[: -self.bar]) / self.step_n
        low, high = np.percentile(spans, (5, 95))
        return bool(high - low < STEADY)


def grid_of(features: MusicFeatures) -> Grid:
    """The grid of a piece from what was heard of it."""
    beats = find_beats(features)
    length_s = features.length_n / RATE
    free = not beats.clear
    if free:
        at_s = np.arange(FREE_STEP_S, max(FREE_STEP_S, length_s - FREE_STEP_S / 2), FREE_STEP_S)
    else:
        at_s = beats.at_s[(beats.at_s > 2 * AHEAD_S) & (beats.at_s < length_s)]
    if len(at_s) < 2:
        none = np.zeros(0, np.int64)
        return Grid(features.length_n, none, 1, 0, 0.0, 0.0, np.zeros((0, 0), np.float32), none, True, none)
    some_s = at_s[:MOST_PLACES]
    distance = likeness.distances(features, np.append(some_s, 2 * some_s[-1] - some_s[-2]))
    bar = 1 if free else bars.beats_in_a_bar(distance)
    first = 0 if free else bars.first_downbeat(features, at_s, bar)
    beats_s, beat_bar, beat_first = at_s, bar, first
    if len(at_s) > MOST_PLACES:
        at_s, bar, first = at_s[first::bar], 1, 0
        at_s = at_s[:: -(-len(at_s) // MOST_PLACES)]
        distance = likeness.distances(features, np.append(at_s, 2 * at_s[-1] - at_s[-2]))
    return Grid(
        features.length_n,
        np.round((at_s - (0.0 if free else AHEAD_S)) * RATE).astype(np.int64),
        bar,
        first,
        0.0 if free else beats.tempo_bpm,
        beats.certainty,
        likeness.fits(likeness.costs(distance), least=bar),
        np.zeros(0, np.int64) if free else np.round(beats_s * RATE).astype(np.int64),
        free,
        np.zeros(0, np.int64) if free else np.round(beats_s[beat_first::beat_bar] * RATE).astype(np.int64),
    )
