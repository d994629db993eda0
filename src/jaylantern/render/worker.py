"""What the processes of a long render make: samples, pieces of a WAV file, measures; and what such a process does.

This takes in few other modules, for such a process begins anew with every render.
"""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.mixing.metering import Part, ProgrammeMeter
from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS, LIMITED, Programme, Reader, Renderer, Variant
from jaylantern.core.mixing.mix_metering import RangeMeasure, measure_range
from jaylantern.core.signal.arrays import rechunked
from jaylantern.media.sound import mapped
from jaylantern.media.wav import SAMPLE_BYTES, Sample, pack
from jaylantern.support import child_process
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.system import SharedMemory

T = TypeVar("T")
T_co = TypeVar("T_co", covariant=True)


class Maker(Protocol[T_co]):
    """Makes samples [start_n, stop_n) of something: lays them into `out`, or elsewhere, and answers what else is to be
    known of them. It is sent to other processes."""

    @property
    def bytes_per_n(self) -> int:
        """What a sample of all channels takes in `out`; 0 where nothing is laid there."""

    def __call__(self, start_n: int, stop_n: int, out: NDArray[np.uint8]) -> T_co: ...


@dataclass(frozen=True)
class Render:
    """What is to be rendered: samples [start_n, stop_n) of a variant of a programme."""

    prog: Programme
    read: Reader
    variant: Variant
    start_n: int
    stop_n: int

    @property
    def within(self) -> bool:
        """Does the limiter keep every sample within full scale?"""
        return self.variant in LIMITED and self.prog.ceiling_dbtp <= 0

    def renderer(self) -> Renderer:
        """What renders it, in a process of its own."""
        return Renderer(self.prog, mapped(self.read), self.variant)


@dataclass(frozen=True)
class Floats:
    """Lays down the samples as they are."""

    render: Render
    bytes_per_n = CHANNELS * 4

    def __call__(self, start_n: int, stop_n: int, out: NDArray[np.uint8]) -> None:
        rows = out.view(np.float32).reshape(-1, CHANNELS)
        at = 0
        for block in self.render.renderer().blocks(start_n, stop_n):
            rows[at : at + len(block)] = block
            at += len(block)


@dataclass(frozen=True)
class Laid:
    """Lays ranges of a render into a WAV file whose samples begin at byte `at`; tells how many were held at full
    scale, and what they measure."""

    render: Render
    path: Path
    at: int
    sample: Sample
    measure: bool
    bytes_per_n = 0  # nothing is handed over

    def __call__(self, start_n: int, stop_n: int, out: NDArray[np.uint8]) -> tuple[int, Part | None]:
        asked, frame, over_n = self.render, 2 * SAMPLE_BYTES[self.sample], 0
        renderer = asked.renderer()
        before = renderer.render(start_n - BLOCK_N, start_n) if self.measure and start_n > asked.start_n else None
        meter = ProgrammeMeter(2, before) if self.measure else None
        with self.path.open("r+b") as file:
            file.seek(self.at + (start_n - asked.start_n) * frame)
            for block in rechunked(renderer.blocks(start_n, stop_n), BLOCK_N):
                data, held_n = pack(block, self.sample, within=asked.within)
                file.write(data.data)
                over_n += held_n
                if meter is not None:
                    meter.add(block)
        return over_n, None if meter is None else meter.part(last=stop_n == asked.stop_n)


@dataclass(frozen=True)
class Measured:
    """Renders ranges of a mix and measures them; here if it is given nothing to lay samples into."""

    prog: Programme
    read: Reader
    bytes_per_n = 0  # the samples are not wanted

    def __call__(self, start_n: int, stop_n: int, out: NDArray[np.uint8] | None = None) -> RangeMeasure:
        read = self.read if out is None else mapped(self.read)
        renderer = Renderer(self.prog, read, Variant.DUCKED, keep_apart=True)
        return measure_range(renderer, start_n, stop_n, last=stop_n == self.prog.length_n)


def work() -> None:
    """What such a process does: it is told how to make, then one range after another."""
    line = child_process.line()
    keep_freed_memory()
    with suppress(EOFError, OSError):
        make, name, size = line.heard()
        shared = SharedMemory(size, name)
        memory = np.frombuffer(shared.memory, np.uint8)
        line.tell(name)
        while True:
            at, first_n, last_n = line.heard()
            room = (last_n - first_n) * make.bytes_per_n
            line.tell(_answer(make, first_n, last_n, memory[at : at + room]))


def _answer(make: Maker[T], first_n: int, last_n: int, out: NDArray[np.uint8]) -> tuple[T | None, Exception | None]:
    try:
        return make(first_n, last_n, out), None
    except Exception as error:  # raised where it was asked for
        return None, error
