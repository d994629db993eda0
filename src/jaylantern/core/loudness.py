"""Loudness by ITU-R BS.1770-5 and EBU R 128: K-weighting, momentary, short-term, gated integrated, range.

The filter runs as block state-space matrix products: with state s at the start of a block x of 64 samples,

    y = T·x + O·s          s' = A^64·s + C·x

and the states of all blocks of a chunk come from one doubling scan.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.arrays import Doubles, Samples
from jaylantern.core.timebase import amplitude_to_db

# ITU-R BS.1770-5 Annex 1, tables 1 and 2 (48 kHz)
SHELF_B = (1.53512485958697, -2.69169618940638, 1.19839281085285)
SHELF_A = (1.0, -1.69065929318241, 0.73248077421585)
HIGHPASS_B = (1.0, -2.0, 1.0)
HIGHPASS_A = (1.0, -1.99004745483398, 0.99007225036621)
OFFSET_LU = -0.691  # BS.1770-5 Annex 1, equation 2
ABSOLUTE_GATE_LUFS = -70.0  # equation 5
RELATIVE_GATE_LU = -10.0  # equation 6

BLOCK_N = 64
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


@cache
def _kernel() -> tuple[NDArray[np.float32], NDArray[np.float32], Doubles]:
    """C for rows of 64 samples (64, 4), T over O for rows of 64 samples and a state (68, 64), and A^64 (4, 4)."""
    a1, b1, c1, d1 = _biquad(SHELF_B, SHELF_A)
    a2, b2, c2, d2 = _biquad(HIGHPASS_B, HIGHPASS_A)
    a = np.block([[a1, np.zeros((2, 2))], [np.outer(b2, c1), a2]])
    b, c, d = np.concatenate((b1, b2 * d1)), np.concatenate((d2 * c1, c2)), d1 * d2
    powers = [np.eye(4)]
    for _ in range(BLOCK_N):
        powers.append(powers[-1] @ a)
    response = np.array([d] + [c @ powers[k] @ b for k in range(BLOCK_N - 1)])
    lag = np.arange(BLOCK_N)[:, None] - np.arange(BLOCK_N)[None, :]
    through = np.where(lag >= 0, response[np.maximum(lag, 0)], 0.0)
    observe = np.array([c @ powers[k] for k in range(BLOCK_N)])
    drive = np.array([powers[BLOCK_N - 1 - k] @ b for k in range(BLOCK_N)]).T
    whole = np.concatenate((through.T, observe.T))
    return np.ascontiguousarray(drive.T, np.float32), np.ascontiguousarray(whole, np.float32), powers[BLOCK_N]


def _scan(inputs: Doubles, step: Doubles) -> Doubles:
    """s[k] = step·s[k−1] + inputs[k] along axis 1 of inputs (4, n, channels), in log2(n) doublings."""
    channels = inputs.shape[2]
    states = inputs.reshape(4, -1).copy()
    power, reach = step, channels
    while reach < states.shape[1] and np.abs(power).max() > 1e-12:
        states[:, reach:] += power @ states[:, :-reach]  # few long rows: many small products are ten times slower
        power, reach = power @ power, reach * 2
    return states.reshape(inputs.shape)


class KWeighting:
    """K-weighted power of a stream, step by step, 100 ms unless said otherwise (`step_n` samples, a multiple of 64).
    Keeps the filter's state between calls."""

    def __init__(self, channels: int, *, step_n: int = STEP_N) -> None:
        self._state, self._step_n = np.zeros((4, channels)), step_n

    def powers(self, samples: Samples) -> Doubles:
        """Sum over channels of the mean square of each step; shape (ceil(n / step),)."""
        return self.products(samples)[:, : self._state.shape[1]].sum(axis=1)

    def products(self, samples: Samples) -> Doubles:
        """Mean products of the weighted channels in each step; (ceil(n / step), 1) for one channel: its mean square;
        (…, 3) for two: left², right², left·right, from which any mixture of the two can be weighed.

        `samples` is (n, channels); only the last call may have n not divisible by the step (its last block is then
        averaged over a step as if silence followed).
        """
        if not len(samples):
            return np.zeros((0, 1 if self._state.shape[1] == 1 else 3))
        channels, short = self._state.shape[1], -len(samples) % self._step_n
        padded = np.pad(samples, ((0, short), (0, 0))) if short else samples
        drive, whole, step = _kernel()
        rows = np.empty((channels, len(padded) // BLOCK_N, BLOCK_N + 4), np.float32)  # a block, the state before it
        rows[:, :, :BLOCK_N] = padded.T.reshape(channels, -1, BLOCK_N)
        flat_rows = rows.reshape(-1, BLOCK_N + 4)
        inputs = np.empty((4, rows.shape[1] + 1, channels))
        inputs[:, 0] = self._state
        inputs[:, 1:] = (flat_rows[:, :BLOCK_N] @ drive).reshape(channels, -1, 4).transpose(2, 1, 0)
        states = _scan(inputs, step)
        self._state = states[:, -1].copy()
        rows[:, :, BLOCK_N:] = states[:, :-1].transpose(2, 1, 0)
        out = flat_rows @ whole
        flat = out.reshape(channels, -1, self._step_n)
        parts = [*np.vecdot(flat, flat), np.vecdot(flat[0], flat[1])] if channels == 2 else [*np.vecdot(flat, flat)]
        power: Doubles = np.stack(parts, axis=1).astype(np.float64) / self._step_n
        return power


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
