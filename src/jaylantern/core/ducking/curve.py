"""A gain curve: points of time and dB, a ramp between two of them, level before the first and after the last.

dB  0 ──o                 o──
         \\               /
   -14    o─────────────o

Over a ramp from d0 to d1 dB, with x the share of its length:
  decibel    g = d0 + (d1 − d0)·x                        straight in dB
  amplitude  g = 20·log10(a0 + (a1 − a0)·x)              straight in amplitude
  eased      g = d0 + (d1 − d0)·(1 − cos πx)/2           in dB, soft at both ends
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Times
from jaylantern.core.signal.timebase import db_to_amplitude
from jaylantern.core.timeline.settings import Ramp
from jaylantern.errors import InvalidValue

STRIDE_N = 4096
LOG2_PER_DB = np.log2(10.0) / 20.0
MANY = 24  # ramps in one window from which on all its samples are interpolated at once
CODES = {ramp: code for code, ramp in enumerate(Ramp)}
FINE = 200  # parts a bent ramp is looked at in, to say it in straight ones


def _steps(db_per_n: float, count: int) -> Doubles:
    """Amplitude factors 10^(slope·k/20) for k = 0 … count − 1; beyond what a double holds, its limits."""
    return np.exp2(np.clip(LOG2_PER_DB * db_per_n * np.arange(count), -1000.0, 1000.0))


def _no_ramps() -> NDArray[np.int8]:
    return np.zeros(0, np.int8)


def _in_db(d0: float, d1: float, x: Doubles) -> Doubles:
    return d0 + (d1 - d0) * x


def _in_amplitude(d0: float, d1: float, x: Doubles) -> Doubles:
    a0, a1 = db_to_amplitude(d0), db_to_amplitude(d1)
    return 20.0 * np.log10(np.maximum(a0 + (a1 - a0) * x, 1e-30))


def _eased(d0: float, d1: float, x: Doubles) -> Doubles:
    return d0 + (d1 - d0) * (0.5 - 0.5 * np.cos(np.pi * x))


COURSES: dict[Ramp, Callable[[float, float, Doubles], Doubles]] = {
    Ramp.DB: _in_db,
    Ramp.AMPLITUDE: _in_amplitude,
    Ramp.EASED: _eased,
}
_BY_CODE = [COURSES[ramp] for ramp in Ramp]


def course(code: int, d0: float, d1: float, x: Doubles) -> Doubles:
    """Gain in dB at the shares x (n,), 0–1, of a ramp from d0 to d1 dB."""
    return _BY_CODE[code](d0, d1, x)


@dataclass(frozen=True)
class Curve:
    """Points `time_n` (n,) ascending (two equal times make a step) and `gain_db` (n,). At least one point.

    `ramp` (n − 1,) are the codes of the ramps between them; none given means straight in dB throughout.
    """

    time_n: Times
    gain_db: Doubles
    ramp: NDArray[np.int8] = field(default_factory=_no_ramps)

    def __post_init__(self) -> None:
        if self.time_n.shape != self.gain_db.shape or self.time_n.ndim != 1 or not len(self.time_n):
            raise InvalidValue(f"A curve needs as many times as gains; got {self.time_n.shape}, {self.gain_db.shape}.")
        if (np.diff(self.time_n) < 0).any():
            raise InvalidValue("The points of a curve must be in order of time.")
        if len(self.ramp) not in (0, len(self.time_n) - 1):
            raise InvalidValue(f"{len(self.time_n)} points have as many ramps less one, not {len(self.ramp)}.")

    @classmethod
    def flat(cls, gain_db: float = 0.0) -> Curve:
        """The same gain for ever."""
        return cls(np.zeros(1, np.int64), np.array([gain_db]))

    @property
    def straight(self) -> bool:
        """Is every ramp straight in dB?"""
        return not self.ramp.any()

    @property
    def codes(self) -> list[int]:
        """The code of the ramp that begins at each point; behind the last the gain stays, as if straight."""
        return [*(self.ramp.tolist() or [CODES[Ramp.DB]] * (len(self.time_n) - 1)), CODES[Ramp.DB]]

    @property
    def deepest_db(self) -> float:
        """The lowest gain it reaches."""
        return float(self.gain_db.min())

    def at(self, time_n: Times) -> Doubles:
        """Gain in dB at the given samples. On a step the later value counts."""
        found = np.interp(time_n, self.time_n, self.gain_db)
        if self.straight:
            return found
        place = np.clip(np.searchsorted(self.time_n, time_n, side="right") - 1, 0, len(self.ramp) - 1)
        within = (time_n >= self.time_n[0]) & (time_n <= self.time_n[-1])
        for i in np.unique(place[within & (self.ramp[place] > 0)]).tolist():
            here = within & (place == i)
            found[here] = self._on_ramp(i, time_n[here])
        return found

    def _on_ramp(self, i: int, time_n: Times) -> Doubles:
        """Gain in dB on the ramp from point i to the next."""
        span_n = max(1, int(self.time_n[i + 1] - self.time_n[i]))
        x = np.clip((time_n - self.time_n[i]) / span_n, 0.0, 1.0)
        return course(int(self.ramp[i]), float(self.gain_db[i]), float(self.gain_db[i + 1]), x)

    def amplitudes(self, start_n: int, stop_n: int) -> NDArray[np.float32] | float:
        """Amplitude factors of samples [start_n, stop_n), shape (n,), or one float where they are all the same.

        Straight in dB they are computed as head × step^k; else, and where there are many points, each for itself.
        """
        first = int(np.searchsorted(self.time_n, start_n, side="right"))
        last = int(np.searchsorted(self.time_n, stop_n - 1, side="right"))
        if first == last and self._level(first):
            return db_to_amplitude(float(self.gain_db[max(first - 1, 0)]))
        if last - first > MANY:
            gains = self.at(np.arange(start_n, stop_n))
            return np.exp2(LOG2_PER_DB * gains).astype(np.float32)
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
        if len(self.ramp) and self.ramp[known]:
            out[:] = np.exp2(LOG2_PER_DB * self._on_ramp(known, np.arange(begin_n, begin_n + len(out))))
            return
        slope = (float(self.gain_db[i]) - d0) / (int(self.time_n[i]) - n0)
        steps = _steps(slope, min(STRIDE_N, 1 << (len(out) - 1).bit_length()))
        for done in range(0, len(out), STRIDE_N):
            part = out[done : done + STRIDE_N]
            part[:] = db_to_amplitude(d0 + slope * (begin_n + done - n0)) * steps[: len(part)]

    def straightened(self, *, largest_db: float) -> Curve:
        """The same curve with ramps straight in dB alone, off by at most `largest_db` anywhere."""
        if self.straight:
            return Curve(self.time_n, self.gain_db)
        times, gains = [], []
        for i in range(len(self.time_n)):
            times.append(self.time_n[i : i + 1])
            gains.append(self.gain_db[i : i + 1])
            if i < len(self.ramp) and self.ramp[i] and self.gain_db[i] != self.gain_db[i + 1]:
                inner = self._inner(i, largest_db)
                times.append(inner)
                gains.append(self._on_ramp(i, inner))
        return Curve(np.concatenate(times), np.concatenate(gains))

    def _inner(self, i: int, largest_db: float) -> Times:
        """Times between two points at which straight pieces come near enough to the ramp between them."""
        fine = np.unique(np.linspace(self.time_n[i], self.time_n[i + 1], FINE + 1).astype(np.int64))
        gains = self._on_ramp(i, fine)
        kept, anchor = [], 0
        for j in range(2, len(fine)):
            share = (fine[anchor + 1 : j] - fine[anchor]) / (fine[j] - fine[anchor])
            chord = gains[anchor] + share * (gains[j] - gains[anchor])
            if np.abs(chord - gains[anchor + 1 : j]).max() > 0.8 * largest_db:
                anchor = j - 1
                kept.append(int(fine[anchor]))
        return np.array(kept, np.int64)

    def within(self, start_n: int, stop_n: int) -> Curve:
        """A curve that is straight in dB over [start_n, stop_n] as points, with one at each end."""
        if not self.straight:
            raise InvalidValue("A curve with bent ramps can't be cut; say it in straight ones first.")
        inside = (self.time_n > start_n) & (self.time_n < stop_n)
        ends = np.array([start_n, stop_n], np.int64)
        gains = self.at(ends)
        return Curve(
            np.concatenate((ends[:1], self.time_n[inside], ends[1:])),
            np.concatenate((gains[:1], self.gain_db[inside], gains[1:])),
        )
