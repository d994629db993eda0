"""Handing off: walks the render and writes files. Every file is whole or not there."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path
from typing import TextIO

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Reader, Renderer, Variant
from jaylantern.core.signal.arrays import rechunked
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from jaylantern.interchange import keyframes
from jaylantern.media.sound_files import Form, Resampler, Writer, bext_of, open_writer, resampled
from jaylantern.media.wav import Bext, WavWriter, tpdf
from jaylantern.render import pool
from jaylantern.render.worker import Laid, Render
from jaylantern.support.atomic_file import whole

DITHERED_BITS = 16
Progress = Callable[[float, str], None]


def whole_of(prog: Programme, read: Reader, variant: Variant) -> Render:
    """All of a programme."""
    return Render(prog, read, variant, 0, prog.length_n)


def _long(render: Render) -> bool:
    return pool.worth_while(render.stop_n - render.start_n)


def _share(render: Render, done_n: int) -> float:
    """What part of it so many samples are."""
    return done_n / max(1, render.stop_n - render.start_n)


def rendered(render: Render, progress: Progress) -> Iterator[np.ndarray]:
    """Blocks of the render, with progress told after each; a long one is made on all cores."""
    if _long(render):
        blocks = pool.blocks(render)
    else:
        blocks = Renderer(render.prog, render.read, render.variant).blocks(render.start_n, render.stop_n)
    done_n = 0
    for block in blocks:
        yield block
        done_n += len(block)
        progress(_share(render, done_n), "rendering")


def by_tag(
    prog: Programme, read: Reader, progress: Progress, *, start_n: int, stop_n: int
) -> Iterator[Mapping[Tag, np.ndarray]]:
    """What makes up the mix before the limiter, by tag, with progress told after each block."""
    done_n = 0
    for block in Renderer(prog, read, Variant.UNLIMITED).by_tag(start_n, stop_n):
        yield block
        done_n += len(next(iter(block.values())))
        progress(done_n / (stop_n - start_n), "rendering")


@dataclass(frozen=True)
class Written:
    """What became of a sound file: samples that had to be held at full scale, what it measures if that was asked."""

    over_n: int
    loudness: Loudness | None


def write_render(
    path: Path, render: Render, progress: Progress, *, form: Form, rate: int, bext: Bext, measure: bool = True
) -> Written:
    """Render into a file in a form and at a rate, measured on the way. What is long is laid out and measured by the
    processes that render it, where its form allows that."""
    if _long(render) and rate == RATE and form.sample in ("24", "32f"):
        return whole(path, lambda part: _write_laid(part, render, progress, form=form, bext=bext, measure=measure))
    return write_sound(path, rendered(render, progress), form=form, rate=rate, bext=bext, measure=measure)


def _write_laid(path: Path, render: Render, progress: Progress, *, form: Form, bext: Bext, measure: bool) -> Written:
    assert form.sample is not None
    writer, meter, loudness = WavWriter(path, sample=form.sample, bext=bext_of(form, bext)), ProgrammeMeter(2), None
    edges = [*range(render.start_n, render.stop_n, pool.STRETCH_N), render.stop_n]
    try:
        lay = Laid(render, path, writer.begin(), form.sample, measure)
        with closing(pool.stretches(lay, list(pairwise(edges)))) as stretches:
            for made in stretches:
                over_n, part = made.told
                writer.laid(made.stop_n - made.start_n, over_n)
                if part is not None:
                    meter.take(part)
                progress(_share(render, made.stop_n - render.start_n), "rendering")
        loudness = meter.finish() if measure else None
    finally:
        writer.close(loudness)
    return Written(writer.over_n, loudness)


def write_sound(
    path: Path, blocks: Iterator[np.ndarray], *, form: Form, rate: int, bext: Bext, measure: bool = True
) -> Written:
    """Write stereo blocks at 48 kHz in a form and at a rate, measured on the way. `bext.start_n` is at 48 kHz."""
    about = replace(bext, start_n=round(bext.start_n * rate / RATE))

    def write(part: Path) -> Written:
        meter, loudness = ProgrammeMeter(2), None
        writer = open_writer(part, form, rate, about)
        try:
            for block in resampled(_metered(blocks, meter) if measure else blocks, rate):
                writer.write(block)
            loudness = meter.finish() if measure else None
        finally:
            writer.close(loudness)
        return Written(writer.over_n, loudness)

    return whole(path, write)


def write_stems(
    paths: Mapping[Tag, Path],
    blocks: Iterator[Mapping[Tag, np.ndarray]],
    *,
    form: Form,
    rate: int,
    about: Mapping[Tag, Bext],
) -> int:
    """Write a file for each tag from blocks of what makes up the mix; returns how many samples were held at full scale.

    What rounding a stem leaves out is given to the next one, so that together they are off by half a step, not by half
    a step each and by all their dither.
    """
    parts = {tag: path.with_name("part-" + path.name) for tag, path in paths.items()}
    writers: dict[Tag, Writer] = {}
    try:
        for tag, part in parts.items():
            bext = replace(about[tag], start_n=round(about[tag].start_n * rate / RATE))
            writers[tag] = open_writer(part, form, rate, bext, dither=False)
        try:
            for tag, block in _stem_blocks(blocks, list(paths), form=form, rate=rate):
                writers[tag].write(block)
        finally:
            for writer in writers.values():
                writer.close()
        for tag, path in paths.items():
            parts[tag].replace(path)
    finally:
        for part in parts.values():
            part.unlink(missing_ok=True)
    return sum(writer.over_n for writer in writers.values())


def _stem_blocks(
    blocks: Iterator[Mapping[Tag, np.ndarray]], tags: list[Tag], *, form: Form, rate: int
) -> Iterator[tuple[Tag, np.ndarray]]:
    """Every block of every stem at its rate, silence where a tag has none, rounding handed on."""
    streams = {tag: Resampler(rate) for tag in tags}
    noise = np.random.default_rng(1) if form.bits == DITHERED_BITS else None
    for block in blocks:
        silence = np.zeros_like(next(iter(block.values())))
        yield from _handed_on({tag: streams[tag].add(block.get(tag, silence)) for tag in tags}, form.bits, noise)
    yield from _handed_on({tag: streams[tag].finish() for tag in tags}, form.bits, noise)


def _handed_on(
    sounds: Mapping[Tag, np.ndarray], bits: int, noise: np.random.Generator | None
) -> Iterator[tuple[Tag, np.ndarray]]:
    """Sounds in whole steps, what is rounded off one (its dither, too) given to the next: so together they are off by
    no more than the last one is. That one needs no dither of its own, as it holds what the others were given."""
    step = 2.0 ** (1 - bits) if bits else 0.0
    left: np.ndarray | float = 0.0
    last = list(sounds)[-1]
    for tag, sound in sounds.items():
        if not step:
            yield tag, sound
            continue
        wanted = sound + np.asarray(left, np.float64)
        steps = wanted / step
        if noise is not None and (tag is not last or len(sounds) == 1):
            steps += tpdf(noise, sound.size).reshape(sound.shape)
        rounded = (np.rint(steps) * step).astype(np.float32)
        left = wanted - rounded
        yield tag, rounded


def _metered(blocks: Iterator[np.ndarray], meter: ProgrammeMeter) -> Iterator[np.ndarray]:
    for block in rechunked(blocks, BLOCK_N):
        meter.add(block)
        yield block


def write_wav(path: Path, blocks: Iterator[np.ndarray], *, channels: int = 2) -> int:
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


def write_text(path: Path, write: Callable[[TextIO], None]) -> None:
    """Write a text file by what is given to write into it."""

    def written(part: Path) -> None:
        with part.open("w", encoding="utf-8", newline="") as out:
            write(out)

    whole(path, written)


def write_keyframes(path: Path, curve: Curve) -> None:
    """Write a curve as CSV."""
    write_text(path, lambda out: keyframes.write_csv(out, curve))
