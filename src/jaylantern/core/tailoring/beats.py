"""Beats from onsets: the tempo at every moment, then the beats that fit both tempo and onsets best.

tempo   autocorrelation of the onsets over WINDOW_S, at a period and its multiples, weighted by how usual the
        period is (Ellis 2007, eq. 6); the smoothest good line through the windows (Viterbi 1967)
beats   the best sum of onset at each beat less TIGHTNESS · ln²(interval ∕ period) between them, found by dynamic
        programming (Ellis, "Beat tracking by dynamic programming", JNMR 36(1), 2007, eq. 2–5)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.tailoring.features import HOPS_A_SECOND, Floats, MusicFeatures

Doubles = NDArray[np.float64]

SLOWEST_BPM, FASTEST_BPM, A_OCTAVE = 45.0, 220.0, 48  # tempos looked at: so many to a doubling
USUAL_BPM, USUAL_OCTAVES = 112.0, 0.9  # where most music lies, and how widely
WINDOW_S, EVERY_S = 8.0, 1.0
CHANGE = 6.0  # cost of a change of tempo by a doubling, in units of the clearest autocorrelation
MULTIPLES = ((1, 1.0), (2, 0.4), (3, 0.2), (4, 0.3))  # of a period, and what each counts
TIGHTNESS = 260.0
SHORTEST_S = 4  # a sound shorter than this has none
LEAST_DB = 0.1  # what rises less begins nothing
LOCAL_S = 4.0  # onsets are measured against what is usual within it
CLEAR = 0.4  # a piece whose beats stand out less than this has none that could be followed
QUIET_END = 0.3  # of the usual onset: beats before the first and after the last such are none


@dataclass(frozen=True, eq=False)
class Beats:
    """`at_s` (n,) of each beat; `tempo_bpm`, the median; `certainty` 0 to 1, under CLEAR there is no beat to follow."""

    at_s: Doubles
    tempo_bpm: float
    certainty: float

    @property
    def clear(self) -> bool:
        """Is there a beat to follow?"""
        return self.certainty >= CLEAR and len(self.at_s) >= 8


def find_beats(features: MusicFeatures) -> Beats:
    """The beats of a piece."""
    if len(features.onset) < SHORTEST_S * HOPS_A_SECOND:
        return Beats(np.zeros(0), 0.0, 0.0)
    onset = evened(features.onset)
    if not onset.any():
        return Beats(np.zeros(0), 0.0, 0.0)
    periods = tempo_line(onset)
    at = _trimmed(_track(onset, periods), onset)
    if len(at) < 2:
        return Beats(np.zeros(0), 0.0, 0.0)
    at_s = (_between(onset, at) + 0.5) / HOPS_A_SECOND
    return Beats(at_s, 60.0 / float(np.median(_local(at_s))), _certainty(onset, at, periods))


def evened(onset: Floats) -> Doubles:
    """Onsets less their mean around, in units of their spread around, negative ones 0; smoothed over 30 ms."""
    smooth = np.convolve(np.where(onset > LEAST_DB, onset, 0), (0.25, 0.5, 0.25), "same")
    size = int(LOCAL_S * HOPS_A_SECOND)
    mean = _around(smooth, size)
    spread = np.sqrt(np.maximum(_around(smooth**2, size) - mean**2, 0))
    floor = max(float(np.median(spread)) / 4, LEAST_DB)
    return np.maximum(smooth - mean, 0) / np.maximum(spread, floor)


def _around(values: Doubles, size: int) -> Doubles:
    """The mean of `size` values around each, of fewer at the ends."""
    summed = np.concatenate(([0.0], np.cumsum(values)))
    at = np.arange(len(values))
    first, last = np.maximum(at - size // 2, 0), np.minimum(at + size // 2 + 1, len(values))
    return (summed[last] - summed[first]) / (last - first)


def tempo_line(onset: Doubles) -> Doubles:
    """The period of the beat in hops at every hop, (hops,)."""
    count = round(A_OCTAVE * np.log2(FASTEST_BPM / SLOWEST_BPM)) + 1
    bpm = SLOWEST_BPM * 2 ** (np.arange(count) / A_OCTAVE)
    periods = 60.0 * HOPS_A_SECOND / bpm
    clear = _autocorrelations(onset, periods)
    usual = np.exp(-0.5 * (np.log2(bpm / USUAL_BPM) / USUAL_OCTAVES) ** 2)
    weighted = clear * usual
    scores = weighted / max(float(weighted.max()), 1e-9)
    steps = np.abs(np.arange(count)[:, None] - np.arange(count)) / A_OCTAVE
    cost = CHANGE * np.minimum(steps, 0.5)
    best, came = scores[0], np.zeros((len(scores), count), np.intp)
    for k in range(1, len(scores)):
        options = best[None, :] - cost
        came[k] = options.argmax(axis=1)
        best = options.max(axis=1) + scores[k]
    line = np.empty(len(scores), np.intp)
    line[-1] = best.argmax()
    for k in range(len(scores) - 1, 0, -1):
        line[k - 1] = came[k, line[k]]
    middles = (np.arange(len(scores)) * EVERY_S) * HOPS_A_SECOND
    return np.interp(np.arange(len(onset)), middles, _finer(weighted, line, periods))


def _autocorrelations(onset: Doubles, periods: Doubles) -> Doubles:
    """How well each period explains the onsets around each moment, (moments, periods)."""
    size, step = int(WINDOW_S * HOPS_A_SECOND), int(EVERY_S * HOPS_A_SECOND)
    padded = np.pad(onset, (size // 2, size))
    windows = np.lib.stride_tricks.sliding_window_view(padded, size)[: len(onset) : step]
    shape = np.hanning(size)
    taper = np.fft.irfft(np.abs(np.fft.rfft(shape, 2 * size)) ** 2)[:size].clip(1e-3)
    rows = []
    for part in np.array_split(windows, max(1, len(windows) // 100)):
        spectra = np.fft.rfft(part * shape, 2 * size)
        found = np.fft.irfft(spectra.real**2 + spectra.imag**2)[:, :size] / taper
        total = np.zeros((len(part), len(periods)))
        for multiple, weight in MULTIPLES:
            lag = np.minimum(periods * multiple, size * 0.7)
            low = lag.astype(np.intp)
            share = lag - low
            total += weight * (found[:, low] * (1 - share) + found[:, low + 1] * share)
        rows.append(total)
    return np.maximum(np.concatenate(rows), 0)


def _finer(scores: Doubles, line: NDArray[np.intp], periods: Doubles) -> Doubles:
    """The periods of a line, each by a parabola through its neighbours."""
    inner = np.clip(line, 1, len(periods) - 2)
    at = np.arange(len(line))
    before, here, after = scores[at, inner - 1], scores[at, inner], scores[at, inner + 1]
    return np.asarray(periods[inner] * 2 ** (-np.clip(_summit(before, here, after), -0.5, 0.5) / A_OCTAVE))


def _summit(before: Doubles, here: Doubles, after: Doubles) -> Doubles:
    """How far off the middle of three neighbours the top of the parabola through them lies; 0 where it has none."""
    bend = before - 2 * here + after
    return np.where(bend < 0, 0.5 * (before - after) / np.minimum(bend, -1e-12), 0.0)


def largest_near(values: NDArray[np.floating], side: int) -> NDArray[np.floating]:
    """The largest of each value and so many to either side."""
    return np.lib.stride_tricks.sliding_window_view(np.pad(values, side), 2 * side + 1).max(axis=1)


def _track(onset: Doubles, periods: Doubles) -> NDArray[np.intp]:
    """Hops of the beats. As no beat comes sooner after another than half the shortest period, so many hops are worked
    out at once."""
    size = len(onset)
    best, came = np.empty(size), np.full(size, -1, np.intp)
    at = 0
    while at < size:
        period = periods[at]
        lags = np.arange(int(np.ceil(period * 0.5)), int(period * 2) + 1)
        here = np.arange(at, min(size, at + int(lags[0])))
        penalty = TIGHTNESS * np.log(lags / period) ** 2
        source = here[:, None] - lags
        value = np.where(source >= 0, best[np.maximum(source, 0)], -np.inf) - penalty
        choice = value.argmax(axis=1)
        gained = value[np.arange(len(here)), choice]
        begins = ~(gained > 0)
        best[here] = onset[here] + np.where(begins, 0.0, gained)
        came[here] = np.where(begins, -1, source[np.arange(len(here)), choice])
        at = int(here[-1]) + 1
    last = max(0, size - int(periods[-1] * 1.5))
    found = [last + int(best[last:].argmax())]
    while came[found[-1]] >= 0:
        found.append(int(came[found[-1]]))
    return np.array(found[::-1], np.intp)


def _trimmed(at: NDArray[np.intp], onset: Doubles) -> NDArray[np.intp]:
    """Without the beats before anything begins and after all has ended."""
    near = largest_near(onset, 3)[at]
    there = np.flatnonzero(near > QUIET_END * np.median(near))
    return at[there[0] : there[-1] + 1] if len(there) else at[:0]


def _between(onset: Doubles, at: NDArray[np.intp]) -> Doubles:
    """Where between the hops each beat lies, by a parabola through its onset and the two beside it."""
    padded = np.pad(onset, 1)
    before, here, after = padded[at], padded[at + 1], padded[at + 2]
    peak = (here >= before) & (here >= after)
    return at.astype(np.float64) + np.where(peak, _summit(before, here, after), 0.0)


def _local(at_s: Doubles) -> Doubles:
    """Beat intervals, each the mean of up to eight around: single ones count whole hops."""
    span = min(8, len(at_s) - 1)
    return (at_s[span:] - at_s[:-span]) / span


def _certainty(onset: Doubles, at: NDArray[np.intp], periods: Doubles) -> float:
    """How much more begins on the beats than halfway between them and anywhere, 0 to 1: the share of windows' onsets
    that comes back after a period, weighed by how much the beats stand out."""
    near = largest_near(onset, 2)
    on_beat, anywhere = float(near[at].mean()), float(near.mean())
    lag = np.round(periods).astype(np.intp)
    later = np.minimum(np.arange(len(onset)) + lag, len(onset) - 1)
    centred = onset - onset.mean()
    likeness = float((centred * centred[later]).mean() / max(float((centred**2).mean()), 1e-9))
    stand_out = max(0.0, 1.0 - anywhere / max(on_beat, 1e-9))
    struck = min(1.0, 2 * float((near[at] > 0).mean()))  # of its beats, a piece leaves out half at most
    return float(np.clip(np.sqrt(max(likeness, 0.0) * stand_out) * 1.4 * struck, 0.0, 1.0))
