"""Clearance against levels known beforehand, and the check-up's answers to what people get wrong."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern import pipeline
from jaylantern.core.ducking.clearance import MediaPower
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from tests import sounds
from tests.build import clip, facts, facts_without_voice, lane, media, project, voice_track

TALK = sounds.sine(hz=997, seconds=30, amplitude=0.1, channels=2)
BED = sounds.sine(hz=997, seconds=30, amplitude=0.1, channels=2)
MUTE = media(3, 30, "Mute.mov", has_sound=False)
TRACK = voice_track([(5, 10), (18, 22)], 30)
FACTS = {1: facts(TRACK, TALK), 2: facts_without_voice(BED)}


def result(*lanes, facts=FACTS, **settings):
    return pipeline.decide(project(*lanes, **settings), facts)


def talk_lane(**more):
    return lane(1, Tag.DIALOGUE, clip(1, media(1, 30, "Talk.wav")), **more)


def bed_lane(**more):
    return lane(2, Tag.MUSIC, clip(2, media(2, 30, "Bed.wav")), **more)


def texts(found) -> str:
    return " | ".join(f"{'fine' if f.fine else 'look'}: {f.text}" for f in found.findings)


def test_clearance_is_the_duck_amount_for_equal_sounds():
    """Speech and bed are the same tone: lowered by 14 dB, the bed lies 14 LU under the speech."""
    assert result(talk_lane(), bed_lane()).clear_lu == pytest.approx([14, 14], abs=0.05)
    assert result(talk_lane(gain_db=-6), bed_lane()).clear_lu == pytest.approx([8, 8], abs=0.05)


@settings(deadline=None)
@given(st.integers(0, 60_000), st.integers(0, 50_000), st.integers(1, 60_000), st.integers(60_000, 120_000))
def test_a_clips_power_on_the_grid_is_what_its_media_holds_there(start_n, offset_n, length_n, media_n):
    """Against counting it sample by sample; the sound may be shorter than the picture it came with."""
    power = np.random.default_rng(media_n).random(-(-60_000 // STEP_N))
    number = Media(1, "", "x", media_n, True, False)
    found = Clip(1, "x", number, start_n, offset_n, min(length_n, media_n - offset_n))
    place, got = MediaPower(power[:, None] / 2).on_grid(found)  # one channel counts on both sides
    each = np.zeros(found.stop_n + STEP_N)
    heard = np.repeat(power, STEP_N)[offset_n : offset_n + found.length_n] / STEP_N
    each[start_n : start_n + len(heard)] = heard
    expected = each[: len(each) // STEP_N * STEP_N].reshape(-1, STEP_N).sum(axis=1)
    assert np.allclose(got, expected[place], atol=1e-9)
    assert expected[place].sum() == pytest.approx(expected.sum())


def test_all_is_well_says_so():
    found = result(talk_lane(), bed_lane(), release_ms=900)
    assert all(f.fine for f in found.findings)
    assert "Every passage stands clear" in texts(found)


@pytest.mark.parametrize(
    ("lanes", "said"),
    [
        ((), "The timeline is empty"),
        ((bed_lane(),), "Nothing is tagged dialogue"),
        ((talk_lane(),), "Nothing is tagged music"),
        ((talk_lane(muted=True), bed_lane()), "Talk.wav is tagged dialogue but muted"),
        ((lane(1, Tag.DIALOGUE, clip(1, media(2, 30, "Hum.wav"))), bed_lane()), "No speech is found in Hum.wav"),
        ((lane(1, Tag.DIALOGUE, clip(1, MUTE)), bed_lane()), "Mute.mov is tagged dialogue but has no sound"),
        ((talk_lane(), lane(2, Tag.MUSIC, clip(2, media(2, 30), start_s=60))), "never sound at the same time"),
        ((talk_lane(gain_db=-12), bed_lane()), "stands only 2.0 LU clear"),
        ((talk_lane(gain_db=-24), bed_lane(gain_db=-30)), "Speech is soft"),
    ],
)  # fmt: skip
def test_each_reason_why_nothing_moves_is_named(lanes, said):
    found = result(*lanes)
    assert said in texts(found)
    assert not found.findings[0].fine


@pytest.mark.parametrize(
    ("chosen", "said"),
    [
        ({"amount_db": 0}, "Duck amount is 0 dB"),
        ({"release_ms": 100}, "a leap"),
        ({"hold_ms": 0, "least_rise_ms": 0, "attack_ms": 4000, "release_ms": 3000}, "under a second"),
    ],
)
def test_settings_that_sound_bad_are_pointed_out(chosen, said):
    assert said in texts(result(talk_lane(), bed_lane(), **chosen))


def test_a_bystander_tag_neither_dips_nor_causes_dips():
    effects = lane(3, Tag.EFFECTS, clip(3, media(1, 30)))
    found = result(effects, bed_lane())
    assert not found.plan.passages
    assert all(perch != Tag.EFFECTS for _, perch in found.plan.curves)


def test_speech_with_nothing_under_it_is_clear_without_end():
    assert result(talk_lane()).clear_lu == [float("inf")] * 2
    silent = {1: facts(TRACK, np.zeros((30 * RATE, 2), np.float32)), 2: FACTS[2]}
    assert all(lu == float("-inf") for lu in result(talk_lane(), bed_lane(), facts=silent).clear_lu)
