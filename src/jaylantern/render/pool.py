"""Long work made on all cores: chunks of a programme in processes of their own, given in order.

numpy's many short steps make threads of one process wait for each other; processes don't. A chunk is made in shared
memory and read from there, so nothing of it is packed and unpacked on the way.

parent   give 0 │ give 1 │ give 2 │ …      a slot is given to a new chunk when the next one is asked for
worker A   [0]      [2]      [4]
worker B   [1]      [3]      [5]
"""

from __future__ import annotations

from collections import deque
from collections.abc import Generator, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from queue import SimpleQueue
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS
from jaylantern.errors import JayError
from jaylantern.render.worker import Floats, Maker, Render
from jaylantern.support import own_python, system
from jaylantern.support.child_process import Child
from jaylantern.support.system import SharedMemory

CHUNK_N = 60 * BLOCK_N
LONG_N = 300 * BLOCK_N  # what is shorter is not worth starting processes for
ENDED = "A process that was rendering ended unexpectedly. Try again."
T = TypeVar("T")


@dataclass(frozen=True)
class RenderChunk(Generic[T]):
    """A chunk made: its samples, which stay until the next one is asked for, and what is to be known of it."""

    start_n: int
    stop_n: int
    data: NDArray[np.uint8]
    summary: T


class Ended(JayError):
    """A process that ended before its work did."""


def worth_while(length_n: int) -> bool:
    """Is a render so long, and are there cores enough, that several processes are quicker than one? Not where this is
    one of several that render already."""
    return length_n >= LONG_N and system.cores() > 1 and own_python.alone()


def chunks(
    make: Maker[T], wanted: Sequence[tuple[int, int]], *, workers: int | None = None
) -> Generator[RenderChunk[T], None, None]:
    """What is wanted, each from one sample to another at most CHUNK_N later, in order.

    What goes wrong in a process is raised here. The processes end with this one, however it ends.
    """
    with _Pool(make, workers or system.cores()) as pool:
        waiting: deque[tuple[Future[T], int, tuple[int, int]]] = deque()
        spans = deque(wanted)
        while spans or waiting:
            while spans and pool.free:
                slot, span = pool.free.popleft(), spans.popleft()
                waiting.append((pool.begin(slot, span), slot, span))
            future, slot, (first_n, last_n) = waiting.popleft()
            facts = future.result()
            yield RenderChunk(first_n, last_n, pool.data(slot, last_n - first_n), facts)
            pool.free.append(slot)


class _Pool(Generic[T]):
    """Processes that make chunks, and the slots of shared memory they lay them into: one more than there are processes,
    so that each has work while one chunk is looked at."""

    def __init__(self, make: Maker[T], count: int) -> None:
        self._make, self._slot_bytes = make, CHUNK_N * make.bytes_per_n
        self.free = deque(range(count + 1))
        self._memory, self._workers = _begun(make, max(1, self._slot_bytes * len(self.free)), count)
        self._idle: SimpleQueue[_Worker[T]] = SimpleQueue()
        for worker in self._workers:
            self._idle.put(worker)
        self._threads = ThreadPoolExecutor(count)  # each waits for the answer of one process

    def __enter__(self) -> _Pool[T]:
        return self

    def __exit__(self, *_: object) -> None:
        self._threads.shutdown(wait=False, cancel_futures=True)
        for worker in self._workers:
            worker.end()
        self._threads.shutdown()

    def begin(self, slot: int, span: tuple[int, int]) -> Future[T]:
        """Have a chunk made in a slot."""
        return self._threads.submit(self._made, slot, *span)

    def _made(self, slot: int, first_n: int, last_n: int) -> T:
        worker = self._idle.get()
        try:
            return worker.make(slot * self._slot_bytes, first_n, last_n)
        finally:
            self._idle.put(worker)

    def data(self, slot: int, length_n: int) -> NDArray[np.uint8]:
        """What lies in a slot."""
        at = slot * self._slot_bytes
        return self._memory[at : at + length_n * self._make.bytes_per_n]


def _begun(make: Maker[T], size: int, count: int) -> tuple[NDArray[np.uint8], list[_Worker[T]]]:
    """Shared memory of so many bytes and processes that know of it and of what to make."""
    shared = SharedMemory(size)
    crew: list[_Worker[T]] = []
    try:
        crew.extend(_Worker() for _ in range(count))
        for worker in crew:
            worker.tell(make, shared.name, size)
        for worker in crew:
            worker.begun()
    except BaseException:
        for worker in crew:
            worker.end()
        raise
    finally:
        shared.forget()
    return np.frombuffer(shared.memory, np.uint8), crew


class _Worker(Generic[T]):
    """A process that makes chunks. It ends when nothing can be told to it any more."""

    def __init__(self) -> None:
        self._child = Child("from jaylantern.render.worker import work; work()")

    def tell(self, make: Maker[T], memory: str, size: int) -> None:
        """Tell it how to make, and the name and size of the shared memory."""
        try:
            self._child.tell((make, memory, size))
        except OSError:
            raise Ended(ENDED) from None

    def begun(self) -> None:
        """Return when it has the shared memory."""
        try:
            self._child.heard()
        except EOFError:
            raise Ended(ENDED) from None

    def make(self, at: int, first_n: int, last_n: int) -> T:
        """Have a chunk laid at byte `at` of the shared memory; waits for it."""
        try:
            self._child.tell((at, first_n, last_n))
            answer, error = self._child.heard()
        except (EOFError, OSError):
            raise Ended(ENDED) from None
        if error is not None:
            raise error
        return answer

    def end(self) -> None:
        """End it, whatever it is doing."""
        self._child.end()


def blocks(render: Render, *, workers: int | None = None) -> Iterator[np.ndarray]:
    """A render in blocks of at most one second, the same bits as `Renderer.blocks` gives."""
    start_n, stop_n = render.start_n, render.stop_n
    edges = [start_n, *range((start_n // CHUNK_N + 1) * CHUNK_N, stop_n, CHUNK_N), stop_n]
    for made in chunks(Floats(render), list(pairwise(edges)), workers=workers):
        rows, first_n = made.data.view(np.float32).reshape(-1, CHANNELS), made.start_n
        for at in range(first_n // BLOCK_N * BLOCK_N, made.stop_n, BLOCK_N):
            yield rows[max(at - first_n, 0) : at + BLOCK_N - first_n].copy()
