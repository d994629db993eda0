"""The speech band of a sound: a band-pass of linear phase, computed window by window and always the same.

What gives way is only this band: out = x + (g − 1)·band(x), so that below and above it the bed keeps its body.

The filter is a windowed sinc, the difference of two low-passes, Kaiser window with β = 6.5 (sides some 68 dB down).
Source: Oppenheim and Schafer, Discrete-Time Signal Processing, on FIR design by windowing (Kaiser's formulas).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.sixth_octaves import FRAME_N, over_bands
from jaylantern.core.signal.timebase import RATE

REACH_N = 1200  # taps on each side: 25 ms
BETA = 6.5


@dataclass(frozen=True)
class SpeechBand:
    """The edges of the band in Hz; there its gain is one half."""

    low_hz: float
    high_hz: float


def taps(band: SpeechBand) -> Doubles:
    """The filter's taps, (2·REACH_N + 1,), symmetric."""
    n = np.arange(-REACH_N, REACH_N + 1)
    low, high = band.low_hz / RATE, min(band.high_hz, RATE / 2) / RATE
    ideal = 2 * high * np.sinc(2 * high * n) - 2 * low * np.sinc(2 * low * n)
    return ideal * np.kaiser(len(n), BETA)


def _size_for(count: int) -> int:
    """A length for the transform, 2^a·3^b·5^c, at least so long."""
    best = 1 << (count - 1).bit_length()
    for three in (1, 3, 9):
        for five in (1, 5, 25):
            size = three * five
            while size < count:
                size *= 2
            best = min(best, size)
    return best


class BandFilter:
    """The filter of a band, with its transform for each length asked for: few, they are of the form 2^a·3^b·5^c."""

    def __init__(self, band: SpeechBand) -> None:
        self._taps = taps(band)
        self._spectra: dict[int, NDArray[np.complex64]] = {}

    def of(self, samples: Samples) -> Samples:
        """The band of samples (n + 2·REACH_N, 1 or 2), of which REACH_N on each side are surroundings; (n, 1 or 2).

        Two channels go through one complex transform.
        """
        count = len(samples) - 2 * REACH_N
        size = _size_for(len(samples))
        if size not in self._spectra:
            self._spectra[size] = self.response(size).astype(np.complex64)
        signal = np.zeros(size, np.complex64)
        signal[: len(samples)] = samples[:, 0] if samples.shape[1] == 1 else samples[:, 0] + 1j * samples[:, 1]
        heard = np.fft.ifft(np.fft.fft(signal) * self._spectra[size])[REACH_N : REACH_N + count]
        if samples.shape[1] == 1:
            return np.ascontiguousarray(heard.real, dtype=np.float32)[:, None]
        return np.stack((heard.real, heard.imag), axis=1).astype(np.float32)

    def response(self, size: int) -> Doubles:
        """The gain at each of `size` frequencies around the circle: that of taps centred on the middle one, real."""
        padded = np.zeros(size)
        padded[: REACH_N + 1] = self._taps[REACH_N:]
        padded[-REACH_N:] = self._taps[:REACH_N]
        return np.fft.fft(padded).real


def band_of_sixth_octaves(band: SpeechBand) -> tuple[Doubles, Doubles]:
    """What the band holds of each sixth of an octave: of its amplitude and of its power, (bands,) each, 0 to 1."""
    response = BandFilter(band).response(FRAME_N)[: FRAME_N // 2 + 1]
    return over_bands(response), over_bands(response**2)


def response_db(band: SpeechBand, frequency_hz: Doubles, gain_db: float) -> Doubles:
    """Gain in dB of the whole, x + (g − 1)·band(x), at frequencies in Hz, for a gain of the band."""
    n = np.arange(1, REACH_N + 1)
    h = taps(band)[REACH_N:]
    at = h[0] + 2 * (np.cos(2 * np.pi * frequency_hz[:, None] / RATE * n) * h[1:]).sum(axis=1)
    return 20.0 * np.log10(np.maximum(np.abs(1 + (10 ** (gain_db / 20) - 1) * at), 1e-9))
