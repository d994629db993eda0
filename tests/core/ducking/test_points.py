"""Points set by hand: which hold, which rest, and that what is corrected in a clip changes nothing outside it.

Worked by hand. The curve: 0 dB until 9 s, −12 dB from 10 to 14 s, 0 dB from 15 s on; the clip shows all of it.
"""

from __future__ import annotations

import numpy as np
import pytest

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.points import Resting, with_points
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.pin import PointPin
from tests.build import clip, media

BED = media(1, 60)
WHOLE = clip(7, BED)


def n(seconds: float) -> int:
    return round(seconds * RATE)


DIP = Curve(np.array([n(9), n(10), n(14), n(15)], np.int64), np.array([0.0, -12.0, -12.0, 0.0]))


def moved(at_s: float, gain_db: float, instead_s: float, number: int = 1, root: int = 7) -> PointPin:
    return PointPin(number, root, n(at_s), gain_db, n(instead_s))


def points(found) -> list[tuple[float, float, int]]:
    return [
        (round(t / RATE, 4), round(db, 3), pin)
        for t, db, pin in zip(found.curve.time_n.tolist(), found.curve.gain_db.tolist(), found.pin_of, strict=True)
    ]


@pytest.mark.parametrize(
    ("instead_s", "holds"),
    [(14.0, True), (13.5, True), (13.499, False), (12.0, False), (15.5, True), (15.501, False), (35.0, False)],
)
def test_a_pin_rests_when_the_point_it_takes_the_place_of_is_more_than_half_a_second_away(instead_s, holds):
    found = with_points(DIP, [WHOLE], [moved(14, -6, instead_s)], frozen=False)
    assert (1 in found.resting.held, 1 in found.resting.resting) == (holds, not holds)


def test_a_moved_point_takes_the_place_of_the_computed_one():
    found = with_points(DIP, [WHOLE], [moved(10.5, -20, 10)], frozen=False)
    assert points(found) == [(9, 0, 0), (10.5, -20, 1), (14, -12, 0), (15, 0, 0)]


def test_one_that_was_taken_away_is_left_out():
    found = with_points(DIP, [WHOLE], [PointPin(1, 7, n(10), None, n(10))], frozen=False)
    assert points(found) == [(9, 0, 0), (14, -12, 0), (15, 0, 0)]


@pytest.mark.parametrize(("dipped", "holds"), [(True, True), (False, False)])
def test_an_added_one_holds_while_the_curve_is_as_it_was_there(dipped, holds):
    found = with_points(DIP, [WHOLE], [PointPin(1, 7, n(12), -3.0, None, dipped)], frozen=False)
    assert (1 in found.resting.held) == holds
    assert ((12, -3, 1) in points(found)) == holds


@pytest.mark.parametrize(("at_s", "holds"), [(10.0, True), (9.03, False)])
def test_from_half_a_decibel_down_the_curve_counts_as_dipped(at_s, holds):
    """At 9.03 s the ramp is at −0.36 dB, at 10 s at −12."""
    found = with_points(DIP, [WHOLE], [PointPin(1, 7, n(at_s), -3.0, None, True)], frozen=False)
    assert (1 in found.resting.held) == holds


def test_towards_the_end_of_a_clip_the_gain_of_a_point_is_held_and_beyond_it_nothing_changes():
    """The clip ends at 12 s, in the middle of the dip: the point at 11 s holds its −3 dB up to the last sample, and at
    12 s the curve is at −12 dB again, not at 0."""
    short = clip(7, BED, length_s=12)
    found = with_points(DIP, [short], [PointPin(1, 7, n(11), -3.0, None, True)], frozen=False)
    assert points(found) == [
        (9, 0, 0), (10, -12, 0), (11, -3, 1), (round((n(12) - 1) / RATE, 4), -3, 0), (12, -12, 0), (14, -12, 0),
        (15, 0, 0),
    ]  # fmt: skip


