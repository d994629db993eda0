"""A lock file that one process holds while it lives: it says who, and a second one is told. However a process ends, its
lock is gone."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import IO

from jaylantern.errors import Refused
from jaylantern.support import system


class Lock:
    """A lock file, held."""

    def __init__(self, path: Path, words: Callable[[str], str]) -> None:
        """Hold the file. Raises Refused with `words` of what its holder says of itself where another process does."""
        path.touch(mode=0o600)
        self._file: IO[str] = path.open("r+", encoding="utf-8")
        try:
            system.hold(self._file)
        except OSError:
            holder = self._file.read(400).strip()
            self._file.close()
            raise Refused(words(holder)) from None
        self.say("")

    @staticmethod
    def holder(path: Path) -> str:
        """What whoever holds a lock file says of itself; "" where nobody ever did."""
        try:
            return path.read_text(encoding="utf-8")[:400].strip()
        except OSError:
            return ""

    def say(self, what: str) -> None:
        """What a second process is told of this one: its number, and this."""
        self._file.seek(0)
        self._file.truncate()
        self._file.write(f"process {os.getpid()}{f', {what}' if what else ''}\n")
        self._file.flush()

    def release(self) -> None:
        """Let go of it."""
        self._file.close()
