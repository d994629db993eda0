"""A voice take on disk: mono float32 at 48 kHz as it comes in, then a WAV file.

Every part is on disk before it is acknowledged, so that nothing recorded is lost when the page goes away.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue
from jaylantern.media import wav
from jaylantern.support import system

SAMPLE_BYTES = 4
LONGEST_N = RATE * 3600 * 3
BLOCK_N = RATE * 4


def received_n(path: Path) -> int:
    """Samples recorded so far."""
    return path.stat().st_size // SAMPLE_BYTES if path.exists() else 0


def append(path: Path, raw: bytes) -> int:
    """Add samples; returns how many there are now. Raises InvalidValue for half samples and for three hours of them."""
    if len(raw) % SAMPLE_BYTES:
        raise InvalidValue("A part of the take ends in the middle of a sample.")
    if received_n(path) + len(raw) // SAMPLE_BYTES > LONGEST_N:
        raise InvalidValue("A take can last three hours. Stop it, keep it, and begin another.")
    with path.open("ab") as file:
        file.write(raw)
        system.flush_to_disk(file)
    return received_n(path)


def write_wav(path: Path, target: Path) -> float:
    """Write the take as a 24-bit WAV file; returns its largest sample, 0–1."""
    peak = 0.0

    def blocks() -> Iterator[np.ndarray]:
        nonlocal peak
        with path.open("rb") as file:
            while raw := file.read(BLOCK_N * SAMPLE_BYTES):
                samples = np.nan_to_num(np.frombuffer(raw, "<f4"))[:, None]
                peak = max(peak, float(np.abs(samples).max(initial=0.0)))
                yield samples

    wav.write_wav(target, blocks(), channels=1)
    return peak
