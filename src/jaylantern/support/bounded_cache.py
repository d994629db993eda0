"""Results that were made lately: a bounded number of them, or of bytes, shared between threads. The cache itself is
cachetools'."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Mapping
from dataclasses import is_dataclass
from typing import Any, TypeVar

import numpy as np
from cachetools import LRUCache

T = TypeVar("T")
AROUND = 500  # bytes that a result takes beside its arrays


class BoundedCache:
    """The results used last: so many, or of so much size, where `size` says how large one is. Two threads may make the
    same result at once; an exception is not held, nor what is larger than all there is room for."""

    def __init__(self, most: int, size: Callable[[Any], int] | None = None) -> None:
        self._held: LRUCache[Hashable, Any] = LRUCache(most, size)
        self._lock = threading.Lock()
        self._size = size

    def peek(self, key: Hashable) -> Any | None:
        """The held result for a key, None where there is none."""
        with self._lock:
            return self._held.get(key)

    def keep(self, key: Hashable, made: object) -> None:
        """Hold a result."""
        with self._lock:
            if self._size is None or self._size(made) <= self._held.maxsize:
                self._held[key] = made

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The held result for a key, made if need be."""
        found = self.peek(key)
        if found is None:
            found = make()
            self.keep(key, found)
        return found


def bytes_of(made: object) -> int:
    """About how much memory the arrays take that a result holds, each counted once."""
    arrays: dict[int, int] = {}

    def look(at: object) -> None:
        if isinstance(at, np.ndarray):
            arrays[id(at)] = at.nbytes
        elif isinstance(at, Mapping):
            for each in at.values():
                look(each)
        elif isinstance(at, (tuple, list)):
            for each in at:
                look(each)
        elif is_dataclass(at):
            look(vars(at))

    look(made)
    return AROUND + sum(arrays.values())
