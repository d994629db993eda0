"""Handing off: walks the render and writes files. Every file is whole or not there."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from jaylantern.core.curve import Curve
from jaylantern.core.mix import Programme, Reader, Renderer, Variant
from jaylantern.interchange import keyframes
from jaylantern.media.film import write_film
from jaylantern.media.wav import Wav24Writer

Progress = Callable[[float, str], None]


def rendered(
    prog: Programme, read: Reader, variant: Variant, progress: Progress, *, start_n: int = 0, stop_n: int | None = None
) -> Iterator[np.ndarray]:
    """Blocks of the render, with progress told after each."""
    end_n = prog.length_n if stop_n is None else stop_n
    done_n = 0
    for block in Renderer(prog, read, variant).blocks(start_n, end_n):
        yield block
        done_n += len(block)
        progress(done_n / (end_n - start_n), "rendering")


def _whole(path: Path, write: Callable[[Path], None]) -> None:
    part = path.with_name("part-" + path.name)
    try:
        write(part)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def write_wav(path: Path, blocks: Iterator[np.ndarray], *, channels: int = 2) -> int:
    """Write a 24-bit WAV; returns how many samples had to be held at full scale."""
    over = 0

    def write(part: Path) -> None:
        nonlocal over
        writer = Wav24Writer(part, channels=channels)
        try:
            for block in blocks:
                writer.write(block)
        finally:
            writer.close()
        over = writer.over_n

    _whole(path, write)
    return over


def write_film_with(path: Path, *, source: Path, name: str, blocks: Iterator[np.ndarray]) -> None:
    """Write the film: picture copied from `source`, sound from the blocks."""
    _whole(path, lambda part: write_film(part, source=source, name=name, sound=blocks))


def write_keyframes(path: Path, curve: Curve) -> None:
    """Write a curve as CSV."""

    def write(part: Path) -> None:
        with part.open("w", encoding="utf-8", newline="") as out:
            keyframes.write_csv(out, curve)

    _whole(path, write)
