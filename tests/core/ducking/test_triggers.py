"""What of a clip counts as sounding. Worked by hand: a medium of 10 s at −40 dBFS, but for −20 dBFS from 2 to 4 s."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.ducking.triggers import Sounding, corrected, over_level, pins_by_media, spans_of, spoken_in
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Trigger
from jaylantern.core.timeline.pin import Heard, SpeechPin
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

SOUND = media(1, 10)
LEVEL = np.full(1000, -40, np.float32)
LEVEL[200:400] = -20
TALK = np.array([[1 * RATE, 3 * RATE]], np.int64)
CUES = np.array([[4 * RATE, 6 * RATE], [11 * RATE, 12 * RATE]], np.int64)  # on the timeline
KNOWN = Sounding({1: TALK}, {1: LEVEL}, captions=CUES)
PLAIN = Settings(hysteresis_db=6, level_hold_ms=0)


def s(found) -> list[tuple[float, float]]:
    return [(round(a / RATE, 3), round(b / RATE, 3)) for a, b in found.tolist()]


def spans(trigger: Trigger, *, at_db: float = -30.0, settings: Settings = PLAIN, pins=(), known=KNOWN, on=None, **more):
    shown = clip(1, SOUND, **more)
    return s(spans_of(lane(1, Tag.DIALOGUE, shown, trigger=trigger, level_db=at_db, **(on or {})), shown, settings,
                      known, pins))  # fmt: skip


@pytest.mark.parametrize(
    ("trigger", "expected"),
    [
        (Trigger.VOICE, [(1, 3)]),
        (Trigger.LEVEL, [(2, 4)]),
        (Trigger.CLIP, [(0, 10)]),
        (Trigger.CAPTIONS, [(4, 6)]),
    ],
)
def test_each_trigger_looks_at_its_own(trigger, expected):
    assert spans(trigger) == expected


@pytest.mark.parametrize(
    ("clip_db", "lane_db", "expected"),
    [
        (0, 0, [(2, 4)]),
        (-9.9, 0, [(2, 4)]),  # −29.9 dBFS with its gain: over −30
        (-10.1, 0, []),  # −30.1: under it
        (0, -10.1, []),  # the fader counts just the same
        (10.1, 0, [(0, 10)]),  # −29.9 all the time
        (5, 5.1, [(0, 10)]),
        (12, -24, []),
    ],
)
def test_a_threshold_is_passed_with_the_gains_of_clip_and_lane(clip_db, lane_db, expected):
    assert spans(Trigger.LEVEL, gain_db=clip_db, on={"gain_db": lane_db}) == expected


@pytest.mark.parametrize(
    ("own", "expected"),
    [
        ({}, [(2, 4)]),
        ({"level_db": -50.0}, [(0, 10)]),
        ({"level_db": -10.0}, []),
        ({"trigger": Trigger.CLIP}, [(0, 10)]),
        ({"trigger": Trigger.VOICE}, [(1, 3)]),
    ],
)
def test_what_a_clip_has_of_its_own_counts_before_its_lanes(own, expected):
    shown = clip(1, SOUND, **own)
    mine = lane(1, Tag.DIALOGUE, shown, trigger=Trigger.LEVEL, level_db=-30.0)
    assert s(spans_of(mine, shown, PLAIN, KNOWN, ())) == expected


@pytest.mark.parametrize(
    ("level_db", "on_db", "off_db", "hold_ms", "expected"),
    [
        ([-80] * 10, -30, -36, 0, []),
        ([], -30, -36, 0, []),
        ([-80, -30, -36, -36.1, -80], -30, -36, 0, [(10, 30)]),  # on from the threshold, off below the hysteresis
        ([-80, -36, -35, -30, -80], -30, -36, 0, [(30, 40)]),  # what leads up to it does not count
        ([-80, -35, -35, -80], -30, -36, 0, []),  # never on
        ([-30, -80, -80, -30, -80], -30, -36, 0, [(0, 10), (30, 40)]),
        ([-30, -80, -80, -30, -80], -30, -36, 19, [(0, 29), (30, 59)]),
        ([-30, -80, -80, -30, -80], -30, -36, 20, [(0, 60)]),  # held until the next begins
    ],
)
def test_a_level_is_up_from_its_threshold_until_it_has_fallen_by_the_hysteresis(
    level_db, on_db, off_db, hold_ms, expected
):
    found = over_level(np.array(level_db, np.float32), on_db=on_db, off_db=off_db, hold_n=hold_ms * RATE // 1000)
    assert [(a * 1000 // RATE, b * 1000 // RATE) for a, b in found.tolist()] == expected


def test_silence_never_counts_however_low_the_threshold():
    quiet = Sounding({}, {1: np.full(1000, -200, np.float32)})
    assert spans(Trigger.LEVEL, at_db=-90.0, known=quiet) == []


def test_of_a_medium_nothing_is_known_of_nothing_sounds_but_the_clip_itself():
    assert [spans(each, known=Sounding()) for each in Trigger] == [[], [], [(0, 10)], []]


def test_only_what_the_clip_shows_counts_where_it_lies():
    assert spans(Trigger.VOICE, start_s=100, offset_s=2, length_s=5) == [(100, 101)]
    assert spans(Trigger.LEVEL, start_s=100, offset_s=3, length_s=5) == [(100, 101)]


def pin(number: int, heard: Heard, a: float, b: float, medium: int = 1) -> SpeechPin:
    return SpeechPin(number, medium, heard, round(a * RATE), round(b * RATE))


@pytest.mark.parametrize(
    ("pins", "expected"),
    [
        ([], [(1, 3)]),
        ([pin(1, Heard.SPEECH, 5, 6)], [(1, 3), (5, 6)]),
        ([pin(1, Heard.NOT_SPEECH, 2, 6)], [(1, 2)]),
        ([pin(1, Heard.NOT_SPEECH, 0, 9), pin(2, Heard.SPEECH, 2, 6)], [(2, 6)]),  # the later one counts
        ([pin(1, Heard.SPEECH, 2, 6), pin(2, Heard.NOT_SPEECH, 0, 9)], []),
        ([pin(1, Heard.APART, 1, 3), pin(2, Heard.JOINED, 3, 9)], [(1, 3)]),  # say nothing of what sounds
    ],
)
def test_corrections_count_in_the_order_they_were_made(pins, expected):
    assert s(corrected(TALK, pins)) == expected
    assert spans(Trigger.VOICE, pins=pins) == expected


def test_speech_of_several_clips_is_one_and_pins_belong_to_their_medium():
    film = project(lane(1, Tag.DIALOGUE, clip(1, SOUND), clip(2, SOUND, start_s=12, offset_s=2)))
    film = replace(film, speech_pins=(pin(1, Heard.SPEECH, 5, 6), pin(2, Heard.NOT_SPEECH, 0, 9, medium=2)))
    assert {number: [each.id for each in found] for number, found in pins_by_media(film).items()} == {1: [1], 2: [2]}
    clips = [each for _, each in film.placed()]
    assert s(spoken_in(film, clips, {1: TALK})) == [(1, 3), (5, 6), (12, 13), (15, 16)]
    assert s(spoken_in(film, clips, {})) == []


def test_captions_count_where_they_stand_over_the_clip():
    assert spans(Trigger.CAPTIONS, start_s=5.0) == [(5, 6), (11, 12)]
    assert spans(Trigger.CAPTIONS, start_s=5.0, offset_s=2, length_s=6.5) == [(5, 6), (11, 11.5)]
    pinned = [SpeechPin(1, 1, Heard.NOT_SPEECH, 0, RATE // 2), SpeechPin(2, 1, Heard.SPEECH, 3 * RATE, 4 * RATE)]
    assert spans(Trigger.CAPTIONS, start_s=5.0, pins=pinned) == [(5.5, 6), (8, 9), (11, 12)]
