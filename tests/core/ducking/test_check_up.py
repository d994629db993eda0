"""Clearance against levels known beforehand, and the check-up's answers to what people get wrong."""

import dataclasses

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern import pipeline
from jaylantern.core.ducking.media_power import MediaPower
from jaylantern.core.edit import captions
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.captions import CaptionForm
from jaylantern.core.timeline.clip import Clip, Trigger
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
        ((talk_lane(gain_db=-12), bed_lane()), "Passages 1 and 2 stand only 2.0 LU clear of the music at the least"),
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


# — singing, worked by hand: talk from 5 to 10 and from 18 to 22 s —


def sung_in(*spans: tuple[float, float], seconds: float = 30):
    """Facts of a bed that sings in some stretches."""
    track = voice_track([], seconds)
    singing = np.zeros(len(track.probability), np.float16)
    for start_s, stop_s in spans:
        singing[round(start_s * 100) : round(stop_s * 100)] = 1.0
    return facts(dataclasses.replace(track, singing=singing, music=np.ones_like(singing)), BED)


@pytest.mark.parametrize(
    ("sung", "at_s"),
    [
        ([], []),
        ([(11, 17)], []),  # nobody speaks there
        ([(8, 12)], [7.9]),  # two seconds of it under words; edges of singing lie a tenth outward
        ([(9.5, 12)], []),  # half a second is no matter
        ([(6, 9), (19, 21.5)], [5.9, 18.9]),
    ],
)
def test_singing_under_speech_is_words_against_words(sung, at_s):
    found = [f for f in result(talk_lane(), bed_lane(), facts={**FACTS, 2: sung_in(*sung)}).findings if f.sung_n]
    assert [f.at_n / RATE for f in found] == pytest.approx(at_s, abs=0.011)
    assert all(not f.fine and f.clip_id == 2 and "words against words" in f.text for f in found)


def test_what_is_said_of_singing_names_its_place_on_the_timeline_and_only_what_the_clip_shows():
    bed = lane(2, Tag.MUSIC, clip(2, media(2, 30, "Bed.wav"), start_s=3, offset_s=2, length_s=10))
    [found] = [f for f in result(talk_lane(), bed, facts={**FACTS, 2: sung_in((0, 7))}).findings if f.sung_n]
    assert found.text.startswith("Bed.wav is sung from 00:03 to 00:08")
    assert (found.sung_n[0] / RATE, found.sung_n[1] / RATE) == pytest.approx((3, 8.1), abs=0.011)


@pytest.mark.parametrize("more", [{"muted": True}, {"bystander": True}])
def test_of_music_that_is_not_heard_or_stands_outside_nothing_is_said(more):
    assert not [
        f for f in result(talk_lane(), bed_lane(**more), facts={**FACTS, 2: sung_in((6, 9))}).findings if f.sung_n
    ]


def test_talk_that_sings_is_said_not_to_count_and_atmosphere_may_sing():
    track = dataclasses.replace(TRACK, singing=np.ones(3000, np.float16), music=np.zeros(3000, np.float16))
    sings = {**FACTS, 1: facts(track, TALK)}
    [found] = [f for f in result(talk_lane(), bed_lane(), facts=sings).findings if f.sung_n]
    assert found.fine
    assert "does not count as speech" in found.text
    birds = lane(2, Tag.ATMOSPHERE, clip(2, media(2, 30, "Birds.wav")))
    assert not [f for f in result(talk_lane(), birds, facts={**FACTS, 2: sung_in((6, 9))}).findings if f.sung_n]


def test_of_many_sung_places_the_first_five_are_told():
    spans = [(2 * i + 0.1, 2 * i + 1.7) for i in range(0, 15)]
    talk = {1: facts(voice_track([(0, 30)], 30), TALK), 2: sung_in()}
    track = dataclasses.replace(talk[2].track, singing=np.zeros(3000, np.float16))
    for start_s, stop_s in spans[::2]:
        track.singing[round(start_s * 100) : round(stop_s * 100)] = 1.0
    said = texts(result(talk_lane(), bed_lane(), facts={**talk, 2: facts(track, BED)}))
    assert said.count("is sung from") == 5
    assert "Sung in 3 more places" in said


def captioned(*spans_s, checked=True, facts=FACTS, **more):
    """Talk from 5 to 10 and from 18 to 22 s, with captions."""
    made = project(talk_lane(**more), bed_lane())
    cues = [(round(a * RATE), round(b * RATE), "Salt", "") for a, b in spans_s]
    made = captions.add(made, iter(range(90, 99)).__next__, name="Film.srt", form=CaptionForm.SRT, cues=cues)
    made = dataclasses.replace(made, captions=tuple(dataclasses.replace(c, checked=checked) for c in made.captions))
    return pipeline.decide(made, facts)


@pytest.mark.parametrize(
    ("spans_s", "said", "at_s"),
    [
        (((5, 10), (18, 22)), "fine: Talk and captions agree (Film.srt).", None),
        (((5, 10),), "look: Talk without captions for 4.0 s (Film.srt).", 18),
        (((5, 10), (12, 14), (18, 22)), "look: Captions without talk for 2.0 s (Film.srt).", 12),
        (((8, 13), (21, 25)), "look: Talk without captions at 2 places, in all for 5.0 s (Film.srt).", 5),
    ],
)
def test_captions_are_compared_with_the_talk(spans_s, said, at_s):
    found = captioned(*spans_s)
    about = [f for f in found.findings if "aptions" in f.text]
    assert texts(found).count("Film.srt") == 1
    [finding] = about
    assert f"{'fine' if finding.fine else 'look'}: {finding.text}" == said
    assert finding.at_n == (None if at_s is None else pytest.approx(at_s * RATE, abs=RATE // 50))


@pytest.mark.parametrize(("by_s", "way"), [(3, "earlier"), (-3, "later")])
def test_captions_that_lie_beside_their_talk_are_said_to_fit_elsewhere(by_s, way):
    talk = [(5, 10), (14, 17), (22, 26)]
    found = captioned(*((a + by_s, b + by_s) for a, b in talk), facts={**FACTS, 1: facts(voice_track(talk, 30), TALK)})
    [finding] = [f for f in found.findings if "aptions" in f.text]
    assert finding.text == f"The captions Film.srt fit the talk best 3.00 s {way}."
    assert (finding.shift_n, finding.captions_id) == (-by_s * RATE, found.project.captions[0].id)


def test_many_places_without_captions_are_counted():
    many = tuple((at, at + 0.9) for at in (0.5, 2, 11.5, 13, 14.5, 24, 26))
    found = captioned((5, 10), (18, 22), *many)
    assert [f.text for f in found.findings if "without talk" in f.text] == [
        "Captions without talk at 7 places, in all for 6.3 s (Film.srt)."
    ]
    [finding] = [f for f in found.findings if "without talk" in f.text]
    assert [round(at_n / RATE, 1) for at_n in (finding.at_n, *finding.also_n)] == [0.5, 2, 11.5, 13, 14.5, 24, 26]


def test_captions_that_are_not_to_be_compared_are_not():
    assert "Film.srt" not in texts(captioned((12, 14), checked=False))


def test_talk_that_counts_by_captions_ducks_where_they_stand_and_asks_for_them():
    found = captioned((1, 3), (18, 22), trigger=Trigger.CAPTIONS)
    assert [(p.start_n / RATE, p.stop_n / RATE) for p in found.plan.passages] == [(1, 3), (18, 22)]
    without = result(talk_lane(trigger=Trigger.CAPTIONS), bed_lane())
    assert not without.plan.passages
    assert "look: Talk.wav counts where captions stand, but there are none." in texts(without)
