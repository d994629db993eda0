"""Gain lines: points, stretches, rides, and a line made of ducking; on a narration, a bed and a sound of waves."""

from dataclasses import replace
from itertools import count

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.gain_line import line_of, over_media
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.edit import cutting, lines, moving
from jaylantern.core.edit.lines import LET_GO_N, RAMP_N, Moved
from jaylantern.core.edit.tailored_clips import tailored
from jaylantern.core.mixing.mix import Variant, programme, render
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.tailoring.cut import Cut, Piece
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.gain_line import LINE, NO_LINE, GainLine, LinePoint
from jaylantern.core.timeline.settings import Ramp
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.errors import InvalidValue, NotFound, Refused
from tests.build import clip, lane, media, project, reader

TALK, BED, WAVES = media(1, 30, "Talk.wav"), media(2, 60, "Bed.wav"), media(3, 40, "Waves.wav")
SPEECH = np.array([[2 * RATE, 8 * RATE], [12 * RATE, 20 * RATE]])


def line(*points) -> GainLine:
    """A line of (seconds, dB) or (seconds, dB, ramp)."""
    return GainLine(tuple(LinePoint(round(each[0] * RATE), *each[1:]) for each in points))


def film(*, bed: GainLine = NO_LINE, waves: GainLine = NO_LINE):
    return project(
        lane(10, Tag.DIALOGUE, clip(1, TALK, start_s=5)),
        lane(11, Tag.MUSIC, clip(2, BED, offset_s=3, length_s=50, line=bed)),
        lane(12, Tag.ATMOSPHERE, clip(3, WAVES, start_s=10, offset_s=4, length_s=20, line=waves)),
    )


def plan_of(found):
    return make_plan(found, Sounding({TALK.id: SPEECH}))


def clip_of(found, number):
    return next(each for _, each in found.placed() if each.id == number)


def gains(found, number, *at_s):
    """The line of a clip at seconds of the timeline."""
    curve = line_of(clip_of(found, number))
    return [0.0] * len(at_s) if curve is None else curve.at(np.round(np.array(at_s) * RATE).astype(np.int64)).tolist()


# — what a line is —


@pytest.mark.parametrize(
    ("points", "at_s", "gain_db"),
    [
        ([], 5, 0.0),
        ([(4, -6)], 0, -6.0),
        ([(4, -6)], 30, -6.0),
        ([(4, 0), (8, -12)], 6, -6.0),
        ([(4, 0, Ramp.AMPLITUDE), (8, -20)], 6, 20 * np.log10((1 + 0.1) / 2)),  # halfway in amplitude
        ([(4, 0, Ramp.EASED), (8, -12)], 5, -12 * (1 - np.cos(np.pi / 4)) / 2),
    ],
)
def test_a_line_holds_before_and_after_and_runs_in_its_ramps_between(points, at_s, gain_db):
    assert over_media(line(*points)).at(np.array([at_s * RATE]))[0] == pytest.approx(gain_db, abs=1e-9)


@pytest.mark.parametrize(
    ("value", "said"),
    [
        ("flat", "list of points"), ([[0]], "list of points"), ([[0.5, 1]], "whole samples"), ([[True, 1]], "whole"),
        ([[0, "x"]], "gain in dB"), ([[0, float("nan")]], "gain in dB"), ([[0, 25]], "-60 to 24"),
        ([[0, -61]], "-60 to"),
        ([[0, 1, "steep"]], "decibel, amplitude, eased"), ([[5, 1], [5, 2]], "time of its own"),
        ([[6, 1], [5, 2]], "in order"),
        ([[1 << 40, 1]], "24 hours"), ([[k, 0] for k in range(20_001)], "at most"),
    ],
    ids=lambda each: str(each)[:30],
)  # fmt: skip
def test_what_is_no_line_is_refused(value, said):
    with pytest.raises(InvalidValue, match=said):
        LINE.checked(value, "line")


def test_a_line_is_the_same_in_every_form():
    made = line((0.5, -3, Ramp.EASED), (2, 4.25), (3, 0, Ramp.AMPLITUDE))
    assert LINE.checked(LINE.plain(made), "line") == made
    assert LINE.restored(LINE.stored(made)) == made
    assert LINE.restored(LINE.stored(NO_LINE)) == NO_LINE


# — what is heard —


