"""The level of what others give way to, as the compressor hears it: of a medium, and on the timeline.

It is known every millisecond: its RMS over 10 ms, or its largest sample. Clips that sound together add in power.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.memo import Memo, Same, anew
from jaylantern.core.signal.arrays import Samples
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import amplitude_at
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Detector

STEP_N = RATE // 1000
RMS_STEPS = 10
SILENT_DB = -120.0
CENTI = np.float32(0.01)


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


def key_level(
    project: Project,
    uppers: Collection[str],
    key: Mapping[int, KeyTrack],
    *,
    step_ms: int = 1,
    memo: Memo = anew,
) -> NDArray[np.float32]:
    """Level in dBFS of all that sits on some perches, each millisecond of the timeline or the loudest of so many (a
    power of two). Muted clips are not in it.

    It depends on the lanes with their clips and faders, on the order of perches and the detector, and on no other
    setting.
    """
    perches = pecking_order.perches_of(project)
    depends = (Same(project.lanes), frozenset(uppers), perches, project.settings.detector, tuple(sorted(key)))

    def _of_step(step_ms: int) -> NDArray[np.float32]:
        def _make() -> NDArray[np.float32]:
            return _placed(project, perches, uppers, key) if step_ms == 1 else coarser(_of_step(step_ms // 2))

        return memo(("key level", *depends, step_ms), _make)

    return _of_step(step_ms)


def coarser(level: NDArray[np.float32]) -> NDArray[np.float32]:
    """The louder of every two values, the last with silence where it is alone."""
    pairs = padded(level, 2)
    return np.maximum(pairs[0::2], pairs[1::2])


def _placed(
    project: Project, perches: tuple[str, ...], uppers: Collection[str], key: Mapping[int, KeyTrack]
) -> NDArray[np.float32]:
    level = np.full(-(-project.length_n // STEP_N), SILENT_DB, np.float32)
    faded = project.fades()
    for lane, clip in project.sounding():
        if pecking_order.perch_of(perches, lane, clip) not in uppers or clip.media.id not in key:
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
    line = line_of(clip)
    if line is not None:
        mine += line.at(np.arange(steps) * STEP_N + clip.start_n).astype(np.float32)
    return slice(first, first + steps), mine


def _together(a: NDArray[np.float32], b: NDArray[np.float32]) -> NDArray[np.float32]:
    """Two levels in dB that sound at once: 10·log10(10^(a/10) + 10^(b/10))."""
    high, low = np.maximum(a, b), np.minimum(a, b)
    return high + np.float32(10.0) * np.log10(1 + np.power(np.float32(10.0), (low - high) / 10))


def padded(level: NDArray[np.float32], size: int) -> NDArray[np.float32]:
    """Filled up with silence to whole blocks of a size; a copy."""
    out = np.full(-(-max(len(level), 1) // size) * size, SILENT_DB, np.float32)
    out[: len(level)] = level
    return out
