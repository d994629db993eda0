"""What the ear makes of sound it was not made for: nothing, a sample of it, clipped, narrow, sung, one core or two."""

from __future__ import annotations

import os
from importlib.resources import as_file, files

import numpy as np
import pytest
import soundfile
import soxr

from jaylantern.core.signal import intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.singing import find_singing
from jaylantern.core.speech.voice_track import find_speech
from jaylantern.library import ingest
from jaylantern.library.facts import read_facts
from jaylantern.support.progress import silent
from tests import sounds
from tests.external.test_detection import clean, f1, ours, track_of


@pytest.mark.parametrize("samples", [1, 479, 480, 481, 1200, 96_001])
@pytest.mark.parametrize("value", [0.0, 0.5])
def test_a_sound_of_any_length_has_an_answer_for_each_ten_milliseconds(samples, value):
    track = track_of(np.full(samples, value, np.float32))
    for each in (track.probability, track.level_db, track.over_db, track.singing, track.music):
        assert each.shape == (-(-samples // 480),)
        assert np.isfinite(each).all()
    assert find_speech(track, sensitivity=50).shape == (0, 2)
    assert find_singing(track.singing, length_n=samples).shape == (0, 2)


def test_silence_holds_nothing_at_any_sensitivity():
    track = track_of(np.zeros(10 * RATE, np.float32))
    assert not any(len(find_speech(track, sensitivity=each)) for each in (0, 50, 100))


@pytest.mark.parametrize("value", [np.nan, np.inf, -np.inf])
def test_samples_that_are_no_numbers_do_not_deafen_the_rest(value, tmp_path):
    """A file of floats can hold them: they are read as silence, so that everything measured stays a number."""
    sound = clean()[: 20 * RATE].copy()
    expected = ours(sound)
    sound[RATE : RATE + 5] = value
    soundfile.write(tmp_path / "odd.wav", sound, RATE, subtype="FLOAT")
    about = ingest.take_in(tmp_path / "odd.wav", name="odd.wav", folder=tmp_path / "odd", progress=silent)
    facts = read_facts(tmp_path / "odd", about)
    assert np.isfinite(facts.power.products).all()
    assert np.isfinite(about.true_peak)
    assert np.abs(facts.speech(50) - expected).max() <= 0.05 * RATE


def test_clipped_speech_is_found_as_well():
    assert f1(ours(np.clip(clean() * 10, -0.5, 0.5))) > 0.97


def test_speech_of_a_telephone_with_hiss_is_found_as_well():
    """8 kHz, as telephones have it (ITU-T G.711), and noise 30 dB under the speech."""
    narrow = soxr.resample(
        clean() + sounds.noise(seconds=len(clean()) / RATE + 1, amplitude=0.003)[: len(clean()), 0], RATE, 8000
    )
    assert f1(ours(np.resize(soxr.resample(narrow, 8000, RATE).astype(np.float32), len(clean())))) > 0.96


def test_a_far_second_voice_counts():
    """Every second prompt 20 dB softer, over a room 50 dB under the first: all of them are found."""
    first, second = sounds.prompt("demo-congrats")[: 6 * RATE], sounds.prompt("tt-weasels")
    pause = np.zeros(2 * RATE, np.float32)
    sound = np.concatenate((pause, first, pause, 0.1 * second, pause, first, pause))
    sound += sounds.noise(seconds=len(sound) / RATE + 1, amplitude=3e-4)[: len(sound), 0]
    found = ours(sound)
    start_n = 2 * RATE + len(first) + 2 * RATE
    soft = intervals.clipped(found, start_n=start_n, stop_n=start_n + len(second))
    assert intervals.total_n(soft) > 0.6 * len(second)


def test_the_shanty_of_the_demo_is_sung_and_no_speech(tmp_path):
    """Bars 31 to 35 of the bed at 84 beats a minute: from 88.6 to 102.1 s."""
    with as_file(files("jaylantern.demo") / "files" / "Bed 1.opus") as path:
        found = ingest.read(path, name="Bed 1.opus", folder=tmp_path, listen=True)
    sung = find_singing(found.track.singing, length_n=found.length_n) / RATE
    assert 5 < (sung[:, 1] - sung[:, 0]).sum() < 13.5
    assert sung.min() > 88
    assert sung.max() < 103
    assert len(find_speech(found.track, sensitivity=50)) == 0


@pytest.mark.skipif(not hasattr(os, "sched_setaffinity"), reason="this system does not bind processes to cores")
def test_one_core_and_two_find_the_very_same():
    cores = os.sched_getaffinity(0)
    sound = clean()[: 25 * RATE]
    both = track_of(sound)
    try:
        os.sched_setaffinity(0, {min(cores)})
        one = track_of(sound)
    finally:
        os.sched_setaffinity(0, cores)
    assert np.array_equal(one.probability, both.probability)
    assert np.array_equal(one.over_db, both.over_db)
