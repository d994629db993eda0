"""Where somebody sings, from the probability of singing per 10 ms.

    smooth over half a second; begin where it reaches ENTER, go on while it is above STAY; join what is within a
    second; leave out what lasts less than a second and a half.

A line of a song has holes at its consonants and breaths, so singing is looked for more slowly than speech.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import ms_to_n

ENTER, STAY = 0.5, 0.3
SMOOTH = 51  # blocks of 10 ms
JOIN_MS, SHORTEST_MS = 1000, 1500


def find_singing(probability: NDArray[np.floating], *, length_n: int) -> Intervals:
    """Sung stretches of a medium of `length_n` samples, shape (n, 2) in samples, from (blocks,) probabilities."""
    if not len(probability):
        return intervals.none()
    side = SMOOTH // 2
    padded = np.pad(probability.astype(np.float64), (side + 1, side), mode="edge")
    padded[0] = 0.0
    summed = np.cumsum(padded)
    smooth = (summed[SMOOTH:] - summed[:-SMOOTH]) / SMOOTH
    spans = intervals.runs_reaching(smooth, enter=ENTER, stay=STAY) * HOP_N
    spans = intervals.union(spans, gap_n=ms_to_n(JOIN_MS) - 1)
    spans = intervals.clipped(spans, start_n=0, stop_n=length_n)
    return spans[spans[:, 1] - spans[:, 0] >= ms_to_n(SHORTEST_MS)]
