"""Measuring the finished mix: loudness over time, the limiter's places, true peaks of what it is made of."""

from dataclasses import astuple

import numpy as np
import pytest

from jaylantern.core.ducking import clearance
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Renderer, Variant, Voice
from jaylantern.core.mixing.mix_metering import Level, joined, measure, measure_range
from jaylantern.core.signal import limiter
from jaylantern.core.signal.loudness import STEP_N, KWeighting, Loudness, integrated_lufs
from jaylantern.core.signal.timebase import RATE, amplitude_to_db
from jaylantern.core.signal.true_peak import TruePeakMeter
from jaylantern.core.timeline.tag import Tag
from jaylantern.pipeline import decide
from tests import sounds
from tests.build import clip, facts, lane, media, project, reader, voice_track

TALK = sounds.talk({"vm-intro": 0.5}, seconds=6)
BED = sounds.sine(hz=220, seconds=6, amplitude=0.9, channels=2)


def programme(*amplitudes: float, release_ms: float = 100.0) -> tuple[Renderer, int]:
    voices = tuple(
        Voice(i + 1, 0, len(TALK), 0, amplitude, tag, None, lane_id=i + 10)
        for i, (amplitude, tag) in enumerate(zip(amplitudes, (Tag.DIALOGUE, Tag.MUSIC), strict=False))
    )
    made = Programme(len(TALK), voices, -1.0, limiter.release_of(release_ms))
    return Renderer(made, reader(TALK, BED), Variant.DUCKED), len(TALK)


def test_what_is_measured_is_what_is_rendered():
    renderer, length_n = programme(1.0, 1.0)
    found = measure(renderer, length_n)
    sound = renderer.render(0, length_n)
    peaks = TruePeakMeter(2)
    peaks.add(sound)
    assert found.loudness.true_peak_dbtp == pytest.approx(amplitude_to_db(peaks.finish()), abs=1e-4)
    assert found.loudness.integrated_lufs == pytest.approx(integrated_lufs(KWeighting(2).powers(sound)), abs=0.01)
    assert len(found.power) == len(found.reduction_db) == -(-length_n // STEP_N)


@pytest.mark.parametrize("keep_apart", [False, True])
def test_measured_in_ranges_it_is_the_same(keep_apart):
    renderer, length_n = programme(1.0, 1.0)
    whole = measure(renderer, length_n)
    ranges = []
    for start_n, stop_n in ((0, 2 * RATE), (2 * RATE, 3 * RATE), (3 * RATE, length_n)):
        fresh = Renderer(renderer._prog, reader(TALK, BED), Variant.DUCKED, keep_apart=keep_apart)
        ranges.append(measure_range(fresh, start_n, stop_n, last=stop_n == length_n))
    found = joined(ranges, length_n)
    assert astuple(found.loudness) == pytest.approx(astuple(whole.loudness), abs=0.001)
    assert np.array_equal(found.reduction_db, whole.reduction_db)
    assert np.allclose(found.power, whole.power, rtol=1e-4)
    assert found.lane_peak == pytest.approx(whole.lane_peak, rel=1e-5)
    assert found.stem_peak == pytest.approx(whole.stem_peak, rel=1e-5)


def test_nothing_measures_nothing():
    found = measure(programme(1.0, 1.0)[0], 0)
    assert found.loudness.integrated_lufs == float("-inf")
    assert len(found.power) == len(found.reduction_db) == 0


def test_the_limiter_is_seen_at_work_where_it_works():
    renderer, length_n = programme(1.0, 1.0)
    found = measure(renderer, length_n)
    gains = [renderer.limiter_gains(k) for k in range(length_n // BLOCK_N)]
    lowest = min(float(gain.min()) for gain in gains if gain is not None)
    places = found.places(100)
    assert places[0].db == pytest.approx(-amplitude_to_db(lowest), abs=1e-3)
    assert [place.db for place in places] == sorted((place.db for place in places), reverse=True)
    assert all(place.start_n <= place.at_n < place.stop_n for place in places)
    quiet, _ = programme(0.2, 0.2)
    assert measure(quiet, length_n).places(100) == []


def test_three_decibels_for_more_than_a_moment_are_hard():
    reduction = np.zeros(100)
    reduction[10:12], reduction[40:44], reduction[80] = 5.0, 3.5, 9.0
    level = Level(Loudness(0, 0, 0, 0), np.zeros(100), reduction, {}, {})
    assert [(place.at_n // STEP_N, place.hard) for place in level.places(9)] == [(80, False), (10, False), (40, True)]
    assert len(level.places(2)) == 2


def test_true_peaks_of_lanes_and_stems_are_those_before_the_limiter():
    renderer, length_n = programme(1.0, 1.0)
    found = measure(renderer, length_n)
    assert amplitude_to_db(found.lane_peak[11]) == pytest.approx(amplitude_to_db(0.9), abs=0.02)
    assert found.stem_peak["music"] == found.lane_peak[11]
    alone = TruePeakMeter(2)
    alone.add(np.repeat(TALK, 2, axis=1) if TALK.shape[1] == 1 else TALK)
    assert found.stem_peak["speech"] == pytest.approx(alone.finish(), rel=1e-4)


def test_a_longer_release_lets_go_later():
    """Where the limiter's gain is back at 1 after a burst, in ms."""
    burst = np.zeros((2 * RATE, 1), np.float32)
    burst[RATE // 2 : RATE // 2 + 480] = sounds.sine(hz=1000, seconds=0.01, amplitude=1.5)
    back = []
    for release_ms in (20, 100, 400):
        made = Programme(len(burst), (Voice(1, 0, len(burst), 0, 1.0, Tag.MUSIC, None),), -1.0,
                         limiter.release_of(release_ms))  # fmt: skip
        renderer = Renderer(made, reader(burst), Variant.DUCKED)
        parts = [renderer.limiter_gains(k) for k in range(2)]
        gain = np.concatenate([np.ones(BLOCK_N, np.float32) if part is None else part for part in parts])
        last = int(np.flatnonzero(gain < 1)[-1])
        back.append((last - RATE // 2 - 480) / 48)
        assert gain[last + 1 :].min() == 1.0
    assert back[0] == pytest.approx(20, abs=12)
    assert back[1] == pytest.approx(100, abs=12)
    assert back[2] == pytest.approx(400, abs=12)


def test_the_parts_of_a_mix_add_up_and_follow_the_curve():
    talk, bed = media(1, 6), media(2, 6)
    made = project(lane(1, Tag.DIALOGUE, clip(1, talk)), lane(2, Tag.MUSIC, clip(2, bed)), amount_db=-12)
    known = {1: facts(voice_track([(1, 5)], 6), TALK), 2: facts(voice_track([], 6), BED)}
    result = decide(made, known)
    parts = clearance.parts(made, result.plan, {number: fact.power for number, fact in known.items()}, result.levels())
    assert np.array_equal(parts.lanes[1], parts.speech)
    assert np.array_equal(parts.lanes[2], parts.music)
    under = parts.music[25] / known[2].power.on_grid(made.lanes[1].clips[0])[1][25]
    assert 10 * np.log10(under) == pytest.approx(-12, abs=0.01)
