"""Power in sixths of an octave, 100 ms by 100 ms: two for every third octave from 50 Hz to 16 kHz, the first from 20 Hz
on, the last with all above.

Frames of 120 ms, one each 100 ms, that come and go over 20 ms as sine and cosine: what they hold adds up to just the
sound's power. Bins of 8⅓ Hz count for the bands they lie in by their shares.

Third octaves: base ten, 1000·10^(k/10) Hz, edges half a band to either side (IEC 61260-1, from memory); a sixth reaches
from edge to centre or from centre to edge.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.loudness import HIGHPASS_A, HIGHPASS_B, SHELF_A, SHELF_B, STEP_N
from jaylantern.core.signal.timebase import RATE

THIRD_HZ = 1000.0 * 10.0 ** (np.arange(-13, 13) / 10)  # centres of the third octaves, 50 Hz … 16 kHz
SIXTHS = 2 * len(THIRD_HZ)
EDGE_HZ = THIRD_HZ[0] * 10.0 ** ((np.arange(SIXTHS + 1) - 1) / 20)
OVERLAP_N = 960
FRAME_N = STEP_N + OVERLAP_N
BIN_HZ = np.fft.rfftfreq(FRAME_N, 1 / RATE)
LEAST_DB = -120.0  # what is under it counts as this
LEAST_HEARD_HZ = 20.0


def _shares() -> NDArray[np.float32]:
    """By how much each bin lies in each band, (bins, bands); every row from 20 Hz on adds up to one."""
    edges = EDGE_HZ.copy()
    edges[0], edges[-1] = LEAST_HEARD_HZ, np.inf
    half = RATE / FRAME_N / 2
    low = np.maximum(BIN_HZ[:, None] - half, edges[:-1])
    high = np.minimum(BIN_HZ[:, None] + half, edges[1:])
    return (np.maximum(high - low, 0.0) / (2 * half)).astype(np.float32)


SHARES = _shares()
_COMING = np.sin(np.pi / 2 * (np.arange(OVERLAP_N) + 0.5) / OVERLAP_N).astype(np.float32)
_BOTH_SIDES = np.where((BIN_HZ == 0) | (BIN_HZ == RATE / 2), 1.0, 2.0)[:, None]
_MEAN = np.repeat(SHARES * _BOTH_SIDES / (FRAME_N * STEP_N), 2, axis=0).astype(np.float32)  # of both parts of a bin


class SixthOctaves:
    """Mean products of the channels in each band, step by step, of a stream of float32 samples (n, 1 or 2)."""

    def __init__(self, channels: int) -> None:
        self._before = np.zeros((OVERLAP_N // 2, channels), np.float32)
        self._length_n = 0
        self._found: list[NDArray[np.float16]] = []

    def add(self, samples: Samples) -> None:
        """Add a piece of any length."""
        self._length_n += len(samples)
        self._weigh(np.concatenate((self._before, samples)))

    def finish(self) -> NDArray[np.float16]:
        """Everything so far, as `packed` keeps it, (steps, bands, 1 or 3)."""
        channels = self._before.shape[1]
        short = -(-self._length_n // STEP_N) - sum(len(each) for each in self._found)
        if short > 0:
            missing_n = (short - 1) * STEP_N + FRAME_N - len(self._before)
            self._weigh(np.concatenate((self._before, np.zeros((missing_n, channels), np.float32))))
        return np.concatenate((np.zeros((0, SIXTHS, 1 if channels == 1 else 3), np.float16), *self._found))

    def _weigh(self, samples: Samples) -> None:
        count = max(0, (len(samples) - FRAME_N) // STEP_N + 1)
        self._before = samples[count * STEP_N :]
        if count:
            every = np.lib.stride_tricks.sliding_window_view(samples, FRAME_N, axis=0)[: count * STEP_N : STEP_N]
            frames = np.array(every, order="C")  # (frames, channels, samples)
            frames[..., :OVERLAP_N] *= _COMING
            frames[..., -OVERLAP_N:] *= _COMING[::-1]
            bins = np.fft.rfft(frames).view(np.float32)  # real and imaginary parts in turn
            pairs = ((0, 0),) if bins.shape[1] == 1 else ((0, 0), (1, 1), (0, 1))
            products = [(bins[:, i] * bins[:, j]) @ _MEAN for i, j in pairs]
            self._found.append(packed(np.stack(products, axis=2)))


def packed(products: NDArray[np.float32]) -> NDArray[np.float16]:
    """Mean squares of the bands, (steps, bands, 1), or of two channels left², right², left·right, (steps, bands, 3), in
    half precision: squares in dB, within 0.03 dB and not under −120 dB; left·right as a share of the most it could be.
    """
    squares = products[..., : 1 if products.shape[2] == 1 else 2]
    db = 10.0 * np.log10(np.maximum(squares, np.float32(10.0 ** (LEAST_DB / 10))))
    if products.shape[2] == 1:
        return db.astype(np.float16)
    most = np.sqrt(np.maximum(squares[..., 0] * squares[..., 1], np.float32(1e-30)))
    share = np.clip(products[..., 2] / most, -1.0, 1.0)
    return np.concatenate((db, share[..., None]), axis=2).astype(np.float16)


def unpacked(stored: NDArray[np.float16]) -> NDArray[np.float32]:
    """And back; what is no louder than the least is silent."""
    db = stored[..., : 1 if stored.shape[2] == 1 else 2].astype(np.float32)
    squares = np.where(db > LEAST_DB, np.float32(10.0) ** (db / np.float32(10.0)), np.float32(0.0))
    if stored.shape[2] == 1:
        return squares
    both = stored[..., 2].astype(np.float32) * np.sqrt(squares[..., 0] * squares[..., 1])
    return np.concatenate((squares, both[..., None]), axis=2)


def k_weights() -> Doubles:
    """By how much K-weighting makes more of the power of each bin, (bins,); BS.1770-5, the filters of `loudness.py`."""
    z = np.exp(-2j * np.pi * BIN_HZ / RATE)
    weight = np.ones(len(BIN_HZ))
    for b, a in ((SHELF_B, SHELF_A), (HIGHPASS_B, HIGHPASS_A)):
        over, under = (sum(c * z**k for k, c in enumerate(each)) for each in (b, a))
        weight = weight * np.abs(over / under) ** 2
    return np.asarray(weight)


def over_bands(values: Doubles) -> Doubles:
    """What a value of each bin, (bins,), is over each band: its mean, (bands,), as K-weighting hears the bins."""
    weights = SHARES * k_weights()[:, None]
    mean: Doubles = values @ weights / weights.sum(axis=0)
    return mean


def k_of_bands() -> Doubles:
    """By how much K-weighting makes more of the power of each band, (bands,), where it is alike throughout."""
    mean: Doubles = k_weights() @ SHARES / SHARES.sum(axis=0)
    return mean
