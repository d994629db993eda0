"""How far a sound stands out, band by band, over what is there when nobody speaks."""

import numpy as np
import pytest

from jaylantern.core.speech.prominence import BANDS_HZ, levels_of, prominence
from jaylantern.detect.ear import NetworkEar

RATE = 16_000
FRAME_BLOCKS = 3.2


def powers(sound: np.ndarray, *, chunk_n: int = 4096) -> np.ndarray:
    return 10.0 ** (levels(sound, chunk_n=chunk_n).astype(np.float64) / 10)


def levels(sound: np.ndarray, *, chunk_n: int = 4096) -> np.ndarray:
    ear = NetworkEar(-(-len(sound) // 160))
    for at in range(0, len(sound), chunk_n):
        ear.add(sound[at : at + chunk_n].astype(np.float32))
    return ear.finish().band_db


def noise(seconds: float, amplitude: float) -> np.ndarray:
    return np.random.default_rng(2).standard_normal(round(seconds * RATE)) * amplitude


def said(seconds: float, spoken: tuple[float, float]) -> np.ndarray:
    """Probability of speech with one spoken stretch."""
    at = np.arange(round(seconds * RATE / 512)) * 512 / RATE
    return np.where((at >= spoken[0]) & (at < spoken[1]), 0.95, 0.02).astype(np.float32)


@pytest.mark.parametrize(("hz", "band"), [(250, 0), (600, 1), (1000, 2), (2700, 4), (6000, 6)])
def test_a_tone_lies_in_its_band(hz, band):
    t = np.arange(RATE) / RATE
    found = powers(np.sin(2 * np.pi * hz * t))[20:80].mean(axis=0)
    assert BANDS_HZ[band] < hz < BANDS_HZ[band + 1]
    assert found.argmax() == band
    assert np.sort(found)[-2] < found.max() * 1e-2


def test_there_is_a_row_for_every_ten_milliseconds_however_the_sound_comes():
    sound = noise(1.0, 0.1)
    whole, pieces = powers(sound, chunk_n=len(sound)), powers(sound, chunk_n=333)
    assert len(whole) >= 100
    np.testing.assert_allclose(whole[:100], pieces[:100], rtol=2e-2)  # half precision


def test_a_burst_is_centred_on_its_own_row():
    sound = np.zeros(RATE)
    sound[50 * 160 : 51 * 160] = noise(0.01, 0.5)
    assert powers(sound).sum(axis=1).argmax() == 50


def test_a_hiss_under_the_noise_of_all_bands_stands_out_in_its_own():
    """A soft s in rumble ten times as strong: the whole level hardly moves, the band does."""
    rumble = np.cumsum(noise(6, 0.02))
    rumble -= np.convolve(rumble, np.ones(800) / 800, "same")
    t = np.arange(len(rumble)) / RATE
    hiss = np.where((t >= 3.0) & (t < 3.2), np.sin(2 * np.pi * 5500 * t), 0)
    hiss *= 0.3 * np.sqrt(np.mean(rumble**2) / 0.5)
    word = np.where((t >= 3.2) & (t < 4.0), np.sin(2 * np.pi * 700 * t), 0) * np.abs(rumble).max()
    probability = said(6, (3.2, 4.0))
    banded = prominence(levels(rumble + hiss + word), probability, frame_blocks=FRAME_BLOCKS)
    all_bands = levels_of(powers(rumble + hiss + word).sum(axis=1, keepdims=True))
    whole = prominence(all_bands, probability, frame_blocks=FRAME_BLOCKS)
    assert (banded[303:317] > 0).all()
    assert not (whole[303:317] > 0).any()


def test_what_is_always_there_does_not_stand_out():
    found = prominence(levels(noise(10, 0.1)), said(10, (4, 6)), frame_blocks=FRAME_BLOCKS)
    assert np.mean(found > 0) < 0.05


def test_sound_far_under_the_speech_around_is_no_part_of_it():
    sound = noise(10, 1e-5)
    sound[4 * RATE : 6 * RATE] += noise(2, 0.1)
    sound[7 * RATE : 8 * RATE] += noise(1, 0.1 * 10 ** (-45 / 20))
    found = prominence(levels(sound), said(10, (4, 6)), frame_blocks=FRAME_BLOCKS)
    assert (found[410:590] > 0).all()
    assert (found[705:795] < 0).all()


@pytest.mark.parametrize("blocks", [0, 1, 7])
def test_little_or_no_sound_is_no_trouble(blocks):
    found = prominence(np.zeros((blocks, 7), np.float16), np.zeros(0, np.float32), frame_blocks=FRAME_BLOCKS)
    assert found.shape == (blocks,)
    assert np.isfinite(found).all()
