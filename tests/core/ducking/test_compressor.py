"""The compressor's laws against the paper's equations, its times as measured, and ffmpeg's on the same key.

Paper: Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", J. Audio Eng. Soc. 60(6), 2012.
"""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking import sidechain
from jaylantern.core.ducking.compressor import Law, decay, followed, released, running_maximum, smoothed
from jaylantern.core.ducking.curves import Curves
from jaylantern.core.ducking.key_level import KeyListener, key_level
from jaylantern.core.ducking.sidechain import BLOCK, in_pieces
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from tests import sounds
from tests.build import clip, lane, media, project


def paper(x: float, law: Law) -> float:
    """Output level of the gain computer with a soft knee, as the paper writes it in three cases."""
    t, r, w = law.threshold_db, law.ratio, law.knee_db
    if 2 * (x - t) < -w:
        return x
    if 2 * abs(x - t) <= w:
        return x + (1 / r - 1) * (x - t + w / 2) ** 2 / (2 * w) if w else t
    return t + (x - t) / r


@given(st.floats(-90, 0), st.floats(-60, 0), st.floats(1, 100), st.sampled_from([0.0, 3.0, 6.0, 24.0]))
def test_the_static_curve_is_the_papers(x, threshold_db, ratio, knee_db):
    law = Law(threshold_db, ratio, knee_db)
    assert float(law.output_db(np.array([x]))[0]) == pytest.approx(paper(x, law), abs=2e-4)


@pytest.mark.parametrize(("ratio", "key_db", "down_db"), [(3, -18, 8.0), (4, -18, 9.0), (4, -30, 0.0), (3, -24, 4.0)])
def test_ratios_of_three_and_four_to_one_worked_by_hand(ratio, key_db, down_db):
    """Common practice: ratio 3:1 to 4:1 and a key threshold of −18 to −30 dBFS; (1 − 1/R)·(level − threshold)."""
    assert Law(-30, ratio).reduction_db(np.array([key_db]))[0] == pytest.approx(down_db, abs=1e-5)


def test_it_never_turns_down_by_more_than_its_range():
    assert Law(-60, 100, range_db=-12).reduction_db(np.array([0.0, -50.0])).tolist() == pytest.approx(
        [12, 9.9], abs=1e-3
    )


@pytest.mark.parametrize("count", [1, 31, 32, 256, 257, 5000, 70_000])
@pytest.mark.parametrize("alpha", [0.0, decay(7), decay(450), decay(20_000)])
def test_working_side_by_side_is_the_same_as_one_step_after_the_other(count, alpha):
    random = np.random.default_rng(count)
    x = (random.random(count) * 20 * (random.random(count) > 0.8)).astype(np.float32)
    down, mean, a, b = np.zeros(count), np.zeros(count), 0.0, 0.0
    for i, value in enumerate(x.tolist()):
        a, b = max(value, alpha * a), alpha * b + (1 - alpha) * value
        down[i], mean[i] = a, b
    assert np.allclose(released(x, alpha), down, atol=2e-4)
    assert np.allclose(smoothed(x, alpha), mean, atol=2e-4)


@settings(max_examples=30)
@given(st.lists(st.floats(0, 40, width=32), min_size=1, max_size=200), st.integers(0, 250))
def test_hold_is_the_largest_of_the_values_before(values, steps):
    x = np.array(values, np.float32)
    assert running_maximum(x, steps).tolist() == [x[max(0, i - steps) : i + 1].max() for i in range(len(x))]


def test_stretches_of_the_cache_leave_no_seam():
    random = np.random.default_rng(5)
    x = (random.random(100_000) * 20 * (random.random(100_000) > 0.995)).astype(np.float32)
    whole = smoothed(released(running_maximum(x, 300), decay(450)), decay(15))
    assert np.allclose(followed(x, attack_ms=15, hold_ms=300, release_ms=450), whole, atol=1e-3)


@pytest.mark.parametrize("attack_ms", [5, 20, 100])
def test_attack_measured_from_the_output(attack_ms):
    """A step of 12 dB has gone 63.2 % of its way (1 − 1/e) after one time constant."""
    step = np.concatenate((np.zeros(100), np.full(3000, 12.0))).astype(np.float32)
    found = followed(step, attack_ms=attack_ms, hold_ms=0, release_ms=0)
    assert int(np.argmax(found >= 12 * (1 - np.exp(-1)))) - 99 == pytest.approx(attack_ms, abs=1.01)


@pytest.mark.parametrize("release_ms", [100, 450, 2000])
@pytest.mark.parametrize("hold_ms", [0, 700])
def test_release_measured_from_the_output_begins_after_the_hold(release_ms, hold_ms):
    """After the key falls silent 36.8 % (1/e) are left one time constant after the hold."""
    step = np.concatenate((np.full(1000, 12.0), np.zeros(12_000))).astype(np.float32)
    found = followed(step, attack_ms=0, hold_ms=hold_ms, release_ms=release_ms)
    assert found[999 + hold_ms] == pytest.approx(12, abs=1e-3)
    assert int(np.argmax(found <= 12 * np.exp(-1))) - 999 == pytest.approx(hold_ms + release_ms, abs=1.01)


