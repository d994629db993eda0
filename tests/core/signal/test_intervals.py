"""Interval arithmetic, compared with sets of samples."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaylantern.core.signal import intervals

SPANS = st.lists(st.tuples(st.integers(0, 120), st.integers(0, 120)), max_size=12)


def samples(spans) -> set[int]:
    return {n for start, stop in spans for n in range(start, stop)}


@given(SPANS)
def test_the_union_covers_the_same_samples_sorted_and_apart(spans):
    found = intervals.union(np.array(spans, np.int64).reshape(-1, 2))
    assert samples(found.tolist()) == samples(spans)
    assert (found[1:, 0] > found[:-1, 1]).all()


@given(SPANS, st.integers(0, 30))
def test_a_gap_is_bridged_exactly_up_to_its_length(spans, gap_n):
    apart = intervals.union(np.array(spans, np.int64).reshape(-1, 2))
    joined = intervals.union(apart, gap_n=gap_n)
    gaps = apart[1:, 0] - apart[:-1, 1]
    assert len(joined) == (len(apart) and 1 + int((gaps > gap_n).sum()))


def test_clipping_keeps_what_lies_inside():
    spans = np.array([(0, 10), (20, 30), (40, 50)])
    assert intervals.clipped(spans, start_n=5, stop_n=42).tolist() == [[5, 10], [20, 30], [40, 42]]
    assert intervals.total_n(intervals.none()) == 0


@pytest.mark.parametrize(
    ("values", "expected"),
    [
        ([], []),
        ([0.2, 0.5, 0.6, 0.5, 0.2], [[1, 4]]),
        ([0.5, 0.59, 0.5], []),  # stays, and never enters
        ([0.6], [[0, 1]]),
        ([0.3, 0.29, 0.3, 0.6], [[2, 4]]),  # at the bound it stays, at the other it enters
        ([0.6, 0.3, 0.1, 0.3, 0.1, 0.7], [[0, 2], [5, 6]]),
    ],
)
def test_runs_that_stay_above_one_bound_and_reach_another(values, expected):
    found = intervals.runs_reaching(np.array(values, float), enter=0.6, stay=0.3)
    assert found.tolist() == expected
