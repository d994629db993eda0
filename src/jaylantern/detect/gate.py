"""A plain level gate as a detector: the smallest back end, for tests and as a yardstick."""

from __future__ import annotations

import numpy as np

from jaylantern.detect.silero import FRAME_N


class GateDetector:
    """A VoiceDetector that calls anything above a level voice."""

    def __init__(self, threshold_db: float = -35.0) -> None:
        self._power = 10.0 ** (threshold_db / 10.0)

    def probabilities(self, samples: np.ndarray) -> np.ndarray:
        """1 for each 512 samples whose mean square passes the threshold, else 0; (n // 512,) float32."""
        frames = np.asarray(samples, np.float32).reshape(-1, FRAME_N)
        return (np.vecdot(frames, frames) / FRAME_N > self._power).astype(np.float32)
