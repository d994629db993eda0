"""What two networks heard, weighed: worked by hand from the published form of a logistic regression."""

import math

import numpy as np
import pytest

from jaylantern.core.speech import fusion
from jaylantern.core.speech.fusion import per_block, speech_probability


def odds(p: float) -> float:
    return math.log((p + 1e-4) / (1 - p + 1e-4))


def steady(voice: float, speech: float, singing: float, music: float) -> float:
    """The answer where all four stay what they are: each window's mean and largest are that value."""
    x = fusion.BIAS
    for row in fusion.WEIGHT:
        x += sum(weight * odds(p) for weight, p in zip(row, (voice, speech, singing, music), strict=True))
    for answer, _, weight in fusion.LARGEST:
        x += weight * odds((voice, speech)[answer])
    return 1 / (1 + math.exp(-x))


def found(voice, speech, singing=0.0, music=0.0, blocks: int = 1000) -> np.ndarray:
    events = np.tile(np.array([speech, singing, music], np.float32), (blocks, 1))
    return speech_probability(np.full(blocks, voice, np.float32), events)


@pytest.mark.parametrize(
    "said", [(0.9, 0.9, 0.05, 0.05), (0.1, 0.9, 0.05, 0.9), (0.9, 0.1, 0.05, 0.05), (0.5, 0.5, 0.5, 0.5), (0, 0, 0, 0)]
)
def test_what_stays_as_it_is_has_the_odds_summed_by_hand(said):
    assert found(*said) == pytest.approx(steady(*said), abs=1e-5)


@pytest.mark.parametrize(
    ("what", "said", "spoken"),
    [
        ("both hear it", (0.95, 0.95, 0.02, 0.02), True),
        ("the one misses it under music", (0.15, 0.98, 0.02, 0.9), True),
        ("neither hears it", (0.05, 0.05, 0.02, 0.9), False),
        ("it is sung", (0.6, 0.5, 0.95, 0.9), False),
        ("nothing sounds", (0.0, 0.0, 0.0, 0.0), False),
    ],
)
def test_what_counts_at_the_middle_of_sensitivity(what, said, spoken):
    assert (found(*said)[500] >= 0.6) == spoken


def test_one_block_is_weighed_with_its_surroundings():
    """A lone second of speech among silence: its middle by hand, with the share of each window that it fills."""
    voice, events = np.full(1201, 0.01, np.float32), np.full((1201, 3), 0.01, np.float32)
    voice[550:651] = 0.99
    events[550:651, 0] = 0.99
    high, low = odds(0.99), odds(0.01)
    x = fusion.BIAS
    for window, row in zip(fusion.WINDOWS, fusion.WEIGHT, strict=True):
        share = min(1.0, 101 / window)
        x += (row[0] + row[1]) * (share * high + (1 - share) * low) + (row[2] + row[3]) * low
    x += sum(weight * high for _, _, weight in fusion.LARGEST)
    assert speech_probability(voice, events)[600] == pytest.approx(1 / (1 + math.exp(-x)), abs=1e-5)


@pytest.mark.parametrize("blocks", [0, 1, 2, 5, 400, 5999, 6000, 6001, 6399, 13_000])
def test_parts_give_what_the_whole_gives(blocks, monkeypatch):
    random = np.random.default_rng(blocks)
    voice, events = (random.random(shape).astype(np.float32) for shape in (blocks, (blocks, 3)))
    whole = speech_probability(voice, events)
    assert whole.shape == (blocks,)
    monkeypatch.setattr(fusion, "PART", 777)
    assert np.abs(speech_probability(voice, events) - whole).max(initial=0) < 1e-6


def test_frames_become_blocks_by_straight_lines_between_their_middles():
    """Frames of 3.2 blocks: middles at 1.6, 4.8, 8.0; block 2 (its middle 2.5) lies 0.9 of 3.2 from the first."""
    blocks = per_block(np.array([0.0, 1.0, 1.0], np.float32), 9, frame_blocks=3.2)
    assert blocks[[0, 2, 4, 8]] == pytest.approx([0.0, 0.9 / 3.2, 2.9 / 3.2, 1.0])
    assert per_block(np.zeros(0, np.float32), 3, frame_blocks=3.2).tolist() == [0, 0, 0]


@pytest.mark.parametrize("window", [1, 2, 3, 5, 8, 101])
def test_the_largest_of_a_window_slides(window):
    values = np.random.default_rng(3).random(300)
    expected = [values[i : i + window].max() for i in range(301 - window)]
    assert fusion._largest(values, window).tolist() == expected