@pytest.mark.parametrize("ramp", list(Ramp))
def test_what_is_heard_is_the_closed_form_to_the_sample(ramp):
    """dB of the line are added to those of clip and lane; every sample against the formula of its ramp."""
    found = project(
        lane(1, Tag.ATMOSPHERE, clip(1, media(1, 8), gain_db=-2.0, line=line((1, 3, ramp), (5, -9))), gain_db=1.0)
    )
    sound = np.full((8 * RATE, 1), 0.5, np.float32)
    heard = render(programme(found, plan_of(found)), reader(sound), 0, 8 * RATE, Variant.UNLIMITED)[:, 0]
    x = np.clip((np.arange(8 * RATE) - RATE) / (4 * RATE), 0, 1)
    closed = {
        Ramp.DB: 3 - 12 * x,
        Ramp.AMPLITUDE: 20 * np.log10(10 ** (3 / 20) + (10 ** (-9 / 20) - 10 ** (3 / 20)) * x),
        Ramp.EASED: 3 - 12 * (1 - np.cos(np.pi * x)) / 2,
    }[ramp]
    assert np.abs(heard / (0.5 * 10 ** ((closed - 1) / 20)) - 1).max() < 2e-6


def test_windows_of_a_clip_with_a_line_equal_the_whole():
    found = film(bed=line((4, -3, Ramp.EASED), (5, 6), (5.5, -20, Ramp.AMPLITUDE), (7, 0)))
    rng = np.random.default_rng(2)
    read = reader(*(rng.standard_normal((60 * RATE, 1)).astype(np.float32) * 0.1 for _ in range(3)))
    made = programme(found, plan_of(found))
    whole = render(made, read, 0, 9 * RATE, Variant.DUCKED)
    for start_n, length_n in zip(rng.integers(0, 7 * RATE, 30), rng.integers(1, RATE, 30), strict=True):
        window = render(made, read, int(start_n), int(start_n + length_n), Variant.DUCKED)
        assert np.array_equal(window, whole[start_n : start_n + length_n])


def test_a_line_is_added_to_ducking_and_taken_in_where_speech_is_weighed():
    plain, drawn = film(), film(bed=line((0, -5)))
    sound = np.random.default_rng(1).standard_normal((60 * RATE, 1)).astype(np.float32) * 0.1
    heard = [
        render(programme(each, plan_of(each)), reader(sound, sound, sound * 0), 0, 20 * RATE, Variant.MUSIC)
        for each in (plain, drawn)
    ]
    assert np.allclose(heard[1], heard[0] * 10 ** (-5 / 20), atol=1e-7)


# — points —


def test_points_are_moved_added_shaped_and_taken_away():
    found = film(waves=line((5, 0), (8, -6), (12, 2)))
    found = lines.move(found, clip_id=3, points=[Moved(14 * RATE, 15 * RATE, -9.5)])
    assert gains(found, 3, 11, 15, 18) == [0, -9.5, 2]
    found = lines.add(found, clip_id=3, at_n=20 * RATE, gain_db=4)
    assert gains(found, 3, 20, 25) == [4, 4]
    found = lines.shape(found, clip_id=3, at_n=[15 * RATE], ramp=Ramp.EASED)
    assert clip_of(found, 3).line.points[1].ramp is Ramp.EASED
    found = lines.remove(found, clip_id=3, at_n=[11 * RATE, 20 * RATE])
    assert clip_of(found, 3).line == line((9, -9.5, Ramp.EASED), (12, 2))


@pytest.mark.parametrize(
    ("edit", "error"),
    [
        (lambda f: lines.move(f, clip_id=3, points=[Moved(RATE, RATE, 0)]), NotFound),
        (lambda f: lines.move(f, clip_id=3, points=[Moved(11 * RATE, 16 * RATE, 0)]), Refused),  # past the next
        (lambda f: lines.add(f, clip_id=3, at_n=RATE, gain_db=0), Refused),  # outside the clip
        (lambda f: lines.remove(f, clip_id=3, at_n=[]), NotFound),
        (lambda f: lines.add(f, clip_id=99, at_n=RATE, gain_db=0), NotFound),
        (lambda f: lines.clear(f, clip_ids=[2]), Refused),
        (lambda f: lines.copy(f, from_id=2, clip_ids=[3]), Refused),
        (lambda f: lines.raise_stretch(f, clip_ids=[3], start_n=0, stop_n=RATE, by_db=3), Refused),
    ],
)
def test_what_can_not_be_done_is_refused(edit, error):
    with pytest.raises(error):
        edit(film(waves=line((5, 0), (8, -6))))


# — stretches —


