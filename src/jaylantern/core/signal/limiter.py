"""Look-ahead true-peak limiter with finite memory: stateless, so any window of it can be computed alone.

Per 32 samples (a sub-block) the reduction needed is ceiling / true peak. It is held and let go over the release by a
fixed falling weight, taken ahead of time by LOOK_AHEAD, averaged into a ramp, and applied straight between
nodes that are each at least as low as both neighbours need. Where nothing is needed the gain is exactly 1.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Samples, scaled, windows
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.signal.true_peak import SUB_N

MARGIN_DB = 0.06  # keeps an hour of hot music within +0.05 dBTP of the ceiling, since a moving gain adds a little
LOOK_AHEAD = 8  # sub-blocks: 5.3 ms
RELEASE_MS = 100.0
REACH_AHEAD = LOOK_AHEAD + 1

_RAMP = np.arange(SUB_N, dtype=np.float32) / np.float32(SUB_N)


def release_of(release_ms: float) -> int:
    """A release in sub-blocks."""
    return max(1, round(release_ms * RATE / 1000 / SUB_N))


def reach_back(release: int) -> int:
    """How many sub-blocks before the one in question matter."""
    return release + LOOK_AHEAD + 1


def _weight(release: int) -> NDArray[np.float32]:
    return (0.5 + 0.5 * np.cos(np.pi * np.arange(release + 1) / release)).astype(np.float32)


def reductions_db(peaks: NDArray[np.float32], *, ceiling_dbtp: float) -> NDArray[np.float32]:
    """Reduction in dB (≥ 0) that each sub-block needs so that its true peak stays under the ceiling; shape (n,)."""
    limit = 10.0 ** ((ceiling_dbtp - MARGIN_DB) / 20.0)
    return (20.0 * np.log10(np.maximum(peaks / np.float32(limit), 1.0))).astype(np.float32)


def gains(needed_db: NDArray[np.float32], *, release: int) -> NDArray[np.float32] | None:
    """Gain of every sample of the inner sub-blocks, or None where it is 1 throughout.

    `needed_db` has `reach_back(release)` sub-blocks before and REACH_AHEAD after the n inner ones; returns (32·n,).
    """
    if not needed_db.any():
        return None
    ahead = _over(np.maximum, _held(needed_db, release))
    smooth = _over(np.add, ahead)[release:] / np.float32(LOOK_AHEAD + 1)
    # of smooth: one sub-block before the first inner one … one after the last
    node = np.power(np.float32(10.0), np.maximum(smooth[:-1], smooth[1:]) / np.float32(-20.0))
    left, right = node[:-1, None], node[1:, None]
    return (left + (right - left) * _RAMP).ravel()


def _held(needed_db: NDArray[np.float32], release: int) -> NDArray[np.float32]:
    """The largest of what each earlier sub-block needed times the weight of its distance; the same bits either way."""
    at, weight = np.flatnonzero(needed_db), _weight(release)
    if len(at) > release:
        delayed = windows(np.concatenate((np.zeros(release - 1, np.float32), needed_db)), release)
        held: NDArray[np.float32] = (delayed * weight[release - 1 :: -1, None]).max(axis=0)
        return held
    held = np.zeros(len(needed_db) + release, np.float32)
    for i in at.tolist():
        reach = held[i : i + release]
        np.maximum(reach, needed_db[i] * weight[:release], out=reach)
    return held[: len(needed_db)]


def _over(join: np.ufunc, values: NDArray[np.float32]) -> NDArray[np.float32]:
    """The largest or the sum of every LOOK_AHEAD + 1 neighbours, by doubling; shape (n − LOOK_AHEAD,)."""
    joined, width = values, 1
    while width < LOOK_AHEAD:
        joined, width = join(joined[:-width], joined[width:]), 2 * width
    last: NDArray[np.float32] = join(joined[:-1], values[LOOK_AHEAD:])
    return last


def apply(samples: Samples, gain: NDArray[np.float32] | None) -> Samples:
    """Samples (n, channels) times gain (n,), or the samples themselves for None."""
    return samples if gain is None else scaled(samples, gain)
