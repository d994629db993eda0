"""What an ear must do: hear one stream of sound, and say of every 10 ms what it probably is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

RATE = 16_000  # of the mono sound that an ear hears
BLOCK_N = 160  # samples of it in 10 ms

Floats = NDArray[np.float32]


@dataclass(frozen=True, eq=False)
class Heard:
    """What was heard in each 10 ms: the probability (blocks,) that it is speech, singing, music; the level in each of
    the bands that words are set by, dB, (blocks, bands), half precision."""

    speech: Floats
    singing: Floats
    music: Floats
    band_db: NDArray[np.float16]


class Ear(Protocol):
    """Hears one stream of 16 kHz mono sound."""

    def add(self, samples: Floats) -> None:
        """Hear the next samples, (n,), any n."""
        ...

    def finish(self) -> Heard:
        """What was heard; the stream is over."""
        ...