@pytest.mark.parametrize(
    ("before", "expected"),
    [
        ([], [(11.95, 0), (12, 3), (15, 3), (15.05, 0)]),
        ([(4, -2)], [(10, -2), (11.95, -2), (12, 1), (15, 1), (15.05, -2)]),
        ([(6, 0), (7, -4), (20, -4)], [(12, 3), (13, -1), (15, -1), (15.05, -4), (26, -4)]),
        ([(6, 0), (7, 23), (20, -4)], [(13, 24)]),  # within its limits
    ],
)
def test_a_stretch_is_raised_with_short_ramps_outside(before, expected):
    found = lines.raise_stretch(film(waves=line(*before)), clip_ids=[3], start_n=15 * RATE, stop_n=12 * RATE, by_db=3)
    assert gains(found, 3, *(s for s, _ in expected)) == pytest.approx([db for _, db in expected], abs=0.02)
    if not before:
        assert [p.at_n for p in clip_of(found, 3).line.points] == [
            6 * RATE - RAMP_N, 6 * RATE, 9 * RATE, 9 * RATE + RAMP_N,
        ]  # fmt: skip


def test_raised_and_lowered_again_a_stretch_is_as_it_was():
    found = film(waves=line((5, -1), (8, -6), (12, 2)))
    there = lines.raise_stretch(found, clip_ids=[3], start_n=12 * RATE, stop_n=15 * RATE, by_db=5)
    back = lines.raise_stretch(there, clip_ids=[3], start_n=12 * RATE, stop_n=15 * RATE, by_db=-5)
    at_s = np.arange(10, 30, 0.1)
    assert gains(back, 3, *at_s) == pytest.approx(gains(found, 3, *at_s), abs=0.01)


def test_a_bent_ramp_is_cut_in_two_without_moving_it():
    found = film(waves=line((5, 0, Ramp.EASED), (15, -20)))
    after = lines.raise_stretch(found, clip_ids=[3], start_n=14 * RATE, stop_n=16 * RATE, by_db=6)
    outside = [11, 12, 13.9, 16.1, 18, 20]
    assert gains(after, 3, *outside) == pytest.approx(gains(found, 3, *outside), abs=0.06)
    assert gains(after, 3, 15) == pytest.approx([gains(found, 3, 15)[0] + 6], abs=0.06)


