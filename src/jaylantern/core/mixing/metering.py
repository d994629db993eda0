"""Meters: of a rendered second, for the needle while it plays; of a whole programme."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.loudness import (
    FINE_N,
    MOMENTARY_STEPS,
    KWeighting,
    Loudness,
    measured_finely,
    sliding,
    to_lufs,
)
from jaylantern.core.signal.timebase import amplitude_to_db
from jaylantern.core.signal.true_peak import TruePeakMeter

FLOOR_DB = -120.0  # shown for silence


@dataclass(frozen=True)
class Meter:
    """A second of sound from `start_n` on: momentary loudness at the end of each 100 ms, and its true peak."""

    start_n: int
    lufs: tuple[float, ...]
    dbtp: float


def meter(before: Samples, block: Samples, *, start_n: int) -> Meter:
    """Measure `block` (48000, channels); `before`, as long, is what sounded just before it.

    Momentary loudness is that of the last 400 ms (EBU Tech 3341 section 2.2), no lower than −120.
    """
    weighting, peak = KWeighting(block.shape[1]), TruePeakMeter(block.shape[1])
    power = np.concatenate((weighting.powers(before)[1 - MOMENTARY_STEPS :], weighting.powers(block)))
    peak.add(block)
    lufs = np.maximum(to_lufs(sliding(power, MOMENTARY_STEPS)), FLOOR_DB)
    dbtp = max(amplitude_to_db(peak.finish()), FLOOR_DB)
    return Meter(start_n, tuple(round(value, 1) for value in lufs.tolist()), round(dbtp, 1))


@dataclass(frozen=True)
class Part:
    """What a stretch of a programme measures: K-weighted power per 20 ms, (steps,), its true peak as an amplitude."""

    power: Doubles
    peak: float


class ProgrammeMeter:
    """Measures a programme that comes in chunks, each but the last a multiple of 20 ms (960 samples) long.

    A stretch of it is measured with `before`, at least half a second (n, channels) of what sounds just before it.
    """

    def __init__(self, channels: int, before: Samples | None = None) -> None:
        self._weighting = KWeighting(channels, step_n=FINE_N)
        self._peaks = TruePeakMeter(channels, before)
        if before is not None:
            self._weighting.powers(before)  # all that the filter remembers
        self._powers: list[Doubles] = []

    def add(self, samples: Samples) -> Doubles:
        """Add (n, channels) samples; answers their K-weighted power per 20 ms."""
        power = self._weighting.powers(samples)
        self._powers.append(power)
        self._peaks.add(samples)
        return power

    @property
    def power(self) -> Doubles:
        """K-weighted power per 20 ms of all that was added, (steps,)."""
        return np.concatenate((np.zeros(0), *self._powers))

    def take(self, part: Part) -> None:
        """Add a stretch that was measured elsewhere."""
        self._powers.append(part.power)
        self._peaks.peak = max(self._peaks.peak, part.peak)

    def part(self, *, last: bool) -> Part:
        """What was added, to be taken by the meter of the whole. What its end needs of the samples that follow is left
        to the stretch after it, but for the last."""
        peak = self._peaks.finish() if last else self._peaks.peak
        return Part(self.power, peak)

    def finish(self) -> Loudness:
        """What all of it measures."""
        return measured_finely(self.power, true_peak=self._peaks.finish())
