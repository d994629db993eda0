"""A plain level gate as an ear: the smallest back end, for tests and as a yardstick."""

from __future__ import annotations

import numpy as np

from jaylantern.core.speech.prominence import levels_of
from jaylantern.detect.protocol import BLOCK_N, Answers, Floats, Heard


class GateEar:
    """Calls anything above a level speech."""

    def __init__(self, blocks: int, threshold_db: float = -35.0) -> None:
        self._power = 10.0 ** (threshold_db / 10.0)
        self._rest, self._found = np.zeros(0, np.float32), Answers(np.zeros(blocks, np.float32))

    def add(self, samples: Floats) -> None:
        """Hear the next samples, (n,)."""
        sound = np.concatenate((self._rest, samples))
        whole = len(sound) // BLOCK_N * BLOCK_N
        self._rest = sound[whole:]
        blocks = sound[:whole].reshape(-1, BLOCK_N)
        self._found.take(np.vecdot(blocks, blocks) / BLOCK_N)

    def finish(self) -> Heard:
        """1 for each block whose mean square passes the threshold, else 0; it knows nothing of singing and music."""
        self.add(np.zeros(-len(self._rest) % BLOCK_N, np.float32))
        power = self._found.whole()
        speech = (power > self._power).astype(np.float32)
        return Heard(speech, np.zeros_like(speech), np.zeros_like(speech), levels_of(power)[:, None])