def test_from_the_beginning_of_a_clip_a_point_is_reached_from_what_was_computed_there():
    """The clip begins at 11 s of the timeline, in the dip: at its beginning the curve is at −12 dB."""
    late = clip(7, BED, start_s=11, length_s=20)
    found = with_points(DIP, [late], [PointPin(1, 7, n(1), -3.0, None, True)], frozen=False)
    assert points(found)[:4] == [(9, 0, 0), (10, -12, 0), (11, -12, 0), (12, -3, 1)]


def test_pins_of_another_clip_and_outside_what_is_shown_change_nothing():
    for pin in (moved(10, -6, 10, root=8), PointPin(1, 7, n(70), -3.0)):
        found = with_points(DIP, [WHOLE], [pin], frozen=False)
        assert points(found) == [(9, 0, 0), (10, -12, 0), (14, -12, 0), (15, 0, 0)]
        assert not found.resting.held


def test_a_half_of_a_split_clip_follows_the_points_of_its_root():
    halves = [clip(7, BED, length_s=12), clip(8, BED, start_s=12, offset_s=12, length_s=48, root=7)]
    found = with_points(DIP, halves, [moved(13, -20, 14)], frozen=False)
    assert (13, -20, 1) in points(found)


@pytest.mark.parametrize(
    ("pins", "expected"),
    [
        ([], [(0, 0, 0)]),
        ([PointPin(1, 7, n(5), -6.0)], [(0, -6, 0), (5, -6, 1), (60, -6, 0)]),
        ([PointPin(1, 7, n(5), -6.0), PointPin(2, 7, n(15), -16.0)],
         [(0, -6, 0), (5, -6, 1), (15, -16, 2), (60, -16, 0)]),
    ],
)  # fmt: skip
def test_a_frozen_curve_is_its_points_and_nothing_else(pins, expected):
    assert points(with_points(DIP, [WHOLE], pins, frozen=True)) == expected


def test_a_clip_of_a_frozen_lane_shows_its_stretch_of_the_points():
    """Points at 5 s (−6 dB) and 15 s (−16 dB); a clip that shows 10 to 20 s begins between them, at −11 dB."""
    part = clip(7, BED, start_s=100, offset_s=10, length_s=10)
    found = with_points(DIP, [part], [PointPin(1, 7, n(5), -6.0), PointPin(2, 7, n(15), -16.0)], frozen=True)
    assert points(found) == [(100, -11, 0), (105, -16, 2), (110, -16, 0)]


# — ramps, cuts and ends —

BENT = Curve(DIP.time_n, DIP.gain_db, np.array([2, 0, 1], np.int8))  # eased down, straight, up straight in amplitude


@pytest.mark.parametrize(
    ("pin", "ramps"),
    [
        (moved(10.5, -20, 10), [2, 0, 1]),  # the ramp behind it is that of the point it takes the place of
        (moved(9.5, -1, 9), [0, 2, 0, 1]),  # the first in its clip: at the beginning of that a fence comes before it
        (moved(13, -12, 14), [2, 0, 1]),
        (PointPin(1, 7, n(9.5), -8.0, None, True), [2, 2, 0, 1]),  # added within a ramp: both parts have its course
        (PointPin(1, 7, n(12), -3.0, None, True), [2, 0, 0, 1]),
        (PointPin(1, 7, n(15), None, n(15)), [2, 0]),
        (PointPin(1, 7, n(9), None, n(9)), [0, 1]),
    ],
)
def test_ramps_stay_with_the_points_they_begin_at(pin, ramps):
    assert with_points(BENT, [WHOLE], [pin], frozen=False).curve.ramp.tolist() == ramps


def test_a_curve_straight_throughout_has_no_codes():
    assert with_points(DIP, [WHOLE], [moved(10.5, -20, 10)], frozen=False).curve.ramp.tolist() == []


