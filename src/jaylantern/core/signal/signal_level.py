"""RMS level of sound in short blocks."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.timebase import SILENCE_DB

HOP_N = 480  # 10 ms


def mean_squares(samples: Samples) -> Doubles:
    """Mean square over channels and each 10 ms; shape (ceil(n / 480),). A short last block is averaged as it is."""
    whole = len(samples) // HOP_N * HOP_N
    flat = np.ascontiguousarray(samples[:whole]).reshape(-1, HOP_N * samples.shape[1])
    power = np.vecdot(flat, flat).astype(np.float64) / flat.shape[1]
    if whole < len(samples):
        power = np.append(power, np.square(samples[whole:], dtype=np.float64).mean())
    return power


def level_db(mean_square: Doubles | NDArray[np.float32]) -> Doubles:
    """Level in dBFS, 10·log10 of the mean square, no lower than −90 dBFS (a full-scale square wave is 0)."""
    found: Doubles = np.maximum(10.0 * np.log10(np.maximum(mean_square, 1e-30)), SILENCE_DB)
    return found
