"""WAV writing: 16 bit with dither, 24 bit, 32-bit float; as BWF with its start time; as RF64 beyond 4 GiB.

Sources: EBU Tech 3306 (RF64), EBU Tech 3285 version 2 (the bext chunk, with loudness).
"""

from __future__ import annotations

import math
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Samples
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.support.atomic_file import whole

LARGEST_RIFF = 0xFFFF_FFFF
BEXT_BYTES = 602
NO_VALUE = 0x7FFF  # of a loudness that is not known
Sample = Literal["16", "24", "32f"]
SAMPLE_BYTES: dict[Sample, int] = {"16": 2, "24": 3, "32f": 4}


@dataclass(frozen=True)
class Bext:
    """What a broadcast WAV says of itself. `date` as 2026-11-25, `time` as 14:03:54, `start_n` samples since midnight
    at the file's own rate."""

    description: str
    date: str
    time: str
    start_n: int = 0


def tpdf(noise: np.random.Generator, count: int) -> np.ndarray:
    """Noise of triangular density from −1 to 1 step, (count,)."""
    return noise.random(count, np.float32) - noise.random(count, np.float32)


def pack(
    samples: Samples, sample: Sample, noise: np.random.Generator | None = None, *, within: bool = False
) -> tuple[NDArray[np.uint8], int]:
    """The bytes of samples (n, channels), how many were held at full scale. Whole numbers are rounded to the nearest
    step, after noise of triangular density where it is given. What is known to be `within` full scale is not looked
    at."""
    if sample == "32f":
        return np.ascontiguousarray(samples, "<f4").ravel().view(np.uint8), 0
    full, over_n = np.float32(1 << (15 if sample == "16" else 23)), 0
    steps = samples.ravel() * full
    if noise is not None:
        steps += tpdf(noise, len(steps))
    np.rint(steps, out=steps)
    if len(steps) and not within and (steps.max() > full - 1 or steps.min() < -full):
        over_n = int(((steps > full - 1) | (steps < -full)).sum())
        np.clip(steps, -full, full - 1, out=steps)
    if sample == "16":
        return steps.astype("<i2").view(np.uint8), over_n
    out = np.empty(len(steps) * 3 + 1, np.uint8)  # each in four bytes, three apart: the next covers its topmost
    np.ndarray((len(steps),), "<i4", out, strides=(3,))[:] = steps
    return out[:-1], over_n


class WavWriter:
    """Writes blocks of float32 samples. `over_n` counts samples held at full scale.

    16 bit are dithered with noise of triangular density, two steps wide (TPDF), the same noise every time, unless what
    is written was dithered before.
    """

    def __init__(
        self,
        path: Path,
        channels: int = 2,
        *,
        rate: int = RATE,
        sample: Sample = "24",
        bext: Bext | None = None,
        dither: bool = True,
    ) -> None:
        self._channels, self._rate, self._sample, self._bext = channels, rate, sample, bext
        self._file, self._bytes, self.over_n = path.open("wb"), 0, 0
        self._noise = np.random.default_rng(1) if dither and sample == "16" else None
        self._file.write(bytes(len(self._header(None))))

    def write(self, samples: np.ndarray) -> None:
        """Append (n, channels)."""
        data, over_n = pack(samples, self._sample, self._noise)
        self._file.write(data.data)
        self.laid(len(samples), over_n)

    def begin(self) -> int:
        """The byte at which the samples begin; all that was written before is in the file, for others to write on."""
        self._file.flush()
        return len(self._header(None))

    def laid(self, count_n: int, over_n: int) -> None:
        """So many samples follow in the file, and of them so many were held at full scale."""
        self._bytes += count_n * self._channels * SAMPLE_BYTES[self._sample]
        self.over_n += over_n

    def close(self, loudness: Loudness | None = None) -> None:
        """Write the header with the lengths and, in a broadcast WAV, what the sound measures; close the file."""
        if self._bytes % 2:
            self._file.seek(0, 2)
            self._file.write(b"\0")
        self._file.seek(0)
        self._file.write(self._header(loudness))
        self._file.close()

    def _header(self, loudness: Loudness | None) -> bytes:
        """RIFF or RF64, a JUNK or ds64 chunk of 28 bytes, bext if wanted, fmt, data."""
        size = SAMPLE_BYTES[self._sample]
        frame = size * self._channels
        kind = 3 if self._sample == "32f" else 1
        bext = b"" if self._bext is None else _bext(self._bext, loudness)
        before = bext + fmt(kind, self._channels, self._rate, size)
        return head(before, self._bytes, frame, after=self._bytes % 2, big=b"RF64")


def fmt(kind: int, channels: int, rate: int, size: int) -> bytes:
    """The chunk `fmt `: 1 is PCM, 3 floats; `size` bytes a sample of one channel."""
    frame = size * channels
    return struct.pack("<4sIHHIIHH", b"fmt ", 16, kind, channels, rate, rate * frame, frame, size * 8)


def head(before: bytes, data_bytes: int, frame: int, *, after: int, big: bytes) -> bytes:
    """All up to the samples: RIFF, or `big` where that can't say the length, a JUNK or ds64 chunk of 28 bytes, the
    chunks that stand `before` the samples, the head of `data`. `after` bytes follow the samples; `frame` is what those
    of all channels take."""
    riff = 12 + 36 + len(before) + 8 + data_bytes + after - 8
    large = riff > LARGEST_RIFF
    sizes = struct.pack("<QQQI", riff, data_bytes, data_bytes // frame, 0) if large else bytes(28)
    first = struct.pack("<4sI4s", big if large else b"RIFF", LARGEST_RIFF if large else riff, b"WAVE")
    extra = struct.pack("<4sI", b"ds64" if large else b"JUNK", 28) + sizes
    data = struct.pack("<4sI", b"data", LARGEST_RIFF if large else data_bytes)
    return first + extra + before + data


def _bext(about: Bext, loudness: Loudness | None) -> bytes:
    """The chunk with its head: EBU Tech 3285 version 2, section 2.3."""

    def text(value: str, size: int) -> bytes:
        return value.encode("ascii", "replace")[:size].ljust(size, b"\0")

    def hundredths(value: float) -> int:
        return max(-0x7FFF, min(NO_VALUE - 1, round(100 * value))) if math.isfinite(value) else NO_VALUE

    figures = [NO_VALUE] * 5
    if loudness is not None:
        figures = [
            hundredths(each)
            for each in (
                loudness.integrated_lufs,
                loudness.loudness_range_lu,
                loudness.true_peak_dbtp,
                loudness.max_momentary_lufs,
                loudness.max_short_term_lufs,
            )
        ]
    body = b"".join(
        (
            text(about.description, 256),
            text("Jay Lantern", 32),
            text("", 32),
            text(about.date, 10),
            text(about.time, 8),
            struct.pack("<QH", about.start_n, 2),
            bytes(64),
            struct.pack("<5h", *figures),
            bytes(180),
        )
    )
    assert len(body) == BEXT_BYTES
    return struct.pack("<4sI", b"bext", len(body)) + body


def write_wav(path: Path, blocks: Iterator[Samples], *, channels: int = 2) -> int:
    """Write a 24-bit WAV; returns how many samples had to be held at full scale."""

    def write(part: Path) -> int:
        writer = WavWriter(part, channels)
        try:
            for block in blocks:
                writer.write(block)
        finally:
            writer.close()
        return writer.over_n

    return whole(path, write)
