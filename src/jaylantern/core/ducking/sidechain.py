"""Sidechain: the level of what stands higher on the timeline, and the gain curve the compressor makes of it.

The level is known every millisecond: its RMS over 10 ms, or its largest sample. Clips that sound together add in power.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.compressor import STRETCH, Law, followed
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal import intervals
from jaylantern.core.signal.arrays import Samples
from jaylantern.core.signal.timebase import RATE, ms_to_n
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import amplitude_at
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Detector, Settings

STEP_N = RATE // 1000
RMS_STEPS = 10
SILENT_DB = -120.0
CENTI = np.float32(0.01)
CURVE_DB = 0.1  # how far the points of the curve may stray from what the detector says
BLOCK = 256  # steps: the longest piece of the curve, and what is worked out at once
MOST_KEPT = 12
LONG_N = 600 * RATE  # a timeline longer than this is shown by its outline first
COARSE_MS, OUTLINE_MS = 4, 496


@dataclass(frozen=True, eq=False)
class KeyTrack:
    """The level of a medium each millisecond, in hundredths of a dB re full scale: (steps,) int16 each."""

    rms: NDArray[np.int16]
    peak: NDArray[np.int16]

    def of(self, detector: Detector) -> NDArray[np.int16]:
        """The level by one of the detectors."""
        return self.rms if detector is Detector.RMS else self.peak


class KeyListener:
    """Takes a medium's sound in chunks of whole milliseconds (but the last) and answers its track."""

    def __init__(self) -> None:
        self._squares: list[NDArray[np.float32]] = []
        self._peaks: list[NDArray[np.float32]] = []

    def add(self, samples: Samples) -> None:
        """Add (n, channels) float32 samples."""
        short = -len(samples) % STEP_N
        if short:
            samples = np.pad(samples, ((0, short), (0, 0)))
        rows = np.ascontiguousarray(samples).reshape(-1, STEP_N * samples.shape[1])
        self._squares.append(np.vecdot(rows, rows) / np.float32(rows.shape[1]))
        self._peaks.append(np.maximum(rows.max(axis=1), -rows.min(axis=1)))

    def finish(self) -> KeyTrack:
        """The track of all that was added."""
        squares = np.concatenate((np.zeros(0, np.float32), *self._squares))
        peaks = np.concatenate((np.zeros(0, np.float32), *self._peaks))
        total = np.concatenate((np.zeros(RMS_STEPS), np.cumsum(squares, dtype=np.float64)))
        mean = np.maximum(total[RMS_STEPS:] - total[:-RMS_STEPS], 0.0) / RMS_STEPS
        return KeyTrack(
            _centi(10.0 * np.log10(np.maximum(mean, 1e-12))), _centi(20.0 * np.log10(np.maximum(peaks, 1e-6)))
        )


def _centi(level_db: NDArray[np.floating]) -> NDArray[np.int16]:
    return np.rint(np.maximum(level_db, SILENT_DB) * 100).astype(np.int16)


_levels: OrderedDict[int, tuple[object, NDArray[np.float32]]] = OrderedDict()


