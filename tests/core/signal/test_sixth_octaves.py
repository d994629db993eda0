"""Sixths of an octave: power is neither lost nor made, and lies in the band it belongs to."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.signal

from jaylantern.core.signal.loudness import KWeighting
from jaylantern.core.signal.sixth_octaves import EDGE_HZ, SIXTHS, THIRD_HZ, SixthOctaves, k_of_bands, unpacked
from jaylantern.core.signal.speech_band import SpeechBand, band_of_sixth_octaves

RATE = 48_000


def measured(sound: np.ndarray, *, chunk_n: int = 96_000) -> np.ndarray:
    """Products of a sound (n, channels), fed in pieces."""
    octaves = SixthOctaves(sound.shape[1])
    for first in range(0, len(sound), chunk_n):
        octaves.add(sound[first : first + chunk_n].astype(np.float32))
    return unpacked(octaves.finish())


def tone(frequency_hz: float, *, seconds: float = 2, amplitude: float = 0.1) -> np.ndarray:
    return (amplitude * np.sin(2 * np.pi * frequency_hz * np.arange(round(seconds * RATE)) / RATE))[:, None]


def test_centres_and_edges_are_those_of_the_standard():
    """IEC 61260-1: base ten; nominal centres from 50 Hz to 16 kHz, edges a half of a third to either side (from
    memory). 1 kHz reaches from 891.25 to 1122.02 Hz."""
    nominal = [50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000,
               5000, 6300, 8000, 10000, 12500, 16000]  # fmt: skip
    assert pytest.approx(nominal, rel=0.02) == THIRD_HZ
    assert EDGE_HZ[[26, 27, 28]] == pytest.approx([891.25, 1000.0, 1122.02], abs=0.01)


@pytest.mark.parametrize("band", range(SIXTHS))
def test_a_tone_in_the_middle_of_a_band_has_its_power_there(band):
    """A sine of amplitude 0.1 has the mean square 0.005."""
    found = measured(tone(np.sqrt(EDGE_HZ[band] * EDGE_HZ[band + 1])))[2:-2, :, 0].mean(axis=0)
    assert found.sum() == pytest.approx(0.005, rel=0.01)
    assert found[band] == pytest.approx(0.005, rel=0.05 if band > 18 else 0.7)  # bins are wide down there


@pytest.mark.parametrize(("frequency_hz", "band"), [(30, 0), (40, 0), (20_000, SIXTHS - 1), (23_000, SIXTHS - 1)])
def test_the_first_and_the_last_band_take_what_lies_outside(frequency_hz, band):
    found = measured(tone(frequency_hz))[2:-2, :, 0].mean(axis=0)
    assert found[band] == pytest.approx(0.005, rel=0.05)


def test_what_is_heard_in_steps_adds_up_to_the_power_of_the_sound_in_whatever_pieces_it_comes():
    noise = np.random.default_rng(1).normal(0, 0.1, (RATE * 3 + 1234, 1))
    whole = measured(noise)
    assert whole.shape == (31, SIXTHS, 1)
    assert whole.sum() * 4800 == pytest.approx((noise**2).sum(), rel=0.01)
    for chunk_n in (4800, 960, 7001, 100):
        assert measured(noise, chunk_n=chunk_n) == pytest.approx(whole, rel=0.01, abs=1e-9)


def test_a_sound_stays_in_its_step():
    """Half a second of tone from 1.0 s on: a frame reaches 10 ms beyond its step on either side."""
    sound = np.zeros((3 * RATE, 1))
    sound[RATE : RATE + RATE // 2] = tone(1000, seconds=0.5)
    found = measured(sound).sum(axis=(1, 2))
    assert found[10:15] == pytest.approx(np.full(5, 0.005), rel=0.1)
    assert found[[8, 16]].max() < 1e-9
    assert found[[9, 15]].max() < 0.02 * 0.005


def test_of_two_channels_the_products_of_both_are_kept():
    """left a, right −a/2: right² = left²/4, left·right = −left²/2."""
    left = np.random.default_rng(2).normal(0, 0.1, (RATE, 1))
    found = measured(np.hstack((left, -left / 2)))
    assert found[..., 1] == pytest.approx(found[..., 0] / 4, rel=0.02)
    assert found[..., 2] == pytest.approx(-found[..., 0] / 2, rel=0.02)


def test_half_precision_is_within_a_tenth_of_a_decibel_down_to_very_soft():
    for amplitude in (1.0, 1e-2, 1e-4):
        found = measured(tone(1000, amplitude=amplitude))[5, 26:28, 0].sum()
        assert 10 * np.log10(found / (amplitude**2 / 2)) == pytest.approx(0, abs=0.1)
    assert not measured(np.zeros((RATE, 1))).any()


@pytest.mark.parametrize("seed", range(3))
def test_weighed_by_band_they_come_to_what_k_weighting_makes_of_the_whole(seed):
    """BS.1770-5 on white noise and on noise that falls by 6 dB an octave from 60 Hz on: within 0.1 dB, and 0.3 dB."""
    noise = np.random.default_rng(seed).normal(0, 0.1, (4 * RATE, 1))
    coloured = scipy.signal.lfilter([0.02], [1, -0.992], noise, axis=0) if seed else noise
    banded = (measured(coloured)[..., 0] @ k_of_bands()).sum()
    exact = KWeighting(1).powers(coloured.astype(np.float32)).sum()
    assert 10 * np.log10(banded / exact) == pytest.approx(0, abs=0.3 if seed else 0.1)


def test_what_of_each_third_octave_lies_in_the_speech_band():
    """250 Hz to 4 kHz: nothing below 200 Hz or above 5 kHz, all between 315 Hz and 3.15 kHz, half of the amplitude
    right at the edges."""
    once, twice = band_of_sixth_octaves(SpeechBand(250, 4000))
    for nominal, expected in ((125, 0), (160, 0), (400, 1), (1000, 1), (3150, 1), (6300, 0), (10_000, 0)):
        band = int(np.argmin(np.abs(EDGE_HZ - nominal)))
        assert once[band] == pytest.approx(expected, abs=0.01)
        assert twice[band] == pytest.approx(expected, abs=0.01)
    edge = int(np.argmin(np.abs(EDGE_HZ - 250)))
    assert 0.1 < once[edge - 1] < 0.5 < once[edge] < 0.9
    assert twice[edge] < once[edge]
