"""Short spectra of a sound on a grid that is fixed in media time, so that any window gives the same.

frame k    samples [k·HOP_N − HOP_N, k·HOP_N + HOP_N) under a root of Hann's window; taken apart and put together again
           with the same window, frames that overlap by half add up to the sound itself
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Samples
from jaylantern.core.signal.timebase import RATE

FRAME_N, HOP_N = 1024, 512
BINS = FRAME_N // 2 + 1
BIN_HZ = RATE / FRAME_N
Spectra = NDArray[np.complex64]
WINDOW = np.sqrt(0.5 - 0.5 * np.cos(2 * np.pi * (np.arange(FRAME_N) + 0.5) / FRAME_N)).astype(np.float32)
POWER = float((WINDOW.astype(np.float64) ** 2).sum())  # of the window: Σ|X|² of white noise is POWER · its mean square


def spectra(sound: Samples, channel: int) -> Spectra:
    """The spectra, (frames, BINS), of one channel of a sound (n, channels) that begins HOP_N before a place of the
    grid; as many frames as lie in it whole."""
    frames = np.lib.stride_tricks.sliding_window_view(sound[:, channel], FRAME_N)[::HOP_N]
    return np.asarray(np.fft.rfft(frames * WINDOW), np.complex64)


def put_together(found: Spectra) -> NDArray[np.float32]:
    """The sound of frames, ((frames − 1) · HOP_N,), beginning where the second begins: half a frame
    is lost at each end."""
    parts = (np.fft.irfft(found, FRAME_N) * WINDOW).astype(np.float32)
    return np.ascontiguousarray(parts[:-1, HOP_N:] + parts[1:, :HOP_N]).ravel()


def bins(low_hz: float, high_hz: float) -> slice:
    """The bins of a band."""
    return slice(max(1, round(low_hz / BIN_HZ)), min(BINS, round(high_hz / BIN_HZ)))
