"""Thinning: as few points as describe a curve, with a stated largest error and no two points too close.

From a point on, the next one kept is the farthest whose straight line to it stays within the error of all between:
the slopes that stay within it narrow from point to point, and the line must lie inside what is left of them.
Source: the "cone intersection" or "swing filter" method for straight pieces with a bounded error, textbook;
see Reumann and Witkam 1974, Williams 1978 for its beginnings (from memory).
"""

from __future__ import annotations

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.arrays import Doubles, Times

FIRST_REACH = 32


def thinned(curve: Curve, *, largest_db: float, least_n: int = 0) -> tuple[Curve, float]:
    """A curve straight in dB with fewer points, and by how many dB it strays at most.

    `largest_db`: what it may stray, at least 0.001, and never does by more; `least_n`: the least distance of two
    points, in samples, kept wherever the curve allows it: of closer ones none can be left out within that error.
    """
    # bent ramps use up a tenth of what may be strayed, the points kept the rest
    full = curve.straightened(largest_db=max(largest_db, 0.001) / 10)
    time_n, gain_db = _single(full)
    allowed_db = max(largest_db, 0.001) * (1.0 if curve.straight else 0.9)
    kept = _kept(time_n, gain_db, allowed_db)
    if least_n:
        kept = _apart(time_n, gain_db, kept, least_n, allowed_db)
    found = Curve(time_n[kept], gain_db[kept])
    return found, error_db(curve, found)


def error_db(curve: Curve, other: Curve) -> float:
    """The largest difference of two curves, in dB, at the points of both and in the middles between them."""
    points = np.unique(np.concatenate((curve.time_n, other.time_n)))
    times = np.unique(np.concatenate((points, (points[1:] + points[:-1]) // 2)))
    return float(np.abs(curve.at(times) - other.at(times)).max())


def thinned_within(
    curve: Curve, start_n: int, stop_n: int, *, largest_db: float, least_n: int, bent_db: float
) -> tuple[Curve, float]:
    """The same over a stretch, in samples, such as a clip is, and by how many dB it strays at most in all: its last
    point lies on the last sample. `bent_db` of what it may stray is used up by what was made straight before."""
    fine = curve.straightened(largest_db=largest_db / 10).within(start_n, max(stop_n - 1, start_n + 1))
    points, error = thinned(fine, largest_db=largest_db - bent_db, least_n=least_n)
    return points, error + bent_db


def _single(curve: Curve) -> tuple[Times, Doubles]:
    """Points with times that differ: of a step the two points lie one sample apart."""
    time_n = curve.time_n.copy()
    same = np.flatnonzero(np.diff(time_n) == 0)
    time_n[same] -= 1
    keep = np.concatenate(([True], np.diff(time_n) > 0))
    return time_n[keep], curve.gain_db[keep]


def _kept(time_n: Times, gain_db: Doubles, largest_db: float) -> list[int]:
    """Indices of the points that are kept; always the first and the last."""
    kept, last = [0], len(time_n) - 1
    while kept[-1] < last:
        kept.append(_farthest(time_n, gain_db, kept[-1], largest_db))
    return kept


def _farthest(time_n: Times, gain_db: Doubles, anchor: int, largest_db: float) -> int:
    """The farthest point that a straight line from the anchor reaches while all between stay within the error."""
    reach, last = FIRST_REACH, len(time_n) - 1
    while True:
        stop = min(anchor + reach, last)
        ahead = slice(anchor + 1, stop + 1)
        run = (time_n[ahead] - time_n[anchor]).astype(np.float64)
        rise = gain_db[ahead] - gain_db[anchor]
        low = np.maximum.accumulate((rise - largest_db) / run)
        high = np.minimum.accumulate((rise + largest_db) / run)
        fits = np.flatnonzero((low <= rise / run) & (rise / run <= high))
        open_still = bool(low[-1] <= high[-1])
        if open_still and stop < last:
            reach *= 4
            continue
        return anchor + 1 + int(fits[-1])  # the very next point always fits


def _apart(time_n: Times, gain_db: Doubles, kept: list[int], least_n: int, largest_db: float) -> list[int]:
    """Drop points that come too close, where what is left stays within the error: of a crowd stays the one farthest
    from the line through its neighbours. The first and the last point stay."""
    chosen = list(kept)
    i = 1
    while i < len(chosen):
        if time_n[chosen[i]] - time_n[chosen[i - 1]] >= least_n:
            i += 1
            continue
        candidates = [
            j
            for j in (i - 1, i)
            if 0 < j < len(chosen) - 1 and _strays(time_n, gain_db, chosen[j - 1], chosen[j + 1]) <= largest_db
        ]
        if not candidates:
            i += 1
            continue
        drop = min(candidates, key=lambda j: _bend(time_n, gain_db, chosen, j))
        del chosen[drop]
        i = max(1, drop)
    return chosen


def _strays(time_n: Times, gain_db: Doubles, first: int, last: int) -> float:
    """How far points stray from a straight line between two of them, in dB."""
    share = (time_n[first : last + 1] - time_n[first]) / (time_n[last] - time_n[first])
    line = gain_db[first] + share * (gain_db[last] - gain_db[first])
    return float(np.abs(gain_db[first : last + 1] - line).max())


def _bend(time_n: Times, gain_db: Doubles, chosen: list[int], j: int) -> float:
    """How far a point lies from the line between its neighbours, in dB."""
    a, b, c = chosen[j - 1], chosen[j], chosen[j + 1]
    share = (time_n[b] - time_n[a]) / (time_n[c] - time_n[a])
    return abs(float(gain_db[a] + share * (gain_db[c] - gain_db[a]) - gain_db[b]))