def key_level(
    project: Project, uppers: Collection[str], key: Mapping[int, KeyTrack], *, step_ms: int = 1
) -> NDArray[np.float32]:
    """Level in dBFS of all that sits on some perches, each millisecond of the timeline or the loudest of so many (a
    power of two); remembered by the lanes.

    Muted clips are not in it. It depends on clips and faders and the choice of detector, on no other setting.
    """
    order, detector = pecking_order.order_of(project), project.settings.detector
    mark = (project.lanes, frozenset(uppers), order.perches, detector, tuple(sorted(key)), step_ms)
    name = hash((id(project.lanes), *mark[1:]))
    known = _levels.get(name)
    if known is not None and isinstance(known[0], tuple) and known[0][0] is project.lanes and known[0][1:] == mark[1:]:
        return known[1]
    if step_ms == 1:
        level = _placed(project, order, uppers, key)
    else:
        half = _padded(key_level(project, uppers, key, step_ms=step_ms // 2), 2)
        level = np.maximum(half[0::2], half[1::2])
    _levels[name] = (mark, level)
    while len(_levels) > MOST_KEPT:
        _levels.popitem(last=False)
    return level


def _placed(
    project: Project, order: pecking_order.Order, uppers: Collection[str], key: Mapping[int, KeyTrack]
) -> NDArray[np.float32]:
    level = np.full(-(-project.length_n // STEP_N), SILENT_DB, np.float32)
    faded = project.fades()
    for lane, clip in project.sounding():
        if order.perch(lane, clip) not in uppers or clip.media.id not in key:
            continue
        place, mine = _of_clip(lane, clip, key[clip.media.id].of(project.settings.detector))
        coming, going = faded[clip.id]
        if coming.length_n or going.length_n:
            time_n = np.arange(len(mine)) * STEP_N
            time_n = np.minimum(time_n, clip.length_n - 1)
            fade = amplitude_at(coming, going, length_n=clip.length_n, time_n=time_n)
            mine = mine + (20.0 * np.log10(np.maximum(fade, 1e-6))).astype(np.float32)
        there = level[place]
        level[place] = mine if (there <= SILENT_DB).all() else _together(there, mine)
    return level


def _of_clip(lane: Lane, clip: Clip, track: NDArray[np.int16]) -> tuple[slice, NDArray[np.float32]]:
    """Where on the grid of milliseconds a clip lies, and its level there with its faders."""
    first = round(clip.start_n / STEP_N)
    offset = round(clip.offset_n / STEP_N)
    steps = -(-clip.length_n // STEP_N)
    mine = np.full(steps, SILENT_DB, np.float32)
    there = track[offset : offset + steps]
    mine[: len(there)] = there * CENTI + np.float32(lane.gain_db + clip.gain_db)
    return slice(first, first + steps), mine


def _together(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    """Two levels in dB that sound at once: 10·log10(10^(a/10) + 10^(b/10))."""
    high, low = np.maximum(a, b), np.minimum(a, b)
    return high + np.float32(10.0) * np.log10(1 + np.power(np.float32(10.0), (low - high) / 10))


def law_of(settings: Settings) -> Law:
    """The static law that the settings ask for."""
    return Law(settings.threshold_db, settings.ratio, settings.knee_db, settings.range_db)


def reduction_under(
    project: Project,
    uppers: Collection[str],
    key: Mapping[int, KeyTrack],
    *,
    spared: Sequence[tuple[int, int]] = (),
    within: tuple[int, int] | None = None,
    step_ms: int = 1,
) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
    """By how many dB the compressor turns the music down, each `step_ms` of the timeline, whole blocks of steps; and
    the numbers of the blocks in which it does anything.

    `spared`: stretches of timeline, in samples, in which the key is not listened to. `within`: the first and last
    step that matter; what lies before counts from silence. Only blocks in which the key is loud enough, or
    which it still acts on, are worked out: between them everything has died away.
    """
    settings, law = project.settings, law_of(project.settings)
    first, last = within or (0, None)
    level = _padded(key_level(project, uppers, key, step_ms=step_ms)[first:last], BLOCK)
    step_n = STEP_N * step_ms
    for start_n, stop_n in spared:
        level[max(0, start_n // step_n - first) : max(0, -(-stop_n // step_n) - first)] = SILENT_DB
    rows = level.reshape(-1, BLOCK)
    active = _active(rows, settings, step_ms)
    parts = [law.reduction_db(rows[part].ravel()) for part in _parts(active)]
    wanted = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    ahead = min(round(settings.look_ahead_ms / step_ms), len(wanted))
    if ahead:
        wanted[:-ahead], wanted[-ahead:] = wanted[ahead:].copy(), 0.0
    found = followed(
        wanted,
        attack_ms=settings.comp_attack_ms,
        hold_ms=settings.comp_hold_ms,
        release_ms=settings.comp_release_ms,
        step_ms=step_ms,
    )
    reduction = np.zeros(rows.shape, np.float32)
    reduction[active] = found.reshape(-1, BLOCK)
    return reduction.ravel(), active


def _parts(active: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """The numbers of the blocks, in parts that stay in the processor's cache."""
    return [active[i : i + STRETCH // BLOCK] for i in range(0, len(active), STRETCH // BLOCK)]


def _padded(level: NDArray[np.float32], size: int) -> NDArray[np.float32]:
    """Filled up with silence to whole blocks of a size; a copy."""
    out = np.full(-(-max(len(level), 1) // size) * size, SILENT_DB, np.float32)
    out[: len(level)] = level
    return out


def _active(rows: NDArray[np.float32], settings: Settings, step_ms: int) -> NDArray[np.int64]:
    """Blocks that are to be worked out: where the key passes the knee, those it is looked ahead from, and its tail."""
    loud = np.flatnonzero(rows.max(axis=1) > settings.threshold_db - settings.knee_db / 2)
    if not len(loud):
        return loud
    before = -(-round(settings.look_ahead_ms) // (BLOCK * step_ms))
    after = -(-longest_tail_n(settings) // (STEP_N * BLOCK * step_ms)) + 1
    spans = intervals.union(np.stack((loud - before, loud + 1 + after), axis=1))
    spans = intervals.clipped(spans, start_n=0, stop_n=len(rows))
    return np.concatenate([np.arange(a, b) for a, b in spans.tolist()])


class Squeeze:
    """The compressor's gain under some perches: the exact curve, worked out when it is first asked for; its gain on a
    coarse grid, at once; a stretch of it alone.

    Of a timeline that is not long, all are the exact one.
    """

    def __init__(
        self,
        project: Project,
        uppers: Collection[str],
        key: Mapping[int, KeyTrack],
        *,
        spared: Sequence[tuple[int, int]] = (),
    ) -> None:
        self._project, self._uppers, self._key, self._spared = project, frozenset(uppers), key, spared
        self.long = project.length_n > LONG_N

    @cached_property
    def curve(self) -> Curve:
        """The gain curve, output gain and all, within 0.1 dB of what the detector says."""
        return self._curve(None)

    def _curve(self, within: tuple[int, int] | None) -> Curve:
        gain, active = self._reduction(within=within)
        np.negative(gain, out=gain)
        return in_pieces(gain, active, largest_db=CURVE_DB, level_db=self._project.settings.output_db)

    def _reduction(
        self, *, within: tuple[int, int] | None = None, step_ms: int = 1
    ) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
        return reduction_under(
            self._project, self._uppers, self._key, spared=self._spared, within=within, step_ms=step_ms
        )

    @cached_property
    def _coarse(self) -> NDArray[np.float32]:
        """Gain in dB each COARSE_MS."""
        return self._project.settings.output_db - self._reduction(step_ms=COARSE_MS)[0]

    def at(self, time_n: NDArray[np.int64]) -> NDArray[np.float64]:
        """Gain in dB at the given samples, of a long timeline that of the coarse grid."""
        if not self.long:
            return self.curve.at(time_n)
        place = np.clip(time_n // (STEP_N * COARSE_MS), 0, len(self._coarse) - 1)
        return self._coarse[place].astype(np.float64)

    @cached_property
    def outline(self) -> Curve:
        """The curve for a look at the whole: of a long timeline the highest and the lowest gain of each half of a
        second, in the order in which they come."""
        return self.curve if not self.long else outlined(self._coarse, COARSE_MS)

    def within(self, start_n: int, stop_n: int) -> Curve:
        """The exact curve over a stretch of the timeline alone, with a point at each end."""
        tail = longest_tail_n(self._project.settings) // STEP_N + 1
        ahead = round(self._project.settings.look_ahead_ms) + 1
        first = max(0, start_n // STEP_N - tail)
        found = self._curve((first, -(-stop_n // STEP_N) + ahead))
        return Curve(found.time_n + first * STEP_N, found.gain_db).within(start_n, stop_n)


def outlined(gain_db: NDArray[np.float32], step_ms: int) -> Curve:
    """The highest and the lowest of each OUTLINE_MS of values, one every `step_ms`, as a curve."""
    size = OUTLINE_MS // step_ms
    rows = np.append(gain_db, np.repeat(gain_db[-1:], -len(gain_db) % size)).reshape(-1, size)
    both = np.sort(np.stack((rows.argmax(axis=1), rows.argmin(axis=1)), axis=1), axis=1)
    place = (np.arange(len(rows))[:, None] * size + both).ravel()
    points = rows.ravel()[place]
    kept = np.ones(len(place), bool)
    kept[1:] = np.diff(place) > 0
    place, points = place[kept], points[kept]
    needed = _turning(points)
    return Curve(place[needed] * (STEP_N * step_ms), np.round(points[needed].astype(np.float64), 2))


def in_pieces(
    gain_db: NDArray[np.float32], active: NDArray[np.int64], *, largest_db: float, level_db: float = 0.0
) -> Curve:
    """A curve through values (blocks · 256,) one a millisecond, straight in pieces that stray by no more than that.

    Outside the blocks of these numbers all values are 0; `level_db` is added to all. A piece is cut in four as long as
    it strays too far: quick and good, not the fewest points there could be.
    """
    values = np.append(gain_db, gain_db[-1:])
    begins, size = active * BLOCK, BLOCK
    kept = np.zeros(len(values), bool)
    kept[[0, -1]] = True
    kept[begins] = kept[begins + BLOCK] = True
    while size > 1 and len(begins):
        parts = np.array_split(begins, max(1, len(begins) * size // STRETCH))
        strays = np.concatenate([_strays(values, part, size) for part in parts]) > largest_db
        size //= 4
        begins = (begins[strays][:, None] + size * np.arange(4)).ravel()
        kept[begins] = True
    places = np.flatnonzero(kept)
    points = values[places]
    needed = _turning(points)
    return Curve(places[needed] * STEP_N, np.round(points[needed].astype(np.float64) + level_db, 3))


def _turning(points: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Which points are no part of a flat stretch between their neighbours."""
    flat = np.abs(np.diff(points)) < 1e-3
    needed = np.ones(len(points), bool)
    needed[1:-1] = ~(flat[:-1] & flat[1:])
    return needed


def _strays(values: NDArray[np.float32], begins: NDArray[np.int64], size: int) -> NDArray[np.float32]:
    """How far each piece strays from the straight line between its ends."""
    rows = values[:-1].reshape(-1, size)[begins // size]
    first, last = rows[:, :1], values[begins + size][:, None]
    off: NDArray[np.float32] = rows - (first + (last - first) * (np.arange(size, dtype=np.float32) / np.float32(size)))
    return np.maximum(off.max(axis=1), -off.min(axis=1))


def longest_tail_n(settings: Settings) -> int:
    """How long a key can act after it has ended, in samples: hold and nine time constants of the release."""
    return ms_to_n(settings.comp_hold_ms + 9 * (settings.comp_release_ms + settings.comp_attack_ms))
