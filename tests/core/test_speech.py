"""From probability and level to spoken stretches."""

import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import find_speech, thresholds
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
