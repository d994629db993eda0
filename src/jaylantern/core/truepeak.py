"""True peak by four-fold oversampling (ITU-R BS.1770-5 Annex 2), only where it can matter.

The interpolator is a Kaiser-windowed sinc with 24 taps a phase: 12 taps read 0.08 dB low on music. It passes
the samples themselves unchanged, so only three phases are computed, as one matrix product per 32 samples.

Where it can't matter is told by two bounds. With h the taps of a phase, l those of straight interpolation, and
h − l = ε·δ' + q″ (its first and second sum), for the largest sample m and the largest second difference d in reach

    |y| ≤ m·Σ|h|         |y| ≤ m·(1 + 2|ε|) + d·Σ|q|
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.lib.stride_tricks import as_strided
from numpy.typing import NDArray

from jaylantern.core.arrays import Doubles, Samples

TAPS = 24
BEFORE_N, AFTER_N = TAPS // 2 - 1, TAPS // 2
SUB_N = 32
SEGMENT_N = 480
PHASES = (0.25, 0.5, 0.75)
KAISER_BETA = 7.0


def _taps() -> list[Doubles]:
    """Taps (24,) of the phases 1/4, 1/2, 3/4, each with the sum 1."""
    bank = []
    for phase in PHASES:
        at = np.arange(TAPS) - BEFORE_N - phase
        window = np.i0(KAISER_BETA * np.sqrt(1.0 - (at / (TAPS / 2)) ** 2)) / np.i0(KAISER_BETA)
        taps = np.sinc(at) * window
        bank.append(taps / taps.sum())
    return bank


def _matrix(bank: list[Doubles]) -> NDArray[np.float32]:
    """All phases over 32 samples as one matrix (96, 32 + 23)."""
    matrix = np.zeros((3 * SUB_N, SUB_N + TAPS - 1))
    for i in range(SUB_N):
        for p, taps in enumerate(bank):
            matrix[3 * i + p, i : i + TAPS] = taps
    return matrix.astype(np.float32)


def _bounds(bank: list[Doubles]) -> tuple[float, float, float]:
    """Σ|h|, 1 + 2|ε| and Σ|q| of the phase where each is largest."""
    gain, flat, bent = 0.0, 0.0, 0.0
    for phase, taps in zip(PHASES, bank, strict=True):
        rest = taps.copy()
        rest[BEFORE_N : BEFORE_N + 2] -= (1.0 - phase, phase)
        first = np.cumsum(rest)
        epsilon = float(first.sum())
        first[BEFORE_N] -= epsilon
        gain = max(gain, float(np.abs(taps).sum()))
        flat, bent = max(flat, 1.0 + 2.0 * abs(epsilon)), max(bent, float(np.abs(np.cumsum(first)).sum()))
    return gain, flat, bent


MATRIX = _matrix(_taps())
LARGEST_GAIN, FLAT_GAIN, BENT_GAIN = _bounds(_taps())
ROUNDING = 1.0001  # the bounds are of exact arithmetic


def sub_peaks(samples: Samples, *, floor: float) -> NDArray[np.float32]:
    """True peak of each 32 samples, over all channels.

    `samples` is (11 + 32·k + 12, channels): k stretches with the filter's reach before and after. Returns (k,)
    amplitudes; where the true peak is not above `floor` (amplitude), any value up to it.
    """
    stretches = (len(samples) - TAPS + 1) // SUB_N
    peaks = np.zeros(stretches, np.float32)
    near = _may_pass(np.ascontiguousarray(samples), stretches, floor)
    edges = np.flatnonzero(np.diff(np.concatenate(([False], near, [False])).astype(np.int8)))
    for first, last in edges.reshape(-1, 2).tolist():
        part = samples[first * SUB_N : last * SUB_N + TAPS - 1]
        peaks[first:last] = _interpolated(part, last - first, floor)
    return peaks


def _may_pass(samples: Samples, stretches: int, floor: float) -> NDArray[np.bool_]:
    """Which stretches might pass the floor, told coarsely by segments of 480 samples."""
    channels = samples.shape[1]
    flat = samples.ravel()
    largest = _segment_peaks(flat, SEGMENT_N * channels)
    loud = largest * (LARGEST_GAIN * ROUNDING) > floor
    if not loud.any():
        return np.zeros(stretches, np.bool_)
    bend = _bends(flat, channels, _with_neighbours(loud))
    first, last = _segments_of(stretches)
    last = np.minimum(last, len(largest) - 1)
    size, bent = (np.maximum(each[first], each[last]) for each in (largest, bend))
    bound = np.minimum(size * LARGEST_GAIN, size * FLAT_GAIN + bent * BENT_GAIN)
    passes: NDArray[np.bool_] = bound * ROUNDING > floor
    return passes


def _with_neighbours(some: NDArray[np.bool_]) -> NDArray[np.bool_]:
    found = some.copy()
    found[1:] |= some[:-1]
    found[:-1] |= some[1:]
    return found


def _bends(flat: NDArray[np.float32], channels: int, wanted: NDArray[np.bool_]) -> NDArray[np.float32]:
    """Largest second difference of the wanted segments; of the others 0, of those that reach the end what is safe."""
    size, reach = SEGMENT_N * channels, (SEGMENT_N + 2) * channels
    whole = max(0, (len(flat) - 2 * channels) // size)
    bend = np.full(len(wanted), np.float32(np.inf))
    bend[:whole] = 0.0
    at = np.flatnonzero(wanted[:whole])
    if len(at):
        rows = as_strided(flat, (whole, reach), (size * flat.itemsize, flat.itemsize), writeable=False)[at]
        step = rows[:, channels:] - rows[:, :-channels]
        turn = step[:, channels:] - step[:, :-channels]
        bend[at] = np.maximum(turn.max(axis=1), -turn.min(axis=1))
    return bend


@lru_cache(maxsize=8)
def _segments_of(stretches: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """First and last segment that each stretch's reach touches."""
    starts = np.arange(stretches) * SUB_N
    return starts // SEGMENT_N, (starts + SUB_N + TAPS - 2) // SEGMENT_N


