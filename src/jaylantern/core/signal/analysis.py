"""One pass over the sound of a medium: peaks, 10 ms levels, powers, K-weighted and of sixths of an octave, true peak.
No setting matters."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal import signal_level
from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.loudness import KWeighting
from jaylantern.core.signal.peaks import Pairs, pairs
from jaylantern.core.signal.sixth_octaves import SixthOctaves
from jaylantern.core.signal.true_peak import TruePeakMeter

CHUNK_N = 96_000  # two seconds: a multiple of every block size used below


@dataclass(frozen=True)
class Analysis:
    """A medium's sound: mean square per 10 ms, K-weighted powers per 100 ms (as of
    `KWeighting.products`), those of sixths of an octave (as of `sixth_octaves.packed`), true peak as an amplitude."""

    mean_square: NDArray[np.float32]
    power: Doubles
    bands: NDArray[np.float16]
    true_peak: float

    @property
    def level_db(self) -> Samples:
        """Level per 10 ms, dBFS, float32."""
        return signal_level.level_db(self.mean_square).astype(np.float32)


class Analyser:
    """Takes a stream of chunks; every chunk but the last must be CHUNK_N samples long."""

    def __init__(self, channels: int) -> None:
        self._loudness, self._true_peak = KWeighting(channels), TruePeakMeter(channels)
        self._squares: list[NDArray[np.float32]] = []
        self._powers: list[Doubles] = []
        self._bands = SixthOctaves(channels)

    def add(self, chunk: NDArray[np.int16] | Samples) -> Pairs:
        """Add (n, channels) samples, int16 or float32; answers their peaks, which are not kept."""
        samples = as_float(chunk)
        self._squares.append(signal_level.mean_squares(samples).astype(np.float32))
        self._powers.append(self._loudness.products(chunk))
        self._true_peak.add(samples)
        self._bands.add(samples)
        return pairs(_as_int16(chunk))

    def finish(self) -> Analysis:
        """Everything measured so far."""
        squares = np.concatenate((np.zeros(0, np.float32), *self._squares))
        return Analysis(
            mean_square=squares,
            power=np.concatenate(self._powers) if self._powers else np.zeros((0, 1)),
            bands=self._bands.finish(),
            true_peak=self._true_peak.finish(),
        )


def as_float(samples: NDArray[np.int16] | Samples) -> Samples:
    """float32 samples with full scale ±1; int16 is divided by 32768, exactly."""
    if samples.dtype == np.int16:
        floats: Samples = samples.astype(np.float32)
        floats *= np.float32(1 / 32768)
        return floats
    return np.asarray(samples, np.float32)


def _as_int16(samples: NDArray[np.int16] | Samples) -> NDArray[np.int16]:
    if samples.dtype == np.int16:
        return np.asarray(samples, np.int16)
    loud: Samples = np.clip(np.asarray(samples, np.float32), -1.0, 1.0)
    return (loud * np.float32(32767)).astype(np.int16)
