"""BW64 writing: sound of many tracks with its Audio Definition Model, ITU-R BS.2088.

RIFF or BW64 · JUNK or ds64 · fmt · chna · data · axml      RIFF where it all fits into 4 GiB, so anything plays it
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import Refused
from jaylantern.media.wav import SAMPLE_BYTES, fmt, head, pack

Track = tuple[str, str, str]  # its identity, the formats of track and pack that it is meant as

MOST_TRACKS = 0xFFFF // SAMPLE_BYTES["24"]  # what a frame's size can say


class Bw64Writer:
    """Writes blocks of float32 samples (n, tracks) as 24 bit. `over_n` counts samples held at full scale."""

    def __init__(self, path: Path, tracks: Sequence[Track]) -> None:
        if len(tracks) > MOST_TRACKS:
            raise Refused(f"{len(tracks)} tracks are more than a file can hold. Hand off stems instead.")
        self._tracks, self._bytes, self.over_n = tracks, 0, 0
        self._file = path.open("wb")
        self._file.write(self._header(0))

    def write(self, samples: np.ndarray) -> None:
        """Append (n, tracks)."""
        data, over_n = pack(samples, "24")
        self._file.write(data.data)
        self._bytes += len(data)
        self.over_n += over_n

    def close(self, model: bytes = b"") -> None:
        """Write the model and the lengths; close the file."""
        padding = b"\0" * (self._bytes % 2)
        axml = struct.pack("<4sI", b"axml", len(model)) + model + b"\0" * (len(model) % 2)
        self._file.write(padding + axml)
        self._file.seek(0)
        self._file.write(self._header(len(padding) + len(axml)))
        self._file.close()

    def _header(self, after: int) -> bytes:
        """All that stands before the samples, with so many bytes after them."""
        count, size = len(self._tracks), SAMPLE_BYTES["24"]
        before = fmt(1, count, RATE, size) + _chna(self._tracks)
        return head(before, self._bytes, count * size, after=after, big=b"BW64")


def _chna(tracks: Sequence[Track]) -> bytes:
    """The chunk with its head: BS.2088, section 8."""
    body = struct.pack("<HH", len(tracks), len(tracks))
    for number, words in enumerate(tracks, 1):
        body += struct.pack("<H12s14s11sx", number, *(word.encode() for word in words))
    return struct.pack("<4sI", b"chna", len(body)) + body
