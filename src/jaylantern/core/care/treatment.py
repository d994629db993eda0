"""The treatment of a voice, stretch by stretch: each is computed from finite surroundings on a fixed grid, so that any
window gives the same samples.

sound ─ low cut, presence ─▶ spectra ─ hush ─▶ softer s ─▶ fewer breaths ─▶ evenness ─▶
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.care import filters, frames, hush
from jaylantern.core.care.frames import BIN_HZ, BINS, HOP_N
from jaylantern.core.care.heard import Voice
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.arrays import Samples, scaled
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.care import Care

AROUND_N = (hush.SMOOTH_FRAMES + 2) * HOP_N  # of the filtered sound on each side of a stretch
REACH_N = AROUND_N + filters.REACH_N  # of the sound as it was
HISS_RAMP_N, BREATH_RAMP_N = RATE // 200, RATE // 50  # 5 ms, 20 ms


class Treatment:
    """What is done to one voice, for stretches of `size_n` samples, a multiple of HOP_N, that begin at multiples
    of it."""

    def __init__(self, care: Care, voice: Voice, evenness: Curve | None, *, size_n: int) -> None:
        self._care, self._voice, self._evenness, self._size_n = care, voice, evenness, size_n
        self._filter: Callable[[Samples], Samples] | None = None
        self._noise = voice.noise
        if care.low_cut is not None or care.presence is not None:
            self._filter = filters.convolver(filters.taps(care), size_n + 2 * AROUND_N)
            drawn = filters.wanted_db(care, np.arange(BINS, dtype=np.float64) * BIN_HZ)
            self._noise = np.asarray(voice.noise * 10 ** (drawn / 10), np.float64)
        self._hiss = filters.convolver(filters.hiss_taps(), size_n)
        self._hisses, self._breaths = (_kept(spans, care.spared) for spans in (voice.hisses, voice.breaths))

    def of(self, sound: Samples, start_n: int) -> Samples:
        """The treated sound of [start_n, start_n + size_n) of a medium, from samples (size_n + 2·REACH_N, channels)
        that begin REACH_N before it."""
        care, stop_n = self._care, start_n + self._size_n
        reach = filters.REACH_N
        sound = self._filter(sound) if self._filter is not None else sound[reach : len(sound) - reach]
        sound = self._hushed(sound)  # with HOP_N on each side
        inner = np.ascontiguousarray(sound[HOP_N:-HOP_N])
        if care.soft_s is not None:
            gains = lowered(self._hisses, start_n, stop_n, amount_db=care.soft_s, ramp_n=HISS_RAMP_N)
            if gains is not None:
                margin = HOP_N - filters.HISS_REACH_N
                inner = inner + scaled(self._hiss(sound[margin : len(sound) - margin]), gains - np.float32(1))
        if care.breaths is not None:
            gains = lowered(self._breaths, start_n, stop_n, amount_db=care.breaths, ramp_n=BREATH_RAMP_N)
            inner = inner if gains is None else scaled(inner, gains)
        if self._evenness is not None:
            even = self._evenness.amplitudes(start_n, stop_n)
            inner = scaled(inner, even) if isinstance(even, np.ndarray) else inner * np.float32(even)
        return inner

    def _hushed(self, sound: Samples) -> Samples:
        """The sound less its noise, and less AROUND_N − HOP_N on each side."""
        care = self._care
        if care.hush is None or not self._voice.learnt:
            cut = AROUND_N - HOP_N
            return sound[cut : len(sound) - cut]
        parts = [
            frames.put_together(hush.hushed(frames.spectra(sound, channel), self._noise, care.hush))
            for channel in range(sound.shape[1])
        ]
        return np.stack(parts, axis=1)


def _kept(spans: Intervals, spared: tuple[int, ...]) -> Intervals:
    return spans[~np.isin(spans[:, 0], np.array(spared, np.int64))] if spared else spans


def lowered(
    spans: Intervals, start_n: int, stop_n: int, *, amount_db: float, ramp_n: int
) -> NDArray[np.float32] | None:
    """Amplitudes of samples [start_n, stop_n): lowered by so many dB in spans, with ramps straight in dB outside them;
    None where no span is near."""
    near = spans[(spans[:, 0] - ramp_n < stop_n) & (spans[:, 1] + ramp_n > start_n)]
    if not len(near):
        return None
    edges = near.astype(np.float64)
    times = np.stack((edges[:, 0] - ramp_n, edges[:, 0], edges[:, 1], edges[:, 1] + ramp_n), axis=1)
    depth = np.zeros(stop_n - start_n, np.float32)
    for row in times:  # where ramps of neighbours meet, the deeper counts
        lo, hi = max(start_n, int(row[0])), min(stop_n, int(row[3]) + 1)
        if lo < hi:
            there = depth[lo - start_n : hi - start_n]
            np.maximum(there, np.interp(np.arange(lo, hi), row, (0, 1, 1, 0)).astype(np.float32), out=there)
    return np.power(np.float32(10 ** (-amount_db / 20)), depth)
