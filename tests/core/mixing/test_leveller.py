"""The leveller: a narrator who drifts is brought back to his middle, within limits, and nothing else is touched."""

from __future__ import annotations

import numpy as np
import pytest

from jaylantern.core.ducking import clearance
from jaylantern.core.mixing.mix import BLOCK_N, Variant, programme, render
from jaylantern.core.signal.loudness import KWeighting, integrated_lufs, sliding, to_lufs
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from jaylantern.pipeline import decide
from tests import sounds
from tests.build import clip, facts, lane, media, project, reader, voice_track

SECONDS = 60
SPOKEN = [(start, start + 6.0) for start in range(1, 55, 8)]


def drifting(depth_db: float = 6.0) -> np.ndarray:
    """Bursts of a voice-like noise that grow from −depth to +depth dB over a minute, silence between them."""
    n = np.arange(SECONDS * RATE)
    on = np.zeros(len(n), np.float32)
    for start, stop in SPOKEN:
        on[round(start * RATE) : round(stop * RATE)] = 1.0
    gain = 10 ** ((-30 + depth_db * (2 * n / len(n) - 1)) / 20)
    noise = sounds.noise(seconds=SECONDS, amplitude=1.0)[:, 0]
    return (noise * on * gain).astype(np.float32)[:, None]


TALK = drifting()


def result(*, gain_db: float = 0.0, tag: Tag = Tag.DIALOGUE, sound: np.ndarray = TALK, **settings):
    talk = media(1, SECONDS)
    made = project(lane(1, tag, clip(1, talk, gain_db=gain_db)), **settings)
    return decide(made, {1: facts(voice_track(SPOKEN, SECONDS), sound)})


def spread_db(power: np.ndarray) -> float:
    """From the softest to the loudest of the bursts' loudness."""
    middle = [round((start + 3) * 10) for start, _ in SPOKEN]
    loud = to_lufs(sliding(power, 20))[[at - 10 for at in middle]]
    return float(loud.max() - loud.min())


def test_a_narrator_who_drifts_is_evened_out():
    found = result(even_out_db=9, even_out_s=8)
    sound = render(found.programme, reader(TALK), 0, SECONDS * RATE, Variant.UNLIMITED)
    plain = render(result().programme, reader(TALK), 0, SECONDS * RATE, Variant.UNLIMITED)
    before, after = (KWeighting(2).powers(each) for each in (plain, sound))
    assert spread_db(before) > 8
    assert spread_db(after) < 3
    assert integrated_lufs(after) == pytest.approx(integrated_lufs(before), abs=1.0)


def test_the_gain_stays_within_its_limits_and_is_slow():
    line = result(even_out_db=3, even_out_s=8).plan.rides[1]
    assert np.abs(line.gain_db).max() <= 3.0
    assert line.gain_db.max() > 2.5
    assert line.gain_db.min() < -2.5
    slope = np.abs(np.diff(line.gain_db)) / (np.diff(line.time_n) / RATE)
    assert slope.max() < 1.5  # dB a second


def test_it_is_off_by_default_and_leaves_alone_what_is_not_its_own():
    assert result().plan.rides == {}
    assert result(even_out_db=6, gain_db=1.0).plan.rides == {}  # somebody set this clip's gain
    assert result(even_out_db=6, tag=Tag.MUSIC).plan.rides == {}


def test_even_speech_is_hardly_touched_and_silence_not_at_all():
    even = result(even_out_db=9, sound=drifting(0.0)).plan.rides[1]
    assert np.abs(even.gain_db).max() < 0.5
    assert result(even_out_db=9, sound=np.zeros_like(TALK)).plan.rides == {}


def test_any_window_of_it_is_the_same():
    found = result(even_out_db=9)
    whole = render(found.programme, reader(TALK), 0, SECONDS * RATE, Variant.DUCKED)
    start_n, stop_n = 7 * BLOCK_N + 123, 9 * BLOCK_N + 77
    assert np.array_equal(render(found.programme, reader(TALK), start_n, stop_n, Variant.DUCKED), whole[start_n:stop_n])


def test_what_is_measured_of_the_parts_follows_the_line():
    found = result(even_out_db=9)
    known = {1: facts(voice_track(SPOKEN, SECONDS), TALK).power}
    ridden = clearance.parts(found.project, found.plan, known, found.levels()).speech
    sound = render(programme(found.project, found.plan), reader(TALK), 0, SECONDS * RATE, Variant.UNLIMITED)
    exact = KWeighting(2).powers(sound)
    loud = exact > exact.max() / 100
    assert np.abs(10 * np.log10(ridden[loud] / exact[loud])).max() < 0.2
