"""Loudness by ITU-R BS.1770-5 and EBU R 128: K-weighting, momentary, short-term, gated integrated, range.

The filter runs as block state-space matrix products: with state s at the start of a block x of 64 samples,

    y = T·x + O·s          s' = A^64·s + C·x

and in the same way from group to group of 15 blocks; the states of all groups of a chunk come from a doubling scan.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.timebase import amplitude_to_db

# ITU-R BS.1770-5 Annex 1, tables 1 and 2 (48 kHz)
SHELF_B = (1.53512485958697, -2.69169618940638, 1.19839281085285)
SHELF_A = (1.0, -1.69065929318241, 0.73248077421585)
HIGHPASS_B = (1.0, -2.0, 1.0)
HIGHPASS_A = (1.0, -1.99004745483398, 0.99007225036621)
OFFSET_LU = -0.691  # BS.1770-5 Annex 1, equation 2
ABSOLUTE_GATE_LUFS = -70.0  # equation 5
RELATIVE_GATE_LU = -10.0  # equation 6

Sound: TypeAlias = Samples | NDArray[np.int16]

BLOCK_N = 64
GROUP = 15  # blocks whose states come from one product: 960 samples
STEP_N = 4800  # 100 ms: gating blocks of 400 ms overlap by 75 %
FINE_N = 960  # 20 ms: a maximum must not depend on where in the file a sound begins (EBU Tech 3341 cases 10 and 13)
MOMENTARY_STEPS = 4  # 400 ms, EBU Tech 3341 section 2.2
SHORT_TERM_STEPS = 30  # 3 s
RANGE_GATE_LU = -20.0  # EBU Tech 3342 section 3.1
RANGE_SHARES = (0.10, 0.95)


def _biquad(b: tuple[float, ...], a: tuple[float, ...]) -> tuple[Doubles, Doubles, Doubles, float]:
    """Transposed direct form II as A, B, C, D."""
    system = np.array([[-a[1], 1.0], [-a[2], 0.0]])
    return system, np.array([b[1] - a[1] * b[0], b[2] - a[2] * b[0]]), np.array([1.0, 0.0]), b[0]


@dataclass(frozen=True)
class _Kernel:
    """Rows of samples times `drive` (64, 4) are what a block adds to the state; 15 of those times `ends` (60, 4) what
    a group adds; with the state before the group, times `within` (64, 60), the state before each block; rows of 64
    samples and a state times `whole` (68, 64) the weighted samples. `steps` are powers of A^960 (4, 4), for rows."""

    drive: NDArray[np.float32]
    whole: NDArray[np.float32]
    ends: Doubles
    within: Doubles
    steps: tuple[Doubles, ...]


def _kernel() -> _Kernel:
    a1, b1, c1, d1 = _biquad(SHELF_B, SHELF_A)
    a2, b2, c2, d2 = _biquad(HIGHPASS_B, HIGHPASS_A)
    a = np.block([[a1, np.zeros((2, 2))], [np.outer(b2, c1), a2]])
    b, c, d = np.concatenate((b1, b2 * d1)), np.concatenate((d2 * c1, c2)), d1 * d2
    powers = _powers(a, BLOCK_N)
    response = np.array([d] + [c @ powers[k] @ b for k in range(BLOCK_N - 1)])
    lag = np.arange(BLOCK_N)[:, None] - np.arange(BLOCK_N)[None, :]
    through = np.where(lag >= 0, response[np.maximum(lag, 0)], 0.0)
    observe = np.array([c @ powers[k] for k in range(BLOCK_N)])
    drive = np.array([powers[BLOCK_N - 1 - k] @ b for k in range(BLOCK_N)])
    blocks = [power.T for power in _powers(powers[BLOCK_N], GROUP)]
    nothing = np.zeros((4, 4))
    rows = [[blocks[j - 1 - i] if i < j else nothing for j in range(GROUP)] for i in range(GROUP)]
    steps = [blocks[GROUP]]
    while np.abs(steps[-1]).max() > 1e-9:
        steps.append(steps[-1] @ steps[-1])
    return _Kernel(
        drive=drive.astype(np.float32),
        whole=np.concatenate((through.T, observe.T)).astype(np.float32),
        ends=np.concatenate(blocks[GROUP - 1 :: -1]),
        within=np.block([*rows, blocks[:GROUP]]),
        steps=tuple(steps),
    )


def _powers(matrix: Doubles, most: int) -> list[Doubles]:
    """The powers of a matrix from 0 to `most`."""
    powers = [np.eye(len(matrix))]
    for _ in range(most):
        powers.append(powers[-1] @ matrix)
    return powers


_KERNEL = _kernel()


def _scan(states: Doubles, steps: tuple[Doubles, ...]) -> None:
    """states[k] += states[k − 1]·step along axis 0 of states (n, channels, 4), in place, in log2(n) doublings."""
    rows, reach = states.reshape(-1, 4), states.shape[1]
    for step in steps:
        rows[reach:] += rows[:-reach] @ step  # few large products: many small ones are ten times slower
        reach *= 2


class KWeighting:
    """K-weighted power of a stream, step by step, 100 ms unless said otherwise (`step_n` samples, a multiple of 960).
    Keeps the filter's state between calls. Samples are (n, 1 or 2), float32 or int16; only the last call may have n not
    divisible by the step (its last block is then averaged over a step as if silence followed)."""

    def __init__(self, channels: int, *, step_n: int = STEP_N) -> None:
        self._state, self._step_n = np.zeros((channels, 4)), step_n

    def powers(self, samples: Sound) -> Doubles:
        """Sum over channels of the mean square of each step; shape (ceil(n / step),)."""
        weighted, scale = self._weighted(samples)
        power: Doubles = np.vecdot(weighted, weighted).sum(axis=0, dtype=np.float64) * scale
        return power

    def products(self, samples: Sound) -> Doubles:
        """Mean products of the weighted channels in each step; (ceil(n / step), 1) for one channel: its mean square;
        (…, 3) for two: left², right², left·right, from which any mixture of the two can be weighed.
        """
        weighted, scale = self._weighted(samples)
        parts = [*np.vecdot(weighted, weighted)]
        if len(weighted) == 2:
            parts.append(np.vecdot(weighted[0], weighted[1]))
        product: Doubles = np.stack(parts, axis=1).astype(np.float64) * scale
        return product

    def _weighted(self, samples: Sound) -> tuple[NDArray[np.float32], float]:
        """The weighted channels (channels, steps, step) in a scale of their own, and what makes of a sum of products of
        two of them a mean at full scale ±1."""
        channels, short = len(self._state), -len(samples) % self._step_n
        padded = _with_silence(samples, short)
        if not len(padded):
            return np.zeros((channels, 0, self._step_n), np.float32), 1.0
        kernel = _KERNEL
        rows = np.empty((channels, len(padded) // BLOCK_N, BLOCK_N + 4), np.float32)  # a block, the state before it
        full = _lay(padded, rows)
        flat = rows.reshape(-1, BLOCK_N + 4)
        groups = np.empty((channels, rows.shape[1] // GROUP, 4 * GROUP + 4))  # what blocks add, the state before all
        groups[:, :, : 4 * GROUP] = (flat[:, :BLOCK_N] @ kernel.drive).reshape(*groups.shape[:2], 4 * GROUP)
        states = np.empty((groups.shape[1] + 1, channels, 4))
        states[0] = self._state * full
        states[1:] = (groups[:, :, : 4 * GROUP] @ kernel.ends).transpose(1, 0, 2)
        _scan(states, kernel.steps)
        self._state = states[-1] / full
        groups[:, :, 4 * GROUP :] = states[:-1].transpose(1, 0, 2)
        before = (groups.reshape(-1, 4 * GROUP + 4) @ kernel.within).astype(np.float32)
        flat.view(np.complex128)[:, -1] = before.reshape(-1, 4).view(np.complex128)[:, 0]  # four numbers laid at once
        return (flat @ kernel.whole).reshape(channels, -1, self._step_n), 1.0 / (full * full * self._step_n)


def _with_silence(samples: Sound, count_n: int) -> Sound:
    return np.concatenate((samples, np.zeros_like(samples, shape=(count_n, samples.shape[1])))) if count_n else samples


def _lay(samples: Sound, rows: NDArray[np.float32]) -> float:
    """Lay samples (n, channels) into the blocks of rows (channels, n / 64, 68), in a scale that is easily made; returns
    what full scale is in it. Stereo in 16 bits, taken as one number of 32, comes apart twice as fast."""
    blocks = rows[:, :, :BLOCK_N]
    if samples.dtype == np.int16 and len(rows) == 2 and sys.byteorder == "little":
        both = np.ascontiguousarray(samples).view(np.int32).reshape(blocks.shape[1:])
        np.left_shift(both, 16, out=blocks[0], casting="unsafe")
        np.bitwise_and(both, -65536, out=blocks[1], casting="unsafe")
        return 32768.0 * 65536.0
    blocks[:] = samples.T.reshape(blocks.shape)
    return 32768.0 if samples.dtype == np.int16 else 1.0


def to_lufs(power: Doubles) -> Doubles:
    """Loudness in LUFS of K-weighted power, −0.691 + 10·log10; −∞ for silence (BS.1770-5 equation 2)."""
    with np.errstate(divide="ignore"):
        return OFFSET_LU + 10.0 * np.log10(power)


def sliding(power: Doubles, steps: int) -> Doubles:
    """Mean power over every `steps` consecutive 100 ms; shape (max(0, n − steps + 1),)."""
    if len(power) < steps:
        return np.zeros(0)
    total = np.concatenate(([0.0], np.cumsum(power)))
    return np.maximum(total[steps:] - total[:-steps], 0.0) / steps


def integrated_lufs(power: Doubles) -> float:
    """Gated loudness of a programme from its 100 ms powers; −∞ when nothing passes the gate.

    BS.1770-5 Annex 1, equations 3 to 7: 400 ms blocks, absolute gate −70 LUFS, relative gate −10 LU.
    """
    blocks = sliding(power, MOMENTARY_STEPS)
    blocks = blocks[to_lufs(blocks) > ABSOLUTE_GATE_LUFS]
    if len(blocks):
        blocks = blocks[to_lufs(blocks) > to_lufs(blocks.mean(keepdims=True)) + RELATIVE_GATE_LU]
    return float(to_lufs(blocks.mean(keepdims=True))[0]) if len(blocks) else float("-inf")


def loudness_range_lu(power: Doubles) -> float:
    """Loudness range of a programme from its 100 ms powers, LU; 0 where too little passes the gates.

    EBU Tech 3342 section 3: short-term loudness, absolute gate −70 LUFS, relative gate −20 LU, the span from the 10th
    to the 95th percentile.
    """
    blocks = sliding(power, SHORT_TERM_STEPS)
    blocks = blocks[to_lufs(blocks) > ABSOLUTE_GATE_LUFS]
    if len(blocks):
        blocks = blocks[to_lufs(blocks) > to_lufs(blocks.mean(keepdims=True)) + RANGE_GATE_LU]
    if len(blocks) < 2:
        return 0.0
    low, high = np.quantile(to_lufs(blocks), RANGE_SHARES, method="nearest")
    return float(high - low)


@dataclass(frozen=True)
class Loudness:
    """What a programme is measured by. Loudness in LUFS, −∞ for silence; range in LU; true peak in dBTP."""

    integrated_lufs: float
    loudness_range_lu: float
    max_momentary_lufs: float
    max_short_term_lufs: float
    true_peak_dbtp: float = float("-inf")


def measured(power: Doubles, *, true_peak: float = 0.0) -> Loudness:
    """All of it from 100 ms powers, and the true peak as an amplitude. What is shorter than a window has silence before
    it, as a meter would show it."""
    return _measured(power, power, MOMENTARY_STEPS, SHORT_TERM_STEPS, true_peak)


def measured_finely(power: Doubles, *, true_peak: float = 0.0) -> Loudness:
    """The same from 20 ms powers: the maxima are found wherever they lie."""
    by = STEP_N // FINE_N
    coarse = np.pad(power, (0, -len(power) % by)).reshape(-1, by).mean(axis=1)
    return _measured(coarse, power, MOMENTARY_STEPS * by, SHORT_TERM_STEPS * by, true_peak)


def _measured(power: Doubles, fine: Doubles, momentary: int, short_term: int, true_peak: float) -> Loudness:
    return Loudness(
        integrated_lufs=integrated_lufs(power),
        loudness_range_lu=loudness_range_lu(power),
        max_momentary_lufs=_highest(fine, momentary),
        max_short_term_lufs=_highest(fine, short_term),
        true_peak_dbtp=amplitude_to_db(true_peak),
    )


def _highest(power: Doubles, steps: int) -> float:
    """The largest loudness over so many steps; windows reach before the beginning."""
    windows = sliding(np.concatenate((np.zeros(steps - 1), power)), steps)
    return float(to_lufs(windows.max(keepdims=True))[0]) if len(windows) else float("-inf")