@pytest.mark.parametrize(
    ("at_s", "shown"), [(12.0, True), (11.999, False), (20.0, True), (20.001, False), (16.0, True)]
)
def test_a_clip_shows_the_points_from_its_first_sample_to_its_last(at_s, shown):
    """The clip shows 12 to 20 s of its medium; a point moved there from the one computed at 15 s."""
    part = clip(7, BED, start_s=12, offset_s=12, length_s=8)
    found = with_points(DIP, [part], [moved(at_s, -5, 15)], frozen=False)
    assert found.resting.held == (frozenset({1}) if shown else frozenset())
    assert not found.resting.resting


@pytest.mark.parametrize(("instead_s", "shown"), [(15.0, True), (9.0, False)])
def test_what_is_taken_away_counts_where_it_was(instead_s, shown):
    part = clip(7, BED, start_s=12, offset_s=12, length_s=8)
    found = with_points(DIP, [part], [PointPin(1, 7, n(16), None, n(instead_s))], frozen=False)
    assert (1 in found.resting.held) == shown


def test_a_pin_that_holds_in_one_place_and_rests_in_another_holds():
    """The medium lies twice: from 0 s, where the curve has a point at 10 s, and from 30 s, with none at 40 s."""
    again = clip(8, BED, start_s=30, length_s=20, root=7)
    found = with_points(DIP, [clip(7, BED, length_s=30), again], [moved(10.5, -20, 10)], frozen=False)
    assert found.resting == Resting(frozenset({1}), frozenset())


def test_a_pin_that_rests_everywhere_rests():
    found = with_points(DIP, [WHOLE], [moved(30, -20, 30), moved(10.5, -20, 10, number=2)], frozen=False)
    assert found.resting == Resting(frozenset({2}), frozenset({1}))


@pytest.mark.parametrize(
    ("one", "other", "joined"),
    [
        (Resting(frozenset({1}), frozenset({2})), Resting(frozenset({2}), frozenset({3})), ({1, 2}, {3})),
        (Resting(frozenset(), frozenset({2})), Resting(frozenset(), frozenset({2})), (set(), {2})),
        (Resting(), Resting(frozenset({4}), frozenset({1})), ({4}, {1})),
        (Resting(frozenset({4}), frozenset({1})), Resting(), ({4}, {1})),
    ],
)
def test_over_several_curves_a_pin_that_holds_anywhere_holds(one, other, joined):
    found = one.joined(other)
    assert (found.held, found.resting) == joined


def test_a_point_is_taken_once():
    """Two pins meant the point at 10 s; the second takes the next one within half a second, of which there is none."""
    found = with_points(DIP, [WHOLE], [moved(10.2, -20, 10), moved(9.8, -30, 10, number=2)], frozen=False)
    assert points(found) == [(9, 0, 0), (10.2, -20, 1), (14, -12, 0), (15, 0, 0)]
    assert found.resting == Resting(frozenset({1}), frozenset({2}))


def test_with_every_point_taken_away_the_gain_is_as_if_nothing_were_asked():
    gone = [PointPin(i, 7, n(s), None, n(s)) for i, s in enumerate((9, 10, 14, 15), 1)]
    found = with_points(DIP, [WHOLE], gone, frozen=False)
    assert points(found) == [(0, 0, 0)]
    assert found.resting.held == {1, 2, 3, 4}


def test_without_pins_the_curve_is_as_computed():
    found = with_points(BENT, [WHOLE], [], frozen=False)
    assert found.curve is BENT
    assert found.pin_of == (0, 0, 0, 0)


HALF = clip(7, BED, length_s=12)


