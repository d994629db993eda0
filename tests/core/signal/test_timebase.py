"""Units: decibels, percent, samples, clock."""

import math

import pytest

from jaylantern.core.signal import timebase


# 20·log10 of amplitude: definition of the decibel for field quantities, ISO 80000-3:2006 item 3-21
@pytest.mark.parametrize(
    ("gain_db", "percent"),
    [
        (-14, 19.953),
        (-6, 50.119),
        (-12, 25.119),
        (-18, 12.589),
        (0, 100.0),
        (13.979, 500.0),
        (-10.458, 30.0),
        (-90, 0.00316),
    ],
)
def test_decibels_and_percent_of_amplitude(gain_db, percent):
    assert timebase.db_to_percent(gain_db) == pytest.approx(percent, rel=1e-3)
    assert timebase.amplitude_to_db(percent / 100) == pytest.approx(gain_db, abs=0.01)


def test_no_amplitude_is_minus_infinity():
    assert timebase.amplitude_to_db(0.0) == -math.inf


def test_seconds_and_samples_are_inverse():
    for time_n in (0, 1, 47_999, 48_000, 123_456_789):
        assert timebase.seconds_to_n(timebase.n_to_seconds(time_n)) == time_n


@pytest.mark.parametrize(
    ("time_n", "text"),
    [(0, "00:00.000"), (47_999, "00:01.000"), (48_000 * 61 + 24_000, "01:01.500"), (48_000 * 3723, "1:02:03.000")],
)
def test_the_clock_reads_as_people_write_it(time_n, text):
    assert timebase.clock(time_n) == text
