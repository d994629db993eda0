"""Music with known beats, bars and repeats, made of drums, a bass line and chords; for tests of tailoring."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np

from jaylantern.core.signal.timebase import RATE

CHORDS = {"C": (0, 4, 7), "F": (5, 9, 12), "G": (7, 11, 14), "a": (9, 12, 16), "d": (2, 5, 9), "e": (4, 7, 11)}
SECTIONS = {"A": ("C", "a", "F", "G"), "B": ("d", "G", "e", "a"), "V": ("F", "F", "C", "C")}


@dataclass(frozen=True)
class Tune:
    """`sound` (n, 1) float32 at 48 kHz; `beats_n` and `bars_n` in samples."""

    sound: np.ndarray
    beats_n: np.ndarray
    bars_n: np.ndarray


def beat_times(beats: int, *, bpm: float, until_bpm: float | None = None, change_at: int | None = None) -> np.ndarray:
    """Samples at which beats begin, one more than there are; the tempo drifts evenly, or jumps at a beat."""
    last = bpm if until_bpm is None else until_bpm
    tempo = np.linspace(bpm, last, beats)
    if change_at is not None:
        tempo = np.where(np.arange(beats) < change_at, bpm, last)
    return np.concatenate(([0], np.cumsum(np.round(60 * RATE / tempo)))).astype(np.int64)


@cache
def tune(
    sections: str = "AABA",
    *,
    bpm: float = 110.0,
    meter: int = 4,
    until_bpm: float | None = None,
    change_at: int | None = None,
    drums: bool = True,
    seed: int = 1,
) -> Tune:
    """Sections of four bars each. Bars of one section are the same samples wherever the tempo is steady."""
    bars = [chord for section in sections for chord in SECTIONS[section]]
    at_n = beat_times(len(bars) * meter, bpm=bpm, until_bpm=until_bpm, change_at=change_at)
    sound = np.zeros(at_n[-1] + RATE)
    for k, chord in enumerate(bars):
        for beat in range(meter):
            i = k * meter + beat
            length_n = int(at_n[i + 1] - at_n[i])
            sounds = _beat(CHORDS[chord], beat, meter, length_n, drums=drums, seed=seed)
            sound[at_n[i] : at_n[i] + len(sounds)] += sounds
    sound = (sound[: at_n[-1]] / np.abs(sound).max() * 0.6)[:, None]
    made = sound.astype(np.float32)
    made.setflags(write=False)  # it is made once
    return Tune(made, at_n[:-1], at_n[:-1:meter])


def _beat(chord: tuple[int, ...], beat: int, meter: int, length_n: int, *, drums: bool, seed: int) -> np.ndarray:
    """One beat; what sounds ends with it, so that a bar is the same whatever comes before."""
    t = np.arange(length_n) / RATE
    out = 0.25 * _note(chord[0] - 12 if beat == 0 else chord[2] - 12, t, fall=3)
    for step in chord:
        out += 0.12 * _note(step, t, fall=2 if beat == 0 else 6)
    if drums:
        random = np.random.default_rng([seed, beat])
        if beat == 0 or (meter == 4 and beat == 2):
            out += (0.9 if beat == 0 else 0.6) * np.sin(2 * np.pi * 55 * t) * np.exp(-t * 18)
        else:
            out += 0.35 * random.standard_normal(length_n) * np.exp(-t * 30)
        half = length_n // 2
        for start in (0, half):
            hat = np.diff(random.standard_normal(length_n - start), prepend=0.0)
            out[start:] += 0.08 * hat * np.exp(-t[: length_n - start] * 60)
    edge = min(240, length_n // 4)
    out[-edge:] *= np.linspace(1, 0, edge)
    return out


def _note(step: int, t: np.ndarray, *, fall: float) -> np.ndarray:
    hz = 261.63 * 2 ** (step / 12)
    return sum(np.sin(2 * np.pi * hz * k * t) / k for k in (1, 2, 3)) * np.exp(-t * fall) * np.minimum(t * 200, 1)
