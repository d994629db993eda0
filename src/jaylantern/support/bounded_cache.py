"""Results that were made lately: a bounded number of them, shared between threads. The cache itself is cachetools'."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

from cachetools import LRUCache

T = TypeVar("T")


class BoundedCache:
    """The results used last. Two threads may make the same result at once; an exception is not held."""

    def __init__(self, most: int) -> None:
        self._held: LRUCache[Hashable, Any] = LRUCache(most)
        self._lock = threading.Lock()

    def held(self, key: Hashable) -> Any | None:
        """The held result for a key, None where there is none."""
        with self._lock:
            return self._held.get(key)

    def keep(self, key: Hashable, made: object) -> None:
        """Hold a result."""
        with self._lock:
            self._held[key] = made

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The held result for a key, made if need be."""
        found = self.held(key)
        if found is None:
            found = make()
            self.keep(key, found)
        return found
