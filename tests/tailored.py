"""Tunes heard the way the application hears them; for tests of tailoring."""

from __future__ import annotations

from collections.abc import Callable
from hashlib import sha256

import numpy as np
import soxr

from jaylantern.core.signal.signal_level import level_db, mean_squares
from jaylantern.core.tailoring.features import MusicFeatures
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.likeness import Floats
from jaylantern.pipeline import music_features
from tests.tunes import RATE

_heard: dict[tuple[bytes, int], MusicFeatures] = {}


def heard(sound: np.ndarray, *, piece_n: int = 96_000) -> MusicFeatures:
    """The features of a sound (n, channels) at 48 kHz; the same is heard once."""
    key = sha256(np.ascontiguousarray(sound)).digest() + repr(sound.shape).encode(), piece_n
    if key not in _heard:
        _heard[key] = _hear(sound, piece_n)
    return _heard[key]


def _hear(sound: np.ndarray, piece_n: int) -> MusicFeatures:
    levels = level_db(mean_squares(np.ascontiguousarray(sound)))
    chunks = (np.ascontiguousarray(sound[at : at + piece_n]) for at in range(0, len(sound), piece_n))
    return music_features(chunks, levels, length_n=len(sound))


def source_of(sound: np.ndarray) -> Callable[[int, int], np.ndarray]:
    """Reads a sound (n, channels), silent past its end."""

    def read(start_n: int, stop_n: int) -> np.ndarray:
        there = sound[start_n:stop_n]
        return np.pad(there, ((0, stop_n - start_n - len(there)), (0, 0)))

    return read


def even_grid(fit: Floats, *, bar: int = 1, step_n: int = RATE // 2) -> Grid:
    """A grid of evenly spaced places with fits given."""
    size = len(fit)
    places = (np.arange(size, dtype=np.int64) + 1) * step_n
    return Grid((size + 1) * step_n, places, bar, 0, 120.0, 1.0, fit.astype(np.float32), places, False, places[::bar])


def at_16_khz(sound: np.ndarray) -> np.ndarray:
    """Mono at 16 kHz."""
    return soxr.resample(sound.mean(axis=1), RATE, 16_000).astype(np.float32)
