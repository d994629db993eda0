"""Measuring a render while it is made: loudness over time, true peak, and where the limiter works."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaylantern.core.mixing.metering import Part, ProgrammeMeter
from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS, Renderer, summed
from jaylantern.core.signal import intervals
from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.loudness import FINE_N, SHORT_TERM_STEPS, STEP_N, Loudness, sliding, to_lufs
from jaylantern.core.signal.true_peak import TruePeakMeter
from jaylantern.core.timeline.tag import Tag

FINE_A_STEP = STEP_N // FINE_N
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
    (steps,) each; true peaks, as amplitudes, of lanes and of stems before the limiter."""

    loudness: Loudness
    power: Doubles
    reduction_db: Doubles
    lane_peak: Mapping[int, float]
    stem_peak: Mapping[str, float]

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


@dataclass(frozen=True)
class RangeMeasure:
    """What a range of a mix measures: the mix; the limiter's largest reduction in dB per 100 ms, (steps,); true
    peaks, as amplitudes, of lanes and of stems before the limiter."""

    mix: Part
    reduction_db: Doubles
    lane_peak: Mapping[int, float]
    stem_peak: Mapping[str, float]


def measure(renderer: Renderer, length_n: int) -> Level:
    """Render all of a mix and measure it."""
    return joined([measure_range(renderer, 0, length_n, last=True)] if length_n else [], length_n)


def measure_range(renderer: Renderer, start_n: int, stop_n: int, *, last: bool) -> RangeMeasure:
    """Render samples [start_n, stop_n) of a mix and measure them; `start_n` at a whole second, `stop_n`, too, but for
    the last range. `renderer` is quickest if it keeps what the mix is made of."""
    first = start_n // BLOCK_N
    meter = ProgrammeMeter(CHANNELS, renderer.block(first - 1) if first else None)
    apart = _Apart(renderer, renderer.apart(first - 1) if first else {})
    reduction = np.zeros((-(-(stop_n - start_n) // BLOCK_N), STEPS_A_BLOCK))
    for i in range(len(reduction)):
        k = first + i
        meter.add(renderer.block(k)[: stop_n - k * BLOCK_N])
        apart.add(renderer.apart(k))
        gain = renderer.limiter_gains(k)
        if gain is not None:
            lowest = gain.reshape(STEPS_A_BLOCK, -1).min(axis=1).astype(np.float64)
            reduction[i] = -20.0 * np.log10(np.maximum(lowest, 1e-6))
    lane_peak, stem_peak = apart.finish(last=last)
    return RangeMeasure(meter.part(last=last), reduction.ravel(), lane_peak, stem_peak)


def joined(ranges: Sequence[RangeMeasure], length_n: int) -> Level:
    """What all ranges of a mix measure together, in order."""
    meter, lane_peak, stem_peak = ProgrammeMeter(CHANNELS), dict[int, float](), dict[str, float]()
    for each in ranges:
        meter.take(each.mix)
        for lane_id, peak in each.lane_peak.items():
            lane_peak[lane_id] = max(peak, lane_peak.get(lane_id, 0.0))
        for stem, peak in each.stem_peak.items():
            stem_peak[stem] = max(peak, stem_peak.get(stem, 0.0))
    steps, fine = -(-length_n // STEP_N), meter.power
    power = np.pad(fine, (0, steps * FINE_A_STEP - len(fine))).reshape(-1, FINE_A_STEP).mean(axis=1)
    reduction = np.concatenate((np.zeros(0), *(each.reduction_db for each in ranges)))[:steps]
    return Level(meter.finish(), power, reduction, lane_peak, stem_peak)


Pair = tuple[int, Tag]


class _Apart:
    """True peaks of what a mix is made of: of every lane and every stem, each made of some of both. What is made of the
    same is measured once. One that is not there in a block is silent in it."""

    def __init__(self, renderer: Renderer, before: Mapping[Pair, Samples]) -> None:
        pairs = sorted({(voice.lane_id, voice.tag) for voice in renderer.voices})
        self._lanes = {lane_id: tuple(p for p in pairs if p[0] == lane_id) for lane_id, _ in pairs}
        self._stems = {tag.row.stem: tuple(p for p in pairs if p[1].row.stem == tag.row.stem) for _, tag in pairs}
        sounds = self._grouped(before)
        self._meters = {group: TruePeakMeter(CHANNELS, sound) for group, sound in sounds.items()}
        self._rang = set(sounds)

    def _grouped(self, sounds: Mapping[Pair, Samples]) -> dict[tuple[Pair, ...], Samples]:
        groups = dict.fromkeys((*self._lanes.values(), *self._stems.values()))
        return summed((group, sounds[pair]) for group in groups for pair in group if pair in sounds)

    def add(self, sounds: Mapping[Pair, Samples]) -> None:
        """Add a block of everything that sounds in it."""
        grouped = self._grouped(sounds)
        for group in grouped.keys() | self._rang:
            meter = self._meters.setdefault(group, TruePeakMeter(CHANNELS))
            meter.add(grouped[group] if group in grouped else np.zeros((BLOCK_N, CHANNELS), np.float32))
        self._rang = set(grouped)

    def finish(self, *, last: bool) -> tuple[dict[int, float], dict[str, float]]:
        """The largest true peak of each, as an amplitude; what the end needs of what follows is left to that."""
        peaks = {group: meter.finish() if last else meter.peak for group, meter in self._meters.items()}
        lanes = {lane_id: peaks[group] for lane_id, group in self._lanes.items() if group in peaks}
        return lanes, {stem: peaks[group] for stem, group in self._stems.items() if group in peaks}