def _segment_peaks(flat: NDArray[np.float32], size: int) -> NDArray[np.float32]:
    """Largest magnitude of every `size` values, the last segment as short as it must be."""
    whole = len(flat) // size * size
    parts = flat[:whole].reshape(-1, size)
    peaks = np.maximum(parts.max(axis=1), -parts.min(axis=1))
    return peaks if whole == len(flat) else np.append(peaks, np.abs(flat[whole:]).max())


def _interpolated(samples: Samples, stretches: int, floor: float) -> NDArray[np.float32]:
    """True peaks of adjoining stretches, shape (stretches,)."""
    planar = np.ascontiguousarray(samples.T)
    size = np.abs(planar)
    inner = _halved(size[:, BEFORE_N : BEFORE_N + stretches * SUB_N])
    before, after = (part.max(axis=1, keepdims=True) for part in (size[:, :BEFORE_N], size[:, -AFTER_N:]))
    edge = np.concatenate((before, inner, after), axis=1)
    reach = np.maximum(np.maximum(edge[:, :-2], edge[:, 1:-1]), edge[:, 2:])
    rows = reach * LARGEST_GAIN > floor
    if rows.any():
        one, step = planar.strides
        shape = (planar.shape[0], stretches, SUB_N + TAPS - 1)
        around = as_strided(planar, shape, (one, SUB_N * step, step), writeable=False)[rows]
        between = MATRIX @ around.T
        inner[rows] = np.maximum(inner[rows], np.maximum(between.max(axis=0), -between.min(axis=0)))
    peaks: NDArray[np.float32] = inner.max(axis=0)
    return peaks


def _halved(size: NDArray[np.float32]) -> NDArray[np.float32]:
    """Largest value of every 32 along axis 1, by halving: far quicker than a reshape and a maximum of its rows."""
    for _ in range(SUB_N.bit_length() - 1):
        size = np.maximum(size[:, 0::2], size[:, 1::2])
    return size


class TruePeakMeter:
    """The largest true peak of a stream. Blocks may have any length."""

    def __init__(self, channels: int) -> None:
        self._tail = np.zeros((BEFORE_N, channels), np.float32)
        self.peak = 0.0

    def add(self, samples: Samples) -> None:
        """Add (n, channels) samples; what needs samples still to come is kept for the next call."""
        joined = np.concatenate((self._tail, samples))
        ready = (len(joined) - TAPS + 1) // SUB_N * SUB_N
        if ready > 0:
            found = sub_peaks(joined[: ready + TAPS - 1], floor=self.peak)
            self.peak = max(self.peak, float(found.max()))
        self._tail = joined[max(ready, 0) :]

    def finish(self) -> float:
        """Let silence follow and return the largest true peak as an amplitude."""
        self.add(np.zeros((SUB_N + TAPS, self._tail.shape[1]), np.float32))
        return self.peak
