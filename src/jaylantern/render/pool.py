"""Long work made on all cores: stretches of a programme in processes of their own, given in order.

numpy's many short steps make threads of one process wait for each other; processes don't. A stretch is made in shared
memory and read from there, so nothing of it is packed and unpacked on the way.

parent   give 0 │ give 1 │ give 2 │ …      a slot is given to a new stretch when the next one is asked for
worker A   [0]      [2]      [4]
worker B   [1]      [3]      [5]
"""

from __future__ import annotations

import mmap
import multiprocessing
import os
import subprocess
import tempfile
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from queue import SimpleQueue
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS
from jaylantern.errors import JayError
from jaylantern.render.worker import Floats, Maker, Render
from jaylantern.support import own_python

STRETCH_N = 60 * BLOCK_N
LONG_N = 300 * BLOCK_N  # what is shorter is not worth starting processes for
ENDED = "A process that was rendering ended unexpectedly. Try again."
T = TypeVar("T")


@dataclass(frozen=True)
class Stretch(Generic[T]):
    """A stretch made: its samples, which stay until the next one is asked for, and what is to be known of it."""

    start_n: int
    stop_n: int
    data: NDArray[np.uint8]
    told: T


class Ended(JayError):
    """A process that ended before its work did."""


def worth_while(length_n: int) -> bool:
    """Is a render so long, and are there cores enough, that several processes are quicker than one? Not where this is
    one of several that render already."""
    alone = multiprocessing.parent_process() is None
    return length_n >= LONG_N and (os.cpu_count() or 1) > 1 and alone and os.name == "posix"


def stretches(make: Maker[T], wanted: Sequence[tuple[int, int]], *, workers: int | None = None) -> Iterator[Stretch[T]]:
    """What is wanted, each from one sample to another at most STRETCH_N later, in order.

    What goes wrong in a process is raised here. The processes end with this one, however it ends.
    """
    count = workers or os.cpu_count() or 1
    slot_bytes = STRETCH_N * make.bytes_per_n
    free = deque(range(count + 1))
    memory, crew = _begun(make, max(1, slot_bytes * len(free)), count)
    idle: SimpleQueue[_Worker[T]] = SimpleQueue()
    for worker in crew:
        idle.put(worker)
    pool = ThreadPoolExecutor(count)  # each waits for the answer of one process

    def made(slot: int, first_n: int, last_n: int) -> T:
        worker = idle.get()
        try:
            return worker.ask(slot * slot_bytes, first_n, last_n)
        finally:
            idle.put(worker)

    try:
        waiting, spans = deque(), deque(wanted)  # type: ignore[var-annotated]
        while spans or waiting:
            while spans and free:
                slot, span = free.popleft(), spans.popleft()
                waiting.append((pool.submit(made, slot, *span), slot, span))
            future, slot, (first_n, last_n) = waiting.popleft()
            told, at = future.result(), slot * slot_bytes
            yield Stretch(first_n, last_n, memory[at : at + (last_n - first_n) * make.bytes_per_n], told)
            free.append(slot)
    finally:
        pool.shutdown(wait=False, cancel_futures=True)
        for worker in crew:
            worker.end()
        pool.shutdown()


def _begun(make: Maker[T], size: int, count: int) -> tuple[NDArray[np.uint8], list[_Worker[T]]]:
    """Shared memory of so many bytes and processes that know of it and of what to make."""
    file, memory = _shared(size)
    crew: list[_Worker[T]] = []
    try:
        crew.extend(_Worker(file) for _ in range(count))
        for worker in crew:
            worker.begin(make, size)
    except BaseException:
        for worker in crew:
            worker.end()
        raise
    finally:
        os.close(file)
    return np.frombuffer(memory, np.uint8), crew


def _shared(size: int) -> tuple[int, mmap.mmap]:
    """Memory that has no name, as a file to hand on and as seen from here."""
    if hasattr(os, "memfd_create"):
        file = os.memfd_create("jaylantern")
    else:
        with tempfile.TemporaryFile() as unnamed:
            file = os.dup(unnamed.fileno())
    os.ftruncate(file, size)
    return file, mmap.mmap(file, size)


class _Worker(Generic[T]):
    """A process that makes stretches. It ends when nothing can be told to it any more."""

    def __init__(self, file: int) -> None:
        self._line, its_end = multiprocessing.Pipe()
        handed = (file, its_end.fileno())
        command = own_python.command("-c", f"from jaylantern.render import worker; worker.work{handed}")
        self._process = subprocess.Popen(command, pass_fds=handed, stdin=subprocess.DEVNULL)  # noqa: S603 – our own
        its_end.close()

    def begin(self, make: Maker[T], size: int) -> None:
        """Tell it how to make, and how large the shared memory is."""
        try:
            self._line.send((make, size))
        except OSError:
            raise Ended(ENDED) from None

    def ask(self, at: int, first_n: int, last_n: int) -> T:
        """Have a stretch laid at byte `at` of the shared memory; waits for it."""
        try:
            self._line.send((at, first_n, last_n))
            told, error = self._line.recv()
        except (EOFError, OSError):
            raise Ended(ENDED) from None
        if error is not None:
            raise error
        return told  # type: ignore[no-any-return]

    def end(self) -> None:
        """End it, whatever it is doing."""
        self._process.kill()
        self._process.wait()


def blocks(render: Render, *, workers: int | None = None) -> Iterator[np.ndarray]:
    """A render in blocks of at most one second, the same bits as `Renderer.blocks` gives."""
    start_n, stop_n = render.start_n, render.stop_n
    edges = [start_n, *range((start_n // STRETCH_N + 1) * STRETCH_N, stop_n, STRETCH_N), stop_n]
    for made in stretches(Floats(render), list(pairwise(edges)), workers=workers):
        rows, first_n = made.data.view(np.float32).reshape(-1, CHANNELS), made.start_n
        for at in range(first_n // BLOCK_N * BLOCK_N, made.stop_n, BLOCK_N):
            yield rows[max(at - first_n, 0) : at + BLOCK_N - first_n].copy()
