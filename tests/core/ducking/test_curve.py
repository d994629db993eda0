"""A gain curve on samples: exact against the closed form, the same whatever the window."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.curve import Curve
from jaylantern.errors import InvalidValue


def closed_form(curve: Curve, start_n: int, stop_n: int) -> np.ndarray:
    """10^(dB/20) with dB straight between points, in double precision."""
    return 10 ** (np.interp(np.arange(start_n, stop_n), curve.time_n, curve.gain_db) / 20)


def amplitudes(curve: Curve, start_n: int, stop_n: int) -> np.ndarray:
    return np.broadcast_to(curve.amplitudes(start_n, stop_n), (stop_n - start_n,))


DIP = Curve(np.array([1000, 17_800, 60_000, 103_200]), np.array([0.0, -14.0, -14.0, 0.0]))


def test_every_sample_of_a_dip_is_the_closed_form():
    found = amplitudes(DIP, 0, 120_000)
    assert np.abs(found / closed_form(DIP, 0, 120_000) - 1).max() < 3e-7  # half a step of float32 and a little
    assert found[0] == 1.0
    assert found[30_000] == pytest.approx(0.199526, rel=1e-5)


POINTS = st.lists(st.tuples(st.integers(0, 30_000), st.floats(-90, 0)), min_size=1, max_size=8)


@settings(deadline=None)
@given(POINTS, st.integers(0, 20_000), st.integers(1, 12_000))
def test_any_window_of_any_curve_is_the_closed_form(points, start_n, length_n):
    points = sorted(dict(points).items())
    curve = Curve(np.array([n for n, _ in points]), np.array([db for _, db in points]))
    found, expected = amplitudes(curve, start_n, start_n + length_n), closed_form(curve, start_n, start_n + length_n)
    assert np.allclose(found, expected, rtol=1e-5, atol=0)


def test_two_points_at_one_time_make_a_step():
    step = Curve(np.array([100, 100]), np.array([0.0, -20.0]))
    assert amplitudes(step, 98, 102) == pytest.approx([1, 1, 0.1, 0.1])


def test_a_flat_stretch_is_one_number():
    assert DIP.amplitudes(20_000, 50_000) == pytest.approx(10 ** (-14 / 20))
    assert Curve.flat().amplitudes(5, 10) == 1.0


@pytest.mark.parametrize(("times", "gains"), [([], []), ([1, 2], [0.0]), ([5, 4], [0.0, 0.0])])
def test_points_that_make_no_curve_are_refused(times, gains):
    with pytest.raises(InvalidValue):
        Curve(np.array(times, np.int64), np.array(gains))