@pytest.mark.parametrize(("inside_db", "expected_db"), [(-40, 10), (-25, -5), (-60, 24), (-80, None)])
def test_a_stretch_is_made_as_loud_as_its_surroundings(inside_db, expected_db):
    """Power of −30 dB around; inside by so much less or more; at most 24 dB; what
    lies under the gate of −70 LUFS (ITU-R BS.1770-5) is no loudness."""
    found = film()
    power = np.full(20 * RATE // STEP_N, 1e-3)
    power[30:60] = 10 ** (inside_db / 10)
    loud = {3: power}
    where = {"clip_ids": [3], "start_n": 13 * RATE, "stop_n": 16 * RATE}
    if expected_db is None:
        with pytest.raises(Refused):
            lines.level_stretch(found, loud, **where)
        return
    after, by_db = lines.level_stretch(found, loud, **where)
    assert by_db == pytest.approx(expected_db, abs=0.01)
    assert gains(after, 3, 14.5) == pytest.approx([expected_db], abs=0.01)


# — riding the fader —


def test_a_ride_is_written_over_what_was_there_and_let_go():
    found = film(waves=line((5, -2), (25, -2)))
    time_n = list(range(12 * RATE, 16 * RATE + 1, 800))
    moved = [-2 + 6 * np.sin((t / RATE - 12) / 4 * np.pi) for t in time_n]
    after, points, error = lines.ride(found, lane_id=12, time_n=time_n, gain_db=moved, over={})
    assert error <= lines.RIDE_DB + 1e-9
    assert points < 20
    inside = np.arange(12, 16, 0.05)
    wanted = np.interp(inside * RATE, time_n, moved)
    assert np.abs(np.array(gains(after, 3, *inside)) - wanted).max() <= lines.RIDE_DB + 0.001
    assert gains(after, 3, 11, 11.99, 16 + LET_GO_N / RATE, 20) == pytest.approx([-2] * 4)


def test_a_ride_goes_over_every_clip_that_lies_under_it_and_over_lines_as_they_were():
    found = film()
    _, right = cutting.split(found, count(50).__next__, clip_ids=[3], at_n=14 * RATE).lanes[2].clips
    found = cutting.split(found, count(50).__next__, clip_ids=[3], at_n=14 * RATE)
    first, _, _ = lines.ride(found, lane_id=12, time_n=[12 * RATE, 20 * RATE], gain_db=[-9, -9], over={})
    before = {each.id: each.line for _, each in found.placed()}
    again, _, _ = lines.ride(first, lane_id=12, time_n=[12 * RATE, 15 * RATE], gain_db=[4, 4], over=before)
    assert gains(again, 3, 11, 13) == [0, 4]
    assert gains(again, right.id, 14.5, 18) == [4, 0]  # nothing is left of what was ridden at first


def test_a_ride_over_nothing_is_refused():
    with pytest.raises(Refused, match="under the playhead"):
        lines.ride(film(), lane_id=12, time_n=[RATE, 2 * RATE], gain_db=[0, 1], over={})


# — whole lines —


def test_a_line_is_scaled_copied_and_cleared():
    found = film(waves=line((5, -8), (8, 4)))
    assert gains(lines.scale(found, clip_ids=[3], factor=0.5), 3, 11, 14) == [-4, 2]
    assert gains(lines.scale(found, clip_ids=[3], factor=-4), 3, 11, 14) == [24, -16]  # within its limits
    copied = lines.copy(found, from_id=3, clip_ids=[2, 3])
    assert gains(copied, 2, 1, 4) == [-8, 4]  # as far after its own beginning
    assert clip_of(lines.clear(found, clip_ids=[3]), 3).line == NO_LINE


def both(found, number, at_n):
    """What ducking and line do to a clip together, dB."""
    there = clip_of(found, number)
    on = next(each for each in found.lanes if there in each.clips)
    curve, own = plan_of(found).curve_of(on, there), line_of(there)
    return sum(np.zeros(len(at_n)) if each is None else each.at(at_n) for each in (curve, own))


def test_ducking_becomes_a_line_and_a_line_ducking_without_a_change_of_sound():
    found = film(bed=line((5, -1, Ramp.EASED), (15, 3)))
    at_n = np.arange(0, 50 * RATE, RATE // 20)
    before = both(found, 2, at_n)
    assert before.min() < -10
    drawn, _, error = lines.from_ducking(found, plan_of(found), clip_ids=[2])
    assert clip_of(drawn, 2).bystander
    assert np.abs(both(drawn, 2, at_n) - before).max() <= error + 0.01 <= 0.25
    back, count_, error = lines.into_ducking(drawn, plan_of(drawn), count(70).__next__, clip_ids=[2])
    assert clip_of(back, 2).line == NO_LINE
    assert not clip_of(back, 2).bystander
    assert count_ == len(back.point_pins)
    assert np.abs(both(back, 2, at_n) - before).max() <= 0.5


def test_what_nothing_ducks_has_no_ducking_to_take_over():
    found = film()
    with pytest.raises(Refused, match="Nothing ducks"):
        lines.from_ducking(found, plan_of(found), clip_ids=[1])


# — recuts —

CUTS = st.lists(st.tuples(st.sampled_from(["split", "trim", "slip", "move"]), st.integers(-6, 20)), max_size=8)


@settings(max_examples=150, deadline=None)
@given(CUTS)
def test_no_recut_moves_a_point_in_media_time(cuts):
    drawn = line((5, -8, Ramp.EASED), (8, 4), (13, 0))
    found, new_id = film(waves=drawn), count(100).__next__
    for what, by_s in cuts:
        numbers = [each.id for each in found.lanes[2].clips]
        try:
            if what == "split":
                found = cutting.split(found, new_id, clip_ids=numbers, at_n=(10 + by_s) * RATE)
            elif what == "trim":
                found = cutting.trim(found, clip_ids=numbers[:1], edge=cutting.Edge.START, by_n=by_s * RATE // 4)
            elif what == "slip":
                found = cutting.slip(found, clip_ids=numbers, by_n=by_s * RATE // 3)
            else:
                found = moving.move(found, clip_ids=numbers, by_n=by_s * RATE)
        except (Refused, InvalidValue):
            continue
    assert {each.line for each in found.lanes[2].clips} == {drawn}


def tailored_of(source, *pieces):
    cut = Cut(tuple(Piece(round(a * RATE), round(b * RATE), round((b - a) * RATE)) for a, b in pieces),
              (0.5,) * (len(pieces) - 1))  # fmt: skip
    return replace(media(9, 1), length_n=cut.length_n, tailored=Tailoring(source.sha256, Wish(cut.length_n), cut))


def test_a_line_goes_along_when_music_is_tailored_and_comes_back():
    whole = film(bed=line((10, 0), (20, -10), (40, 6), (50, 6)))
    shorter = tailored_of(BED, (0, 15), (30, 60))
    found = tailored(whole, clip_id=2, found=shorter, new_id=count(90).__next__)
    assert gains(found, 2, 5, 14.9, 15.1, 25, 40) == pytest.approx([0, -4.9, -1.92, 6, 6], abs=0.1)
    back = tailored(found, clip_id=2, found=BED, new_id=count(90).__next__)
    assert gains(back, 2, 5, 14, 31, 45) == pytest.approx([0, -4, -1.2, 6], abs=0.05)
