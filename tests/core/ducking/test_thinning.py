"""Bent ramps against their closed forms, to the sample and in the rendered sound; thinning with a stated error."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.dips import dip_under, envelope
from jaylantern.core.ducking.thinning import error_db, thinned
from jaylantern.core.mixing.mix import Programme, Variant, Voice, render
from jaylantern.core.signal.timebase import RATE, db_to_amplitude, db_to_percent
from jaylantern.core.timeline.settings import Ramp, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue
from tests import sounds
from tests.build import passage

SHAPES = list(Ramp)


def closed_form(shape: Ramp, d0: float, d1: float, x: np.ndarray) -> np.ndarray:
    """Gain in dB over a ramp, written down a second time from its definition."""
    if shape is Ramp.AMPLITUDE:
        return 20 * np.log10((1 - x) * 10 ** (d0 / 20) + x * 10 ** (d1 / 20))
    return d0 + (d1 - d0) * (x if shape is Ramp.DB else np.sin(np.pi * x / 2) ** 2)


def dip(shape: Ramp, amount_db: float = -12.0) -> Curve:
    """Speech from 10 to 14 s, 300 ms down, 800 ms up."""
    chosen = Settings(
        attack_ms=300, release_ms=800, lead_in_ms=100, hold_ms=500, amount_db=amount_db, fall=shape, rise=shape
    )
    return envelope([dip_under(passage(10, 14), chosen)])


@pytest.mark.parametrize("shape", SHAPES)
def test_a_known_dip_is_its_closed_form_at_every_sample(shape):
    curve = dip(shape)
    for from_s, to_s, d0, d1 in ((9.6, 9.9, 0, -12), (14.5, 15.3, -12, 0)):
        n = np.arange(round(from_s * RATE), round(to_s * RATE) + 1)
        x = (n - n[0]) / (n[-1] - n[0])
        assert np.allclose(curve.at(n), closed_form(shape, d0, d1, x), atol=1e-9)
        assert np.allclose(20 * np.log10(curve.amplitudes(n[0], n[-1] + 1)), closed_form(shape, d0, d1, x), atol=1e-4)
    assert curve.at(np.array([RATE, 12 * RATE, 20 * RATE])).tolist() == [0, -12, 0]


@pytest.mark.parametrize("shape", SHAPES)
def test_the_rendered_level_follows_the_curve_within_a_tenth_of_a_decibel(shape):
    """A steady tone ducked, its level measured over each 10 ms of the render."""
    tone = sounds.sine(hz=1000, seconds=17, amplitude=0.25, channels=2)
    curve = dip(shape)
    prog = Programme(17 * RATE, (Voice(1, 0, 17 * RATE, 0, 1.0, Tag.MUSIC, curve),), -1.0)
    found = render(prog, lambda _, a, b: tone[a:b], 0, 17 * RATE, Variant.MUSIC)
    rms = np.sqrt(np.mean(found.reshape(-1, 480, 2).astype(np.float64) ** 2, axis=(1, 2)))
    level = 20 * np.log10(rms / (0.25 / np.sqrt(2)))
    middle = np.arange(len(level)) * 480 + 240
    power = np.mean([10 ** (curve.at(middle + k) / 10) for k in range(-230, 240, 10)], axis=0)
    assert np.abs(level - 10 * np.log10(power)).max() < 0.1


def test_a_cut_of_seventy_percent_is_ten_and_a_half_decibels():
    """Common practice thinks in percent: a 70 % cut leaves 30 % = −10.46 dB."""
    assert 20 * np.log10(0.3) == pytest.approx(-10.46, abs=0.005)
    assert db_to_percent(-10.4576) == pytest.approx(30, abs=0.01)
    assert dip(Ramp.DB, -10.4576).amplitudes(12 * RATE, 12 * RATE + 5) == pytest.approx(0.3, abs=1e-5)


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("largest_db", [0.05, 0.5])
def test_said_in_straight_ones_it_strays_by_no_more_than_asked_for(shape, largest_db):
    curve = dip(shape)
    straight = curve.straightened(largest_db=largest_db)
    assert straight.straight
    n = np.arange(9 * RATE, 16 * RATE)
    assert np.abs(straight.at(n) - curve.at(n)).max() <= largest_db
    with pytest.raises(InvalidValue, match="straight"):
        dip(Ramp.EASED).within(0, 10)


def test_many_points_in_a_window_give_the_same_amplitudes_as_few():
    n = np.arange(0, RATE, 480)
    many = Curve(n, np.linspace(0, -20, len(n)))
    few = Curve(n[[0, -1]], many.gain_db[[0, -1]])
    assert np.allclose(many.amplitudes(0, 40_000), few.amplitudes(0, 40_000), atol=1e-6)


# — thinning —

WALKS = st.lists(st.tuples(st.integers(1, 5000), st.floats(-6, 6)), min_size=1, max_size=120)


def walked(steps) -> Curve:
    """A curve that wanders."""
    time_n = np.cumsum([0, *(step for step, _ in steps)])
    return Curve(time_n.astype(np.int64), np.clip(np.cumsum([0.0, *(by for _, by in steps)]), -60, 0))


@settings(deadline=None)
@given(WALKS, st.floats(0.01, 6))
def test_thinned_curves_stay_within_the_error_and_keep_their_ends(steps, largest_db):
    curve = walked(steps)
    found, error = thinned(curve, largest_db=largest_db)
    n = np.arange(0, int(curve.time_n[-1]) + 1, 7)
    assert np.abs(found.at(n) - curve.at(n)).max() <= largest_db + 1e-6
    assert error <= largest_db + 1e-6
    assert len(found.time_n) <= len(curve.time_n)
    assert found.time_n[[0, -1]].tolist() == curve.time_n[[0, -1]].tolist()


@settings(deadline=None)
@given(WALKS, st.integers(1, 20_000))
def test_thinned_points_are_too_close_only_where_none_can_be_left_out_and_the_error_is_what_it_says(steps, least_n):
    curve = walked(steps)
    found, error = thinned(curve, largest_db=0.1, least_n=least_n)
    for i in np.flatnonzero(np.diff(found.time_n) < least_n).tolist():
        for j in {i, i + 1} - {0, len(found.time_n) - 1}:
            fewer = Curve(np.delete(found.time_n, j), np.delete(found.gain_db, j))
            assert error_db(curve, fewer) > 0.1 - 1e-9
    assert error <= 0.1 + 1e-9
    n = np.arange(0, int(curve.time_n[-1]) + 1, 3)
    assert np.abs(found.at(n) - curve.at(n)).max() <= error + 1e-6
    assert error == pytest.approx(error_db(curve, found))


def test_hundreds_of_points_on_a_line_become_two():
    """The complaint: hundreds of needless points nobody can edit."""
    n = np.arange(0, 100 * 480, 480)
    found, error = thinned(Curve(n, np.linspace(0, -12, 100)), largest_db=0.01)
    assert len(found.time_n) == 2
    assert error < 0.01


def test_a_dip_needs_its_four_corners_and_no_more():
    found, error = thinned(dip(Ramp.DB), largest_db=0.2)
    assert found.gain_db.tolist() == [0, -12, -12, 0]
    assert error == 0
    assert db_to_amplitude(-12) == pytest.approx(0.2512, abs=1e-4)


def test_a_step_at_the_end_is_kept_however_near_the_end_it_lies():
    """A point at −9.4 dB that holds to the end: left out for its distance alone it would be missed by 9.4 dB."""
    curve = Curve(np.array([0, 1000, 99_000, 99_990, 100_000]), np.array([0.0, 0.0, 0.0, -9.4, -9.4]))
    found, error = thinned(curve, largest_db=0.5, least_n=4800)
    assert error <= 0.5
    assert found.at(np.array([99_990, 99_999])).tolist() == pytest.approx([-9.4, -9.4], abs=0.5)
