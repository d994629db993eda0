"""Passages worked by hand: which pauses are bridged, where passages are held apart, which pin a passage has."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest

from jaylantern.core.ducking.passages import (
    Passage,
    Talk,
    bridge,
    key_clips,
    passages_of,
    shortest_gap_n,
    talk_of,
)
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.pin import DipPin, Heard, Own, SpeechPin
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

TIMES = {"attack_ms": 300, "release_ms": 800, "lead_in_ms": 100, "hold_ms": 500, "least_rise_ms": 400}
BRISK = Settings(**TIMES)  # bridges what is shorter than 2.1 s


def n(*seconds: float) -> list[int]:
    return [round(s * RATE) for s in seconds]


def spans(*pairs: tuple[float, float]) -> np.ndarray:
    return np.array([n(*pair) for pair in pairs], np.int64).reshape(-1, 2)


def seconds(found) -> list[tuple[float, float]]:
    return [(a / RATE, b / RATE) for a, b in np.asarray(found).tolist()]


@pytest.mark.parametrize(
    ("change", "gap_s"),
    [
        ({}, 2.1),
        ({"attack_ms": 400}, 2.2),
        ({"release_ms": 900}, 2.2),
        ({"lead_in_ms": -100}, 1.9),
        ({"hold_ms": 0}, 1.6),
        ({"least_rise_ms": 0}, 1.7),
        ({"attack_ms": 5, "release_ms": 5, "hold_ms": 0, "least_rise_ms": 0, "lead_in_ms": -2000}, 0),
    ],
)
def test_the_shortest_gap_is_the_sum_of_what_has_to_fit_into_it(change, gap_s):
    assert shortest_gap_n(Settings(**{**TIMES, **change})) == n(gap_s)[0]


TALK = spans((1, 2), (3, 4), (10, 12), (13, 15))


@pytest.mark.parametrize(
    ("cuts", "joins", "expected"),
    [
        ([], [], [(1, 4), (10, 15)]),
        ([], [(4, 10)], [(1, 15)]),  # a long pause that is bridged all the same
        ([], [(5, 6)], [(1, 6), (10, 15)]),  # a part of a pause counts as talk, and what is near it is bridged as ever
        ([], [(0, 0.5)], [(1, 4), (10, 15)]),  # before the first word: nothing is made longer
        ([], [(15, 30)], [(1, 4), (10, 15)]),
        ([], [(0, 1.5)], [(1, 4), (10, 15)]),
        ([2.5], [], [(1, 2), (3, 4), (10, 15)]),  # held apart in a pause: between the words around it
        ([3.5], [], [(1, 3.5), (3.5, 4), (10, 15)]),  # in the middle of speech: just there
        ([2.5, 12.5], [], [(1, 2), (3, 4), (10, 12), (13, 15)]),
        ([1.5, 2.5], [], [(1, 1.5), (1.5, 2), (3, 4), (10, 15)]),
        ([7], [], [(1, 4), (10, 15)]),  # between passages there is nothing to hold apart
        ([1], [], [(1, 4), (10, 15)]),
        ([4], [], [(1, 4), (10, 15)]),
        ([7], [(4, 10)], [(1, 4), (10, 15)]),  # bridged, and then held apart again
    ],
)
def test_pauses_bridged_and_passages_held_apart(cuts, joins, expected):
    found = bridge(TALK, BRISK, cuts=np.array(n(*cuts), np.int64), joins=spans(*joins))
    assert seconds(found) == expected


@pytest.mark.parametrize(("more_n", "passages"), [(-1, 1), (0, 2), (1, 2)])
def test_a_pause_as_long_as_the_shortest_gap_is_not_bridged(more_n, passages):
    talk = np.array([n(1, 2), n(4.1, 5)])
    talk[1] += more_n
    assert len(bridge(talk, BRISK)) == passages


def test_no_speech_makes_no_passage_whatever_is_marked():
    nothing = np.zeros((0, 2), np.int64)
    assert bridge(nothing, BRISK, cuts=np.array(n(1)), joins=spans((0, 5))).shape == (0, 2)


def test_talk_of_several_perches_is_their_union_and_of_none_is_nothing():
    talk = Talk({"dialogue": spans((1, 3)), "narration": spans((2, 5), (8, 9))})
    assert seconds(talk.of(["dialogue", "narration"])) == [(1, 5), (8, 9)]
    assert seconds(talk.of(["narration", "effects"])) == [(2, 5), (8, 9)]
    assert talk.of([]).shape == talk.of(["effects"]).shape == (0, 2)


# — with a project around it —

VOICE, BED = media(1, 40), media(2, 60)
SOUNDING = Sounding({1: spans((2, 4), (12, 15))})


def film(*pins, dips=(), **lane_values):
    """A clip of the voice at 10 s that begins 1 s into its medium, over a bed: talk at 11–13 and 21–24 s."""
    made = project(
        lane(1, Tag.DIALOGUE, clip(1, VOICE, start_s=10, offset_s=1, length_s=20), **lane_values),
        lane(2, Tag.MUSIC, clip(2, BED)),
        **TIMES,
    )
    return dataclasses.replace(made, speech_pins=tuple(pins), dip_pins=tuple(dips))


def pin(number: int, heard: Heard, start_s: float, stop_s: float) -> SpeechPin:
    return SpeechPin(number, VOICE.id, heard, *n(start_s, stop_s))


def dip(number: int, start_s: float, stop_s: float, medium: int = 1, **own) -> DipPin:
    return DipPin(number, medium, *n(start_s, stop_s), Own(own))


def passages(made, sounding=SOUNDING) -> list[tuple[float, float, int | None, bool]]:
    found = passages_of(made, talk_of(made, sounding))
    return [(p.start_n / RATE, p.stop_n / RATE, p.pin.id if p.pin else None, p.touched) for p in found]


def test_speech_lies_where_its_clip_shows_it():
    assert passages(film()) == [(11, 13, None, False), (21, 24, None, False)]
    assert [(found_lane.id, found.id) for found_lane, found in key_clips(film())] == [(1, 1)]


@pytest.mark.parametrize(
    ("heard", "media_s", "expected"),
    [
        (Heard.APART, (3, 3.1), [(11, 12, None, True), (12, 13, None, True), (21, 24, None, False)]),
        (Heard.JOINED, (4, 12), [(11, 24, None, True)]),
        (Heard.SPEECH, (4, 5), [(11, 14, None, True), (21, 24, None, False)]),
        (Heard.NOT_SPEECH, (2, 4), [(21, 24, None, False)]),
        (Heard.NOT_SPEECH, (2, 3), [(12, 13, None, True), (21, 24, None, False)]),
        (Heard.SPEECH, (15, 16), [(11, 13, None, False), (21, 25, None, True)]),
        (Heard.JOINED, (30, 35), [(11, 13, None, False), (21, 24, None, False)]),  # the clip does not show it
    ],
)
def test_a_correction_is_found_through_its_clip_and_marks_what_it_touches(heard, media_s, expected):
    assert passages(film(pin(1, heard, *media_s))) == expected


def test_a_correction_that_ends_where_a_passage_begins_touches_it_and_one_a_sample_before_does_not():
    none = SpeechPin(1, VOICE.id, Heard.NOT_SPEECH, *n(1, 2))
    assert passages(film(none))[0] == (11, 13, None, True)
    assert passages(film(dataclasses.replace(none, stop_n=none.stop_n - 1)))[0] == (11, 13, None, False)


@pytest.mark.parametrize(
    ("dips", "first", "second"),
    [
        ([dip(7, 2, 4, amount_db=-9)], 7, None),
        ([dip(7, 2, 3), dip(8, 3, 4.5)], 8, None),  # equal shares: the one set last
        ([dip(7, 2, 3.1), dip(8, 3.1, 4)], 7, None),  # the larger share
        ([dip(8, 2, 3), dip(7, 2, 3)], 8, None),
        ([dip(7, 3, 14)], 7, 7),  # one passage that was parted: both have it
        ([dip(7, 4, 12)], None, None),  # it only touches them
        ([dip(7, 2, 4, medium=2)], None, None),  # of another medium
        ([dip(7, 30, 35)], None, None),  # not shown
    ],
)
def test_the_pin_of_a_passage_is_the_one_it_holds_most_of(dips, first, second):
    found = passages(film(dips=dips))
    assert [each[2] for each in found] == [first, second]


def test_what_a_dip_has_of_its_own_comes_with_its_pin():
    (found, other) = passages_of(film(dips=[dip(7, 2, 4, amount_db=-9)]), talk_of(film(), SOUNDING))
    assert found.own == Own({"amount_db": -9})
    assert other.own == Own()
    assert Passage(0, 1).own.empty


def test_corrections_of_one_medium_leave_another_alone():
    made = film(pin(1, Heard.APART, 3, 3.1))
    two = dataclasses.replace(made.lanes[0], id=3, clips=(clip(3, media(3, 40), start_s=10, offset_s=1, length_s=20),))
    talk = talk_of(dataclasses.replace(made, lanes=(two, *made.lanes)), Sounding({**SOUNDING.speech, 3: spans((2, 4))}))
    assert talk.cuts.tolist() == n(12)
    assert seconds(talk.spans["dialogue"]) == [(11, 13), (21, 24)]


def test_a_medium_laid_twice_is_corrected_in_both_places():
    made = film(pin(1, Heard.APART, 3, 3.1), pin(2, Heard.JOINED, 5, 6))
    again = clip(9, VOICE, start_s=40, offset_s=0, length_s=10)
    made = dataclasses.replace(
        made, lanes=(dataclasses.replace(made.lanes[0], clips=(*made.lanes[0].clips, again)), *made.lanes[1:])
    )
    talk = talk_of(made, SOUNDING)
    assert talk.cuts.tolist() == n(12, 43)
    assert seconds(talk.joins) == [(14, 15), (45, 46)]
