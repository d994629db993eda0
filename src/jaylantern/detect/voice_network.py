"""The network that knows voice: a probability for every 32 ms, as plain matrix products.

What it is: the magnitudes of four spectra of each 576 samples (512 and the 64 before them), four convolutions over
them, a recurrent layer (LSTM) that carries what was heard before, one probability. Its published form is one call for
each frame; here the part that remembers nothing is reckoned for many frames at once.

Source of form and weights: `weights/README.md`.
"""

from __future__ import annotations

import numpy as np

from jaylantern.detect.protocol import Floats
from jaylantern.detect.weights.read import weights

FRAME_N = 512
BEFORE_N = 64  # samples of the frame before that each frame begins with
WINDOW_N, HOP_N, PLACES = 256, 128, 4  # of the spectra of a frame
TILE = 128  # frames reckoned at once, always the same ones: results don't depend on how the sound came in
HIDDEN = 128
STRIDES = (1, 2, 2)  # of the convolutions; of the fourth only the middle is used, as one place is left to stand on


class VoiceNetwork:
    """Hears one stream of mono sound at 16 kHz."""

    def __init__(self) -> None:
        known = weights("voice")
        self._window = (0.5 - 0.5 * np.cos(2 * np.pi * np.arange(WINDOW_N) / WINDOW_N)).astype(np.float32)
        self._dense = [
            (np.ascontiguousarray(known[f"conv{i}"].transpose(2, 1, 0).reshape(-1, known[f"conv{i}"].shape[0])), bias)
            for i, bias in enumerate(known[f"conv{i}_bias"] for i in range(3))
        ]
        self._last = np.ascontiguousarray(known["conv3"][:, :, 1].T), known["conv3_bias"]
        # σ(x) = (1 + tanh(x / 2)) / 2: with halved weights one tanh does for all gates, but for the cell's own
        halves = np.repeat(np.array([0.5, 0.5, 0.5, 1.0], np.float32), HIDDEN)  # input, output, forget, cell
        self._into = np.ascontiguousarray((known["lstm_in"] * halves[:, None]).T)
        self._again = np.ascontiguousarray((known["lstm_again"] * halves[:, None]).T)
        self._bias = known["lstm_bias"].reshape(2, -1).sum(axis=0) * halves
        self._out, self._out_bias = known["out"][0, :, 0], known["out_bias"]
        self._hidden, self._cell = np.zeros(HIDDEN, np.float32), np.zeros(HIDDEN, np.float32)
        self._rest = np.zeros(BEFORE_N, np.float32)

    def add(self, samples: Floats) -> Floats:
        """Take (n,) samples, any n; answers the probabilities (k,) that have become known, each of the next 32 ms."""
        sound = np.concatenate((self._rest, samples))
        tiles = (len(sound) - BEFORE_N) // (TILE * FRAME_N)
        self._rest = sound[tiles * TILE * FRAME_N :]
        size = TILE * FRAME_N
        found = [self._heard(sound[at : at + size + BEFORE_N]) for at in range(0, tiles * size, size)]
        return np.concatenate(found) if found else np.zeros(0, np.float32)

    def finish(self) -> Floats:
        """The probabilities of what is left; the sound is taken to be silent after its end."""
        left = len(self._rest) - BEFORE_N
        sound, self._rest = np.pad(self._rest, (0, -left % FRAME_N)), np.zeros(BEFORE_N, np.float32)
        return self._heard(sound) if left else np.zeros(0, np.float32)

    def _heard(self, sound: Floats) -> Floats:
        frames = np.lib.stride_tricks.sliding_window_view(sound, BEFORE_N + FRAME_N)[::FRAME_N]
        return self._remembered(self._seen(frames) @ self._into + self._bias)

    def _seen(self, frames: Floats) -> Floats:
        """What the convolutions make of (k, 576) samples, (k, 128)."""
        windows = np.empty((len(frames), PLACES, WINDOW_N), np.float32)
        for i in range(PLACES - 1):
            windows[:, i] = frames[:, i * HOP_N : i * HOP_N + WINDOW_N]
        windows[:, -1, :-BEFORE_N] = frames[:, (PLACES - 1) * HOP_N :]
        windows[:, -1, -BEFORE_N:] = frames[:, -2 : -2 - BEFORE_N : -1]  # reflected
        windows *= self._window
        spectrum = np.fft.rfft(windows)
        seen = np.square(spectrum.real)
        seen += np.square(spectrum.imag)
        np.sqrt(seen, out=seen)
        for stride, (weight, bias) in zip(STRIDES, self._dense, strict=True):
            before, channels = seen.shape[1:]
            places = (before - 1) // stride + 1
            around = np.zeros((len(frames), places, 3, channels), np.float32)
            for i in range(places):
                first = i * stride - 1
                there = slice(max(0, first), min(before, first + 3))
                around[:, i, there.start - first : there.stop - first] = seen[:, there]
            seen = around.reshape(len(frames) * places, -1) @ weight
            seen += bias
            seen = _relu(seen).reshape(len(frames), places, -1)
        weight, bias = self._last
        return _relu(seen[:, 0] @ weight + bias)

    def _remembered(self, given: Floats) -> Floats:
        """Probabilities (k,), frame after frame, from what was seen (k, 512) and what is remembered."""
        hidden, cell, again = self._hidden, self._cell, self._again
        shown = np.empty((len(given), HIDDEN), np.float32)
        gates, half = np.empty(4 * HIDDEN, np.float32), np.float32(0.5)
        opened, fresh = gates[: 3 * HIDDEN].reshape(3, HIDDEN), gates[3 * HIDDEN :]
        for row, now in zip(given, shown, strict=True):
            np.dot(hidden, again, out=gates)
            gates += row
            np.tanh(gates, out=gates)
            opened *= half
            opened += half
            fresh *= opened[0]
            cell *= opened[2]
            cell += fresh
            np.tanh(cell, out=now)
            now *= opened[1]
            hidden = now
        self._hidden = hidden.copy()
        score = _relu(shown) @ self._out + self._out_bias
        return 1 / (1 + np.exp(-score))


def _relu(x: Floats) -> Floats:
    return np.maximum(x, 0, out=x)
