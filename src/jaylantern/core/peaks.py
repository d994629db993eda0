"""Pyramid of minima and maxima for drawing waveforms: what is on screen, never what is heard.

level 0   one (min, max) per 128 samples, over all channels
level k   one per 128·2^k samples
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BASE_N = 128
Pairs = NDArray[np.int16]  # (n, 2): minimum, maximum, full scale = ±32767


def pairs(planar: NDArray[np.int16]) -> Pairs:
    """Level 0 of samples (n_channels, n), shape (ceil(n / 128), 2); a short last pair covers what there is.

    Minima and maxima by halving strides: far quicker than a reshape.
    """
    short = -planar.shape[1] % BASE_N
    low = np.pad(planar, ((0, 0), (0, short)), mode="edge") if short else planar
    high = low
    for _ in range(BASE_N.bit_length() - 1):
        low = np.minimum(low[:, 0::2], low[:, 1::2])
        high = np.maximum(high[:, 0::2], high[:, 1::2])
    return np.stack((low.min(axis=0), high.max(axis=0)), axis=1)


def halved(level: Pairs) -> Pairs:
    """The next level: shape (ceil(n / 2), 2); a lone last pair stays as it is."""
    if len(level) % 2:
        level = np.concatenate((level, level[-1:]))
    first, second = level[0::2], level[1::2]
    return np.stack((np.minimum(first[:, 0], second[:, 0]), np.maximum(first[:, 1], second[:, 1])), axis=1)
