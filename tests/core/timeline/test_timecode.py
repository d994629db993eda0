"""Frames and timecode against SMPTE ST 12-1's own figures (from memory) and OpenTimelineIO's."""

from fractions import Fraction

import opentimelineio as otio
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.timecode import DROPPING, USUAL, frame_at, nearest_frame, rate_of, time_of, timecode
from jaylantern.errors import InvalidValue

NTSC = Fraction(30000, 1001)


@pytest.mark.parametrize(
    ("frame", "said"),
    [
        (0, "00:00:00;00"),
        (1799, "00:00:59;29"),
        (1800, "00:01:00;02"),  # two numbers are left out at the minute
        (17_981, "00:09:59;29"),
        (17_982, "00:10:00;00"),  # none at the tenth
        (107_892, "01:00:00;00"),  # an hour
        (2_589_407, "23:59:59;29"),
    ],
)
def test_drop_frame_counts(frame, said):
    assert timecode(frame, NTSC) == said


@pytest.mark.parametrize("fps", [fps for fps in USUAL if fps != Fraction(48)])
def test_another_library_writes_the_same(fps):
    for frame in (0, 1, 23, 59, 1799, 1800, 1801, 3599, 3600, 17_981, 17_982, 35_964, 100_003, 215_784):
        theirs = otio.opentime.RationalTime(frame, float(fps)).to_timecode(float(fps), fps in DROPPING)
        assert timecode(frame, fps) == theirs


@pytest.mark.parametrize("fps", USUAL)
def test_a_frame_is_shown_from_its_beginning_on(fps):
    for frame in (0, 1, 7, 1000, 107_892):
        begin = time_of(frame, fps)
        assert nearest_frame(begin, fps) == frame
        assert frame_at(begin + 1, fps) == frame
        assert frame_at(max(0, begin - 1), fps) == max(0, frame - 1)


def test_an_hour_of_drop_frame_keeps_with_the_clock():
    assert timecode(nearest_frame(3600 * RATE, NTSC), NTSC) == "01:00:00;00"
    assert timecode(nearest_frame(3600 * RATE, Fraction(24000, 1001)), Fraction(24000, 1001)) == "00:59:56:10"


@pytest.mark.parametrize(("fps", "exact"), [(29.97, NTSC), (23.976, Fraction(24000, 1001)), (25.0, 25), (12.5, 12.5)])
def test_the_exact_rate_is_found(fps, exact):
    assert rate_of(fps) == exact


@pytest.mark.parametrize("fps", [0, -1, float("nan"), 5000])
def test_what_is_no_rate_is_refused(fps):
    with pytest.raises(InvalidValue):
        rate_of(fps)
