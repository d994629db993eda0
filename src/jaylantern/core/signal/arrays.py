"""The array types the core speaks in, and the operations on them whose obvious form is slow.

numpy's inner loop runs along the last axis: over two channels it costs ten times what the arithmetic does.
"""

from collections.abc import Iterator
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Samples: TypeAlias = NDArray[np.float32]  # (n_samples, n_channels), full scale = ±1
Doubles: TypeAlias = NDArray[np.float64]
Times: TypeAlias = NDArray[np.int64]


def scaled(samples: Samples, gain: NDArray[np.float32]) -> Samples:
    """Samples (n, channels) times a gain (n,). A stereo row is taken as one complex number."""
    if samples.shape[1] == 2 and samples.flags.c_contiguous:
        product: Samples = (samples.view(np.complex64) * gain[:, None]).view(np.float32)
        return product
    return samples * gain[:, None]


def add_to(out: Samples, samples: Samples) -> None:
    """Add samples (n, 1 or 2) to stereo `out` (n, 2) in place; one channel goes to both sides."""
    if samples.shape[1] == out.shape[1]:
        out += samples
        return
    for side in range(out.shape[1]):
        out[:, side] += samples[:, 0]


def mono(samples: Samples) -> NDArray[np.float32]:
    """Mean of the channels of samples (n, channels), shape (n,)."""
    total = samples[:, 0].copy()
    for side in range(1, samples.shape[1]):
        total += samples[:, side]
    total *= np.float32(1.0 / samples.shape[1])
    return total


def windows(values: NDArray[np.float32], width: int) -> NDArray[np.float32]:
    """All runs of `width` neighbours of values (n,), as a view (width, n − width + 1): reduce along axis 0."""
    return np.lib.stride_tricks.sliding_window_view(values, len(values) - width + 1)


def rechunked(blocks: Iterator[np.ndarray], size_n: int) -> Iterator[np.ndarray]:
    """The same rows in blocks of `size_n` rows, the last as short as it must be."""
    waiting: list[np.ndarray] = []
    have = 0
    for block in blocks:
        if not have and len(block) == size_n:
            yield block
            continue
        waiting.append(block)
        have += len(block)
        if have >= size_n:
            joined = np.concatenate(waiting)
            cut = have // size_n * size_n
            yield from (joined[i : i + size_n] for i in range(0, cut, size_n))
            waiting, have = [joined[cut:]], have - cut
    if have:
        yield np.concatenate(waiting)
