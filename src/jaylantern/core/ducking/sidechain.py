"""Sidechain: the gain curve the compressor makes of the level of what stands higher."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.compressor import CHUNK, Law, followed
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.key_level import SILENT_DB, STEP_N, KeyTrack, key_level, padded
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal import intervals
from jaylantern.core.signal.timebase import RATE, ms_to_n
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings

CURVE_DB = 0.1  # how far the points of the curve may stray from what the detector says
BLOCK = 256  # steps: the longest piece of the curve, and what is worked out at once
LONG_N = 600 * RATE  # a timeline longer than this is shown by its outline first
COARSE_MS, OUTLINE_MS = 4, 496


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
    memo: Memo = anew,
) -> tuple[NDArray[np.float32], NDArray[np.int64]]:
    """By how many dB the compressor turns the music down, each `step_ms` of the timeline, whole blocks of steps; and
    the numbers of the blocks in which it does anything.

    `spared`: stretches of timeline, in samples, in which the key is not listened to. `within`: the first and last
    step that matter; what lies before counts from silence. Only blocks in which the key is loud enough, or
    which it still acts on, are worked out: between them everything has died away.
    """
    settings, law = project.settings, law_of(project.settings)
    first, last = within or (0, None)
    level = padded(key_level(project, uppers, key, step_ms=step_ms, memo=memo)[first:last], BLOCK)
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
    return [active[i : i + CHUNK // BLOCK] for i in range(0, len(active), CHUNK // BLOCK)]


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


class SidechainGain:
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
        memo: Memo = anew,
    ) -> None:
        self._project, self._uppers, self._key, self._spared = project, frozenset(uppers), key, spared
        self._memo = memo
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
            self._project,
            self._uppers,
            self._key,
            spared=self._spared,
            within=within,
            step_ms=step_ms,
            memo=self._memo,
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
        parts = np.array_split(begins, max(1, len(begins) * size // CHUNK))
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
