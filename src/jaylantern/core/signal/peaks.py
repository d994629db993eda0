"""Pyramid of minima and maxima for drawing waveforms: what is on screen, never what is heard.

level 0   one (min, max) per 128 samples, over all channels
level k   one per 128·2^k samples
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BASE_N = 128
Pairs = NDArray[np.int16]  # (n, 2): minimum, maximum, full scale = ±32767


def pairs(samples: NDArray[np.int16]) -> Pairs:
    """Level 0 of samples (n, channels), shape (ceil(n / 128), 2); a short last pair covers what there is."""
    short = -len(samples) % BASE_N
    padded = np.pad(samples, ((0, short), (0, 0)), mode="edge") if short else samples
    rows = np.ascontiguousarray(padded).reshape(-1, BASE_N * samples.shape[1])
    return np.stack((rows.min(axis=1), rows.max(axis=1)), axis=1)


def halved(level: Pairs) -> Pairs:
    """The next level: shape (ceil(n / 2), 2); a lone last pair stays as it is."""
    if len(level) % 2:
        level = np.concatenate((level, level[-1:]))
    first, second = level[0::2], level[1::2]
    return np.stack((np.minimum(first[:, 0], second[:, 0]), np.maximum(first[:, 1], second[:, 1])), axis=1)
