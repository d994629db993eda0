"""Half-open intervals of samples as int64 arrays of shape (n, 2), sorted and apart unless said otherwise.

union      ───[####]──[##]─────      overlapping and touching ones become one
           ──────[#####]───────
        →  ───[###########]────
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Intervals = NDArray[np.int64]


def none() -> Intervals:
    """No intervals: shape (0, 2)."""
    return np.empty((0, 2), dtype=np.int64)


def runs(mask: NDArray[np.bool_]) -> Intervals:
    """Index intervals of the true stretches of a mask (n,)."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], mask, [False])).astype(np.int8)))
    return edges.reshape(-1, 2).astype(np.int64)


def runs_reaching(values: NDArray[np.floating], *, enter: float, stay: float) -> Intervals:
    """Index intervals of the stretches of values (n,) at or above `stay` that reach `enter` somewhere."""
    spans = runs(values >= stay)
    high = np.concatenate(([0], np.cumsum(values >= enter)))
    return spans[high[spans[:, 1]] > high[spans[:, 0]]]


def union(spans: Intervals, *, gap_n: int = 0) -> Intervals:
    """Sorted, disjoint cover of any spans; those no further apart than `gap_n` samples become one."""
    spans = np.asarray(spans, dtype=np.int64).reshape(-1, 2)
    if (spans[:, 1] > spans[:, 0]).all() and (spans[1:, 0] - spans[:-1, 1] > gap_n).all():
        return spans.copy()  # they are so already
    spans = spans[spans[:, 1] > spans[:, 0]]
    if not len(spans):
        return none()
    spans = spans[np.argsort(spans[:, 0], kind="stable")]
    reach = np.maximum.accumulate(spans[:, 1])
    first = np.concatenate(([True], spans[1:, 0] - reach[:-1] > gap_n))
    last = np.concatenate((first[1:], [True]))
    return np.stack((spans[first, 0], reach[last]), axis=1)


def clipped(spans: Intervals, *, start_n: int, stop_n: int) -> Intervals:
    """The parts of sorted spans that lie in [start_n, stop_n)."""
    cut = np.clip(spans, start_n, stop_n)
    return cut[cut[:, 1] > cut[:, 0]]


def _pieces(a: Intervals, b: Intervals, *, inside_b: bool) -> Intervals:
    """The parts of disjoint spans `a` that lie inside, or outside, disjoint spans `b`."""
    edges = np.unique(np.concatenate((a.ravel(), b.ravel())))

    def _covered(spans: Intervals) -> NDArray[np.bool_]:
        begun = np.searchsorted(np.sort(spans[:, 0]), edges[:-1], side="right")
        ended = np.searchsorted(np.sort(spans[:, 1]), edges[:-1], side="right")
        return np.asarray(begun > ended)

    kept = _covered(a) & (_covered(b) == inside_b)
    return union(np.stack((edges[:-1], edges[1:]), axis=1)[kept]) if kept.any() else none()


def overlap(a: Intervals, b: Intervals) -> Intervals:
    """What both disjoint `a` and disjoint `b` cover."""
    return _pieces(a, b, inside_b=True)


def without(a: Intervals, b: Intervals) -> Intervals:
    """What disjoint `a` covers and disjoint `b` does not."""
    return _pieces(a, b, inside_b=False)


def total_n(spans: Intervals) -> int:
    """Samples covered by disjoint spans."""
    return int((spans[:, 1] - spans[:, 0]).sum())
