"""What was worked out before. The core keeps nothing: whoever calls it hands it a memo, and says there what is kept, by
what key, and how much of it."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Protocol, TypeVar

T = TypeVar("T")


class Memo(Protocol):
    """Answers what was made before for a key, or has it made. A key is the kind of thing it is, and all that it depends
    on: equal keys stand for equal things."""

    def __call__(self, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """The thing of a key."""


def anew(key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
    """Keeps nothing: what is asked for is made."""
    return make()


class Same:
    """An object as part of a key: equal to itself alone, however much it holds."""

    def __init__(self, of: object) -> None:
        self._of = of

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and other._of is self._of

    def __hash__(self) -> int:
        return id(self._of)
