"""What an ear must do: hear one stream of sound, and say of every 10 ms what it probably is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

RATE = 16_000  # of the mono sound that an ear hears
BLOCK_N = 160  # samples of it in 10 ms

Floats = NDArray[np.float32]
Rows = TypeVar("Rows", NDArray[np.float16], NDArray[np.float32])


@dataclass(frozen=True, eq=False)
class Heard:
    """What was heard in each 10 ms: the probability (blocks,) that it is speech, singing, music; the level in each of
    the bands that words are set by, dB, (blocks, bands), half precision."""

    speech: Floats
    singing: Floats
    music: Floats
    band_db: NDArray[np.float16]


class Ear(Protocol):
    """Hears one stream of 16 kHz mono sound, and answers for as many blocks as it was made for: a block that the stream
    lacks is as the last it has, those beyond are not answered for."""

    def add(self, samples: Floats) -> None:
        """Hear the next samples, (n,), any n."""
        ...

    def finish(self) -> Heard:
        """What was heard; the stream is over."""
        ...


class Answers(Generic[Rows]):
    """Rows, (blocks,) or (blocks, n), filled one after another; room for all is taken once."""

    def __init__(self, rows: Rows) -> None:
        self._rows: Rows = rows
        self._filled = 0

    def take(self, found: Rows) -> None:
        """The next rows; those there is no room for are let go."""
        fitting = found[: len(self._rows) - self._filled]
        self._rows[self._filled : self._filled + len(fitting)] = fitting
        self._filled += len(fitting)

    def whole(self) -> Rows:
        """All rows; those not filled are as the last that was."""
        if self._filled:
            self._rows[self._filled :] = self._rows[self._filled - 1]
        return self._rows
