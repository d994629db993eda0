"""The peaks of a medium on disk: level 0 as it comes, then every level made from the one before, block by block."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np

from jaylantern.core.signal.peaks import Pairs, halved

BLOCK_PAIRS = 1 << 16
PAIR_BYTES = 4


class PeaksFile:
    """Writes a pyramid, finest level first; memory does not grow with its length."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("w+b")
        self._count = 0

    def add(self, pairs: Pairs) -> None:
        """Append pairs of level 0."""
        self._file.write(np.ascontiguousarray(pairs, np.int16).data)
        self._count += len(pairs)

    def finish(self) -> tuple[int, ...]:
        """Write the other levels, and answer how many pairs each level has."""
        counts, start = [self._count], 0
        while counts[-1] > 1:
            counts.append(self._next_level(start, counts[-1]))
            start += counts[-2]
        self.close()
        return tuple(counts)

    def _next_level(self, start: int, count: int) -> int:
        """Append the level above the one of `count` pairs that begins at pair `start`."""
        made = 0
        for done in range(0, count, BLOCK_PAIRS):
            self._file.seek((start + done) * PAIR_BYTES)
            block = self._file.read(min(BLOCK_PAIRS, count - done) * PAIR_BYTES)
            upper = halved(np.frombuffer(block, np.int16).reshape(-1, 2))
            self._file.seek(0, os.SEEK_END)
            self._file.write(upper.tobytes())
            made += len(upper)
        return made

    def close(self) -> None:
        """Close the file, finished or not."""
        self._file.close()
