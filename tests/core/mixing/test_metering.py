"""Meters: momentary loudness at the end of each 100 ms, over the last 400 ms. EBU Tech 3341, section 2.2."""

from __future__ import annotations

import numpy as np
import pytest

from jaylantern.core.mixing.metering import ProgrammeMeter, meter
from jaylantern.core.mixing.mix import BLOCK_N
from tests import sounds

SINE = sounds.sine(hz=1000, seconds=1, amplitude=0.1, channels=2)  # −20 dBFS on both sides: −20.0 LUFS
SILENCE = np.zeros((BLOCK_N, 2), np.float32)


@pytest.mark.parametrize(
    ("before", "block", "expected"),
    [
        # of 400 ms, so many are loud: 1/4 −6.0 dB, 2/4 −3.0, 3/4 −1.2
        (SILENCE, SINE, [-26.0, -23.0, -21.2, -20.0]),
        (SINE, SILENCE, [-21.2, -23.0, -26.0]),
        (SINE, SINE, [-20.0, -20.0, -20.0, -20.0]),
        (SILENCE, SILENCE, [-120.0, -120.0]),
    ],
)
def test_the_needle_reaches_back_over_the_second_before(before, block, expected):
    found = meter(before, block, start_n=BLOCK_N)
    assert found.start_n == BLOCK_N
    assert len(found.lufs) == 10
    assert list(found.lufs[: len(expected)]) == pytest.approx(expected, abs=0.1)


@pytest.mark.parametrize(("loud_ms", "lufs"), [(100, -26.0), (50, -29.0), (0, -120.0)])
def test_a_step_ends_where_it_ends(loud_ms, lufs):
    """Only the first so many milliseconds of the block are loud: they are part of the first step and no more."""
    block = SILENCE.copy()
    block[: loud_ms * 48] = SINE[: loud_ms * 48]
    assert meter(SILENCE, block, start_n=0).lufs[0] == pytest.approx(lufs, abs=0.15)


def test_true_peak_is_that_of_the_block_alone():
    assert meter(SINE, SILENCE, start_n=0).dbtp < -60
    assert meter(SILENCE, SINE, start_n=0).dbtp == pytest.approx(-20.0, abs=0.1)


def test_a_programme_measured_in_parts_is_the_same_as_in_one_go():
    sound = np.concatenate((SINE, SILENCE, 0.5 * SINE, SINE))
    whole, parts = ProgrammeMeter(2), ProgrammeMeter(2)
    whole.add(sound)
    for k in range(4):
        one = ProgrammeMeter(2, sound[(k - 1) * BLOCK_N : k * BLOCK_N] if k else None)
        one.add(sound[k * BLOCK_N : (k + 1) * BLOCK_N])
        parts.take(one.part(last=k == 3))
    assert len(whole.power) == 4 * 50
    assert np.allclose(parts.power, whole.power, rtol=1e-5, atol=1e-8)
    assert parts.finish().integrated_lufs == pytest.approx(whole.finish().integrated_lufs, abs=0.01)


def test_a_programme_of_nothing_measures_nothing():
    assert not len(ProgrammeMeter(2).power)
