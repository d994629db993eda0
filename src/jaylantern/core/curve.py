"""A gain curve: points of time and dB, straight in dB between them, level before the first and after the last.

dB  0 ──o                 o──
         \\               /
   -14    o─────────────o
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.arrays import Doubles, Times
from jaylantern.core.timebase import db_to_amplitude
from jaylantern.errors import InvalidValue

STRIDE_N = 4096
LOG2_PER_DB = np.log2(10.0) / 20.0


@lru_cache(maxsize=64)
def _steps(db_per_n: float, count: int) -> Doubles:
    """Amplitude factors 10^(slope·k/20) for k = 0 … count − 1; beyond what a double holds, its limits."""
    return np.exp2(np.clip(LOG2_PER_DB * db_per_n * np.arange(count), -1000.0, 1000.0))


@dataclass(frozen=True)
class Curve:
    """Points `time_n` (n,) ascending (two equal times make a step) and `gain_db` (n,). At least one point."""

    time_n: Times
    gain_db: Doubles

    def __post_init__(self) -> None:
        if self.time_n.shape != self.gain_db.shape or self.time_n.ndim != 1 or not len(self.time_n):
            raise InvalidValue(f"A curve needs as many times as gains; got {self.time_n.shape}, {self.gain_db.shape}.")
        if (np.diff(self.time_n) < 0).any():
            raise InvalidValue("The points of a curve must be in order of time.")

    @classmethod
    def flat(cls, gain_db: float = 0.0) -> Curve:
        """The same gain for ever."""
        return cls(np.zeros(1, np.int64), np.array([gain_db]))

    def at(self, time_n: Times) -> Doubles:
        """Gain in dB at the given samples. On a step the later value counts."""
        return np.interp(time_n, self.time_n, self.gain_db)

    def amplitudes(self, start_n: int, stop_n: int) -> NDArray[np.float32] | float:
        """Amplitude factors of samples [start_n, stop_n), shape (n,), or one float where they are all the same.

        Between two points g(n) = 10^((d0 + slope·(n − n0)) / 20), computed as head × step^k.
        """
        first = int(np.searchsorted(self.time_n, start_n, side="right"))
        last = int(np.searchsorted(self.time_n, stop_n - 1, side="right"))
        if first == last and self._level(first):
            return db_to_amplitude(float(self.gain_db[max(first - 1, 0)]))
        out = np.empty(stop_n - start_n, np.float32)
        for i in range(first, last + 1):
            begin = start_n if i == first else int(self.time_n[i - 1])
            end = stop_n if i == last else int(self.time_n[i])
            if begin < end:
                self._fill(out[begin - start_n : end - start_n], i, begin)
        return out

    def _level(self, i: int) -> bool:
        """Is the stretch before point i flat?"""
        return i == 0 or i == len(self.time_n) or bool(self.gain_db[i - 1] == self.gain_db[i])

    def _fill(self, out: NDArray[np.float32], i: int, begin_n: int) -> None:
        """Amplitudes of the stretch before point i from sample begin_n on."""
        known = max(i - 1, 0)
        d0, n0 = float(self.gain_db[known]), int(self.time_n[known])
        if self._level(i):
            out[:] = db_to_amplitude(d0)
            return
        slope = (float(self.gain_db[i]) - d0) / (int(self.time_n[i]) - n0)
        steps = _steps(slope, min(STRIDE_N, 1 << (len(out) - 1).bit_length()))
        for done in range(0, len(out), STRIDE_N):
            part = out[done : done + STRIDE_N]
            part[:] = db_to_amplitude(d0 + slope * (begin_n + done - n0)) * steps[: len(part)]

    def within(self, start_n: int, stop_n: int) -> Curve:
        """The curve over [start_n, stop_n] as points, with one at each end."""
        inside = (self.time_n > start_n) & (self.time_n < stop_n)
        ends = np.array([start_n, stop_n], np.int64)
        gains = self.at(ends)
        return Curve(
            np.concatenate((ends[:1], self.time_n[inside], ends[1:])),
            np.concatenate((gains[:1], self.gain_db[inside], gains[1:])),
        )
