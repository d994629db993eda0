"""Hush: noise between and under the words lowered by so many dB, never a gate.

γ = P̄ ∕ N       power around a bin (±SMOOTH_FRAMES frames, ±SMOOTH_BINS bins) over the noise that was learnt
G = max(floor, √(1 − OVER ∕ γ)), smoothed over neighbouring bins
Source: power subtraction with over-subtraction and a floor, Berouti, Schwartz and Makhoul, ICASSP 1979; smoothing
against "musical noise" in the sense of Cappé, IEEE Trans. Speech and Audio 2(2), 1994, but over a finite window in
place of Ephraim and Malah's recursion, so that any window gives the same.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.care.frames import BIN_HZ, BINS, Spectra
from jaylantern.core.signal.arrays import Doubles

SMOOTH_FRAMES, SMOOTH_BINS = 3, 2  # on each side
OVER, OVER_LOW, LOW_HZ = 1.6, 5.0, 60.0  # more of it under the voice, where noise fluctuates most
LEAST_NOISE = 1e-9
_OVER = (OVER * (1 + OVER_LOW * np.exp(-((np.arange(BINS) * BIN_HZ / LOW_HZ) ** 2)))).astype(np.float32)


def hushed(found: Spectra, noise: Doubles, amount_db: float) -> Spectra:
    """Frames (n + 2·SMOOTH_FRAMES, BINS) with their noise lowered; (n, BINS)."""
    power = (found.real**2 + found.imag**2).astype(np.float32)
    around = _over_bins(_over_frames(power))
    inner = found[SMOOTH_FRAMES : len(found) - SMOOTH_FRAMES]
    spread = _over_bins(np.maximum(noise, LEAST_NOISE)[None].astype(np.float32))[0]
    ratio = _OVER * spread / np.maximum(around, np.float32(1e-20))
    gain = np.sqrt(np.maximum(1 - ratio, np.float32(10 ** (-amount_db / 10))))
    gain[:, 1:-1] = (gain[:, :-2] + 2 * gain[:, 1:-1] + gain[:, 2:]) / 4
    return np.asarray(inner * gain, np.complex64)


def _over_frames(power: NDArray[np.float32]) -> NDArray[np.float32]:
    """Mean over SMOOTH_FRAMES on each side, weighted as a triangle."""
    size = len(power) - 2 * SMOOTH_FRAMES
    weights = (SMOOTH_FRAMES + 1 - np.abs(np.arange(-SMOOTH_FRAMES, SMOOTH_FRAMES + 1))).astype(np.float32)
    weights /= weights.sum()
    out = np.zeros((size, BINS), np.float32)
    for k, weight in enumerate(weights):
        out += weight * power[k : k + size]
    return out


def _over_bins(power: NDArray[np.float32]) -> NDArray[np.float32]:
    padded = np.pad(power, ((0, 0), (SMOOTH_BINS, SMOOTH_BINS)), mode="edge")
    out = np.zeros_like(power)
    for k in range(2 * SMOOTH_BINS + 1):
        out += padded[:, k : k + BINS]
    return out / np.float32(2 * SMOOTH_BINS + 1)
