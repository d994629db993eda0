"""Corrections by hand: they do what was meant, live in media time, survive every recut, and can be lifted."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.plan import Plan, make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.edit import automation, corrections, cutting, moving
from jaylantern.core.edit.automation import Moved
from jaylantern.core.edit.cutting import Edge, Ripple
from jaylantern.core.edit.draft import Draft
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.pin import Heard
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import NotFound, Refused
from tests.build import clip, lane, media, project

VOICE, BED = media(1, 100, "voice.wav"), media(2, 100, "bed.wav")
FILM = project(lane(1, Tag.DIALOGUE, clip(1, VOICE)), lane(2, Tag.MUSIC, clip(2, BED)))
TALK = {1: (np.array([(10, 14), (16, 18), (40, 44)]) * RATE).astype(np.int64)}


def numbers():
    found = count(1000)
    return lambda: next(found)


def plan_of(film: Project) -> Plan:
    return make_plan(film, Sounding(TALK))


def seconds(plan: Plan) -> list[tuple[float, float]]:
    return [(round(p.start_n / RATE, 3), round(p.stop_n / RATE, 3)) for p in plan.passages]


def n(at_s: float) -> int:
    return round(at_s * RATE)


def test_as_found_there_are_two_passages():
    assert seconds(plan_of(FILM)) == [(10, 18), (40, 44)]


def test_a_stretch_marked_as_speech_and_one_marked_as_none():
    film = corrections.mark(FILM, numbers(), start_n=n(60), stop_n=n(63), speech=True)
    assert seconds(plan_of(film)) == [(10, 18), (40, 44), (60, 63)]
    film = corrections.mark(film, numbers(), start_n=n(39), stop_n=n(45), speech=False)
    assert seconds(plan_of(film)) == [(10, 18), (60, 63)]
    with pytest.raises(Refused, match="nobody who could speak"):
        corrections.mark(FILM, numbers(), start_n=n(120), stop_n=n(130), speech=True)


def test_what_is_no_speech_by_hand_is_known_until_it_is_lifted_and_what_an_edge_lost_is_not():
    new = numbers()
    second = lane(3, Tag.DIALOGUE, clip(3, media(3, 100, "second.wav")))
    for base in (FILM, replace(FILM, lanes=(*FILM.lanes, second))):  # what is no speech is so on every voice
        aside = lambda film: [(a / RATE, b / RATE) for a, b in corrections.set_aside(film, plan_of(film))]  # noqa: E731
        edged = corrections.drag_edge(base, plan_of(base), new, index=0, edge=Edge.STOP, to_n=n(17))
        assert aside(base) == aside(edged) == []
        without = corrections.mark(edged, new, start_n=n(40), stop_n=n(44), speech=False)
        assert aside(without) == [(40, 44)]
        again = corrections.mark(without, new, start_n=n(41), stop_n=n(42), speech=True)
        assert aside(again) == []  # a passage is there
        lifted = corrections.lift_within(without, start_n=n(40), stop_n=n(44))
        assert (aside(lifted), seconds(plan_of(lifted))) == ([], seconds(plan_of(edged)))
        with pytest.raises(NotFound, match="Nothing was corrected there"):
            corrections.lift_within(lifted, start_n=n(40), stop_n=n(44))
    split = corrections.split(FILM, plan_of(FILM), new, at_n=n(12))
    half = corrections.mark(split, new, start_n=n(10), stop_n=n(12), speech=False)
    assert aside(half) == [(10, 12)]  # beside a passage it was split from


@pytest.mark.parametrize(
    ("edge", "to_s", "aside"), [(Edge.START, 11, (11, 18)), (Edge.START, 9, (9, 18)), (Edge.STOP, 17, (10, 17))]
)
def test_a_passage_whose_end_was_moved_is_set_aside_as_a_whole_and_comes_back_as_it_was(edge, to_s, aside):
    new = numbers()
    moved = corrections.drag_edge(FILM, plan_of(FILM), new, index=0, edge=edge, to_n=n(to_s))
    first = plan_of(moved).passages[0]
    without = corrections.mark(moved, new, start_n=first.start_n, stop_n=first.stop_n, speech=False)
    assert len(plan_of(without).passages) == len(plan_of(moved).passages) - 1
    (stretch,) = corrections.set_aside(without, plan_of(without))
    assert (stretch[0] / RATE, stretch[1] / RATE) == aside
    lifted = corrections.lift_within(without, start_n=stretch[0], stop_n=stretch[1])
    assert seconds(plan_of(lifted)) == seconds(plan_of(moved))


@pytest.mark.parametrize(
    ("edge", "to_s", "found", "own"),
    [
        (Edge.START, 19.5, (20, 24), {"lead_in_ms": 620}),  # beyond the usual 120 ms
        (Edge.START, 10.0, (20, 24), {"lead_in_ms": 5000}),  # as far as a lead-in goes
        (Edge.STOP, 27.0, (20, 26), {"hold_ms": 1650}),  # to the end of the clip, and a second longer
        (Edge.STOP, 25.0, (20, 25), {}),
    ],
)
def test_beyond_the_clip_that_is_spoken_in_the_music_is_down_earlier_or_longer(edge, to_s, found, own):
    spoken = clip(1, VOICE, start_s=20, offset_s=10, length_s=6)  # talk from 10 to 14 s of its media
    film = project(lane(1, Tag.DIALOGUE, spoken), lane(2, Tag.MUSIC, clip(2, BED)))
    plan = plan_of(film)
    assert seconds(plan) == [(20, 24)]
    after = plan_of(corrections.drag_edge(film, plan, numbers(), index=0, edge=edge, to_n=n(to_s)))
    assert seconds(after) == [found]
    assert dict(after.passages[0].own.values) == own
    if own:
        dip = after.dips[0]
        asked_s = max(to_s, 15) if edge is Edge.START else to_s  # a lead-in is no longer than 5 s
        assert (dip.down_n if edge is Edge.START else dip.rise_n) == pytest.approx(
            n(asked_s), abs=RATE // 1000 + n(0.65)
        )


def test_edges_dragged_out_and_in_again_leave_one_pin_an_edge_and_what_was_lost():
    new = numbers()
    film = corrections.drag_edge(FILM, plan_of(FILM), new, index=0, edge=Edge.STOP, to_n=n(20))
    assert seconds(plan_of(film))[0] == (10, 20)
    film = corrections.drag_edge(film, plan_of(film), new, index=0, edge=Edge.STOP, to_n=n(17))
    assert seconds(plan_of(film))[0] == (10, 17)
    film = corrections.drag_edge(film, plan_of(film), new, index=0, edge=Edge.START, to_n=n(9))
    assert seconds(plan_of(film))[0] == (9, 17)
    assert [(pin.heard, pin.start_n / RATE, pin.stop_n / RATE) for pin in film.speech_pins] == [
        (Heard.NOT_SPEECH, 17, 20), (Heard.ENDS, 16.5, 17), (Heard.BEGINS, 9, 10),
    ]  # fmt: skip
    with pytest.raises(Refused, match="Nothing would be left"):
        corrections.drag_edge(film, plan_of(film), new, index=0, edge=Edge.START, to_n=n(16.99))
    with pytest.raises(NotFound):
        corrections.drag_edge(film, plan_of(film), new, index=7, edge=Edge.START, to_n=n(1))


@pytest.mark.parametrize(
    ("edge", "to_s", "heard", "found"),
    [
        (Edge.STOP, 17.5, (10, 18), (10, 17.5)),  # as it was set
        (Edge.STOP, 17.5, (9.9, 18.2), (9.9, 17.5)),  # heard more readily: the other edge moves, this one does not
        (Edge.STOP, 17.5, (10.3, 17.2), (10.3, 17.5)),  # less readily
        (Edge.STOP, 19.0, (9.9, 19.4), (9.9, 19)),
        (Edge.STOP, 19.0, (10, 17.9), (10, 19)),
        (Edge.START, 10.4, (9.8, 18.1), (10.4, 18.1)),
        (Edge.START, 10.4, (10.9, 18), (10.4, 18)),
        (Edge.START, 9.2, (8.8, 18), (9.2, 18)),
        (Edge.START, 9.2, (10.1, 17.8), (9.2, 17.8)),
    ],
)
def test_an_edge_set_by_hand_moves_for_nothing(edge, to_s, heard, found):
    """However readily speech is heard around it: what the passage is after other speech was found."""
    film = corrections.drag_edge(FILM, plan_of(FILM), numbers(), index=0, edge=edge, to_n=n(to_s))
    spans = np.array([[n(a), n(b)] for a, b in (heard, (40, 44))], np.int64)
    plan = make_plan(film, Sounding({1: spans}))
    assert [plan.passages[0].start_n, plan.passages[0].stop_n] == [n(found[0]), n(found[1])]
    assert seconds(plan)[-1] == (40, 44)


def test_speech_heard_soon_after_an_edge_set_by_hand_is_a_passage_of_its_own():
    film = corrections.drag_edge(FILM, plan_of(FILM), numbers(), index=0, edge=Edge.STOP, to_n=n(17))
    plan = make_plan(film, Sounding({1: np.array([[n(10), n(18)], [n(19), n(20)]], np.int64)}))
    assert seconds(plan) == [(10, 17), (19, 20)]
    lifted = corrections.lift(film, plan, index=0)
    assert lifted.speech_pins == ()


def test_split_in_a_short_pause_and_joined_again():
    new = numbers()
    film = corrections.split(FILM, plan_of(FILM), new, at_n=n(15))
    assert seconds(plan_of(film)) == [(10, 14), (16, 18), (40, 44)]
    film = corrections.join(film, plan_of(film), new, index=0)
    assert seconds(plan_of(film)) == [(10, 18), (40, 44)]
    film = corrections.join(film, plan_of(film), new, index=0)
    assert seconds(plan_of(film)) == [(10, 44)]
    assert plan_of(film).speech.tolist() == TALK[1].tolist()
    film = corrections.split(film, plan_of(film), new, at_n=n(30))
    assert seconds(plan_of(film)) == [(10, 18), (40, 44)]
    with pytest.raises(Refused, match="in no passage"):
        corrections.split(FILM, plan_of(FILM), new, at_n=n(30))


def test_split_in_the_middle_of_a_word_cuts_there():
    film = corrections.split(FILM, plan_of(FILM), numbers(), at_n=n(12))
    assert seconds(plan_of(film))[:2] == [(10, 12), (12, 18)]


def test_a_passage_has_its_own_amount_and_times_or_no_dip_at_all():
    new = numbers()
    film = corrections.set_own(FILM, plan_of(FILM), new, index=1, values={"amount_db": -20, "hold_ms": 2000})
    plan = plan_of(film)
    assert plan.leading.at(np.array([n(12), n(42), n(45.9)])).tolist() == [-14, -20, -20]
    assert plan.dips[1].amount_db == -20
    film = corrections.set_own(film, plan, new, index=1, values={}, none=True)
    assert plan_of(film).leading.at(np.array([n(12), n(42)])).tolist() == [-14, 0]
    film = corrections.set_own(film, plan_of(film), new, index=1, values={"hold_ms": None}, none=False)
    assert film.dip_pins[0].own.values == {"amount_db": -20}
    assert corrections.lift(film, plan_of(film), index=1).dip_pins == ()
    assert corrections.set_own(film, plan_of(film), new, index=1, values={"amount_db": None}).dip_pins == ()


def test_the_rise_after_the_last_word_is_its_own():
    plan = plan_of(FILM)
    assert [dip.last for dip in plan.dips] == [False, True]
    assert plan.dips[1].up_n - plan.dips[1].rise_n == n(1.8)
    own = corrections.set_own(FILM, plan, numbers(), index=1, values={"release_ms": 300})
    assert plan_of(own).dips[1].up_n - plan_of(own).dips[1].rise_n == n(0.3)


def test_a_pin_whose_passage_has_gone_rests_and_comes_back_with_it():
    film = corrections.set_own(FILM, plan_of(FILM), numbers(), index=1, values={"amount_db": -20})
    cut = cutting.trim(film, clip_ids=[1], edge=Edge.STOP, by_n=-n(65))
    assert len(cut.dip_pins) == 1
    assert plan_of(cut).leading.deepest_db == -14
    back = cutting.trim(cut, clip_ids=[1], edge=Edge.STOP, by_n=n(65))
    assert plan_of(back).leading.at(np.array([n(42)])).tolist() == [-20]


# — points —


def test_a_moved_point_is_a_pin_and_stays_when_the_amount_changes():
    new, plan = numbers(), plan_of(FILM)
    at_n = int(plan.leading.time_n[1])
    film = automation.move(FILM, plan, new, lane_id=2, points=[Moved(at_n, None, at_n + 4800, -9.0)])
    moved = plan_of(film)
    assert moved.leading.gain_db.tolist()[:3] == [0, -9, -14]
    assert [bool(pin) for pin in moved.pin_of[2, "music"]][:3] == [False, True, False]
    deeper = Project(**{**vars_of(film), "settings": film.settings.changed({"amount_db": -20})})
    assert plan_of(deeper).leading.gain_db.tolist()[:3] == [0, -9, -20]
    again = automation.move(film, moved, new, lane_id=2, points=[Moved(at_n + 4800, film.point_pins[0].id, at_n, -8.0)])
    assert len(again.point_pins) == 1
    assert automation.follow(film, lane_id=2).point_pins == ()


def vars_of(film: Project) -> dict:
    from dataclasses import fields

    return {each.name: getattr(film, each.name) for each in fields(film)}


def test_points_are_added_taken_away_and_rest_where_their_dip_is_gone():
    new, plan = numbers(), plan_of(FILM)
    film = automation.add(FILM, plan, new, lane_id=2, at_n=n(12), gain_db=-20.0, dipped=True)
    assert plan_of(film).leading.at(np.array([n(12)])).tolist() == [-20]
    without = corrections.mark(film, new, start_n=n(9), stop_n=n(19), speech=False)
    assert plan_of(without).leading.at(np.array([n(12)])).tolist() == [0]
    assert plan_of(without).resting.resting == {film.point_pins[0].id}
    film = automation.remove(film, plan_of(film), new, lane_id=2, points=[(n(12), film.point_pins[0].id)])
    assert film.point_pins == ()
    first_n = int(plan.leading.time_n[0])
    film = automation.remove(film, plan, new, lane_id=2, points=[(first_n, None)])
    assert len(plan_of(film).leading.time_n) == len(plan.leading.time_n) - 1
    with pytest.raises(Refused, match="no curve"):
        automation.add(FILM, plan, new, lane_id=1, at_n=n(12), gain_db=-3.0, dipped=False)


def test_frozen_points_no_longer_follow_and_cleared_ones_leave_the_music_alone():
    film, points, error = automation.freeze(FILM, plan_of(FILM), numbers(), lane_id=2, largest_db=0.2, least_n=n(0.1))
    assert points == 10
    assert error <= 0.2
    fine = np.arange(0, n(100), 999)
    assert np.abs(plan_of(film).leading.at(fine) - plan_of(FILM).leading.at(fine)).max() <= error + 1e-3
    silent = make_plan(film, Sounding({}))
    assert np.array_equal(silent.leading.at(fine), plan_of(film).leading.at(fine))
    cleared = automation.clear(film, lane_id=2)
    assert plan_of(cleared).leading.gain_db.tolist() == [0.0]
    assert automation.follow(cleared, lane_id=2) == FILM


def test_frozen_points_hold_their_limit_within_the_clip_to_its_last_sample():
    """Down to −9.4 dB shortly before the clip ends, where the curve goes back up: the last sample counts, the one
    behind it does not."""
    cut = cutting.trim(FILM, clip_ids=[2], edge=Edge.STOP, by_n=n(17.98) - n(100))
    for thin_ms in (1, 100, 5000):
        film, _, error = automation.freeze(
            cut, plan_of(cut), numbers(), lane_id=2, largest_db=0.5, least_n=round(thin_ms * RATE / 1000)
        )
        assert error <= 0.5
        inside = np.arange(0, n(17.98), 97)
        inside[-1] = n(17.98) - 1
        was, now = plan_of(cut).leading.at(inside), plan_of(film).leading.at(inside)
        assert np.abs(was - now).max() <= 0.5 + 1e-3
        assert max(pin.at_n for pin in film.point_pins) < n(17.98)


def test_the_same_music_laid_twice_keeps_its_points_apart():
    new = numbers()
    twice = moving.duplicate(FILM, new, clip_ids=[2])
    film = automation.add(twice, plan_of(twice), new, lane_id=2, at_n=n(60), gain_db=-6.0, dipped=False)
    curve = plan_of(film).leading
    assert curve.at(np.array([n(60), n(160)])).round(3).tolist() == [-6, 0]


# — whatever is cut —

CUTS = st.lists(
    st.one_of(
        st.tuples(st.just("split"), st.floats(1, 99)),
        st.tuples(st.just("cut out"), st.floats(1, 95)),
        st.tuples(st.just("move"), st.floats(-5, 20)),
        st.tuples(st.just("ripple"), st.floats(0, 1)),
    ),
    max_size=8,
)


def recut(film: Project, cuts, new) -> Project:
    """A film after some cuts; those that are refused are left out."""
    for kind, value in cuts:
        try:
            clips = [each.id for _, each in film.placed()]
            if not clips:
                break
            one = clips[int(value * 7) % len(clips)]
            if kind == "split":
                film = cutting.split(film, new, at_n=n(value))
            elif kind == "cut out":
                film = cutting.cut_out(film, new, spans=np.array([[n(value), n(value + 2)]]))
            elif kind == "move":
                film = moving.move(film, clip_ids=[one], by_n=n(value), leader_id=None, lanes_by=0)
            elif len(clips) > 2:
                film = cutting.delete(film, new, clip_ids=[one], close=Ripple.LANE)
        except Refused:
            continue
    return film


@settings(deadline=None, max_examples=80)
@given(CUTS)
def test_pins_survive_whatever_is_cut(cuts):
    new = numbers()
    film = corrections.mark(FILM, new, start_n=n(60), stop_n=n(63), speech=True)
    film = corrections.mark(film, new, start_n=n(40), stop_n=n(44), speech=False)
    film = corrections.set_own(film, plan_of(film), new, index=0, values={"amount_db": -20})
    film = automation.add(film, plan_of(film), new, lane_id=2, at_n=n(80), gain_db=-3.0, dipped=False)
    after = recut(film, cuts, new)
    assert (after.speech_pins, after.dip_pins, after.point_pins) == (film.speech_pins, film.dip_pins, film.point_pins)
    plan = plan_of(after)
    for _, each in after.placed():
        if each.media.id == 1:
            for from_s, to_s, spoken in ((60, 63, True), (41, 43, False)):
                at_n = n((from_s + to_s) / 2)
                alone = (
                    sum(c.start_n <= at_n + each.shift_n < c.stop_n for _, c in after.placed() if c.media.id == 1) == 1
                )
                if each.offset_n <= at_n < each.offset_n + each.length_n and alone:
                    here = at_n + each.shift_n
                    assert spoken == any(a <= here < b for a, b in plan.speech.tolist())
    added = film.point_pins[0]
    assert (added.id in plan.resting.held) == any(
        each.origin == added.root and each.offset_n <= added.at_n <= each.offset_n + each.length_n
        and not plan.resting.resting & {added.id}
        for _, each in after.placed()
    )  # fmt: skip


def test_the_draft_keeps_pins():
    film = corrections.mark(FILM, numbers(), start_n=n(60), stop_n=n(63), speech=True)
    assert Draft(film).finish().speech_pins == film.speech_pins


@pytest.mark.parametrize(
    ("start_s", "stop_s", "by_db", "expected"),
    [
        (12, 13, -6, [-20, None]),
        (5, 10.5, -6, [-20, None]),  # it need only reach into a passage
        (17, 41, -6, [-20, -20]),
        (12, 13, -60, [-60, None]),  # no deeper than there is
    ],
)
def test_dips_are_deepened_where_something_sings(start_s, stop_s, by_db, expected):
    after = corrections.duck_further(FILM, plan_of(FILM), numbers(), start_n=n(start_s), stop_n=n(stop_s), by_db=by_db)
    assert [p.own.values.get("amount_db") for p in plan_of(after).passages] == expected
    again = corrections.duck_further(after, plan_of(after), numbers(), start_n=n(12), stop_n=n(13), by_db=-2)
    assert plan_of(again).passages[0].own.values["amount_db"] == max(-60, expected[0] - 2)


def test_where_nobody_speaks_or_there_is_no_dip_none_is_deepened():
    with pytest.raises(Refused, match="Nobody speaks there"):
        corrections.duck_further(FILM, plan_of(FILM), numbers(), start_n=n(20), stop_n=n(30), by_db=-6)
    none = corrections.set_own(FILM, plan_of(FILM), numbers(), index=0, values={}, none=True)
    with pytest.raises(Refused, match="Nobody speaks there"):
        corrections.duck_further(none, plan_of(none), numbers(), start_n=n(12), stop_n=n(13), by_db=-6)
