"""Handing off: walks the render and writes files. Every file is whole or not there."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, closing
from dataclasses import dataclass, replace
from itertools import pairwise
from pathlib import Path

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Reader, Renderer, Variant
from jaylantern.core.mixing.objects import SoundObject
from jaylantern.core.signal.arrays import rechunked, scaled
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.fades import NO_FADE, Fade, envelope
from jaylantern.interchange import adm, keyframes
from jaylantern.interchange.adm import AdmObject
from jaylantern.media.bw64 import Bw64Writer
from jaylantern.media.sound import Sound
from jaylantern.media.sound_files import Form, Resampler, Writer, bext_of, open_writer, resampled
from jaylantern.media.wav import Bext, WavWriter, tpdf
from jaylantern.render import pool
from jaylantern.render.worker import Laid, Render
from jaylantern.support.atomic_file import unfinished, whole, whole_text
from jaylantern.support.progress import Progress

DITHERED_BITS = 16


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


def by_stem(
    prog: Programme, read: Reader, progress: Progress, *, start_n: int, stop_n: int
) -> Iterator[Mapping[str, np.ndarray]]:
    """What makes up the mix before the limiter, by stem, with progress told after each block."""
    done_n = 0
    for block in Renderer(prog, read, Variant.UNLIMITED).by_stem(start_n, stop_n):
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
    edges = [*range(render.start_n, render.stop_n, pool.CHUNK_N), render.stop_n]
    try:
        lay = Laid(render, path, writer.begin(), form.sample, measure)
        with closing(pool.chunks(lay, list(pairwise(edges)))) as found:
            for made in found:
                over_n, part = made.summary
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
    paths: Mapping[str, Path],
    blocks: Iterator[Mapping[str, np.ndarray]],
    *,
    form: Form,
    rate: int,
    about: Mapping[str, Bext],
) -> int:
    """Write a file for each stem from blocks of what makes up the mix; returns how many samples were held at full
    scale.

    What rounding a stem leaves out is given to the next one, so that together they are off by half a step, not by half
    a step each and by all their dither.
    """
    writers: dict[str, Writer] = {}
    with ExitStack() as files:
        for stem, path in paths.items():
            bext = replace(about[stem], start_n=round(about[stem].start_n * rate / RATE))
            part = files.enter_context(unfinished(path))
            writers[stem] = open_writer(part, form, rate, bext, dither=False)
        try:
            for stem, block in _stem_blocks(blocks, list(paths), form=form, rate=rate):
                writers[stem].write(block)
        finally:
            for writer in writers.values():
                writer.close()
    return sum(writer.over_n for writer in writers.values())


def write_objects(
    path: Path,
    name: str,
    found: Sequence[SoundObject],
    meant: Sequence[AdmObject],
    read: Reader,
    progress: Progress,
    *,
    start_n: int,
    stop_n: int,
) -> Written:
    """Write objects as BW64, two tracks each, with their model; answers what they measure as they are meant."""
    writer, meter, loudness = Bw64Writer(path, adm.tracks(meant)), ProgrammeMeter(2), None
    walks = [Renderer(each.programme, read, Variant.UNLIMITED).blocks(start_n, stop_n) for each in found]
    at_n = start_n
    try:
        for blocks in zip(*walks, strict=True):
            writer.write(np.concatenate(blocks, axis=1))
            whole = np.zeros_like(blocks[0])
            for block, each in zip(blocks, found, strict=True):
                gains = 1.0 if each.gain is None else each.gain.amplitudes(at_n, at_n + len(block))
                whole += scaled(block, gains) if isinstance(gains, np.ndarray) else block * np.float32(gains)
            meter.add(whole)
            at_n += len(whole)
            progress((at_n - start_n) / (stop_n - start_n), "rendering")
        loudness = meter.finish()
    finally:
        writer.close(adm.document(name, meant, stop_n - start_n, loudness))
    return Written(writer.over_n, loudness)


def _stem_blocks(
    blocks: Iterator[Mapping[str, np.ndarray]], stems: list[str], *, form: Form, rate: int
) -> Iterator[tuple[str, np.ndarray]]:
    """Every block of every stem at its rate, silence where a stem has none, rounding handed on."""
    streams = {stem: Resampler(rate) for stem in stems}
    noise = np.random.default_rng(1) if form.bits == DITHERED_BITS else None
    for block in blocks:
        silence = np.zeros_like(next(iter(block.values())))
        yield from _handed_on({stem: streams[stem].add(block.get(stem, silence)) for stem in stems}, form.bits, noise)
    yield from _handed_on({stem: streams[stem].finish() for stem in stems}, form.bits, noise)


def _handed_on(
    sounds: Mapping[str, np.ndarray], bits: int, noise: np.random.Generator | None
) -> Iterator[tuple[str, np.ndarray]]:
    """Sounds in whole steps, what is rounded off one (its dither, too) given to the next: so together they are off by
    no more than the last one is. That one needs no dither of its own, as it holds what the others were given."""
    step = 2.0 ** (1 - bits) if bits else 0.0
    left: np.ndarray | float = 0.0
    last = list(sounds)[-1]
    for stem, sound in sounds.items():
        if not step:
            yield stem, sound
            continue
        wanted = sound + np.asarray(left, np.float64)
        steps = wanted / step
        if noise is not None and (stem is not last or len(sounds) == 1):
            steps += tpdf(noise, sound.size).reshape(sound.shape)
        rounded = (np.rint(steps) * step).astype(np.float32)
        left = wanted - rounded
        yield stem, rounded


def _metered(blocks: Iterator[np.ndarray], meter: ProgrammeMeter) -> Iterator[np.ndarray]:
    for block in rechunked(blocks, BLOCK_N):
        meter.add(block)
        yield block


def stereo(sound: Sound, *, fade_in: Fade = NO_FADE, fade_out: Fade = NO_FADE) -> Iterator[np.ndarray]:
    """All of a medium's sound in stereo blocks, faded."""
    at_n = 0
    for chunk in sound.chunks(BLOCK_N):
        both = np.repeat(chunk, 2 // chunk.shape[1], axis=1)
        gains = envelope(fade_in, fade_out, length_n=sound.length_n, first_n=at_n, last_n=at_n + len(chunk))
        yield both if gains is None else scaled(both, gains)
        at_n += len(chunk)


def write_keyframes(path: Path, curve: Curve) -> None:
    """Write a curve as CSV."""
    whole_text(path, lambda out: keyframes.write_csv(out, curve))