# — on a timeline, with real sound —


def curve_under(made, uppers, key):
    """The exact curve."""
    return sidechain.SidechainGain(made, uppers, key).curve


TALK = sounds.talk({"vm-intro": 1.0, "vm-opts": 8.0}, seconds=24)


def track_of(sound: np.ndarray) -> sidechain.KeyTrack:
    listener = KeyListener()
    for first in range(0, len(sound), 96_000):
        listener.add(sound[first : first + 96_000])
    return listener.finish()


def compressed(sound: np.ndarray, **values) -> tuple:
    seconds = len(sound) / RATE
    made = project(
        lane(1, Tag.DIALOGUE, clip(1, media(1, seconds))), lane(2, Tag.MUSIC, clip(2, media(2, seconds))),
        mode="compressor", **values,
    )  # fmt: skip
    return made, {1: track_of(sound)}


def test_level_of_the_key_follows_its_faders_and_two_that_talk_add_in_power():
    tone = sounds.sine(hz=1000, seconds=4, amplitude=0.1)
    made = project(
        lane(1, Tag.DIALOGUE, clip(1, media(1, 4), gain_db=6.0), gain_db=-2.0),
        lane(2, Tag.DIALOGUE, clip(2, media(2, 4), start_s=2.0, length_s=2.0)),
        lane(3, Tag.MUSIC, clip(3, media(3, 4))), mode="compressor",
    )  # fmt: skip
    level = key_level(made, {"dialogue"}, {1: track_of(tone), 2: track_of(tone)})
    alone = 20 * np.log10(0.1 / np.sqrt(2)) + 4.0
    both = 10 * np.log10(10 ** (alone / 10) + 10 ** ((alone - 4) / 10))
    assert level[1000] == pytest.approx(alone, abs=0.02)
    assert level[3000] == pytest.approx(both, abs=0.03)


def test_hold_of_a_second_does_not_flutter_where_no_hold_does_on_real_talk():
    """Common practice: a hold of about 1000 ms. Counted: how often the music comes up by more than 3 dB."""

    def ups(hold_ms: float) -> int:
        made, key = compressed(TALK, comp_hold_ms=hold_ms, comp_release_ms=80, threshold_db=-40)
        gain = curve_under(made, {"dialogue"}, key).at(np.arange(0, len(TALK), 480))
        rises, low = 0, 0.0
        for value in gain.tolist():
            low = min(low, value)
            if value > low + 3:
                rises, low = rises + 1, value
        return rises

    assert ups(0) >= 4 * max(1, ups(1000))


def test_the_curve_strays_from_the_detector_by_no_more_than_it_says():
    made, key = compressed(TALK, comp_hold_ms=100)
    reduction, active = sidechain.reduction_under(made, {"dialogue"}, key)
    curve = curve_under(made, {"dialogue"}, key)
    at = np.arange(len(reduction)) * sidechain.STEP_N
    assert np.abs(curve.at(at) + reduction).max() <= sidechain.CURVE_DB + 2e-3
    assert 0 < len(active) <= len(reduction) // BLOCK


def test_blocks_left_out_are_as_if_they_had_been_worked_out(monkeypatch):
    made, key = compressed(TALK, comp_hold_ms=50, comp_release_ms=100, look_ahead_ms=200)
    some, active = sidechain.reduction_under(made, {"dialogue"}, key)
    assert len(active) < len(some) // BLOCK - 10
    monkeypatch.setattr(sidechain, "_active", lambda rows, *_: np.arange(len(rows)))
    every, _ = sidechain.reduction_under(made, {"dialogue"}, key)
    assert np.abs(some - every).max() < 0.01


# — a long timeline —


@pytest.fixture
def long(monkeypatch):
    monkeypatch.setattr(sidechain, "LONG_N", RATE)
    made, key = compressed(TALK, comp_hold_ms=60, comp_release_ms=120, look_ahead_ms=25, output_db=1.5)
    return sidechain.SidechainGain(made, {"dialogue"}, key)


def test_a_stretch_of_a_long_curve_is_the_whole_one_there(long):
    start_n, stop_n = 2 * RATE + 777, 5 * RATE + 11
    at = np.arange(start_n, stop_n, 48)
    part = long.within(start_n, stop_n)
    assert (part.time_n[0], part.time_n[-1]) == (start_n, stop_n)
    assert np.abs(part.at(at) - long.curve.at(at)).max() < 2 * sidechain.CURVE_DB + 0.01


def test_the_coarse_grid_of_a_long_curve_is_near_the_exact_one(long):
    at = np.arange(0, len(TALK), 4800) + 2400
    off = np.abs(long.at(at) - long.curve.at(at))
    assert off.mean() < 0.25
    assert np.percentile(off, 95) < 1.5


