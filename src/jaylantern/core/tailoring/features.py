"""What tailoring hears of a piece of music, in one pass: where something begins, its colour, its harmony, its level.

spectrum   Hann window of 32 ms each 10 ms, mono at 16 kHz
colour     level in BANDS bands of equal width on the mel scale (O'Shaughnessy 1987), dB over the FLOOR
onset      rise of the colour over 20 ms, rectified, mean of the bands ("spectral flux", Dixon, DAFx 2006)
harmony    energy of the twelve pitch classes each 160 ms, window of 256 ms (Fujishima, ICMC 1999)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

RATE = 16_000  # of the mono sound that is listened to
HOP_N, FRAME_N = 160, 512
HOPS_A_SECOND = RATE // HOP_N
BANDS, LOW_BANDS = 24, 3  # the lowest three, up to some 330 Hz: bass and drum
LOWEST_HZ, HIGHEST_HZ = 40.0, 8000.0
FLOOR_DB = -100.0  # under full scale
ONSET_DB = 40.0  # over the floor: what begins more softly is no onset
COLOUR_HOPS, HARMONY_HOPS = 2, 16  # of HOP_N, between rows of colour and of harmony
HARMONY_N = 4096
RISE = 2  # hops over which something rises
TILE = 256  # hops worked out at once; a multiple of COLOUR_HOPS and HARMONY_HOPS
FIRST_PITCH, PITCHES = 36, 60  # MIDI numbers: C2 to B6

Floats = NDArray[np.float32]
Halves = NDArray[np.float16]


@dataclass(frozen=True, eq=False)
class MusicFeatures:
    """What was heard. `onset` and `low_onset` (hops,), dB of rise, each 10 ms; `colour` (rows, BANDS), dB over the
    floor, each 20 ms; `harmony` (rows, 12), of length 1, or 0 in silence, each 160 ms. Row k of any lies around the
    middle of its k-th step; `length_n` samples at 48 kHz."""

    onset: Floats
    low_onset: Floats
    colour: Halves
    harmony: Halves
    length_n: int


class Listener:
    """Hears a stream of mono sound at RATE, piece by piece; the answer does not depend on the pieces."""

    def __init__(self) -> None:
        self._before_n = max(FRAME_N, HARMONY_N) // 2
        self._rest = np.zeros(self._before_n - HOP_N // 2, np.float32)
        self._window, self._long_window = _hann(FRAME_N), _hann(HARMONY_N)
        self._bands, self._pitches = mel_bands(), pitch_classes()
        self._last = np.full((RISE, BANDS), ONSET_DB, np.float32)
        self._count_n = 0
        self._rows: tuple[list[Floats], list[Floats], list[Halves], list[Halves]] = ([], [], [], [])

    def add(self, samples: Floats) -> None:
        """Hear the next samples, (n,)."""
        self._count_n += len(samples)
        self._rest = np.concatenate((self._rest, samples))
        self._hear()

    def finish(self, length_n: int) -> MusicFeatures:
        """All that was heard; the sound, `length_n` samples at 48 kHz, is silent after its end."""
        hops = -(-self._count_n // HOP_N)
        self._rest = np.concatenate((self._rest, np.zeros(TILE * HOP_N + 2 * self._before_n, np.float32)))
        self._hear()
        onset, low, colour, harmony = self._rows
        return MusicFeatures(
            np.concatenate(onset)[:hops],
            np.concatenate(low)[:hops],
            np.concatenate(colour)[: -(-hops // COLOUR_HOPS)],
            np.concatenate(harmony)[: -(-hops // HARMONY_HOPS)],
            length_n,
        )

    def _hear(self) -> None:
        size = (TILE - 1) * HOP_N + 2 * self._before_n
        while len(self._rest) >= size:
            self._tile(self._rest[:size])
            self._rest = self._rest[TILE * HOP_N :]

    def _tile(self, sound: Floats) -> None:
        """TILE hops; the middle of the first lies `_before_n` after the beginning of the sound."""
        frames = np.lib.stride_tricks.sliding_window_view(sound, FRAME_N)[self._before_n - FRAME_N // 2 :: HOP_N][:TILE]
        colour = _over_floor(_powers(frames * self._window) @ self._bands)
        loud = np.maximum(colour, np.float32(ONSET_DB))
        rise = np.maximum(loud - np.concatenate((self._last, loud))[:TILE], 0.0)
        self._last = loud[-RISE:]
        longs = np.lib.stride_tricks.sliding_window_view(sound, HARMONY_N)[:: HOP_N * HARMONY_HOPS][
            : TILE // HARMONY_HOPS
        ]
        chroma = np.sqrt(_powers(longs * self._long_window) @ self._pitches)
        length = np.sqrt((chroma * chroma).sum(axis=1, keepdims=True))
        onset, low, colours, harmonies = self._rows
        onset.append(rise.mean(axis=1))
        low.append(rise[:, :LOW_BANDS].mean(axis=1))
        colours.append(colour.reshape(-1, COLOUR_HOPS, BANDS).mean(axis=1).astype(np.float16))
        heard = length > 10 ** (FLOOR_DB / 20)
        harmonies.append(np.where(heard, chroma / np.maximum(length, 1e-9), 0.0).astype(np.float16))


def _hann(size: int) -> Floats:
    """Periodic Hann window whose powers of a full-scale sine come to 1."""
    window = 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size)
    return np.asarray(window * 2 / window.sum(), np.float32)


def _powers(frames: Floats) -> Floats:
    found = np.fft.rfft(frames)
    return np.asarray(found.real**2 + found.imag**2, np.float32)


def _over_floor(power: Floats) -> Floats:
    return np.maximum(10 * np.log10(power + np.float32(1e-12)) - np.float32(FLOOR_DB), 0).astype(np.float32)


def mel_bands() -> Floats:
    """Triangles that add up powers (bins,) to BANDS bands, shape (bins, BANDS)."""

    def mel(hz: NDArray[np.float64] | float) -> NDArray[np.float64]:
        """Hertz as mel."""
        return 2595 * np.log10(1 + np.asarray(hz) / 700)

    hz = np.arange(FRAME_N // 2 + 1) * RATE / FRAME_N
    corners = np.linspace(mel(LOWEST_HZ), mel(HIGHEST_HZ), BANDS + 2)
    up = (mel(hz)[:, None] - corners[:-2]) / np.diff(corners)[:-1]
    down = (corners[2:] - mel(hz)[:, None]) / np.diff(corners)[1:]
    return np.maximum(np.minimum(up, down), 0).astype(np.float32)


def pitch_classes() -> Floats:
    """What adds up powers (bins,) to the twelve pitch classes, C first, shape (bins, 12): each bin counts for the
    semitones it is near."""
    hz = np.arange(1, HARMONY_N // 2 + 1) * RATE / HARMONY_N
    pitch = 69 + 12 * np.log2(hz / 440)
    weights = np.zeros((HARMONY_N // 2 + 1, 12), np.float32)
    for number in range(FIRST_PITCH, FIRST_PITCH + PITCHES):
        near = np.maximum(1 - np.abs(pitch - number), 0)
        weights[1:, number % 12] += np.where(near > 0, near**2, 0).astype(np.float32)
    return weights
