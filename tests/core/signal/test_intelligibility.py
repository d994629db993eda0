"""The Speech Intelligibility Index against ANSI S3.5-1997: tables, worked examples, and its equations one by one."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest

from jaylantern.core.signal.intelligibility import (
    IMPORTANCE,
    INTERNAL_DB,
    NOMINAL_HZ,
    NORMAL_DB,
    NORMAL_SPL_DB,
    WIDTH_DB,
    index,
    of_bands,
    spectrum_db,
)

QUIET = np.full(18, -50.0)


def step_by_step(speech: np.ndarray, noise: np.ndarray) -> float:
    """The one-third octave procedure as clauses 4 and 5 of the standard tell it, band by band (from memory)."""
    masker = [max(n, e - 24) for e, n in zip(speech, noise, strict=True)]
    total = 0.0
    for i, hz in enumerate(NOMINAL_HZ):
        power = 10 ** (noise[i] / 10)
        for k in range(i):
            slope = -80 + 0.6 * (masker[k] + 10 * math.log10(NOMINAL_HZ[k]) - 6.353)
            power += 10 ** ((masker[k] + 3.32 * slope * math.log10(0.89 * hz / NOMINAL_HZ[k])) / 10)
        mask = masker[0] if i == 0 else 10 * math.log10(power)
        disturbance = max(mask, INTERNAL_DB[i])
        level = min(1.0, 1 - (speech[i] - NORMAL_DB[i] - 10) / 160)
        total += IMPORTANCE[i] * level * min(1.0, max(0.0, (speech[i] - disturbance + 15) / 30))
    return total


def test_the_tables_are_those_of_the_standard():
    """Importance adds up to one; normal speech to 62.35 dB SPL (S3.5-1997, tables 3 and A.1)."""
    assert IMPORTANCE.sum() == pytest.approx(1.0, abs=1e-9)
    assert 10 * np.log10((10 ** ((NORMAL_DB + WIDTH_DB) / 10)).sum()) == pytest.approx(NORMAL_SPL_DB, abs=0.05)
    assert IMPORTANCE.argmax() == list(NOMINAL_HZ).index(2000)


def test_worked_example_of_the_octave_procedure():
    """S3.5-1997, annex C, example 1 (from memory): octaves from 250 Hz to 8 kHz, no spread of masking, 0.504."""
    importance = np.array([0.0617, 0.1671, 0.2373, 0.2648, 0.2142, 0.0549])
    normal = np.array([34.75, 34.27, 25.01, 17.32, 9.33, 1.13])
    internal = np.array([-3.9, -9.7, -12.5, -17.7, -25.9, -7.1])
    speech, noise = np.array([50.0, 40, 40, 30, 20, 0]), np.array([70.0, 65, 45, 25, 1, -15])
    assert of_bands(speech, np.maximum(noise, internal), normal, importance) == pytest.approx(0.504, abs=0.0005)


def test_worked_example_of_the_third_octave_procedure():
    """S3.5-1997, annex C, example 2 (from memory): 54 dB of speech in every band, noise in the lowest three, 0.85."""
    noise = np.array([40.0, 30.0, 20.0, *[0.0] * 15])
    assert index(np.full(18, 54.0), noise) == pytest.approx(0.85, abs=0.005)


@pytest.mark.parametrize("seed", range(20))
def test_it_is_what_its_equations_say_one_by_one(seed):
    rng = np.random.default_rng(seed)
    speech, noise = NORMAL_DB + rng.uniform(-25, 25, 18), NORMAL_DB + rng.uniform(-50, 30, 18)
    assert index(speech, noise) == pytest.approx(step_by_step(speech, noise), abs=1e-9)


def test_many_at_once_are_each_as_alone():
    rng = np.random.default_rng(7)
    speech, noise = rng.uniform(0, 60, (50, 18)), rng.uniform(-20, 70, (50, 18))
    assert index(speech, noise) == pytest.approx([index(s, n) for s, n in zip(speech, noise, strict=True)], abs=1e-12)


@pytest.mark.parametrize(
    ("noise_db", "expected"),
    [
        (QUIET, 0.996),  # normal speech in quiet: all of it but what the ear itself hides
        (NORMAL_DB + 15, 0.0),  # 15 dB over speech everywhere: nothing stands out
        (NORMAL_DB - 40, 0.99),
    ],
)
def test_normal_speech_in_quiet_and_drowned(noise_db, expected):
    assert index(NORMAL_DB, noise_db) == pytest.approx(expected, abs=0.01)


def test_more_noise_in_any_band_never_helps():
    rng = np.random.default_rng(3)
    for _ in range(50):
        noise = NORMAL_DB + rng.uniform(-30, 15, 18)
        louder = noise.copy()
        louder[rng.integers(18)] += rng.uniform(0, 20)
        assert index(NORMAL_DB, louder) <= index(NORMAL_DB, noise) + 1e-12
    steps = [index(NORMAL_DB, NORMAL_DB + gain_db) for gain_db in range(-40, 20)]
    assert all(after <= before for before, after in pairwise(steps))


def test_noise_masks_what_lies_above_it_more_than_what_lies_below():
    """Spread of masking goes upwards: a loud low band takes from those above it."""
    low, high = QUIET.copy(), QUIET.copy()
    low[3], high[14] = 75.0, 75.0
    alone = 1 - IMPORTANCE[3] * 1.05
    assert index(NORMAL_DB, low) < alone
    assert index(NORMAL_DB, high) > 1 - IMPORTANCE[14:].sum() - 0.02


@pytest.mark.parametrize("band", [0, 7, 17])
def test_spectrum_levels_are_levels_per_hertz(band):
    """A power of 10^−2 in a band, 90 dB SPL at full scale: 70 dB less 10·log10 of its width, 0.2308 of its centre."""
    power = np.zeros(18)
    power[band] = 1e-2
    expected = 70 - 10 * np.log10(0.23077 * NOMINAL_HZ[band])
    assert spectrum_db(power, 90.0)[band] == pytest.approx(expected, abs=0.01)
