"""Turns: what several threads would do at once to one thing, they do one after another."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Hashable, Iterator
from contextlib import contextmanager


class Turns:
    """A lock for every key that is asked for, there only while somebody has it or waits for it."""

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._locks: dict[Hashable, threading.Lock] = {}
        self._wanted: Counter[Hashable] = Counter()

    @contextmanager
    def of(self, key: Hashable) -> Iterator[None]:
        """Hold what belongs to a key; whoever else wants it waits."""
        with self._guard:
            self._wanted[key] += 1
            lock = self._locks.setdefault(key, threading.Lock())
        try:
            with lock:
                yield
        finally:
            with self._guard:
                self._wanted[key] -= 1
                if not self._wanted[key]:
                    del self._wanted[key], self._locks[key]
