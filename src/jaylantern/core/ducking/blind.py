"""A blind round: four short listens, two of each draft, in an order nobody is told; then which one it was."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from itertools import combinations

from jaylantern.core.timeline.held_draft import Letter
from jaylantern.errors import InvalidValue

LISTENS = 4
ORDERS: tuple[tuple[Letter, ...], ...] = tuple(
    tuple(Letter.A if i in of_a else Letter.B for i in range(LISTENS)) for of_a in combinations(range(LISTENS), 2)
)


def drawn(below: Callable[[int], int]) -> tuple[Letter, ...]:
    """An order of two listens each, all six equally likely where `below(n)` is, of 0 … n − 1."""
    return ORDERS[below(len(ORDERS))]


def verdict(order: Sequence[Letter], liked: Collection[int]) -> tuple[Letter | None, str]:
    """Which draft was liked, None where that can't be said, and what came of it in words.

    `liked` are the listens, from 0, that were marked. Of the six orders, two are so that two marks fall on one draft:
    who hears no difference comes to that in one round of three. Raises InvalidValue for an order that can't be, or a
    listen that is not there.
    """
    if tuple(order) not in ORDERS or not set(liked) <= set(range(LISTENS)):
        raise InvalidValue("A blind round is four listens, two of each draft.")
    count = {letter: sum(order[i] is letter for i in set(liked)) for letter in Letter}
    a, b = count[Letter.A], count[Letter.B]
    best = Letter.A if a > b else Letter.B
    if a == b:
        return None, "Both drafts were marked alike: nothing speaks for either." if a else "None was marked."
    if {a, b} == {0, 2}:
        return best, f"Draft {best}, both times. Who hears no difference comes to that in one round of three."
    few = f"{best} was marked {count[best]} of 2 times, {best.other} {count[best.other]} of 2"
    return best, f"Rather draft {best}: {few}. That says little; mark two of the four to be surer."
