"""Measuring a render while it is made: loudness over time, true peak, and where the limiter works."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from jaylantern.core import intervals
from jaylantern.core.arrays import Doubles, Samples
from jaylantern.core.loudness import FINE_N, SHORT_TERM_STEPS, STEP_N, Loudness, sliding, to_lufs
from jaylantern.core.metering import ProgrammeMeter
from jaylantern.core.mix import BLOCK_N, CHANNELS, Renderer, summed
from jaylantern.core.model import Tag
from jaylantern.core.truepeak import TruePeakMeter

K = TypeVar("K")
STEPS_A_BLOCK = BLOCK_N // STEP_N
APART_STEPS = 5  # places of the limiter nearer than half a second are one
WORKS_DB = 0.05  # less than this is not worth a word
HARD_DB, HARD_STEPS = 3.0, 3  # more than 3 dB for more than a moment is heard: common practice


@dataclass(frozen=True)
class Place:
    """A stretch of timeline in which the limiter works, where it works hardest, and by how many dB (over 0)."""

    start_n: int
    stop_n: int
    at_n: int
    db: float
    hard: bool  # more than 3 dB for more than a moment


@dataclass(frozen=True)
class Level:
    """A finished mix measured: its loudness, its K-weighted power and the limiter's largest reduction in dB per 100 ms,
    (steps,) each; true peaks, as amplitudes, of lanes and of tags before the limiter."""

    loudness: Loudness
    power: Doubles
    reduction_db: Doubles
    lane_peak: Mapping[int, float]
    tag_peak: Mapping[Tag, float]

    @property
    def short_term_lufs(self) -> Doubles:
        """Short-term loudness at the end of each 100 ms, (steps,), −∞ for silence."""
        return to_lufs(sliding(np.concatenate((np.zeros(SHORT_TERM_STEPS - 1), self.power)), SHORT_TERM_STEPS))

    def places(self, most: int) -> list[Place]:
        """Where the limiter works, the hardest first."""
        reduction = self.reduction_db
        works = intervals.union(intervals.runs(reduction > WORKS_DB), gap_n=APART_STEPS)
        found = []
        for first, last in works.tolist():
            hardest = first + int(reduction[first:last].argmax())
            over = intervals.runs(reduction[first:last] > HARD_DB)
            hard = bool(len(over)) and int((over[:, 1] - over[:, 0]).max()) >= HARD_STEPS
            place = Place(first * STEP_N, last * STEP_N, hardest * STEP_N, float(reduction[hardest]), hard)
            found.append(place)
        return sorted(found, key=lambda place: -place.db)[:most]


def measure(renderer: Renderer, length_n: int, *, progress: Callable[[float], None] = lambda share: None) -> Level:
    """Render all of a mix and measure it. `progress` may raise to end it."""
    meter, apart = ProgrammeMeter(CHANNELS), _Apart()
    blocks = -(-length_n // BLOCK_N)
    power, reduction = np.zeros((blocks, STEPS_A_BLOCK)), np.zeros((blocks, STEPS_A_BLOCK))
    for k in range(blocks):
        fine = meter.add(renderer.block(k)[: length_n - k * BLOCK_N])
        fine = np.pad(fine, (0, BLOCK_N // FINE_N - len(fine)))
        power[k] = fine.reshape(STEPS_A_BLOCK, -1).mean(axis=1)
        apart.add(renderer.apart(k))
        gain = renderer.limiter_gains(k)
        if gain is not None:
            lowest = gain.reshape(STEPS_A_BLOCK, -1).min(axis=1).astype(np.float64)
            reduction[k] = -20.0 * np.log10(np.maximum(lowest, 1e-6))
        progress((k + 1) / blocks)
    steps = -(-length_n // STEP_N)
    lanes, tags = apart.lanes.finish(), apart.tags.finish()
    return Level(meter.finish(), power.ravel()[:steps], reduction.ravel()[:steps], lanes, tags)


class _Peaks(Generic[K]):
    """True peaks of streams that come block by block; one that is not there in a block is silent in it."""

    def __init__(self) -> None:
        self._meters: dict[K, TruePeakMeter] = {}
        self._rang: set[K] = set()

    def add(self, sounds: Mapping[K, Samples]) -> None:
        """Add a block of each stream."""
        for key in sounds.keys() | self._rang:
            meter = self._meters.setdefault(key, TruePeakMeter(CHANNELS))
            meter.add(sounds[key] if key in sounds else np.zeros((BLOCK_N, CHANNELS), np.float32))
        self._rang = set(sounds)

    def finish(self) -> dict[K, float]:
        """The largest true peak of each, as an amplitude."""
        return {key: meter.finish() for key, meter in self._meters.items()}


class _Apart:
    """True peaks of what a mix is made of."""

    def __init__(self) -> None:
        self.lanes, self.tags = _Peaks[int](), _Peaks[Tag]()

    def add(self, sounds: Mapping[tuple[int, Tag], Samples]) -> None:
        """Add a block of everything that sounds in it."""
        self.lanes.add(summed((lane_id, sound) for (lane_id, _), sound in sounds.items()))
        self.tags.add(summed((tag, sound) for (_, tag), sound in sounds.items()))
