"""Passages, dips and the curve they make: worked examples by hand, and what must hold whatever the settings."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.dips import Dip, dip_under, envelope
from jaylantern.core.ducking.key_level import KeyTrack
from jaylantern.core.ducking.passages import Passage, bridge, shortest_gap_n
from jaylantern.core.ducking.plan import make_plan, own_settings, pieces_of, with_last_releases
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.pin import DipPin, Own, PointPin
from jaylantern.core.timeline.settings import Mode, Ramp, Settings
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


# — the plan of a whole project, worked by hand: talk from 10 to 14 and from 30 to 34 s over a minute of music —


def score(*, lower: Tag = Tag.MUSIC, pins=(), points=(), frozen: bool = False, **chosen):
    """Talk and something under it, at BRISK's settings with some changed."""
    talk, bed = media(1, 60), media(2, 60)
    made = project(lane(11, Tag.DIALOGUE, clip(21, talk)), lane(12, lower, clip(22, bed), frozen=frozen))
    shaped = dataclasses.replace(BRISK, **chosen)
    return dataclasses.replace(made, settings=shaped, dip_pins=tuple(pins), point_pins=tuple(points))


def own(start_s: float, stop_s: float, number: int = 1, **values) -> DipPin:
    none = values.pop("none", False)
    return DipPin(number, 1, *at_s(start_s, stop_s), Own(values, none))


TALK = {1: np.array([at_s(10, 14), at_s(30, 34)])}


def lowest(plan, *seconds: float) -> list[float]:
    return [round(float(plan.leading.at(np.array(at_s(each)))[0]), 2) for each in seconds]


@pytest.mark.parametrize(
    ("pins", "under_first", "under_second"),
    [
        ([], -12, -12),
        ([own(10, 14, amount_db=-20)], -20, -12),
        ([own(30, 34, amount_db=-3)], -12, -3),
        ([own(10, 14, none=True)], 0, -12),
        ([own(10, 14, amount_db=-6), own(30, 34, 2, none=True)], -6, 0),
        ([own(15, 18, amount_db=-20)], -12, -12),  # of a passage that is not there: it rests
    ],
)
def test_what_a_passage_has_of_its_own_goes_before_the_project(pins, under_first, under_second):
    plan = make_plan(score(pins=pins), heard(TALK))
    assert lowest(plan, 12, 32, 50) == [under_first, under_second, 0]
    assert [dip.amount_db for dip in plan.dips] == [under_first, under_second]


def test_a_passage_of_its_own_times_is_shaped_by_them():
    plan = make_plan(score(pins=[own(10, 14, attack_ms=1000, release_ms=3000)], last_release_ms=2000), heard(TALK))
    first, second = plan.dips
    assert [first.from_n, first.down_n, first.rise_n, first.up_n] == at_s(8.9, 9.9, 14.5, 17.5)
    assert [second.from_n, second.down_n, second.rise_n, second.up_n] == at_s(29.6, 29.9, 34.5, 36.5)  # the last one
    assert [first.last, second.last] == [False, True]


@pytest.mark.parametrize(
    ("lower", "usual", "atmosphere", "asked", "expected"),
    [
        (Tag.MUSIC, -12, -6, -20, -20),  # an amount is said of the music
        (Tag.ATMOSPHERE, -12, -6, -20, -10),  # what goes down half as far goes down half of it
        (Tag.ATMOSPHERE, -12, -6, -60, -30),
        (Tag.ATMOSPHERE, -12, -24, -40, -60),  # 80 would be deeper than there is
        (Tag.ATMOSPHERE, -12, -6, -6, -3),
        (Tag.ATMOSPHERE, 0, -6, -20, -20),  # nothing to be in proportion to
    ],
)
def test_an_amount_of_its_own_is_said_of_the_music(lower, usual, atmosphere, asked, expected):
    settings = dataclasses.replace(BRISK, amount_db=usual)
    pair = settings.changed({"amount_db": usual if lower is Tag.MUSIC else atmosphere})
    made = own_settings(Own({"amount_db": asked}), project(amount_db=usual), pair, music=lower is Tag.MUSIC)
    assert made.amount_db == expected
    assert (made.attack_ms, made.hold_ms) == (BRISK.attack_ms, BRISK.hold_ms)


