"""A blind round: all orders there are, and what is said of what was liked."""

from __future__ import annotations

from itertools import combinations

import pytest

from jaylantern.core.ducking.blind import ORDERS, drawn, verdict
from jaylantern.core.timeline.held_draft import Letter
from jaylantern.errors import InvalidValue

A, B = Letter.A, Letter.B


def test_every_order_has_two_of_each_and_each_is_drawn():
    assert len(set(ORDERS)) == 6
    assert all(order.count(A) == 2 == order.count(B) for order in ORDERS)
    assert [drawn(lambda n, k=k: k) for k in range(6)] == list(ORDERS)


@pytest.mark.parametrize(("liked", "letter", "begins"), [
    ((), None, "None was marked"),
    ((0, 1, 2, 3), None, "Both drafts were marked alike"),
    ((0, 1), None, "Both drafts were marked alike"),  # one of each: A B B A
    ((0, 3), A, "Draft A, both times"),
    ((1, 2), B, "Draft B, both times"),
    ((0,), A, "Rather draft A: A was marked 1 of 2 times, B 0 of 2"),
    ((0, 1, 2), B, "Rather draft B: B was marked 2 of 2 times, A 1 of 2"),
])  # fmt: skip
def test_what_is_said(liked, letter, begins):
    best, said = verdict((A, B, B, A), liked)
    assert best is letter
    assert said.startswith(begins)


def test_by_chance_two_marks_fall_on_one_draft_in_one_round_of_three():
    """Counted over all orders, as the words say. Combinatorics: 2 of (4 choose 2)."""
    for liked in combinations(range(4), 2):
        assert sum("both times" in verdict(order, liked)[1] for order in ORDERS) * 3 == len(ORDERS)


@pytest.mark.parametrize(
    ("order", "liked"), [((A, A, A, B), ()), ((A, B), ()), ((A, B, B, A), (4,)), ((A, B, B, A), (-1,))]
)
def test_what_can_not_be_is_refused(order, liked):
    with pytest.raises(InvalidValue, match="two of each"):
        verdict(order, liked)
