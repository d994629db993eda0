"""True peak by four-fold oversampling (ITU-R BS.1770-5 Annex 2), only where it can matter.

The interpolator is a Kaiser-windowed sinc with 24 taps a phase: 12 taps read 0.08 dB low on music. It passes
the samples themselves unchanged, so only three phases are computed, as one matrix product per 32 samples.
A stretch whose samples times the filter's largest possible gain stay under the floor is skipped.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.arrays import Samples

TAPS = 24
BEFORE_N, AFTER_N = TAPS // 2 - 1, TAPS // 2
SUB_N = 32
KAISER_BETA = 7.0


def _matrix() -> tuple[NDArray[np.float32], float]:
    """Interpolation matrix (96, 32 + 23) and the largest gain any phase can have."""
    bank = []
    for phase in (0.25, 0.5, 0.75):
        at = np.arange(TAPS) - BEFORE_N - phase
        window = np.i0(KAISER_BETA * np.sqrt(1.0 - (at / (TAPS / 2)) ** 2)) / np.i0(KAISER_BETA)
        taps = np.sinc(at) * window
        bank.append(taps / taps.sum())
    matrix = np.zeros((SUB_N + TAPS - 1, 3 * SUB_N))
    for i in range(SUB_N):
        for p, taps in enumerate(bank):
            matrix[i : i + TAPS, 3 * i + p] = taps
    return np.ascontiguousarray(matrix.T, np.float32), float(max(np.abs(taps).sum() for taps in bank))


MATRIX, LARGEST_GAIN = _matrix()


def sub_peaks(samples: Samples, *, floor: float) -> NDArray[np.float32]:
    """True peak of each 32 samples, over all channels.

    `samples` is (11 + 32·k + 12, channels): k stretches with the filter's reach before and after. Returns (k,)
    amplitudes. Values at or below `floor` (amplitude) may be the plain sample peak.
    """
    stretches = (len(samples) - TAPS + 1) // SUB_N
    planar = np.ascontiguousarray(samples.T)
    size = np.abs(planar)
    inner = _halved(size[:, BEFORE_N : BEFORE_N + stretches * SUB_N])
    before, after = (part.max(axis=1, keepdims=True) for part in (size[:, :BEFORE_N], size[:, -AFTER_N:]))
    edge = np.concatenate((before, inner, after), axis=1)
    reach = np.maximum(np.maximum(edge[:, :-2], edge[:, 1:-1]), edge[:, 2:])
    rows = reach * LARGEST_GAIN > floor
    if rows.any():
        around = np.lib.stride_tricks.sliding_window_view(planar, SUB_N + TAPS - 1, axis=1)[:, ::SUB_N][rows]
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
