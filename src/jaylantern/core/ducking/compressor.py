"""The laws of a compressor: level to gain, and how the gain follows in time. Levels and gains in dB, one value a step.

Source: Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design: A Tutorial and Analysis", J. Audio Eng.
Soc. 60(6), 2012: the gain computer with its soft knee, and the decoupled peak detector, working on the gain in dB
behind the gain computer (the place the paper recommends). Hold is common practice: a sliding maximum of what is asked.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

STEP_MS = 1.0
BLOCK = 256  # steps that are worked out side by side
CHUNK = 1 << 15  # steps that are worked out at once
Row = NDArray[np.float32]
_Within = Callable[[Row, float], Row]


@dataclass(frozen=True)
class Law:
    """The static law. `range_db` (0 or less) is the most it turns down."""

    threshold_db: float
    ratio: float
    knee_db: float = 0.0
    range_db: float = -90.0

    def reduction_db(self, level_db: Row) -> Row:
        """By how many dB a level turns the gain down, 0 or more, shape as given.

        With x = level − threshold, W the knee, R the ratio: nothing below −W/2; (1 − 1/R)·(x + W/2)²/2W within the
        knee; (1 − 1/R)·x above. As one term: u = clip(x + W/2, 0, W), reduction = (1 − 1/R)·(u²/2W + max(x − W/2, 0)).
        """
        x = np.asarray(level_db, np.float32) - np.float32(self.threshold_db)
        half = np.float32(self.knee_db / 2)
        above = np.maximum(x - half, 0, dtype=np.float32)
        if self.knee_db > 0:
            u = np.clip(x + half, 0, np.float32(self.knee_db))
            u *= u
            u *= np.float32(0.5 / self.knee_db)
            above += u
        above *= np.float32(1.0 - 1.0 / self.ratio)
        found: Row = np.minimum(above, np.float32(-self.range_db), out=above)
        return found

    def output_db(self, level_db: Row) -> Row:
        """The level that comes out where the compressor listens to itself: the transfer curve."""
        return np.asarray(level_db, np.float32) - self.reduction_db(level_db)


def running_maximum(wanted: Row, steps: int) -> Row:
    """Each value, or the largest of the `steps` before it if that is larger: the largest stays for so long.

    A window of n values is the larger of two of half as many, so that it doubles until it is wide enough.
    """
    out, reach = wanted.copy(), 1
    while reach <= min(steps, len(wanted) - 1):
        by = min(reach, steps + 1 - reach)
        out[by:] = np.maximum(out[by:], out[:-by])
        reach += by
    return out


def decay(time_constant_ms: float, step_ms: float = STEP_MS) -> float:
    """What is left after a step of an exponential with this time constant: α = exp(−step/τ); 0 for τ = 0."""
    return math.exp(-step_ms / time_constant_ms) if time_constant_ms > 0 else 0.0


def released(wanted: Row, alpha: float) -> Row:
    """y[n] = max(x[n], α·y[n−1]): goes up at once and comes back with its time constant; x ≥ 0.

    Over a block, y[k] = α^k·max over j ≤ k of x[j]·α^−j: a running maximum. What blocks hand on to each other is the
    same recursion over their last values.
    """
    if alpha <= 0.0 or not len(wanted):
        return wanted.copy()
    size = max(1, min(BLOCK, int(60.0 / -math.log(alpha)))) if alpha < 1 else BLOCK  # α^−k must fit a float
    return _in_blocks(wanted, size, alpha, _peaks_of, np.maximum)


def smoothed(wanted: Row, alpha: float) -> Row:
    """y[n] = α·y[n−1] + (1 − α)·x[n]: a one-pole low-pass, from 0."""
    if alpha <= 0.0 or not len(wanted):
        return wanted.copy()
    return _in_blocks(wanted, 32, alpha, _means_of, np.add)


def _in_blocks(wanted: Row, size: int, alpha: float, within: _Within, join: np.ufunc) -> Row:
    """A first-order recursion, block by block: each by itself, then what the block before hands on, decayed.

    Proof, with ⊕ the larger of two or their sum: y[n] = x[n] ⊕ α·y[n−1], and α·(a ⊕ b) = α·a ⊕ α·b, so by induction
    over a block that begins at b, y[n] = own[n] ⊕ α^(n−b+1)·y[b−1], where own[n] is the recursion begun anew at b. What
    is left out: ends of at most 1e-6 (dB), and in `_handed_on` 1e-9 of an earlier end; both far under what is drawn.
    """
    blocks = -(-len(wanted) // size)
    rows = np.zeros(blocks * size, np.float32)
    rows[: len(wanted)] = wanted
    rows = within(rows.reshape(blocks, size), alpha)
    if blocks > 1:
        ends = _handed_on(rows[:-1, -1], alpha**size, join)
        fading = np.power(alpha, np.arange(1, size + 1)).astype(np.float32)
        there = np.flatnonzero(ends > 1e-6)
        if len(there) > blocks // 2:
            join(rows[1:], ends[:, None] * fading, out=rows[1:])
        elif len(there):
            rows[there + 1] = join(rows[there + 1], ends[there, None] * fading)
    return rows.ravel()[: len(wanted)]


def _handed_on(ends: Row, alpha: float, join: np.ufunc) -> Row:
    """The true last value of each block from the last values they would have by themselves: joined with the one before,
    then with what two before make, then four, decayed: after t rounds each holds the ⊕ over the 2^t blocks up to it."""
    out, by = ends.copy(), 1
    while by < len(out) and (left := alpha**by) > 1e-9:
        out[by:] = join(out[by:], np.float32(left) * out[:-by])
        by *= 2
    return out


def _peaks_of(rows: Row, alpha: float) -> Row:
    rising = np.power(alpha, -np.arange(rows.shape[1])).astype(np.float32)
    found: Row = np.maximum.accumulate(rows * rising, axis=1)
    found /= rising
    return found


def _weights(alpha: float, size: int) -> Row:
    n = np.arange(size)
    found = np.where(n[:, None] <= n, (1 - alpha) * np.power(alpha, np.maximum(n - n[:, None], 0)), 0.0)
    return found.astype(np.float32)


def _means_of(rows: Row, alpha: float) -> Row:
    return rows @ _weights(alpha, rows.shape[1])


def followed(wanted: Row, *, attack_ms: float, hold_ms: float, release_ms: float, step_ms: float = STEP_MS) -> Row:
    """The reduction in dB as it follows what the law asks for, one value a step of 1 ms.

    Hold, then the decoupled peak detector: y1[n] = max(x[n], αR·y1[n−1]), y[n] = αA·y[n−1] + (1 − αA)·y1[n]. Worked out
    in chunks that stay in the processor's cache.
    """
    hold = round(hold_ms / step_ms)
    falling, rising = _Pole(decay(release_ms, step_ms)), _Pole(decay(attack_ms, step_ms))
    out = np.empty(len(wanted), np.float32)
    for first in range(0, len(wanted), CHUNK):
        before = max(0, first - hold)
        part = running_maximum(wanted[before : first + CHUNK], hold)[first - before :]
        part = falling.after(released(part, falling.alpha), np.maximum)
        out[first : first + CHUNK] = rising.after(smoothed(part, rising.alpha), np.add)
    return out


class _Pole:
    """A first-order recursion carried from chunk to chunk: what the last one left, dying away."""

    def __init__(self, alpha: float) -> None:
        self.alpha = alpha
        reach = 0 if alpha <= 0 else CHUNK if alpha >= 1 else min(CHUNK, math.ceil(-18.0 / math.log(alpha)))
        self._fading = np.power(alpha, np.arange(1, reach + 1)).astype(np.float32)
        self._last = np.float32(0.0)

    def after(self, part: Row, join: np.ufunc) -> Row:
        """A chunk worked out by itself, joined with what came before it; in place."""
        reach = min(len(self._fading), len(part))
        if reach and self._last > 0:
            join(part[:reach], self._last * self._fading[:reach], out=part[:reach])
        self._last = part[-1]
        return part
