"""24-bit WAV writing, as RF64 when it has to be longer than 4 GiB (EBU Tech 3306)."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np

from jaylantern.core.timebase import RATE

FULL_SCALE = 8_388_607  # 2^23 − 1
HEADER_BYTES = 80
LARGEST_RIFF = 0xFFFF_FFFF


class Wav24Writer:
    """Writes blocks of float32 samples as 24-bit PCM at 48 kHz. `over_n` counts samples held at full scale."""

    def __init__(self, path: Path, channels: int = 2) -> None:
        self._file = path.open("wb")
        self._channels = channels
        self._bytes = 0
        self.over_n = 0
        self._file.write(bytes(HEADER_BYTES))

    def write(self, samples: np.ndarray) -> None:
        """Append (n, channels). Rounded to the nearest step; an int32 laid into a view with strides of 3 bytes."""
        scaled = samples.ravel() * np.float32(FULL_SCALE + 1)
        np.rint(scaled, out=scaled)
        if len(scaled) and (scaled.max() > FULL_SCALE or scaled.min() < -FULL_SCALE - 1):
            self.over_n += int(((scaled > FULL_SCALE) | (scaled < -FULL_SCALE - 1)).sum())
            scaled = np.clip(scaled, -FULL_SCALE - 1, FULL_SCALE)
        packed = np.empty(len(scaled) * 3 + 1, np.uint8)
        np.ndarray((len(scaled),), "<i4", packed, strides=(3,))[:] = scaled.astype(np.int32)
        self._file.write(packed[:-1].data)
        self._bytes += len(packed) - 1

    def close(self) -> None:
        """Write the header with the lengths and close the file."""
        if self._bytes % 2:
            self._file.write(b"\0")
        self._file.seek(0)
        self._file.write(self._header())
        self._file.close()

    def _header(self) -> bytes:
        """RIFF or RF64, a JUNK or ds64 chunk of 28 bytes, fmt, data: 80 bytes in all."""
        frame = 3 * self._channels
        riff = self._bytes + self._bytes % 2 + HEADER_BYTES - 8
        big = riff > LARGEST_RIFF
        sizes = struct.pack("<QQQI", riff, self._bytes, self._bytes // frame, 0)
        extra = (b"ds64" if big else b"JUNK") + struct.pack("<I", 28) + (sizes if big else bytes(28))
        fmt = b"fmt " + struct.pack("<IHHIIHH", 16, 1, self._channels, RATE, RATE * frame, frame, 24)
        head = (b"RF64" if big else b"RIFF") + struct.pack("<I", LARGEST_RIFF if big else riff) + b"WAVE"
        return head + extra + fmt + b"data" + struct.pack("<I", LARGEST_RIFF if big else self._bytes)