def test_the_outline_of_a_long_curve_goes_as_high_and_as_deep(long):
    grid = long.at(np.arange(0, len(TALK), 192))
    assert long.outline.gain_db.max() == pytest.approx(grid.max(), abs=0.01)
    assert long.outline.gain_db.min() == pytest.approx(grid.min(), abs=0.01)
    assert len(long.outline.time_n) <= 2 * (len(TALK) / RATE / 0.496 + 1)


def test_curves_are_worked_out_only_when_asked_for(long, monkeypatch):
    curves = Curves({(1, "music"): long})
    monkeypatch.setattr(sidechain, "in_pieces", lambda *_, **__: pytest.fail("worked out"))
    assert (1, "music") in curves
    assert curves.rough((1, "music"))
    assert curves.outline((1, "music")).deepest_db < -3
    assert curves.gain_at((1, "music"), np.array([0])).shape == (1,)


def test_an_outline_is_exact_within_the_stretch_in_view(long):
    curves = Curves({(1, "music"): long})
    start_n, stop_n = 2 * RATE, 4 * RATE
    mixed = curves.exact_within((1, "music"), start_n, stop_n)
    at = np.arange(start_n, stop_n, 480)
    assert np.abs(mixed.at(at) - long.curve.at(at)).max() < 2 * sidechain.CURVE_DB + 0.01
    outside = mixed.time_n > stop_n
    assert set(mixed.time_n[outside]) <= set(long.outline.time_n)


def test_look_ahead_is_down_before_the_word():
    tone = np.concatenate((np.zeros((RATE, 1), np.float32), sounds.sine(hz=500, seconds=2, amplitude=0.5)))
    gains = []
    for ahead in (0, 60):
        made, key = compressed(tone, look_ahead_ms=ahead, comp_attack_ms=10)
        gains.append(float(curve_under(made, {"dialogue"}, key).at(np.array([RATE]))[0]))
    assert gains[0] > -1
    assert gains[1] < -10


def test_pieces_of_silence_are_two_points():
    curve = in_pieces(np.zeros(4 * BLOCK, np.float32), np.zeros(0, np.int64), largest_db=0.1, level_db=3.0)
    assert curve.gain_db.tolist() == [3.0, 3.0]


# — ffmpeg on the same key —


def ffmpeg(key: np.ndarray, **options) -> np.ndarray:
    """Gain in dB that ffmpeg's sidechain compressor gives a constant main signal, at each sample of a key (n,)."""
    graph = av.filter.Graph()
    inputs = [
        graph.add("abuffer", sample_rate=str(RATE), sample_fmt="dbl", channel_layout="mono", time_base=f"1/{RATE}")
        for _ in range(2)
    ]
    squeeze = graph.add("sidechaincompress", ":".join(f"{name}={value}" for name, value in options.items()))
    sink = graph.add("abuffersink")
    for i, source in enumerate(inputs):
        source.link_to(squeeze, 0, i)
    squeeze.link_to(sink)
    graph.configure()
    out = []
    for first in range(0, len(key), 4800):
        part = key[first : first + 4800].astype(np.float64)
        for source, sound in zip(inputs, (np.full(len(part), 0.25), part), strict=True):
            frame = av.AudioFrame.from_ndarray(sound[None], format="dbl", layout="mono")
            frame.sample_rate, frame.pts, frame.time_base = RATE, first, Fraction(1, RATE)
            source.push(frame)
        while True:
            try:
                out.append(sink.pull().to_ndarray().ravel())
            except (av.BlockingIOError, av.EOFError):
                break
    return 20 * np.log10(np.abs(np.concatenate(out)) / 0.25)


@pytest.mark.parametrize("key_db", [-40, -28, -24, -18, -12, -6])
@pytest.mark.parametrize("ratio", [2, 4, 20])
def test_a_steady_key_is_turned_down_as_ffmpeg_does(key_db, ratio):
    key = np.full(RATE, 10 ** (key_db / 20))
    theirs = ffmpeg(key, threshold=10 ** (-30 / 20), ratio=ratio, knee=1, attack=1, release=10, detection="peak")
    mine = Law(-30, ratio).reduction_db(np.array([key_db]))[0]
    assert theirs[-1] == pytest.approx(-mine, abs=0.05)


def test_on_real_talk_the_gain_goes_as_ffmpegs_does():
    """Their detector smooths the level itself, ours what is asked of the gain; over words both must say the same."""
    made, key = compressed(
        TALK, threshold_db=-30, ratio=4, knee_db=0, detector="peak", comp_attack_ms=5, comp_release_ms=250,
        comp_hold_ms=0, look_ahead_ms=0, range_db=-60,
    )  # fmt: skip
    theirs = ffmpeg(TALK[:, 0], threshold=10 ** (-30 / 20), ratio=4, knee=1, attack=5, release=250, detection="peak")
    at = np.arange(RATE // 2, len(theirs), RATE // 20)
    mine, other = curve_under(made, {"dialogue"}, key).at(at), theirs[at]
    assert np.corrcoef(mine, other)[0, 1] > 0.9
    assert abs(np.median((mine - other)[other < -3])) < 4
