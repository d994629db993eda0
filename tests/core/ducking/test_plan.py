"""Passages, dips and the curve they make: worked examples by hand, and what must hold whatever the settings."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.dips import Dip, dip_under, envelope
from jaylantern.core.ducking.passages import Passage, bridge, shortest_gap_n
from jaylantern.core.ducking.plan import make_plan, pieces_of, with_last_releases
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import Ramp, Settings
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, passage, project


def heard(speech) -> Sounding:
    """Speech by medium, in samples."""
    return Sounding(speech)


BRISK = Settings(attack_ms=300, release_ms=800, lead_in_ms=100, hold_ms=500, least_rise_ms=400, amount_db=-12)


def at_s(*seconds: float) -> list[int]:
    return [round(s * RATE) for s in seconds]


def test_one_dip_worked_by_hand():
    """Speech 10.0 to 14.0 s: down at 9.9 after 300 ms of attack; rises at 14.5, up 800 ms later."""
    dip = dip_under(passage(10, 14), BRISK)
    assert dip == Dip(*at_s(9.6, 9.9, 14.5, 15.3), amount_db=-12)
    curve = envelope([dip])
    assert curve.time_n.tolist() == at_s(9.6, 9.9, 14.5, 15.3)
    assert curve.gain_db.tolist() == [0, -12, -12, 0]


def test_the_music_is_down_when_the_first_syllable_begins():
    curve = envelope([dip_under(passage(10, 14), Settings())])
    assert curve.at(np.array(at_s(10.0, 12.0, 14.0))).tolist() == [-14, -14, -14]


def test_a_negative_lead_in_comes_later_but_never_after_the_dip_has_ended():
    late = dip_under(passage(10, 10.2), Settings(lead_in_ms=-2000, hold_ms=0))
    assert late.from_n <= late.down_n == late.rise_n <= late.up_n


def test_pauses_not_worth_a_rise_are_bridged_and_longer_ones_are_not():
    gap_s = shortest_gap_n(BRISK) / RATE
    assert gap_s == pytest.approx(0.5 + 0.8 + 0.4 + 0.3 + 0.1)
    talk = np.array([at_s(1, 2), at_s(2 + gap_s - 0.001, 5), at_s(5 + gap_s, 9)])
    assert bridge(talk, BRISK).tolist() == [at_s(1, 5), at_s(5 + gap_s, 9)]


def test_dips_without_room_between_them_are_joined():
    close = [dip_under(p, BRISK) for p in (passage(1, 2), passage(3, 4))]
    assert envelope(close).time_n.tolist() == at_s(0.6, 0.9, 4.5, 5.3)


def test_no_passages_or_no_amount_leave_the_music_alone():
    assert envelope([]).gain_db.tolist() == [0.0]
    assert envelope([dip_under(passage(1, 2), Settings(amount_db=0))]).gain_db.tolist() == [0.0]


def test_two_people_talking_at_once_dip_the_music_once():
    one, two, bed = media(1, 20), media(2, 20), media(3, 30)
    made = project(
        lane(1, Tag.DIALOGUE, clip(1, one)), lane(2, Tag.DIALOGUE, clip(2, two)), lane(3, Tag.MUSIC, clip(3, bed))
    )
    plan = make_plan(made, heard({1: np.array([at_s(2, 6)]), 2: np.array([at_s(4, 9)])}))
    assert [(p.start_n, p.stop_n) for p in plan.passages] == [tuple(at_s(2, 9))]
    assert plan.leading.gain_db.min() == Settings().amount_db


def test_speech_follows_its_clip_and_only_what_the_clip_shows_counts():
    talk = media(1, 60)
    made = project(lane(1, Tag.DIALOGUE, clip(1, talk, start_s=100, offset_s=10, length_s=20)))
    plan = make_plan(made, heard({1: np.array([at_s(5, 12), at_s(20, 22), at_s(29, 40)])}))
    assert plan.speech.tolist() == [at_s(100, 102), at_s(110, 112), at_s(119, 120)]


def test_muted_dialogue_causes_no_dips_but_solo_changes_nothing():
    talk, bed = media(1, 20), media(2, 20)
    speech = {1: np.array([at_s(2, 6)])}
    muted = project(lane(1, Tag.DIALOGUE, clip(1, talk), muted=True), lane(2, Tag.MUSIC, clip(2, bed)))
    soloed = project(lane(1, Tag.DIALOGUE, clip(1, talk)), lane(2, Tag.MUSIC, clip(2, bed), soloed=True))
    assert not make_plan(muted, heard(speech)).passages
    assert len(make_plan(soloed, heard(speech)).passages) == 1


def test_a_clip_that_begins_inside_a_dip_begins_dipped():
    curve = envelope([dip_under(passage(10, 14), BRISK)]).within(*at_s(12, 15))
    assert curve.time_n.tolist() == at_s(12, 14.5, 15)
    assert curve.gain_db.tolist() == pytest.approx([-12, -12, -12 + 12 * 0.5 / 0.8])


SETTINGS = st.fixed_dictionaries(
    {
        "amount_db": st.floats(-60, 0),
        "attack_ms": st.floats(0, 5000),
        "release_ms": st.floats(0, 10000),
        "lead_in_ms": st.floats(-2000, 5000),
        "hold_ms": st.floats(0, 10000),
        "least_rise_ms": st.floats(0, 20000),
        "fall": st.sampled_from(list(Ramp)),
        "rise": st.sampled_from(list(Ramp)),
    }
).map(lambda values: Settings(**values))
TALK = st.lists(st.tuples(st.integers(0, 10**7), st.integers(1, 10**6)), max_size=20)


@settings(deadline=None)
@given(SETTINGS, TALK)
def test_whatever_the_settings_the_curve_is_ordered_within_bounds_and_down_under_speech(chosen, talk):
    spans = np.array([(a, a + n) for a, n in talk], np.int64).reshape(-1, 2)
    passages = [Passage(*span) for span in bridge(spans, chosen).tolist()]
    curve = envelope([dip_under(p, chosen) for p in passages])
    assert (np.diff(curve.time_n) >= 0).all()
    assert curve.gain_db.max() <= 0
    assert curve.gain_db.min() >= chosen.amount_db
    if chosen.lead_in_ms >= 0 and passages:
        inside = np.array([n for p in passages for n in (p.start_n, (p.start_n + p.stop_n) // 2, p.stop_n - 1)])
        assert np.allclose(curve.at(inside), chosen.amount_db)


def release_s(talk_s, pieces_s, **more) -> list[float]:
    """How long each dip takes to come back, in seconds, with a last release of 2 s and a release of 0.8 s."""
    made = dataclasses.replace(BRISK, last_release_ms=2000, least_rise_ms=0, **more)
    dips = [dip_under(passage(*each), made) for each in talk_s]
    pieces = (np.array(pieces_s) * RATE).astype(np.int64)
    return [round((dip.up_n - dip.rise_n) / RATE, 3) for dip in with_last_releases(dips, pieces, made, ())]


@pytest.mark.parametrize(
    ("talk_s", "pieces_s", "expected"),
    [
        ([(10, 14), (30, 34)], [(0, 60)], [0.8, 2.0]),  # rises at 34.5
        ([(10, 14)], [(0, 14.4)], [0.8]),  # the music has ended before it would rise
        ([(10, 14)], [(0, 14.5)], [0.8]),
        ([(10, 14)], [(0, 14.6)], [2.0]),  # a tenth of a second of music is left: it comes back in the last release
        ([(10, 14)], [(0, 15.4)], [2.0]),
        ([(10, 14), (30, 34)], [(0, 20), (25, 60)], [2.0, 2.0]),  # each piece has its last
        ([(10, 14)], [(0, 15), (15.9, 60)], [1.4]),  # no later than where the next piece begins
        ([(10, 14)], [(20, 60)], [0.8]),  # it touches no music
    ],
)
def test_the_last_dip_over_a_piece_of_music_comes_back_in_its_own_time(talk_s, pieces_s, expected):
    assert release_s(talk_s, pieces_s) == expected


def test_pieces_of_music_closer_than_a_second_are_one():
    found = [(0, 10), (10.9, 20), (21.5, 30), (30.999, 40)]
    clips = [clip(i, media(1, 100), start_s=a, length_s=b - a) for i, (a, b) in enumerate(found, 1)]
    assert (pieces_of(clips) / RATE).tolist() == [[0, 20], [21.5, 40]]
