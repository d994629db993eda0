"""Rises on the beat: the music is back at its level on a beat or a bar of its own.

      last syllable   hold      release
    ──[############]────────o·····════════o──     as the settings ask
    ──[############]─────────────o════════o───    later: a longer hold, the same release
                                          ┊ beat

Earlier the release gets shorter, by half of it at most; later the hold gets longer, by a release at most.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.dips import Dip

SHORTEST_SHARE = 0.5  # of a release
LONGEST_SHARE = 1.0  # of a release, that the hold may be longer


def on_the_beat(dips: Sequence[Dip], beats_n: NDArray[np.int64]) -> list[Dip]:
    """Dips whose rise ends on the nearest of some rising times on the timeline, (n,); one that has none within what its
    hold and release allow stays as it was, and so does one that would meet the next."""
    begins = np.sort(np.array([dip.from_n for dip in dips], np.int64))
    return [_moved(dip, beats_n, begins) for dip in dips]


def _moved(dip: Dip, beats_n: NDArray[np.int64], begins: NDArray[np.int64]) -> Dip:
    release_n = dip.up_n - dip.rise_n
    earliest_n = dip.rise_n + int(SHORTEST_SHARE * release_n)
    latest_n = dip.up_n + int(LONGEST_SHARE * release_n)
    after = int(np.searchsorted(begins, dip.up_n))
    if after < len(begins):
        latest_n = min(latest_n, int(begins[after]))
    first, last = np.searchsorted(beats_n, (earliest_n, latest_n + 1))
    if first >= last:
        return dip
    there = beats_n[first:last]
    up_n = int(there[np.abs(there - dip.up_n).argmin()])
    return replace(dip, rise_n=dip.rise_n + max(0, up_n - dip.up_n), up_n=up_n)
