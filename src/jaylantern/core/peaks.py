"""Pyramid of minima and maxima for drawing waveforms: what is on screen, never what is heard.

level 0   one (min, max) per 128 samples, over all channels
level k   one per 128·2^k samples
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BASE_N = 128
Pairs = NDArray[np.int16]  # (n, 2): minimum, maximum, full scale = ±32767


class PeaksBuilder:
    """Collects level 0 block by block. Every block but the last must be a multiple of 128 samples long."""

    def __init__(self) -> None:
        self._rows: list[Pairs] = []

    def add(self, planar: NDArray[np.int16]) -> None:
        """Add samples of shape (n_channels, n). Minima and maxima by halving strides: far quicker than reshape."""
        short = -planar.shape[1] % BASE_N
        low = np.pad(planar, ((0, 0), (0, short)), mode="edge") if short else planar
        high = low
        for _ in range(BASE_N.bit_length() - 1):
            low = np.minimum(low[:, 0::2], low[:, 1::2])
            high = np.maximum(high[:, 0::2], high[:, 1::2])
        self._rows.append(np.stack((low.min(axis=0), high.max(axis=0)), axis=1))

    def pyramid(self) -> list[Pairs]:
        """All levels, finest first, down to a single pair; one empty level for no sound."""
        level = np.concatenate(self._rows) if self._rows else np.empty((0, 2), np.int16)
        levels = [level]
        while len(level) > 1:
            if len(level) % 2:
                level = np.concatenate((level, level[-1:]))
            level = np.stack(
                (np.minimum(level[0::2, 0], level[1::2, 0]), np.maximum(level[0::2, 1], level[1::2, 1])),
                axis=1,
            )
            levels.append(level)
        return levels
