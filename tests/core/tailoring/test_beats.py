"""mir_eval's F-measure counts a beat as found within 70 ms (Dixon 2001; Davies et al., QMUL C4DM-TR-09-06, 2009)."""

import mir_eval
import numpy as np
import pytest

from jaylantern.core.tailoring.beats import evened, find_beats, tempo_line
from tests import sounds, tailored
from tests.tunes import RATE, tune

STEADY = [60, 72, 84, 96, 110, 120, 132, 140]


def f_measure(made, found):
    return mir_eval.beat.f_measure(made.beats_n / RATE, found.at_s)


@pytest.mark.parametrize(("bpm", "meter"), [(bpm, 3 + k % 2) for k, bpm in enumerate(STEADY)])
def test_tempo_and_beats_of_music_at_a_known_tempo(bpm, meter):
    made = tune("AABA", bpm=bpm, meter=meter)
    found = find_beats(tailored.heard(made.sound))
    assert found.tempo_bpm == pytest.approx(bpm, rel=0.01)
    assert f_measure(made, found) >= 0.95
    assert found.clear


@pytest.mark.parametrize(
    "how",
    [
        {"bpm": 100, "until_bpm": 112},
        {"bpm": 126, "until_bpm": 116},
        {"bpm": 100, "until_bpm": 130, "change_at": 30},
        {"bpm": 130, "until_bpm": 92, "change_at": 34},
        {"bpm": 96, "drums": False},
        {"bpm": 128, "drums": False, "meter": 3},
    ],
    ids=str,
)
def test_drift_a_change_of_tempo_and_music_without_drums(how):
    made = tune("AABA", **how)
    assert f_measure(made, find_beats(tailored.heard(made.sound))) >= 0.95


def test_beats_lie_where_they_were_struck():
    made = tune("AABA", bpm=110)
    found = find_beats(tailored.heard(made.sound)).at_s
    off_s = np.abs(found[:, None] - made.beats_n / RATE).min(axis=1)
    assert np.median(off_s) < 0.010
    assert off_s.max() < 0.020


def test_the_line_of_the_tempo_follows_a_change():
    made = tune("AABA", bpm=100, until_bpm=130, change_at=32)
    bpm = 6000 / tempo_line(evened(tailored.heard(made.sound).onset))
    assert bpm[: 15 * 100].mean() == pytest.approx(100, rel=0.02)
    assert bpm[24 * 100 : -200].mean() == pytest.approx(130, rel=0.02)


@pytest.mark.parametrize(
    "sound",
    [
        sounds.noise(seconds=20),
        np.zeros((20 * RATE, 1), np.float32),
        np.zeros((1, 1), np.float32),
        sounds.sine(hz=220, seconds=20),
        sounds.noise(seconds=2),
    ],
    ids=["noise", "silence", "one sample", "a tone", "too short"],
)
def test_where_no_beat_is_none_is_claimed(sound):
    assert not find_beats(tailored.heard(sound)).clear


def test_no_beats_before_the_music_begins_or_after_it_ends():
    made = tune("AA", bpm=120)
    silence = np.zeros((5 * RATE, 1), np.float32)
    found = find_beats(tailored.heard(np.concatenate((silence, made.sound, silence)))).at_s
    assert found[0] > 4.9
    assert found[-1] < len(made.sound) / RATE + 5.1
