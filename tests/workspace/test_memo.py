"""The one memo of a data folder: what it keeps, and how much of it."""

from __future__ import annotations

import ast
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest

from jaylantern.core.memo import Same
from jaylantern.support.bounded_cache import AROUND, BoundedCache, bytes_of
from jaylantern.workspace.memo import KINDS, Memo

SOURCE = Path(__file__).parents[2] / "src" / "jaylantern"


@dataclass(frozen=True)
class Pair:
    one: np.ndarray
    two: np.ndarray


TEN = np.zeros(10)


@pytest.mark.parametrize(
    ("made", "arrays"),
    [
        (TEN, 80),
        ((TEN, TEN), 80),
        ([np.zeros(4), {"a": np.zeros(2, np.int16)}], 36),
        (Pair(TEN, np.zeros(1)), 88),
        ("ab", 0),
    ],
)
def test_arrays_are_counted_each_once(made, arrays):
    assert bytes_of(made) == AROUND + arrays


def test_so_many_bytes_are_held_and_what_is_larger_than_all_is_not():
    cache = BoundedCache(3 * (AROUND + 80), bytes_of)
    for k in range(4):
        cache.keep(k, np.zeros(10))
    assert [k for k in range(4) if cache.peek(k) is not None] == [1, 2, 3]
    cache.keep("vast", np.zeros(1000))
    assert cache.peek("vast") is None
    assert cache.peek(3) is not None


def test_what_was_made_is_there_for_an_equal_key_and_each_kind_by_itself():
    memo, made = Memo(), []

    def make() -> list[int]:
        made.append(len(made))
        return made[-1:]

    lanes = (1, 2)
    assert memo(("cues", Same(lanes)), make) is memo(("cues", Same(lanes)), make)
    assert memo(("cues", Same((1, 2 + len(made) - 1))), make) == [1], "equal to itself alone"
    assert memo(("beats", Same(lanes)), make) == [2]
    with pytest.raises(KeyError):
        memo(("anything", 1), make)


def test_what_can_not_be_made_is_not_held():
    memo = Memo()
    with pytest.raises(ZeroDivisionError):
        memo(("mix", 1), lambda: 1 / 0)
    assert memo(("mix", 1), lambda: 5) == 5


def test_every_kind_of_the_table_is_a_key_somewhere():
    """One that is none of them is a KeyError."""
    first = {
        node.elts[0].value
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Tuple) and len(node.elts) > 1 and isinstance(node.elts[0], ast.Constant)
    }
    assert {each.name for each in KINDS} <= first
    assert all(bool(each.most) != bool(each.most_bytes) for each in KINDS)
