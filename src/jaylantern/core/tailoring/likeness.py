"""How well one place of the music could follow another: a cost for every fold, and where it stands among all.

d(a, b)     mean square difference of the colour of two beats, in units of each band's spread over the piece; WITHIN
            of it that of their quarters; more HARMONY · (1 − likeness of harmony)
cost(i, j)  of leaving at beat i and going on at beat j: mean of d(i + k, j + k) over REACH beats before and after,
            weighted e^(−|k| ∕ FALL), those before by BEFORE of that (Wenner et al., "Scalable Music", CGF 32(2), 2013;
            the weights are our own, chosen on music on hold)
fit         how many of all folds of the piece cost less, in per cent: 0 is the best there is, 50 is chance
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.tailoring.features import BANDS, COLOUR_HOPS, HARMONY_HOPS, HOPS_A_SECOND, MusicFeatures

SLICES, WITHIN = 4, 0.3  # of a beat; share of what is unlike within a beat
LEAST_SPREAD_DB, HARMONY = 1.0, 3.0
REACH, FALL, BEFORE = 8, 3.0, 0.25  # beats, beats, share
STEPS = 1 << 16  # that costs are told apart by
ROWS = 128  # worked out at once

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]


def distances(features: MusicFeatures, at_s: Doubles) -> Floats:
    """d(a, b) for the stretches between places at_s (n + 1,), shape (n, n)."""
    edges = at_s[:-1, None] + np.diff(at_s)[:, None] * np.arange(SLICES) / SLICES
    ends = np.append(edges[:, 1:], at_s[1:, None], axis=1)
    quarters = row_means(features.colour, edges, ends, HOPS_A_SECOND / COLOUR_HOPS)
    beats = row_means(features.colour, at_s[:-1, None], at_s[1:, None], HOPS_A_SECOND / COLOUR_HOPS)
    parts = ((beats, 1 - WITHIN), (quarters, WITHIN))
    scaled = np.concatenate([_in_spreads(part) * np.sqrt(weight) for part, weight in parts], axis=1, dtype=np.float32)
    harmony = row_means(features.harmony, at_s[:-1], at_s[1:], HOPS_A_SECOND / HARMONY_HOPS)
    length = np.sqrt((harmony**2).sum(axis=1, keepdims=True))
    harmony = harmony / np.maximum(length, 1e-6)
    harmony = np.append(harmony, length < 1e-3, axis=1).astype(np.float32)  # two silences are alike
    size = (scaled**2).sum(axis=1)
    found = np.empty((len(size), len(size)), np.float32)
    for rows in _blocks(len(size)):
        colour = size[rows, None] + size - 2 * (scaled[rows] @ scaled.T)
        unlike = 1 - harmony[rows] @ harmony.T
        found[rows] = np.maximum(colour, 0) + np.float32(HARMONY) * np.maximum(unlike, 0)
    return found


def _blocks(size: int) -> Iterator[slice]:
    """Rows of a square so large, some at a time: what is worked out on the way takes little room."""
    for start in range(0, size, ROWS):
        yield slice(start, min(size, start + ROWS))


def _in_spreads(colour: Doubles) -> Doubles:
    """Colour (beats, parts, bands) in units of each band's spread, so that squares of differences sum to their mean."""
    scaled = (colour - colour.mean(axis=(0, 1))) / (colour.std(axis=(0, 1)) + LEAST_SPREAD_DB)
    return np.asarray(scaled.reshape(len(colour), -1) / np.sqrt(colour.shape[1] * BANDS), np.float64)


def row_means(rows: NDArray[np.floating], first_s: Doubles, last_s: Doubles, rate: float) -> Doubles:
    """The mean of the rows between each two moments, at least one row; (…, columns)."""
    first = np.clip(np.round(first_s * rate).astype(np.intp), 0, max(0, len(rows) - 1))
    last = np.clip(np.round(last_s * rate).astype(np.intp), first + 1, len(rows))
    bounds = np.minimum(np.stack((first, last), axis=-1).ravel(), len(rows) - 1)
    summed = np.add.reduceat(rows, bounds, axis=0, dtype=np.float32)[::2].reshape(*first.shape, rows.shape[1])
    to_end = (last == len(rows))[..., None] & (first[..., None] < len(rows) - 1)
    summed += np.where(to_end, rows[-1].astype(np.float32), 0)
    return np.asarray(summed / (last - first)[..., None], np.float64)


def costs(distance: Floats) -> Floats:
    """cost(i, j) for distances (n, n); what lies beyond either end is as unlike as the usual pair."""
    size = len(distance)
    unknown = np.float32(np.median(distance)) if size else np.float32(0)
    weights = [np.exp(-k / FALL) if k >= 0 else BEFORE * np.exp((1 + k) / FALL) for k in range(-REACH, REACH)]
    total = np.zeros((size, size), np.float32)
    for rows in _blocks(size):
        first, last = max(0, rows.start - REACH), min(size, rows.stop + REACH)
        beyond = (first - (rows.start - REACH), rows.stop + REACH - last)
        padded = np.pad(distance[first:last], (beyond, (REACH, REACH)), constant_values=unknown)
        for k, weight in enumerate(weights):
            total[rows] += np.float32(weight) * padded[k : k + rows.stop - rows.start, k : k + size]
    total /= np.float32(sum(weights))
    return total


def fits(cost: Floats, *, least: int) -> Floats:
    """Where each fold stands among all that leave out or say again at least `least` beats, per cent, (n, n). Costs that
    differ by less than a STEPS-th of all there are count as equal."""
    size, apart = len(cost), max(1, least)
    if size <= apart:
        return np.full(cost.shape, 100, np.float32)
    number = np.arange(size)
    low, high = float(cost.min()), float(cost.max())

    def steps(rows: slice) -> NDArray[np.int32]:
        """Costs of some rows as whole numbers below STEPS."""
        scaled = (cost[rows] - np.float32(low)) * np.float32((STEPS - 1) / max(high - low, 1e-9))
        return scaled.astype(np.int32)

    counted = np.zeros(STEPS, np.int64)
    for rows in _blocks(size):
        counted += np.bincount(steps(rows)[np.abs(number[rows, None] - number) >= apart], minlength=STEPS)
    less = ((np.cumsum(counted) - counted) * (100 / counted.sum())).astype(np.float32)
    found = np.empty((size, size), np.float32)
    for rows in _blocks(size):
        found[rows] = less[steps(rows)]
    return found
