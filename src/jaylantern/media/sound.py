"""The decoded sound of a medium on disk: raw samples at 48 kHz, written once, read in any window."""

from __future__ import annotations

from collections.abc import Generator, Hashable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

import numpy as np

from jaylantern.core.mixing.mix import Reader
from jaylantern.core.signal.analysis import as_float
from jaylantern.core.timeline.care import Source
from jaylantern.errors import Damaged


class Sound(Protocol):
    """The sound of a medium, read in any window."""

    @property
    def channels(self) -> int:
        """1 or 2."""
        ...

    @property
    def length_n(self) -> int:
        """Samples."""
        ...

    @property
    def key(self) -> Hashable:
        """What tells this sound from any other."""
        ...

    def read(self, start_n: int, stop_n: int) -> np.ndarray:
        """float32 samples [start_n, stop_n), shape (n, channels); silence past the end of the sound."""
        ...

    def chunks(self, size_n: int) -> Iterator[np.ndarray]:
        """The whole sound in blocks of `size_n` samples, the last as short as it must be."""
        ...

    def mapped(self) -> Sound:
        """The same, read without a copy. For processes that may die of it when a file is damaged under them."""
        ...

    def must_be_whole(self) -> None:
        """Raises Damaged where a file of it is gone, or is not as large as it must be."""
        ...


@dataclass(frozen=True)
class Reading:
    """The function rendering reads sound by, over the stores of media by their number; fit for other processes."""

    stores: Mapping[Source, Sound]

    def __call__(self, source: Source, start_n: int, stop_n: int, /) -> np.ndarray:
        """Samples of a medium, as `SoundStore.read` gives them."""
        return self.stores[source].read(start_n, stop_n)


@dataclass(frozen=True)
class SoundStore:
    """A raw file of interleaved samples; `dtype` is int16 or float32."""

    path: Path
    dtype: str
    channels: int
    length_n: int

    @property
    def key(self) -> Hashable:
        """Where it lies."""
        return self.path

    @classmethod
    def written(cls, path: Path, chunks: Generator[np.ndarray, None, None]) -> SoundStore:
        """A store of chunks (n, channels) of one type, written to a file one after another.

        The generator is closed whatever happens: a file it reads from must not stay open when the disk is full.
        """
        length_n, dtype, channels = 0, "float32", 0
        with closing(chunks), path.open("wb") as file:
            for chunk in chunks:
                file.write(np.ascontiguousarray(chunk).data)
                length_n, dtype, channels = length_n + len(chunk), chunk.dtype.name, chunk.shape[1]
        return cls(path, dtype, channels, length_n)

    def read(self, start_n: int, stop_n: int) -> np.ndarray:
        """float32 samples [start_n, stop_n), shape (n, channels); silence past the end of the sound. Raises Damaged
        where the file holds less than it must."""
        row = np.dtype(self.dtype).itemsize * self.channels
        there = max(0, min(stop_n, self.length_n) - start_n)
        raw = np.empty((there, self.channels), self.dtype)
        try:
            with self.path.open("rb", buffering=0) as file:
                file.seek(start_n * row)
                got = file.readinto(raw.data) if there else 0
        except FileNotFoundError:
            raise Damaged(self.path.parent.name) from None
        if got != there * row:  # silence in its place would be a wrong mix
            raise Damaged(self.path.parent.name)
        return _filled(as_float(raw), stop_n - start_n)

    def must_be_whole(self) -> None:
        """Raises Damaged where the file is gone, or is not as large as it must be."""
        wanted = np.dtype(self.dtype).itemsize * self.channels * self.length_n
        if not self.path.is_file() or self.path.stat().st_size != wanted:
            raise Damaged(self.path.parent.name)

    def chunks(self, size_n: int) -> Iterator[np.ndarray]:
        """The whole sound in blocks of `size_n` samples, the last as short as it must be."""
        return (self.read(*span) for span in spans(self.length_n, size_n))

    def mapped(self) -> MappedSound:
        """The same, read without a copy. For processes that may die of it when the file is damaged under them."""
        self.must_be_whole()
        empty = np.zeros((0, self.channels), self.dtype)
        rows = np.memmap(self.path, self.dtype, "r").reshape(-1, self.channels) if self.length_n else empty
        return MappedSound(self.path, rows)


@dataclass(frozen=True)
class MappedSound:
    """A raw file of samples (n, channels) as a part of memory."""

    path: Path
    rows: np.ndarray

    @property
    def key(self) -> Hashable:
        """Where it lies."""
        return self.path

    @property
    def channels(self) -> int:
        """1 or 2."""
        return int(self.rows.shape[1])

    @property
    def length_n(self) -> int:
        """Samples."""
        return len(self.rows)

    def read(self, start_n: int, stop_n: int) -> np.ndarray:
        """As `SoundStore.read`."""
        samples = self.rows[min(start_n, len(self.rows)) : stop_n]
        floats = samples.copy() if samples.dtype == np.float32 else as_float(samples)
        return _filled(np.asarray(floats), stop_n - start_n)

    def chunks(self, size_n: int) -> Iterator[np.ndarray]:
        """As `SoundStore.chunks`."""
        return (self.read(*span) for span in spans(self.length_n, size_n))

    def mapped(self) -> MappedSound:
        """Itself."""
        return self

    def must_be_whole(self) -> None:
        """It was when it was mapped."""


def mapped(read: Reader) -> Reader:
    """The same function reading without a copy, where it can."""
    if not isinstance(read, Reading):
        return read
    sounds = {source: store.mapped() for source, store in read.stores.items()}
    return lambda source, start_n, stop_n: sounds[source].read(start_n, stop_n)


def spans(length_n: int, size_n: int) -> Iterator[tuple[int, int]]:
    """A length cut into stretches of `size_n`, the last as short as it must be."""
    return ((start_n, min(start_n + size_n, length_n)) for start_n in range(0, length_n, size_n))


def _filled(samples: np.ndarray, length_n: int) -> np.ndarray:
    """Samples with silence after them."""
    missing = length_n - len(samples)
    return np.pad(samples, ((0, missing), (0, 0))) if missing else samples
