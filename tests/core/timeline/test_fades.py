"""Fades: the laws they follow, and that a window of one equals the whole of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaylantern.core.timeline.fades import Fade, Shape, envelope, rise
from jaylantern.errors import InvalidValue

X = np.linspace(0, 1, 1001)


@pytest.mark.parametrize("shape", list(Shape))
def test_every_shape_rises_from_nothing_to_all(shape):
    course = rise(shape, X)
    assert course[0] == pytest.approx(0, abs=1e-12)
    assert course[-1] == pytest.approx(1)
    assert (np.diff(course) > 0).all()


def test_two_round_fades_cross_at_equal_power():
    """g² + g'² = 1: the sine/cosine law (Zölzer, Digital Audio Signal Processing, 2nd ed. 2008, ch. 5)."""
    assert rise(Shape.ROUND, X) ** 2 + rise(Shape.ROUND, 1 - X) ** 2 == pytest.approx(np.ones(1001))
    assert 20 * np.log10(rise(Shape.ROUND, np.array([0.5]))[0]) == pytest.approx(-3.01, abs=0.01)


@pytest.mark.parametrize("shape", [Shape.STRAIGHT, Shape.EASED])
def test_two_straight_or_eased_fades_cross_at_equal_amplitude(shape):
    assert rise(shape, X) + rise(shape, 1 - X) == pytest.approx(np.ones(1001))


def test_a_late_fade_is_nearly_straight_in_db():
    """Common practice: a fade over 60 dB; in its louder half it runs within half a dB of 60·(x − 1) dB."""
    upper = X[X >= 0.5]
    assert 20 * np.log10(rise(Shape.LATE, upper)) == pytest.approx(60 * (upper - 1), abs=0.3)


@given(
    st.integers(0, 4000), st.integers(0, 4000), st.sampled_from(list(Shape)), st.integers(0, 4999), st.integers(1, 5000)
)
def test_any_window_of_an_envelope_is_cut_from_the_whole(in_n, out_n, shape, first_n, count):
    coming, going = Fade(in_n, shape), Fade(out_n, Shape.ROUND)
    last_n = min(first_n + count, 5000)
    whole = envelope(coming, going, length_n=5000, first_n=0, last_n=5000)
    window = envelope(coming, going, length_n=5000, first_n=first_n, last_n=last_n)
    expected = np.ones(5000, np.float32) if whole is None else whole
    assert np.array_equal(np.ones(last_n - first_n, np.float32) if window is None else window, expected[first_n:last_n])


def test_a_fade_out_mirrors_a_fade_in():
    coming = envelope(Fade(700), Fade(0), length_n=700, first_n=0, last_n=700)
    going = envelope(Fade(0), Fade(700), length_n=700, first_n=0, last_n=700)
    assert np.array_equal(coming, going[::-1])


def test_a_fade_of_negative_length_is_refused():
    with pytest.raises(InvalidValue, match="can't be -1 samples"):
        Fade(-1)
