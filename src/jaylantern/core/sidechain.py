"""Sidechain: the level of what stands higher on the timeline, and the gain curve the compressor makes of it.

The level is known every millisecond: its RMS over 10 ms, or its largest sample. Clips that sound together add in power.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core import pecking
from jaylantern.core.arrays import Samples
from jaylantern.core.compressor import Law, followed
from jaylantern.core.curve import Curve
from jaylantern.core.fades import amplitude_at
from jaylantern.core.model import Clip, Lane, Project
from jaylantern.core.settings import Detector, Settings
from jaylantern.core.timebase import RATE, ms_to_n

STEP_N = RATE // 1000
RMS_STEPS = 10
SILENT_DB = -120.0
CENTI = np.float32(0.01)
CURVE_DB = 0.05  # how far the points of the curve may stray from what the detector says
LONGEST_PIECE = 256  # steps
MOST_KEPT = 6


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


def key_level(project: Project, uppers: Collection[str], key: Mapping[int, KeyTrack]) -> NDArray[np.float32]:
    """Level in dBFS of all that sits on some perches, each millisecond of the timeline; remembered by the lanes.

    Muted clips are not in it. It depends on clips and faders and the choice of detector, on no other setting.
    """
    order, detector = pecking.order_of(project), project.settings.detector
    mark = (project.lanes, frozenset(uppers), order.perches, detector, tuple(sorted(key)))
    name = hash((id(project.lanes), *mark[1:]))
    known = _levels.get(name)
    if known is not None and isinstance(known[0], tuple) and known[0][0] is project.lanes and known[0][1:] == mark[1:]:
        return known[1]
    level = _placed(project, order, uppers, key)
    _levels[name] = (mark, level)
    while len(_levels) > MOST_KEPT:
        _levels.popitem(last=False)
    return level


def _placed(
    project: Project, order: pecking.Order, uppers: Collection[str], key: Mapping[int, KeyTrack]
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
    project: Project, uppers: Collection[str], key: Mapping[int, KeyTrack], *, spared: Sequence[tuple[int, int]] = ()
) -> NDArray[np.float32]:
    """By how many dB the compressor turns the music down, each millisecond of the timeline.

    `spared`: stretches of timeline, in samples, in which the key is not listened to.
    """
    settings = project.settings
    wanted = law_of(settings).reduction_db(key_level(project, uppers, key))
    for start_n, stop_n in spared:
        wanted[start_n // STEP_N : -(-stop_n // STEP_N)] = 0.0
    ahead = round(settings.look_ahead_ms)
    if ahead:
        wanted = np.concatenate((wanted[ahead:], np.zeros(min(ahead, len(wanted)), np.float32)))
    return followed(
        wanted,
        attack_ms=settings.comp_attack_ms,
        hold_ms=settings.comp_hold_ms,
        release_ms=settings.comp_release_ms,
    )


def curve_under(
    project: Project, uppers: Collection[str], key: Mapping[int, KeyTrack], *, spared: Sequence[tuple[int, int]] = ()
) -> Curve:
    """The gain curve of the compressor, output gain and all, within 0.05 dB of what its detector says."""
    gain = reduction_under(project, uppers, key, spared=spared)
    np.subtract(np.float32(project.settings.output_db), gain, out=gain)
    return in_pieces(gain, largest_db=CURVE_DB)


def in_pieces(gain_db: NDArray[np.float32], *, largest_db: float) -> Curve:
    """A curve through values (steps,) one a millisecond, straight in pieces that stray by no more than that.

    A piece is halved as long as it strays too far; quick and good, not the fewest points there could be.
    """
    if len(gain_db) < 2:
        return Curve.flat(float(gain_db[0]) if len(gain_db) else 0.0)
    size = LONGEST_PIECE
    short = -(len(gain_db) - 1) % size
    values = np.concatenate((gain_db, np.full(short, gain_db[-1], np.float32)))
    begins = np.arange(0, len(values) - 1, size)
    kept = [begins, np.array([len(values) - 1])]
    while size > 1 and len(begins):
        strays = _strays(values, begins, size) > largest_db
        size //= 2
        begins = begins[strays]
        begins = np.concatenate((begins, begins + size))
        kept.append(begins)
    places = np.unique(np.concatenate(kept))
    places = places[places < len(gain_db)]
    points = values[places].astype(np.float64)
    flat = np.abs(np.diff(points)) < 1e-3
    needed = (
        np.concatenate(([True], ~(flat[:-1] & flat[1:]), [True])) if len(points) > 2 else np.ones(len(points), bool)
    )
    return Curve(places[needed] * STEP_N, np.round(points[needed], 3))


def _strays(values: NDArray[np.float32], begins: NDArray[np.int64], size: int) -> NDArray[np.float32]:
    """How far each piece strays from the straight line between its ends."""
    rows = np.lib.stride_tricks.sliding_window_view(values, size + 1)[begins]
    share = np.linspace(0, 1, size + 1, dtype=np.float32)
    line = rows[:, :1] + (rows[:, -1:] - rows[:, :1]) * share
    line -= rows
    return np.maximum(line.max(axis=1), -line.min(axis=1))


def longest_tail_n(settings: Settings) -> int:
    """How long a key can act after it has ended, in samples: hold and eight time constants of the release."""
    return ms_to_n(settings.comp_hold_ms + 8 * (settings.comp_release_ms + settings.comp_attack_ms))
