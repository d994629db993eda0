"""The pyramid that waveforms are drawn from, and 10 ms levels."""

import numpy as np
import pytest

from jaylantern.core.signal.peaks import BASE_N, pairs
from jaylantern.core.signal.signal_level import HOP_N, level_db, mean_squares
from jaylantern.media import peaks_file
from jaylantern.media.peaks_file import PeaksFile
from tests import sounds


def pyramid(samples: np.ndarray, path) -> list[np.ndarray]:
    """What is on disk after the samples came in blocks, as levels."""
    file = PeaksFile(path)
    for at in range(0, len(samples), 1280):
        file.add(pairs(samples[at : at + 1280]))
    counts = file.finish()
    ends = np.cumsum(counts)
    return np.split(np.fromfile(path, np.int16).reshape(-1, 2), ends[:-1])


@pytest.mark.parametrize("length_n", [1, 127, 128, 129, 5000, 96_000 + 31])
def test_every_level_holds_the_extremes_of_its_samples(length_n, tmp_path, monkeypatch):
    monkeypatch.setattr(peaks_file, "BLOCK_PAIRS", 64)  # several blocks a level
    samples = np.random.default_rng(length_n).integers(-32768, 32767, (length_n, 2)).astype(np.int16)
    for k, level in enumerate(pyramid(samples, tmp_path / "peaks.bin")):
        size = BASE_N << k
        for i in range(-(-length_n // size)):
            part = samples[i * size : (i + 1) * size]
            assert level[i].tolist() == [part.min(), part.max()]


def test_no_sound_has_one_empty_level(tmp_path):
    assert [level.shape for level in pyramid(np.zeros((0, 2), np.int16), tmp_path / "peaks.bin")] == [(0, 2)]


def test_levels_of_a_sine_and_of_silence():
    assert level_db(mean_squares(sounds.sine(hz=1000, seconds=1, amplitude=1.0))) == pytest.approx(-3.01, abs=0.01)
    assert level_db(mean_squares(np.zeros((HOP_N * 3 + 7, 2), np.float32))).tolist() == [-90.0] * 4
