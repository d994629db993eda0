"""The level of keys on the timeline, and what it is remembered by."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.ducking.key_level import KeyListener, KeyTrack, coarser, key_level
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

VOICE = media(1, 1)
KEY = {1: KeyTrack(np.full(1000, -2000, np.int16), np.full(1000, -1000, np.int16))}  # RMS −20, peak −10 dBFS
FILM = project(lane(1, Tag.DIALOGUE, clip(1, VOICE)))


class Memory(dict):
    """Remembers everything, and counts what had to be made."""

    made = 0

    def __call__(self, key, make):
        if key not in self:
            self.made += 1
            self[key] = make()
        return self[key]


def level(film=FILM, *, uppers=("dialogue",), key=KEY, **more) -> np.ndarray:
    return key_level(film, uppers, key, **more)


@pytest.mark.parametrize(("detector", "expected_db"), [("rms", -20), ("peak", -10)])
def test_it_is_what_the_detector_says(detector, expected_db):
    assert np.allclose(level(project(*FILM.lanes, detector=detector)), expected_db, atol=1e-4)


@pytest.mark.parametrize(
    ("film", "expected_db"),
    [
        (project(lane(1, Tag.DIALOGUE, clip(1, VOICE, gain_db=3), gain_db=-1)), -18),
        (project(lane(1, Tag.DIALOGUE, clip(1, VOICE, muted=True))), -120),
        (project(lane(1, Tag.MUSIC, clip(1, VOICE))), -120),
        (project(lane(1, Tag.DIALOGUE, clip(1, VOICE)), lane(2, Tag.DIALOGUE, clip(2, VOICE))), -20 + 3.0103),
    ],
)
def test_with_faders_and_together_in_power(film, expected_db):
    assert np.allclose(level(film), expected_db, atol=1e-3)


def test_nothing_is_known_of_a_medium_that_was_not_listened_to():
    assert (level(key={}) == -120).all()
    assert not len(key_level(project(), ["dialogue"], KEY))


def test_a_fade_turns_the_key_down():
    faded = project(lane(1, Tag.DIALOGUE, clip(1, VOICE, fade_in=Fade(RATE // 2, "straight"))))
    assert level(faded)[250] == pytest.approx(-20 - 6.0206, abs=0.02)  # half the amplitude


@pytest.mark.parametrize(
    ("change", "made"),
    [
        ({}, 0),
        ({"settings": Settings(amount_db=-3, threshold_db=-50, ratio=9)}, 0),  # changes nothing of the key
        ({"settings": Settings(detector="peak")}, 1),
        ({"lanes": (lane(1, Tag.DIALOGUE, clip(1, VOICE, gain_db=2)),)}, 1),
        ({"perches": ("music", "dialogue", "effects", "narration", "atmosphere")}, 1),
    ],
)
def test_it_is_remembered_by_all_that_it_depends_on_and_by_nothing_else(change, made):
    memory = Memory()
    level(memo=memory)
    before = memory.made
    again = level(replace(FILM, **change), memo=memory)
    assert memory.made - before == made
    assert np.array_equal(again, level(replace(FILM, **change)))


def test_other_perches_and_other_media_are_other_keys():
    memory = Memory()
    level(memo=memory)
    assert (level(uppers=("music",), memo=memory) == -120).all()
    assert (level(key={}, memo=memory) == -120).all()
    assert memory.made == 3


def test_a_coarser_level_is_the_loudest_of_so_many():
    ramp = {1: KeyTrack(np.arange(-2000, -1000, dtype=np.int16), np.zeros(1000, np.int16))}
    found = level(key=ramp, step_ms=4)
    assert len(found) == 250
    assert found[:2] == pytest.approx([-19.97, -19.93], abs=1e-3)
    assert coarser(np.array([-3, -1, -2], np.float32)).tolist() == [-1, -2]


def test_the_level_of_a_medium_is_its_rms_over_ten_milliseconds_or_its_peak():
    """A sine of amplitude 0.5 at 1 kHz: RMS −9.03 dBFS, peak −6.02 dBFS. (20·log10(0.5/√2), 20·log10(0.5))"""
    listener = KeyListener()
    sine = (0.5 * np.sin(2 * np.pi * 1000 * np.arange(RATE // 10) / RATE)).astype(np.float32)
    listener.add(np.stack((sine, sine), axis=1))
    track = listener.finish()
    assert track.rms[20:].tolist() == [-903] * (len(track.rms) - 20)
    assert track.peak[20:].tolist() == [-602] * (len(track.peak) - 20)
    assert track.rms[0] == pytest.approx(-903 - 1000, abs=2)  # a tenth of the ten milliseconds


def test_silence_is_no_lower_than_minus_120():
    listener = KeyListener()
    listener.add(np.zeros((480, 1), np.float32))
    assert set(listener.finish().rms.tolist()) == {-12000}
    assert not len(KeyListener().finish().rms)
