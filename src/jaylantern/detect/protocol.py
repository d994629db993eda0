"""What a voice detector must do."""

from typing import Protocol

import numpy as np


class VoiceDetector(Protocol):
    """Hears one stream of 16 kHz mono sound and says how likely each 32 ms is voice."""

    def probabilities(self, samples: np.ndarray) -> np.ndarray:
        """Probability (n // 512,) float32 of the next samples, (n,) float32, n a multiple of 512."""
        ...