@pytest.mark.parametrize(
    ("second", "fenced"),
    [
        (clip(8, BED, start_s=12, offset_s=12, length_s=8, root=7), False),  # split, nothing moved
        (clip(8, BED, start_s=12.5, offset_s=12.5, length_s=8, root=7), True),  # a gap
        (clip(8, BED, start_s=12, offset_s=13, length_s=8, root=7), True),  # a jump in the medium
        (clip(8, BED, start_s=12, offset_s=12, length_s=8), True),  # a clip of its own
    ],
)
def test_a_correction_goes_on_over_a_split_and_ends_at_a_cut(second, fenced):
    """A point set at 11.5 s, before the split at 12 s: fenced, the curve is at what was computed at 12 s again."""
    pins = [PointPin(1, 7, n(11.5), -3.0, None, True), PointPin(2, 8, n(30), -3.0)]
    found = points(with_points(DIP, [second, HALF], pins, frozen=False))
    assert ((12, -12, 0) in found) == fenced


def test_a_point_on_the_last_or_the_first_sample_needs_no_fence():
    last = with_points(DIP, [clip(7, BED, length_s=12)], [PointPin(1, 7, n(12), -3.0, None, True)], frozen=False)
    assert points(last) == [(9, 0, 0), (10, -12, 0), (12, -3, 1), (14, -12, 0), (15, 0, 0)]
    late = clip(7, BED, start_s=11, length_s=20)
    first = with_points(DIP, [late], [PointPin(1, 7, 0, -3.0, None, True)], frozen=False)
    assert points(first)[:3] == [(9, 0, 0), (10, -12, 0), (11, -3, 1)]


def test_a_clip_beyond_all_points_changes_nothing():
    far = clip(7, BED, start_s=20, length_s=10)
    found = with_points(DIP, [far], [moved(5, -3, 5)], frozen=False)
    assert points(found) == [(9, 0, 0), (10, -12, 0), (14, -12, 0), (15, 0, 0)]
    assert found.resting.resting == {1}


# — frozen —


def test_points_taken_away_count_for_nothing_on_a_frozen_lane():
    found = with_points(DIP, [WHOLE], [PointPin(1, 7, n(5), None, n(5))], frozen=True)
    assert points(found) == [(0, 0, 0)]
    assert found.resting == Resting()


def test_of_two_clips_on_a_frozen_lane_the_later_one_takes_over_where_they_overlap():
    """The first shows points at 5 s (−6 dB) and 15 s (−16 dB) from 0 to 20 s; the second begins at 10 s with −3 dB."""
    pins = [PointPin(1, 7, n(5), -6.0), PointPin(2, 7, n(15), -16.0), PointPin(3, 8, n(2), -3.0)]
    clips = [clip(8, BED, start_s=10, length_s=20), clip(7, BED, length_s=20)]
    found = with_points(DIP, clips, pins, frozen=True)
    assert points(found) == [(0, -6, 0), (5, -6, 1), (10, -3, 0), (12, -3, 3), (30, -3, 0)]
    assert found.resting.held == {1, 2, 3}


def test_a_clip_without_points_among_others_of_a_frozen_lane_is_passed_over():
    pins = [PointPin(1, 8, n(2), -3.0), PointPin(2, 7, n(2), None, n(2))]
    found = with_points(DIP, [clip(7, BED, length_s=5), clip(8, BED, start_s=10, length_s=20)], pins, frozen=True)
    assert points(found) == [(10, -3, 0), (12, -3, 1), (30, -3, 0)]


def test_points_on_the_edges_of_a_clip_of_a_frozen_lane_are_its_edges():
    part = clip(7, BED, start_s=100, offset_s=5, length_s=10)
    pins = [PointPin(2, 7, n(15), -16.0), PointPin(1, 7, n(5), -6.0)]
    found = with_points(DIP, [part], pins, frozen=True)
    assert points(found) == [(100, -6, 1), (110, -16, 2)]


def test_a_clip_between_two_points_shows_the_line_between_them():
    part = clip(7, BED, start_s=100, offset_s=8, length_s=4)
    pins = [PointPin(1, 7, n(5), -6.0), PointPin(2, 7, n(15), -16.0)]
    assert points(with_points(DIP, [part], pins, frozen=True)) == [(100, -9, 0), (104, -13, 0)]
