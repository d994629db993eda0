"""From probability and level to spoken stretches."""

import numpy as np
import pytest

from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import FRAME_N, VoiceTrack, find_speech, thresholds
from tests.build import voice_track


def seconds(found: np.ndarray) -> list[list[float]]:
    return (found / RATE).round(3).tolist()


def test_edges_are_set_on_the_rise_and_fall_of_the_level():
    track = voice_track([(1.013, 3.207), (5.0, 6.5)], 8)
    for (start, stop), (true_start, true_stop) in zip(
        seconds(find_speech(track, sensitivity=50)), [(1.01, 3.21), (5.0, 6.5)], strict=True
    ):
        assert start == pytest.approx(true_start, abs=0.0101)
        assert stop == pytest.approx(true_stop, abs=0.0101)


def test_short_gaps_are_joined_and_short_bursts_dropped():
    track = voice_track([(1, 2), (2.2, 3), (5, 5.1)], 8)
    assert len(find_speech(track, sensitivity=50)) == 1


def test_sensitivity_50_enters_at_85_and_stays_above_50():
    assert thresholds(50) == pytest.approx((0.85, 0.50))
    low, high = thresholds(10), thresholds(90)
    assert low[0] > 0.85 > high[0]
    assert all(enter > stay for enter, stay in (low, high, thresholds(0), thresholds(100)))


def test_more_sensitivity_finds_more():
    track = voice_track([(1, 2)], 4)
    doubtful = track.probability.copy()
    doubtful[doubtful > 0.5] = 0.6
    doubted = type(track)(doubtful, track.level_db, track.length_n)
    assert len(find_speech(doubted, sensitivity=50)) == 0
    assert len(find_speech(doubted, sensitivity=80)) == 1


def test_silence_and_nothing_hold_no_speech():
    assert find_speech(voice_track([], 3), sensitivity=100).shape == (0, 2)
    assert find_speech(voice_track([], 0), sensitivity=50).shape == (0, 2)


# — worked by hand: probabilities per frame of 32 ms, what stands out per block of 10 ms; answers in blocks —


def spoken(probability, stands_out=(), *, sensitivity: float = 50, length: int = 400) -> list[tuple[float, float]]:
    """Stretches found in blocks of 10 ms; `stands_out` are the ranges of blocks that do."""
    over = np.zeros(length, np.float32)
    for first, last in stands_out:
        over[first:last] = 6.0
    frames = np.zeros(-(-length * HOP_N // FRAME_N), np.float32)
    for (first, last), p in probability.items():
        frames[first:last] = p
    track = VoiceTrack(frames, np.full(length, -30, np.float32), length * HOP_N, over)
    return [(a / HOP_N, b / HOP_N) for a, b in find_speech(track, sensitivity=sensitivity).tolist()]


SAID = {(20, 40): 0.98}  # blocks 64 to 128


@pytest.mark.parametrize(
    ("stands_out", "expected"),
    [
        ([], (64, 128)),  # nothing stands out: as the network says
        ([(60, 130)], (60, 130)),  # first and last sounds lie outside
        ([(68, 124)], (68, 124)),  # … or inside
        ([(73, 119)], (73, 119)),
        ([(74, 118)], (64, 128)),  # ten blocks are searched inward, no more
        ([(20, 300)], (44, 133)),  # twenty before and five after, no more
        ([(58, 60), (64, 128)], (58, 128)),  # a stop's closure of four blocks is part of the word
        ([(58, 59), (64, 128)], (64, 128)),  # five are a pause
        ([(64, 126), (130, 131)], (64, 131)),
        ([(64, 124), (129, 130)], (64, 124)),
    ],
)
def test_where_a_word_begins_and_ends(stands_out, expected):
    assert spoken(SAID, stands_out) == [expected]


def test_at_the_ends_of_a_medium_there_is_nothing_to_search():
    assert spoken({(0, 20): 0.98}, [(0, 64)]) == [(0, 64)]
    assert spoken({(105, 125): 0.98}, [(330, 400)]) == [(330, 400)]


@pytest.mark.parametrize(("gap", "count"), [(29, 1), (30, 2), (31, 2)])
def test_what_is_closer_than_300_ms_is_one_stretch(gap, count):
    found = spoken({(20, 40): 0.98, (48, 70): 0.98}, [(64, 128), (128 + gap, 220)])
    assert len(found) == count
    assert found[-1][-1] == 220


@pytest.mark.parametrize(("blocks", "kept"), [(14, False), (15, True), (16, True)])
def test_what_is_shorter_than_150_ms_is_dropped(blocks, kept):
    assert spoken({(20, 26): 0.98}, [(66, 66 + blocks)]) == ([(66, 66 + blocks)] if kept else [])


@pytest.mark.parametrize(
    ("sensitivity", "enter", "stay"),
    [(50, 0.85, 0.5), (0, 0.99470, 0.97069), (100, 0.14612, 0.02931), (60, 0.73781, 0.33181)],
)
def test_thresholds_move_by_even_steps_on_the_logit_scale(sensitivity, enter, stay):
    """logit(p) − 0.07·(s − 50): at 0 logit(0.85) + 3.5 = 5.2346, which is a probability of 0.99470."""
    assert thresholds(sensitivity) == pytest.approx((enter, stay), abs=1e-5)


@pytest.mark.parametrize(
    ("p", "least"), [(0.86, 50), (0.84, 55), (0.74, 60), (0.73, 65), (0.15, 100), (0.14, None), (0.995, 0)]
)
def test_a_stretch_is_found_from_the_step_of_sensitivity_on_that_its_probability_reaches(p, least):
    found = [s for s in range(0, 101, 5) if spoken({(20, 40): p}, sensitivity=s)]
    assert found == ([] if least is None else list(range(least, 101, 5)))


@pytest.mark.parametrize(("sensitivity", "found"), [(52, False), (53, True), (55, True), (57, True)])
def test_sensitivity_counts_in_steps_of_five(sensitivity, found):
    assert bool(spoken({(20, 40): 0.84}, sensitivity=sensitivity)) == found


def test_a_stretch_reaches_as_far_as_the_probability_stays():
    """0.98 in frames 30 to 40; 0.51 around it stays at 50, 0.49 does not."""
    assert spoken({(20, 50): 0.51, (30, 40): 0.98}) == [(64, 160)]
    assert spoken({(20, 50): 0.49, (30, 40): 0.98}) == [(96, 128)]
    assert spoken({(20, 50): 0.6}) == []  # it stays, but nothing entered


def test_what_less_sensitivity_finds_stays_though_more_would_set_its_edge_otherwise():
    few = spoken({(20, 40): 0.98, (40, 60): 0.3}, [(64, 128)], sensitivity=50)
    more = spoken({(20, 40): 0.98, (40, 60): 0.3}, [(64, 128)], sensitivity=70)
    assert few == [(64, 128)]
    assert more[0][0] <= 64
    assert more[0][1] >= 128


def test_nothing_is_found_beyond_the_end_of_the_medium():
    assert spoken({(110, 130): 0.98}, length=400) == [(352, 400)]
