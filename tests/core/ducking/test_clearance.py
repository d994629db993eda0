"""How far speech stands above the rest. Powers are worked by hand; K-weighting itself has its own tests."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.ducking import clearance
from jaylantern.core.ducking.clearance import Powers
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.media_power import MediaPower, of_clips, undipped
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.edit import order
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Channels, Trigger
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.settings import ClearIn, Settings
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

TALK, BED = media(1, 10), media(2, 10)
STEPS = 100


def power_of(lufs: float) -> float:
    """K-weighted power that measures so much: L = −0.691 + 10·log10(power). ITU-R BS.1770-5, annex 1."""
    return 10 ** ((lufs + 0.691) / 10)


@pytest.mark.parametrize(
    ("channels", "expected"),
    [
        (Channels.BOTH, 0.09 + 0.04),
        (Channels.LEFT, 2 * 0.09),  # heard on both sides
        (Channels.RIGHT, 2 * 0.04),
        (Channels.MONO, 0.5 * 0.09 + 0.5 * 0.04 + 0.05),  # 2·((l + r)/2)² = l²/2 + r²/2 + l·r
    ],
)
def test_the_power_of_what_is_heard_of_two_channels(channels, expected):
    """Products per step: left² = 0.09, right² = 0.04, left·right = 0.05."""
    products = np.tile([0.09, 0.04, 0.05], (STEPS, 1))
    _, power = MediaPower(products).on_grid(clip(1, TALK, channels=channels))
    assert power == pytest.approx(np.full(STEPS, expected))


def test_two_like_channels_are_as_loud_as_mono_and_opposite_ones_are_silent_in_it():
    for right, mono in ((0.3, 2 * 0.09), (-0.3, 0.0)):
        products = np.tile([0.3**2, right**2, 0.3 * right], (STEPS, 1))
        _, power = MediaPower(products).on_grid(clip(1, TALK, channels=Channels.MONO))
        assert power == pytest.approx(np.full(STEPS, mono), abs=1e-12)


def test_one_channel_is_heard_on_both_sides():
    _, power = MediaPower(np.full((STEPS, 1), 0.04)).on_grid(clip(1, TALK))
    assert power == pytest.approx(np.full(STEPS, 0.08))


def test_a_clip_that_begins_within_a_step_has_part_of_its_power_in_each():
    """Steps of 100 ms; the clip begins 25 ms into one: three quarters of its first step, a quarter of its last."""
    place, power = MediaPower(np.ones((STEPS, 1))).on_grid(clip(1, TALK, start_s=1.025, length_s=0.2))
    assert (place.start, place.stop) == (10, 13)
    assert power == pytest.approx([2 * 0.75, 2 * 1.0, 2 * 0.25])


@pytest.mark.parametrize(
    ("quiet_lufs", "counts"),
    [(-30.0, True), (-50.0, True), (-69.9, True), (-70.1, False), (-90.0, False)],
)
def test_all_that_is_louder_than_minus_seventy_is_matched(quiet_lufs, counts):
    """Half of the film at −20 LUFS, not ducked; the other half soft, and ducked to nothing. What lies under −70 LUFS is
    no part of either mean, so that the plain mix is as loud there as the ducked one."""
    loud, quiet = power_of(-20), power_of(quiet_lufs)
    plain = np.repeat([loud, quiet], 50)
    ducked = np.repeat([loud, 0.0], 50)
    found = Powers(np.zeros(100), ducked, plain).match_db
    expected = 10 * np.log10(loud / (loud + quiet)) if counts else 0.0
    assert found == pytest.approx(expected, abs=1e-12)
    assert (found == 0.0) != counts


def test_of_nothing_nothing_is_matched():
    assert Powers(np.zeros(10), np.zeros(10), np.full(10, power_of(-20))).match_db == 0.0


def film(**clip_of_talk):
    return project(lane(1, Tag.DIALOGUE, clip(1, TALK, **clip_of_talk)), lane(2, Tag.MUSIC, clip(2, BED)))


KNOWN = {1: MediaPower(np.full((STEPS, 1), power_of(-20) / 2)), 2: MediaPower(np.full((STEPS, 1), power_of(-26) / 2))}
SPOKEN = Sounding({1: np.array([[2 * RATE, 5 * RATE]], np.int64)})


def clear_of(made) -> list[float]:
    plan = make_plan(made, SPOKEN)
    found = clearance.powers(undipped(made, KNOWN), plan)
    return [round(lu, 3) for lu in clearance.per_passage(plan, found, ClearIn.LOUDNESS)]


def per_passage(plan, speech, rest) -> list[float]:
    return clearance.per_passage(plan, Powers(speech, rest, speech + rest), ClearIn.LOUDNESS)


def parts_of(made, sounding):
    return clearance.parts(made, make_plan(made, sounding), KNOWN, undipped(made, KNOWN))


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        ({}, [6 + 14.0]),  # −20 LUFS over −26, and 14 dB of ducking
        ({"gain_db": -5.0}, [1 + 14.0]),
        ({"muted": True}, []),
    ],
)
def test_clearance_is_how_far_speech_stands_above_the_ducked_rest(change, expected):
    assert clear_of(film(**change)) == expected


def test_with_everything_else_silent_it_is_without_end_and_without_a_passage_there_is_none():
    alone = project(lane(1, Tag.DIALOGUE, clip(1, TALK)))
    assert clear_of(alone) == [float("inf")]
    assert per_passage(make_plan(alone, Sounding()), np.ones(10), np.ones(10)) == []


def test_a_bystander_is_part_of_the_rest():
    made = film()
    plain = replace(made, lanes=(*made.lanes, lane(3, Tag.DIALOGUE, clip(3, TALK), bystander=True)))
    found = clearance.powers(undipped(plain, KNOWN), make_plan(plain, SPOKEN))
    assert found.rest[30] == pytest.approx(power_of(-20) + power_of(-40), rel=1e-6)
    assert found.speech[30] == pytest.approx(power_of(-20), rel=1e-6)


def test_narration_counts_as_speech():
    made = project(lane(1, Tag.NARRATION, clip(1, TALK)), lane(2, Tag.MUSIC, clip(2, BED)))
    assert clear_of(made) == [20.0]


def test_parts_are_lanes_talk_and_music_as_they_are_heard():
    made = project(
        lane(1, Tag.DIALOGUE, clip(1, TALK)),
        lane(2, Tag.NARRATION, clip(2, TALK)),
        lane(3, Tag.MUSIC, clip(3, BED)),
        lane(4, Tag.EFFECTS, clip(4, BED)),
    )
    parts = parts_of(made, Sounding())
    one = power_of(-20)
    assert sorted(parts.lanes) == [1, 2, 3, 4]
    assert parts.speech[50] == pytest.approx(2 * one)
    assert parts.music[50] == pytest.approx(power_of(-26))
    solo = replace(made, lanes=(*made.lanes[:3], replace(made.lanes[3], soloed=True)))
    parts = parts_of(solo, Sounding())
    assert sorted(parts.lanes) == [4]
    assert not parts.speech.any()


def test_a_fade_weighs_each_step_by_its_middle():
    """A straight fade in of 1 s: the step from 0.5 s on has amplitude 0.55 in its middle."""
    made = film(fade_in=Fade(RATE, "straight"))
    [(_, _, place, power), _] = of_clips(made, KNOWN)
    assert power[5 - place.start] == pytest.approx(power_of(-20) * 0.55**2, rel=1e-3)
    assert power[20] == pytest.approx(power_of(-20))
    assert STEP_N == RATE // 10


def test_a_step_lies_between_two_of_its_medium_where_the_clip_is_cut_between_them():
    """Power k in step k of the medium. A clip cut at 0.25 s and laid at 1 s holds half of step 2 and half of step 3."""
    ramp = MediaPower(np.arange(STEPS, dtype=float)[:, None] / 2)
    place, power = ramp.on_grid(clip(1, TALK, start_s=1, offset_s=0.25, length_s=0.3))
    assert (place.start, place.stop) == (10, 13)
    assert power == pytest.approx([2.5, 3.5, 4.5])
    place, power = ramp.on_grid(clip(1, TALK, start_s=1.05, offset_s=0.2, length_s=0.2))
    assert (place.start, place.stop) == (10, 13)
    assert power == pytest.approx([1.0, 2.5, 1.5])  # half a step, a whole one across two, half a step


@pytest.mark.parametrize("minutes", [1, 6])  # of six minutes and of five: placed anew each time, or remembered
def test_a_clip_longer_than_what_is_known_of_its_medium_ends_in_silence(minutes):
    long = media(1, 60 * minutes)
    known = MediaPower(np.ones((5, 1)) / 2)
    place, power = known.on_grid(clip(1, long))
    assert (place.start, place.stop) == (0, 600 * minutes)
    assert power == pytest.approx(np.concatenate((np.ones(5), np.zeros(600 * minutes - 5))))
    assert known.on_grid(clip(1, long))[1] == pytest.approx(power)


def test_gains_of_lane_and_clip_multiply_and_what_is_not_known_is_left_out():
    made = project(lane(1, Tag.DIALOGUE, clip(1, TALK, gain_db=-4.0), gain_db=-6.0), lane(2, Tag.MUSIC, clip(2, BED)))
    [(found_lane, found_clip, place, power)] = of_clips(made, {1: KNOWN[1]})
    assert (found_lane.id, found_clip.id, place.start, place.stop) == (1, 1, 0, STEPS)
    assert power == pytest.approx(np.full(STEPS, power_of(-30)))


def test_the_levellers_line_weighs_each_step_by_its_gain_in_the_middle():
    """A line from 0 dB at 0 s to +10 dB at 10 s: in the step from 4.0 s on, 4.05 dB."""
    made = project(lane(1, Tag.DIALOGUE, clip(1, TALK)))
    line = Curve(np.array([0, 10 * RATE], np.int64), np.array([0.0, 10.0]))
    [(_, _, _, power)] = of_clips(made, KNOWN, {1: line})
    assert power[40] == pytest.approx(power_of(-20 + 4.05))
    [(_, _, _, plain)] = of_clips(made, KNOWN, {2: line})
    assert plain[40] == pytest.approx(power_of(-20))


def test_a_fade_out_and_steps_beyond_both_ends_of_a_clip():
    """A clip from 1.05 s to 2.05 s that fades out over its last half second, straight."""
    made = project(lane(1, Tag.EFFECTS, clip(1, TALK, start_s=1.05, length_s=1, fade_out=Fade(RATE // 2, "straight"))))
    [(_, _, place, power)] = of_clips(made, KNOWN)
    assert (place.start, place.stop) == (10, 21)
    one = power_of(-20)
    assert power[0] == pytest.approx(one / 2)  # half of its first step
    assert power[4] == pytest.approx(one)
    # the middle of the step from 1.8 s on, 1.85 s, is 0.2 s before the end: two fifths of the way down
    assert power[8] == pytest.approx(one * 0.4**2, rel=1e-3)
    assert power[10] == pytest.approx(0.0, abs=1e-6)


def test_the_three_powers_worked_out():
    """Talk at −20 over a bed at −26 that is 14 dB down from 2 to 5 s, and an effect at −26 from 6 s on that yields to
    nobody."""
    made = film()
    made = replace(made, lanes=(*made.lanes, lane(3, Tag.EFFECTS, clip(3, BED, start_s=6, length_s=4))))
    found = clearance.powers(undipped(made, KNOWN), make_plan(made, SPOKEN))
    talk, bed = power_of(-20), power_of(-26)
    assert found.speech == pytest.approx(np.full(STEPS, talk))
    assert found.rest[30] == pytest.approx(bed * 10**-1.4)
    assert found.rest[0] == pytest.approx(bed)
    assert found.rest[90] == pytest.approx(2 * bed)
    assert found.plain[30] == pytest.approx(talk + bed)
    assert found.plain[90] == pytest.approx(talk + 2 * bed)


def test_dialogue_under_narration_is_speech_that_gives_way():
    """Dialogue under a narrator: −20 LUFS and 6 dB down, −26."""
    made = project(lane(1, Tag.NARRATION, clip(1, TALK)), lane(2, Tag.DIALOGUE, clip(2, TALK)))
    found = clearance.powers(undipped(made, KNOWN), make_plan(made, SPOKEN))
    assert found.speech[30] == pytest.approx(power_of(-20) + power_of(-26), rel=1e-6)
    assert not found.rest.any()


@pytest.mark.parametrize(
    ("spoken_s", "expected"),
    [
        ([(2, 5)], [20.0]),
        ([(2, 3), (8, 9)], [20.0, 10.0]),  # two passages, each by its own steps
        ([(2, 3), (3.5, 4)], [20.0]),  # one passage, and its pause from 3 s on is louder, but does not count
    ],
)
def test_only_steps_in_which_someone_speaks_count(spoken_s, expected):
    made = film()
    spoken = np.array([[round(a * RATE), round(b * RATE)] for a, b in spoken_s], np.int64)
    plan = make_plan(made, Sounding({1: spoken}))
    speech, rest = np.full(STEPS, 1.0), np.full(STEPS, 0.01)
    rest[31:34] = 5.0 if len(expected) == 1 and len(spoken_s) == 2 else 0.01
    rest[80:90] = 0.1
    assert per_passage(plan, speech, rest) == pytest.approx(expected)


def test_a_passage_of_effects_is_not_measured_and_not_counted():
    """Hammer blows that music gives way to are no speech that could be masked."""
    hits = project(
        lane(1, Tag.DIALOGUE, clip(1, TALK)),
        lane(2, Tag.EFFECTS, clip(2, BED), trigger=Trigger.CLIP),
        lane(3, Tag.MUSIC, clip(3, BED)),
    )
    found = order.set_pair(hits, upper="effects", lower="music", values={"amount_db": -6})
    made = make_plan(found, Sounding({1: np.zeros((0, 2), np.int64)}))
    assert len(made.passages) == 1
    assert made.spoken.tolist() == [False]
    assert per_passage(made, np.zeros(STEPS), np.ones(STEPS)) == [float("inf")]


def test_silence_over_silence_is_no_clearance():
    plan = make_plan(film(), SPOKEN)
    assert per_passage(plan, np.zeros(STEPS), np.zeros(STEPS)) == [0.0]
    assert per_passage(plan, np.zeros(STEPS), np.ones(STEPS)) == [float("-inf")]
    assert per_passage(plan, np.zeros(0), np.zeros(0)) == []


def test_a_passage_that_reaches_beyond_what_is_measured_is_weighed_as_far_as_it_is():
    plan = make_plan(film(), SPOKEN)
    assert per_passage(plan, np.full(35, 1.0), np.full(35, 0.1)) == pytest.approx([10.0])


def test_parts_are_as_they_are_heard_with_the_music_down_and_the_muted_left_out():
    made = film()
    made = replace(
        made, lanes=(*made.lanes, lane(3, Tag.EFFECTS, clip(3, BED)), lane(4, Tag.MUSIC, clip(4, BED, muted=True)))
    )
    found = parts_of(made, SPOKEN)
    bed = power_of(-26)
    assert sorted(found.lanes) == [1, 2, 3]
    assert found.lanes[2] == pytest.approx(found.music)
    assert found.music[30] == pytest.approx(bed * 10**-1.4)
    assert found.music[90] == pytest.approx(bed)
    assert found.lanes[3][30] == pytest.approx(bed)
    assert found.speech == pytest.approx(found.lanes[1])


def test_two_clips_that_cross_at_equal_power_are_together_as_loud_as_one():
    made = project(lane(1, Tag.MUSIC, clip(1, BED), clip(2, BED, start_s=5, length_s=5)))
    found = parts_of(made, Sounding())
    assert found.lanes[1][20] == pytest.approx(power_of(-26))
    assert found.lanes[1][70] == pytest.approx(power_of(-26), rel=1e-3)


@pytest.mark.parametrize(
    ("clear_lu", "wish_lu", "under", "least"),
    [
        ([12.0, 8.0, 10.0, 9.96], 10.0, 1, (1, 2, 3, 0)),  # 9.96 is shown as 10.0
        ([12.0, 8.0, 10.0, 9.94], 10.0, 2, (1, 3, 2, 0)),
        ([6, 5, 4, 3, 2, 1, 0.0], 3.0, 3, (6, 5, 4, 3, 2)),  # the five least clear
        ([float("inf"), float("-inf")], 10.0, 1, (1, 0)),
        ([], 10.0, 0, ()),
    ],
)
def test_passages_under_the_wish_are_counted_and_the_least_clear_named(clear_lu, wish_lu, under, least):
    nothing = Powers(np.zeros(10), np.zeros(10), np.zeros(10))
    found = clearance.standing(nothing, clear_lu, Settings(wish_lu=wish_lu))
    assert (found.under, found.least, found.passages) == (under, least, len(clear_lu))


def test_the_loudness_to_dialogue_ratio_is_that_of_the_whole_over_its_talk():
    """Talk at −23 LUFS for half of the time, all else at −17 for the other half. Gated, the talk measures −23; of the
    whole nothing is gated off: 10·log10((10^−2.3 + 10^−1.7) / 2) = −19.04. EBU R 128 s4 (from memory)."""
    talk = np.repeat([power_of(-23), 0.0], 300)
    rest = np.repeat([0.0, power_of(-17)], 300)
    found = clearance.standing(Powers(talk, rest, talk + rest), [], Settings())
    assert found.speech_lufs == pytest.approx(-23, abs=0.05)
    assert found.whole_lufs == pytest.approx(-19.04, abs=0.05)
    assert found.ratio_lu == pytest.approx(3.96, abs=0.1)
    silent = clearance.standing(Powers(np.zeros(600), rest, rest), [], Settings())
    assert np.isnan(silent.ratio_lu)
