"""Low cut and presence as one filter of linear phase and finite length, and the band of hiss.

low cut    |H| = 1 ∕ √(1 + (f_c ∕ f)⁴): a Butterworth high-pass of second order, 3 dB down at f_c, 12 dB an octave
presence   in dB, g · e^(−½ (log₂(f ∕ 3200 Hz) ∕ 0.45)²): broad, from 2 to 5 kHz
Source: Butterworth, "On the theory of filter amplifiers", 1930; design by sampling the wanted response and windowing,
Oppenheim and Schafer, Discrete-Time Signal Processing.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.care import Care

REACH_N = 4096  # taps on each side: 85 ms
HISS_REACH_N = 96  # of the filter that lets the hiss through: 2 ms
HISS_FROM_HZ = 4000.0
PRESENCE_HZ, PRESENCE_OCTAVES = 3200.0, 0.45
BETA = 5.0


def wanted_db(care: Care, frequency_hz: Doubles) -> Doubles:
    """The response that is drawn, in dB at frequencies in Hz."""
    hz = np.maximum(np.asarray(frequency_hz, np.float64), 1e-3)
    found = np.zeros(len(hz))
    if care.low_cut is not None:
        found -= 10 * np.log10(1 + (care.low_cut / hz) ** 4)
    if care.presence is not None:
        found += care.presence * np.exp(-0.5 * (np.log2(hz / PRESENCE_HZ) / PRESENCE_OCTAVES) ** 2)
    return found


def taps(care: Care) -> Doubles:
    """The taps of low cut and presence, (2·REACH_N + 1,), symmetric."""
    size = 8 * REACH_N
    hz = np.asarray(np.fft.rfftfreq(size, 1 / RATE), np.float64)
    ideal = np.fft.irfft(10 ** (np.maximum(wanted_db(care, hz), -120) / 20))
    return np.concatenate((ideal[-REACH_N:], ideal[: REACH_N + 1])) * np.kaiser(2 * REACH_N + 1, BETA)


def hiss_taps() -> Doubles:
    """The taps that let through what lies over HISS_FROM_HZ, (2·HISS_REACH_N + 1,), symmetric."""
    n = np.arange(-HISS_REACH_N, HISS_REACH_N + 1)
    low = 2 * HISS_FROM_HZ / RATE * np.sinc(2 * HISS_FROM_HZ / RATE * n)
    return ((n == 0) - low) * np.kaiser(len(n), 6.5)


def response_db(found: Doubles, frequency_hz: Doubles) -> Doubles:
    """The response of symmetric taps, in dB at frequencies in Hz."""
    reach = len(found) // 2
    n = np.arange(1, reach + 1)
    at = found[reach] + 2 * (np.cos(2 * np.pi * np.asarray(frequency_hz)[:, None] / RATE * n) @ found[reach + 1 :])
    return 20 * np.log10(np.maximum(np.abs(at), 1e-9))


def convolver(found: Doubles, size_n: int) -> Callable[[Samples], Samples]:
    """What filters sounds of always the same length with symmetric taps: (size_n + 2·reach, channels) to (size_n,
    channels)."""
    reach = len(found) // 2
    size = 1 << (size_n + 2 * reach - 1).bit_length()
    padded = np.zeros(size)
    padded[: reach + 1], padded[-reach:] = found[reach:], found[:reach]
    spectrum = np.fft.rfft(padded).astype(np.complex64)

    def convolved(sound: Samples) -> Samples:
        """The sound, filtered."""
        heard: NDArray[np.float32] = np.fft.irfft(
            np.fft.rfft(np.ascontiguousarray(sound.T), size) * spectrum, size
        ).astype(np.float32)
        return np.ascontiguousarray(heard[:, reach : reach + size_n].T)

    return convolved
