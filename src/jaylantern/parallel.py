"""A long render made on all cores: stretches of it in processes of their own, given in order.

numpy's many short steps make threads of one process wait for each other; processes don't. A stretch is written into
shared memory and read from there, so nothing is packed and unpacked on the way.

parent   give 0 │ give 1 │ give 2 │ …      a slot is given to a new stretch when its blocks were taken
worker A   [0]      [2]      [4]
worker B   [1]      [3]      [5]
"""

from __future__ import annotations

import multiprocessing
import os
import threading
import time
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from contextlib import suppress
from itertools import pairwise
from multiprocessing.shared_memory import SharedMemory

import numpy as np

from jaylantern.core.mix import BLOCK_N, CHANNELS, Programme, Reader, Renderer, Variant
from jaylantern.memory import keep_freed_memory

STRETCH_N = 40 * BLOCK_N
LONG_N = 300 * BLOCK_N  # what is shorter is not worth starting processes for
SLOT_BYTES = STRETCH_N * CHANNELS * 4


def worth_while(length_n: int) -> bool:
    """Is a render so long, and are there cores enough, that several are quicker than one?"""
    return length_n >= LONG_N and (os.cpu_count() or 1) > 1 and not multiprocessing.parent_process()


def blocks(
    prog: Programme, read: Reader, variant: Variant, start_n: int, stop_n: int, *, workers: int | None = None
) -> Iterator[np.ndarray]:
    """Samples [start_n, stop_n) in blocks of at most one second, the same bits as `Renderer.blocks` gives.

    `read` is sent to other processes. They end with this one, however it ends.
    """
    count = workers or os.cpu_count() or 1
    edges = [start_n, *range((start_n // STRETCH_N + 1) * STRETCH_N, stop_n, STRETCH_N), stop_n]
    free = deque(range(count + 1))
    waiting: deque[tuple[Future[None], int, int, int]] = deque()
    shared = SharedMemory(create=True, size=SLOT_BYTES * len(free))
    pool = ProcessPoolExecutor(
        count,
        mp_context=multiprocessing.get_context("spawn"),
        initializer=_begin,
        initargs=(os.getpid(), prog, read, variant, shared.name),
    )
    try:
        for first_n, last_n in pairwise(edges):
            if not free:
                yield from _taken(shared, waiting, free)
            slot = free.popleft()
            waiting.append((pool.submit(_make, slot, first_n, last_n), slot, first_n, last_n))
        while waiting:
            yield from _taken(shared, waiting, free)
    finally:
        pool.shutdown(cancel_futures=True)
        shared.close()
        with suppress(FileNotFoundError):
            shared.unlink()


def _taken(
    shared: SharedMemory, waiting: deque[tuple[Future[None], int, int, int]], free: deque[int]
) -> Iterator[np.ndarray]:
    """The blocks of the stretch that is due; its slot is free afterwards."""
    future, slot, first_n, last_n = waiting.popleft()
    future.result()
    made = _slot(shared, slot, last_n - first_n)
    for at in range(first_n // BLOCK_N * BLOCK_N, last_n, BLOCK_N):
        yield made[max(at - first_n, 0) : at + BLOCK_N - first_n].copy()
    free.append(slot)


def _slot(shared: SharedMemory, slot: int, length_n: int) -> np.ndarray:
    return np.ndarray((length_n, CHANNELS), np.float32, shared.buf, SLOT_BYTES * slot)


_mine: tuple[Programme, Reader, Variant, SharedMemory] | None = None  # of a worker process


def _begin(parent: int, prog: Programme, read: Reader, variant: Variant, name: str) -> None:
    """What a worker process is told once."""
    global _mine
    keep_freed_memory()
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()
    _mine = (prog, read, variant, SharedMemory(name))


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(0.25)
    os._exit(0)


def _make(slot: int, first_n: int, last_n: int) -> None:
    """Render a stretch into a slot."""
    assert _mine is not None
    prog, read, variant, shared = _mine
    out, at = _slot(shared, slot, last_n - first_n), 0
    for block in Renderer(prog, read, variant).blocks(first_n, last_n):
        out[at : at + len(block)] = block
        at += len(block)
