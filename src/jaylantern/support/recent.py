"""Results that were made lately, kept so that they need not be made again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

T = TypeVar("T")


class Recent:
    """The results made last, a bounded number of them, shared between threads."""

    def __init__(self, most: int) -> None:
        self._most, self._held, self._lock = most, OrderedDict[Hashable, Any](), threading.Lock()

    def held(self, key: Hashable) -> Any | None:
        """The held result for a key, None where there is none."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
            return self._held.get(key)

    def keep(self, key: Hashable, made: object) -> None:
        """Hold a result."""
        with self._lock:
            self._held[key] = made
            while len(self._held) > self._most:
                self._held.popitem(last=False)

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The held result for a key, made if need be; an exception is not held."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]
        made = make()
        self.keep(key, made)
        return made
