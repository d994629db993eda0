"""The network that tells speech, singing and music apart: three probabilities for every 10 ms, as matrix products.

What it is: 80 logarithmic levels of mel bands of 25 ms each (the filter bank of Kaldi, Povey et al. 2011), two dense
layers, then eight layers that each weigh a frame with the 19 before and the 20 after it, channel by channel, with two
dense layers between them (a feed-forward sequential memory network, Zhang et al. 2018). It remembers nothing, so the
sound may come in pieces of any size: each layer keeps just what its neighbours to come will look back at.

Source of form and weights: `weights/README.md`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.detect.protocol import BLOCK_N as HOP_N
from jaylantern.detect.protocol import RATE, Floats
from jaylantern.detect.weights.read import weights

FRAME_N, POINTS = 400, 512
PAST, FUTURE = 19, 20  # frames that a layer looks at beside its own
LAYERS, CHANNELS, BANDS = 8, 128, 80
LOW_HZ, HIGH_HZ = 20.0, 8000.0
FULL_SCALE = np.float32(32768)
PRE_EMPHASIS = np.float32(0.97)
FLOOR = np.finfo(np.float32).eps  # of a band's power, as in Kaldi: what is under it is rounding
TILE = 512  # frames reckoned at once, always the same ones
STRIP = 32  # frames of a layer's memory that one product makes

SPEECH, SINGING, MUSIC = range(3)
# by how much more power each bin of a spectrum has than the sound's own
_TURN = 2 * np.pi * np.arange(POINTS // 2 + 1) / POINTS
EMPHASIS = np.square(np.abs(1 - float(PRE_EMPHASIS) * np.exp(-1j * _TURN))) * float(FULL_SCALE) ** 2


def bin_hz() -> NDArray[np.float64]:
    """Frequencies of the bins of a spectrum, (257,)."""
    return np.linspace(0.0, RATE / 2, POINTS // 2 + 1)


def mel_bank() -> Floats:
    """Weights (257, 80) that add up powers of a spectrum to mel bands, triangles of mel(f) = 1127 ln(1 + f / 700)."""
    edges = np.linspace(_mel(LOW_HZ), _mel(HIGH_HZ), BANDS + 2)
    at = _mel(bin_hz())[:, None]
    up, down = (at - edges[:-2]) / np.diff(edges)[:-1], (edges[2:] - at) / np.diff(edges)[1:]
    bank = np.clip(np.minimum(up, down), 0, None)
    bank[-1] = 0
    return bank.astype(np.float32)


def _mel(hz: float | NDArray[np.floating]) -> NDArray[np.float64]:
    return np.asarray(1127.0 * np.log1p(np.asarray(hz) / 700.0))


class Spectra:
    """Powers (k, 257) of frames of 25 ms every 10 ms, windows inside the sound only, scaled as 16-bit samples are."""

    def __init__(self) -> None:
        ramp = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(FRAME_N) / (FRAME_N - 1))
        self._window = (ramp**0.85).astype(np.float32)  # Povey's
        self._rest = np.zeros(0, np.float32)

    def add(self, samples: Floats) -> list[Floats]:
        """Take (n,) samples, any n; answers the powers of TILE frames at a time, as soon as they are whole."""
        sound = np.concatenate((self._rest, samples))
        tiles = max(0, (len(sound) - FRAME_N + HOP_N) // (TILE * HOP_N))
        size = TILE * HOP_N
        self._rest = sound[tiles * size :]
        return [self._powers(sound[at : at + size + FRAME_N - HOP_N]) for at in range(0, tiles * size, size)]

    def finish(self) -> Floats:
        """The powers of the frames that are left."""
        left, self._rest = self._rest, np.zeros(0, np.float32)
        return self._powers(left)

    def _powers(self, sound: Floats) -> Floats:
        if len(sound) < FRAME_N:
            return np.zeros((0, POINTS // 2 + 1), np.float32)
        frames = np.lib.stride_tricks.sliding_window_view(sound, FRAME_N)[::HOP_N] * FULL_SCALE
        frames -= frames.mean(axis=1, keepdims=True)
        shaped = np.zeros((len(frames), POINTS), np.float32)
        inside = shaped[:, :FRAME_N]
        inside[:, 1:] = frames[:, :-1]
        inside[:, 0] = frames[:, 0]
        inside *= -PRE_EMPHASIS
        inside += frames
        inside *= self._window
        spectrum = np.fft.rfft(shaped)
        power: Floats = np.square(spectrum.real)
        power += np.square(spectrum.imag)
        return power


class _Memory:
    """A layer that weighs every frame with its neighbours, channel by channel; frames as columns (128, k)."""

    def __init__(self, past: Floats, future: Floats) -> None:
        taps = np.concatenate((past, future), axis=1)
        taps[:, PAST] += 1  # the frame itself goes on as it is
        self._strip = np.zeros((CHANNELS, STRIP + PAST + FUTURE, STRIP), np.float32)
        for j in range(PAST + 1 + FUTURE):
            column = np.arange(STRIP)
            self._strip[:, column + j, column] = taps[:, j, None]
        self._kept = np.zeros((CHANNELS, PAST), np.float32)

    def add(self, frames: Floats, after: Floats) -> Floats:
        """Take frames and what comes right after them; answers those whose neighbours are all known, FUTURE fewer at
        the beginning."""
        sound = np.concatenate((self._kept, frames, after), axis=1)
        count = max(0, sound.shape[1] - PAST - FUTURE)
        self._kept = sound[:, count:]
        if not count:
            return np.zeros((CHANNELS, 0), np.float32)
        strips, wide = -(-count // STRIP), STRIP + PAST + FUTURE
        around = np.zeros((CHANNELS, strips, wide), np.float32)
        for i in range(strips):
            part = sound[:, i * STRIP : i * STRIP + wide]
            around[:, i, : part.shape[1]] = part
        made: Floats = around @ self._strip
        return made.reshape(CHANNELS, -1)[:, :count]


class EventNetwork:
    """Hears one stream of mono sound at 16 kHz through the powers of its `Spectra`."""

    def __init__(self) -> None:
        known = weights("events")
        self._bank = mel_bank()
        first = known["dense0"] * known["scale"]
        bias = np.asarray(known["dense0_bias"] - first @ known["mean"], np.float32)
        self._into: list[tuple[Floats, Floats]] = [
            (first, bias[:, None]),
            (known["dense1"], known["dense1_bias"][:, None]),
        ]
        self._memory = [_Memory(known[f"past{i}"], known[f"future{i}"]) for i in range(LAYERS)]
        self._dense = [
            (known[f"dense{2 * i}"], known[f"dense{2 * i}_bias"][:, None], known[f"dense{2 * i + 1}"])
            for i in range(1, LAYERS)
        ]
        last = 2 * LAYERS
        self._out = [(known[f"dense{i}"], known[f"dense{i}_bias"][:, None]) for i in (last, last + 1)]
        self._late = [np.zeros((CHANNELS, 0), np.float32) for _ in self._dense]

    def add(self, power: Floats) -> Floats:
        """Take powers (n, 257); answers probabilities (k, 3) of SPEECH, SINGING and MUSIC that have become known."""
        return self._heard(power)

    def finish(self) -> Floats:
        """The probabilities of what is left; there is nothing after the end."""
        return self._heard(np.zeros((0, POINTS // 2 + 1), np.float32), ended=True)

    def _heard(self, power: Floats, *, ended: bool = False) -> Floats:
        levels = np.log(np.maximum(power @ self._bank, FLOOR))
        now = np.ascontiguousarray(levels.T)
        for weight, bias in self._into:
            now = _dense(weight, now, bias)
        nothing = np.zeros((CHANNELS, FUTURE if ended else 0), np.float32)
        now = self._memory[0].add(now, nothing)
        for i, (widen, bias, narrow) in enumerate(self._dense):
            given = narrow @ _dense(widen, now, bias)
            before = np.concatenate((self._late[i], now), axis=1)
            weighed = self._memory[i + 1].add(given, nothing)
            self._late[i] = before[:, weighed.shape[1] :]
            weighed += before[:, : weighed.shape[1]]
            now = weighed
        (widen, bias), (narrow, last_bias) = self._out[0], self._out[1]
        score = narrow @ _dense(widen, now, bias) + last_bias
        return np.ascontiguousarray(1 / (1 + np.exp(-score)).T)


def _dense(weight: Floats, now: Floats, bias: Floats) -> Floats:
    """max(0, weight · now + bias), in place."""
    made: Floats = weight @ now
    made += bias
    return np.maximum(made, 0, out=made)
