"""Speech Intelligibility Index from third-octave bands, 160 Hz to 8 kHz: ANSI S3.5-1997, tables and equations from
memory of the standard; a listener of normal hearing, speech of normal effort, importance of average speech (table 3).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.sixth_octaves import THIRD_HZ

# fmt: off
NOMINAL_HZ = np.array([160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300,
                       8000.0])
IMPORTANCE = np.array([0.0083, 0.0095, 0.0150, 0.0289, 0.0440, 0.0578, 0.0653, 0.0711, 0.0818, 0.0844, 0.0882, 0.0898,
                       0.0868, 0.0844, 0.0771, 0.0527, 0.0364, 0.0185])
NORMAL_DB = np.array([32.41, 34.48, 34.75, 33.98, 34.59, 34.27, 32.06, 28.30, 25.01, 23.00, 20.15, 17.32, 13.18, 11.55,
                      9.33, 5.31, 2.59, 1.13])  # spectrum level of speech of normal effort
INTERNAL_DB = np.array([0.6, -1.7, -3.9, -6.1, -8.2, -9.7, -10.8, -11.9, -12.5, -13.5, -15.4, -17.7, -21.2, -24.2,
                        -25.9, -23.6, -15.8, -7.1])  # what the ear itself adds
# fmt: on
BANDS = len(NOMINAL_HZ)
FIRST = int(np.argmin(np.abs(THIRD_HZ - NOMINAL_HZ[0])))  # of these bands among all third octaves
WIDTH_DB = 10 * np.log10(NOMINAL_HZ * (10**0.05 - 10**-0.05))
NORMAL_SPL_DB = 62.35  # all of it together
GOOD, POOR = 0.75, 0.45  # good communication stands above the one, poor under the other (S3.5-1997, from memory)
LEAST_DB = -100.0
_PAIRS = [(np.arange(i), np.full(i, i)) for i in range(18)]
_MASKING, _MASKED = (np.concatenate(each) for each in zip(*_PAIRS, strict=True))
_APART = 3.32 * np.log10(0.89 * NOMINAL_HZ[_MASKED] / NOMINAL_HZ[_MASKING])  # of every pair, by the masked band
_BEGIN = np.searchsorted(_MASKED, np.arange(1, 18))
_TENTH = np.log(10.0) / 10


def index(speech_db: Doubles, noise_db: Doubles) -> Doubles:
    """The index, 0 to 1, (…,), from spectrum levels in dB SPL per Hz, (…, 18), of speech and of all else."""
    masked = np.maximum(noise_db, speech_db - 24.0)  # speech masks itself
    slope = 0.6 * (masked + 10 * np.log10(NOMINAL_HZ) - 6.353) - 80.0
    spread = np.exp(_TENTH * (masked[..., _MASKING] + slope[..., _MASKING] * _APART))
    mask = np.exp(_TENTH * noise_db)
    mask[..., 1:] += np.add.reduceat(spread, _BEGIN, axis=-1)
    mask_db = np.log(mask) / _TENTH
    mask_db[..., 0] = masked[..., 0]
    return of_bands(speech_db, np.maximum(mask_db, INTERNAL_DB), NORMAL_DB, IMPORTANCE)


def of_bands(speech_db: Doubles, disturbance_db: Doubles, normal_db: Doubles, importance: Doubles) -> Doubles:
    """The index from what disturbs speech in each band in the end: how much of the 30 dB of speech stands out, less
    what speech louder than normal loses (equations 11 to 14)."""
    undistorted = np.minimum(1.0, 1.0 - (speech_db - normal_db - 10.0) / 160.0)
    audible = np.clip((speech_db - disturbance_db + 15.0) / 30.0, 0.0, 1.0)
    return np.clip((importance * undistorted * audible).sum(axis=-1), 0.0, 1.0)


def bands_of_speech(sixths: NDArray[Any]) -> NDArray[Any]:
    """What sixths of an octave, (n, sixths, …), come to in the bands of speech, (n, 18, …)."""
    pairs = sixths[:, 2 * FIRST : 2 * (FIRST + BANDS)]
    return pairs[:, 0::2] + pairs[:, 1::2]


def spectrum_db(power: Doubles, level_db: float) -> Doubles:
    """Spectrum levels in dB SPL per Hz of powers in the bands, (…, 18), full scale being `level_db` SPL."""
    return 10 * np.log10(np.maximum(power, 10 ** (LEAST_DB / 10))) - WIDTH_DB + level_db
