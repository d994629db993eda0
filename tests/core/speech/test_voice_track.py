"""From probability and level to spoken stretches."""

import numpy as np
import pytest

from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import OLDER_FRAME_N, VoiceTrack, find_speech, thresholds
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


def test_sensitivity_50_enters_at_60_and_stays_above_30():
    assert thresholds(50) == pytest.approx((0.60, 0.30))
    low, high = thresholds(10), thresholds(90)
    assert low[0] > 0.60 > high[0]
    assert all(enter > stay for enter, stay in (low, high, thresholds(0), thresholds(100)))


def test_more_sensitivity_finds_more():
    track = voice_track([(1, 2)], 4)
    doubtful = track.probability.copy()
    doubtful[doubtful > 0.5] = 0.4
    doubted = type(track)(doubtful, track.level_db, track.length_n)
    assert len(find_speech(doubted, sensitivity=50)) == 0
    assert len(find_speech(doubted, sensitivity=80)) == 1


def test_silence_and_nothing_hold_no_speech():
    assert find_speech(voice_track([], 3), sensitivity=100).shape == (0, 2)
    assert find_speech(voice_track([], 0), sensitivity=50).shape == (0, 2)


# — worked by hand: probabilities and what stands out per block of 10 ms; answers in blocks —


def spoken(probability, stands_out=(), *, sensitivity: float = 50, length: int = 400) -> list[tuple[float, float]]:
    """Stretches found in blocks of 10 ms; `stands_out` are the ranges of blocks that do."""
    over = np.zeros(length, np.float32)
    for first, last in stands_out:
        over[first:last] = 6.0
    said = np.zeros(length, np.float32)
    for (first, last), p in probability.items():
        said[first:last] = p
    track = VoiceTrack(said, np.full(length, -30, np.float32), length * HOP_N, over)
    return [(a / HOP_N, b / HOP_N) for a, b in find_speech(track, sensitivity=sensitivity).tolist()]


SAID = {(64, 128): 0.98}


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
    assert spoken({(0, 64): 0.98}, [(0, 64)]) == [(0, 64)]
    assert spoken({(336, 400): 0.98}, [(330, 400)]) == [(330, 400)]


@pytest.mark.parametrize(("gap", "count"), [(29, 1), (30, 2), (31, 2)])
def test_what_is_closer_than_300_ms_is_one_stretch(gap, count):
    found = spoken({(64, 128): 0.98, (153, 224): 0.98}, [(64, 128), (128 + gap, 220)])
    assert len(found) == count
    assert found[-1][-1] == 220


@pytest.mark.parametrize(("blocks", "kept"), [(14, False), (15, True), (16, True)])
def test_what_is_shorter_than_150_ms_is_dropped(blocks, kept):
    assert spoken({(64, 83): 0.98}, [(66, 66 + blocks)]) == ([(66, 66 + blocks)] if kept else [])


@pytest.mark.parametrize(
    ("sensitivity", "enter", "stay"),
    [(50, 0.6, 0.3), (0, 0.94811, 0.83926), (100, 0.10963, 0.03399), (60, 0.47638, 0.20631)],
)
def test_thresholds_move_by_even_steps_on_the_logit_scale(sensitivity, enter, stay):
    """logit(p) − 0.05·(s − 50): at 0 logit(0.6) + 2.5 = 2.9055, which is a probability of 0.94811."""
    assert thresholds(sensitivity) == pytest.approx((enter, stay), abs=1e-5)


@pytest.mark.parametrize(
    ("p", "least"), [(0.61, 50), (0.59, 55), (0.48, 60), (0.47, 65), (0.11, 100), (0.109, None), (0.949, 0)]
)
def test_a_stretch_is_found_from_the_step_of_sensitivity_on_that_its_probability_reaches(p, least):
    found = [s for s in range(0, 101, 5) if spoken({(64, 128): p}, sensitivity=s)]
    assert found == ([] if least is None else list(range(least, 101, 5)))


@pytest.mark.parametrize(("sensitivity", "found"), [(52, False), (53, True), (55, True), (57, True)])
def test_sensitivity_counts_in_steps_of_five(sensitivity, found):
    assert bool(spoken({(64, 128): 0.59}, sensitivity=sensitivity)) == found


def test_a_stretch_reaches_as_far_as_the_probability_stays():
    """0.98 in blocks 96 to 128; 0.31 around it stays at 50, 0.29 does not."""
    assert spoken({(64, 160): 0.31, (96, 128): 0.98}) == [(64, 160)]
    assert spoken({(64, 160): 0.29, (96, 128): 0.98}) == [(96, 128)]
    assert spoken({(64, 160): 0.59}) == []  # it stays, but nothing entered


def test_what_less_sensitivity_finds_stays_though_more_would_set_its_edge_otherwise():
    few = spoken({(64, 128): 0.98, (128, 192): 0.2}, [(64, 128)], sensitivity=50)
    more = spoken({(64, 128): 0.98, (128, 192): 0.2}, [(64, 128)], sensitivity=70)
    assert few == [(64, 128)]
    assert more[0][0] <= 64
    assert more[0][1] >= 128


def test_nothing_is_found_beyond_the_end_of_the_medium():
    assert spoken({(352, 416): 0.98}, length=400) == [(352, 400)]


def test_a_track_of_an_older_data_folder_is_read_with_the_thresholds_it_was_heard_for():
    """One network alone, a probability for each 32 ms, (.85, .50) at 50 by steps of 0.07."""
    assert thresholds(50, older=True) == pytest.approx((0.85, 0.50))
    assert thresholds(0, older=True) == pytest.approx((0.99470, 0.97069), abs=1e-5)
    frames = np.zeros(125, np.float32)
    frames[20:40], frames[60:80] = 0.86, 0.84
    track = VoiceTrack(frames, np.full(400, -30, np.float32), 400 * HOP_N, np.zeros(400), frame_n=OLDER_FRAME_N)
    assert track.older
    assert (find_speech(track, sensitivity=50) / HOP_N).tolist() == [[64, 128]]
    assert len(find_speech(track, sensitivity=55)) == 2