def test_nothing_of_its_own_is_the_pair_itself():
    assert own_settings(Own({}), project(), BRISK, music=False) is BRISK
    longer = own_settings(Own({"hold_ms": 900}), project(), BRISK, music=False)
    assert (longer.hold_ms, longer.amount_db) == (900, BRISK.amount_db)


def test_an_even_bed_is_flat_and_a_frozen_lane_keeps_its_points():
    even = make_plan(score(mode=Mode.EVEN, even_db=-9.0), heard(TALK))
    assert lowest(even, 5, 12, 32, 59) == [-9, -9, -9, -9]
    assert even.pin_of == {}
    frozen = make_plan(score(mode=Mode.EVEN, even_db=-9.0, frozen=True), heard(TALK))
    assert lowest(frozen, 5, 12, 32, 59) == [0, 0, 0, 0]


def test_points_set_by_hand_are_in_the_curve_and_those_that_rest_are_known():
    pins = (PointPin(71, 22, at_s(12)[0], -20.0, dipped=True), PointPin(72, 22, at_s(20)[0], -5.0, dipped=True))
    plan = make_plan(score(points=pins), heard(TALK))
    assert lowest(plan, 12, 20, 32) == [-20, 0, -12]
    assert 71 in plan.pin_of[plan.leading_key]
    assert 72 not in plan.pin_of[plan.leading_key]
    assert set(plan.resting.resting) == {72}


def test_the_compressor_follows_the_keys_level_and_spares_what_has_no_dip():
    """Talk at −20 dBFS, threshold −40, ratio 2: 10 dB over the whole talk, none where a passage has no dip."""
    level = np.full(60_000, -9000, np.int16)
    for start_s, stop_s in ((10, 14), (30, 34)):
        level[start_s * 1000 : stop_s * 1000] = -2000
    key = {1: KeyTrack(level, level)}
    chosen = {"mode": Mode.COMPRESSOR, "threshold_db": -40.0, "ratio": 2.0, "knee_db": 0.0, "range_db": -60.0,
              "output_db": 0.0, "look_ahead_ms": 0.0}  # fmt: skip
    plan = make_plan(score(**chosen), Sounding(TALK, key=key))
    both = np.array(at_s(13.5, 33.5, 50))
    found = plan.curves.gain_at(plan.leading_key, both)
    assert found == pytest.approx([-10, -10, 0], abs=0.2)
    spared = make_plan(score(pins=[own(10, 14, none=True)], **chosen), Sounding(TALK, key=key))
    assert spared.curves.gain_at(spared.leading_key, both) == pytest.approx([0, -10, 0], abs=0.2)


def test_perches_with_the_same_keys_share_one_compressor():
    talk, bed, more = media(1, 60), media(2, 60), media(3, 60)
    beds = (lane(12, Tag.MUSIC, clip(22, bed)), lane(13, Tag.MUSIC, clip(23, more)))
    lanes = (lane(11, Tag.DIALOGUE, clip(21, talk)), *beds)
    made = dataclasses.replace(project(*lanes), settings=dataclasses.replace(BRISK, mode=Mode.COMPRESSOR))
    key = {1: KeyTrack(np.full(60_000, -2000, np.int16), np.full(60_000, -2000, np.int16))}
    plan = make_plan(made, Sounding(TALK, key=key))
    keys = [plan.key_of(each, each.clips[0]) for each in lanes]
    assert keys == [None, (12, "music"), (13, "music")]
    assert plan.curves.outline(keys[1]) is plan.curves.outline(keys[2])
    assert plan.key_of(lanes[0], lanes[0].clips[0]) is None
    assert plan.curve_of(lanes[0], lanes[0].clips[0]) is None
