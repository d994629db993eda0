"""Captions against talk: what has none, what is without talk, and by how much captions are off."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.captions.comparing import best_shift, compared
from jaylantern.core.signal import intervals
from jaylantern.core.signal.timebase import RATE


def spans(*pairs: tuple[float, float]) -> np.ndarray:
    return np.array(pairs, np.float64).reshape(-1, 2).__mul__(RATE).round().astype(np.int64)


TALK = spans((1, 4), (10, 12), (20, 26), (31, 33), (47, 52))


def seconds(found: np.ndarray) -> list[list[float]]:
    return (found / RATE).round(3).tolist()


@pytest.mark.parametrize(("cues", "bare", "mute"), [
    ([(1, 4), (10, 12), (20, 26), (31, 33), (47, 52)], [], []),
    ([(1, 2.5), (2.4, 4), (10, 12), (20, 23), (23, 26), (31, 33), (47, 52)], [], []),
    ([(1.4, 3.6), (10, 12), (20, 26), (31, 33), (47.5, 51.5)], [], []),  # half a second beside is no matter
    ([(1, 4), (20, 26), (31, 33), (47, 52)], [[10, 12]], []),
    ([(1, 4), (10, 12), (20, 22), (31, 33), (47, 52)], [[22.5, 26]], []),  # no more than the rest of it
    ([(1, 4), (10, 10.6), (20, 26), (31, 33), (47, 52)], [], []),  # .9 s of it: less than a second
    ([(1, 4), (10, 12), (15, 17), (20, 26), (31, 33), (47, 52)], [], [[15, 17]]),
    ([(1, 4), (4.6, 6), (10, 12), (20, 26), (31, 33), (47, 52)], [], [[4.6, 6]]),
    ([(1, 4), (4.4, 6), (10, 12), (20, 26), (31, 33), (47, 52)], [], []),  # it begins while the talk may still be heard
])  # fmt: skip
def test_what_has_no_captions_and_what_no_talk(cues, bare, mute):
    found = compared(TALK, spans(*cues))
    assert seconds(found.bare) == bare
    assert seconds(found.mute) == mute
    assert found.shift_n == 0


@pytest.mark.parametrize("by_s", [-9.0, -2.4, -0.6, 0.6, 3.05, 17.0, 59.0])
def test_how_far_off_they_are_is_found(by_s):
    moved = TALK + round(by_s * RATE)
    moved = moved[moved[:, 1] > 0]
    assert best_shift(TALK, np.maximum(moved, 0)) == pytest.approx(-by_s * RATE, abs=0.1 * RATE)


@pytest.mark.parametrize("by_s", [0.0, 0.2, -0.4, 75.0])
def test_a_little_off_and_farther_than_a_minute_is_not_said(by_s):
    assert best_shift(TALK, TALK + round(by_s * RATE)) == 0


@given(
    st.lists(st.tuples(st.floats(0.6, 6), st.floats(0.8, 9)), min_size=1, max_size=12),
    st.integers(0, 11), st.floats(1, 40), st.booleans(),
)  # fmt: skip
@settings(max_examples=200, deadline=None)
def test_captions_that_fit_are_never_to_be_moved_because_one_passage_was_marked(lengths, which, long_s, added):
    at, made = 0.0, []
    for length, gap in lengths:
        made.append((at + gap, at + gap + length))
        at += gap + length
    fitting = spans(*((a - 0.2, b + 0.3) for a, b in made))
    talk = [*made, (at + 3, at + 3 + long_s)] if added else [m for i, m in enumerate(made) if i != which % len(made)]
    assert best_shift(spans(*talk), intervals.union(fitting)) == 0


@pytest.mark.parametrize(("talk", "cues", "offered"), [
    ([(5, 10), (18, 22)], [(8, 13), (21, 25)], False),  # two are no evidence
    ([(5, 10), (18, 22), (30, 33)], [(8, 13), (21, 25), (33, 36)], True),
    ([(5, 10), (18, 22), (30, 33)], [(8, 13), (21, 25)], False),
    ([(5, 45)], [(0, 4), (50, 54), (55, 59)], False),  # one passage holds them all
    ([(10, 11), (20, 21), (30, 31), (55, 60)], [(0, 1), (10, 11), (20, 21), (30, 31), (45, 50)], False),  # one gains
])  # fmt: skip
def test_a_move_is_said_on_the_word_of_three_at_least(talk, cues, offered):
    assert (best_shift(spans(*talk), spans(*cues)) == -3 * RATE) == offered
    assert offered or best_shift(spans(*talk), spans(*cues)) == 0


def test_captions_over_all_of_the_film_are_not_moved_about():
    assert best_shift(TALK, spans((0, 55))) == 0


@pytest.mark.parametrize(("talk", "cues"), [((), ((1, 2),)), (((1, 2),), ()), ((), ())])
def test_nothing_is_nothing(talk, cues):
    found = compared(spans(*talk), spans(*cues))
    assert found.shift_n == 0
    assert (len(found.bare), len(found.mute)) == (len(talk), len(cues))
