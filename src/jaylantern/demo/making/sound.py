"""The demo's sound: two voices by a speech synthesiser, a bed composed here, a workshop."""

from __future__ import annotations

import subprocess
from collections.abc import Iterator

import numpy as np
import soundfile
import soxr

from jaylantern.core.signal.timebase import RATE
from jaylantern.demo.making.story import LENGTH_S, LINES, TAKE
from jaylantern.support.scratch import scratch

VOICES = {"narrator": ("rms", -15.0), "mender": ("slt", -19.0)}  # synthesiser's voice, level of its loud parts in dBFS
BEAT_S = 60 / 84
TOTAL_N = round(LENGTH_S * RATE)


def voice(who: str) -> np.ndarray:
    """Everything one person says, in its place, over a little room noise; (n, 1) float32."""
    name, level_db = VOICES[who]
    out = np.random.default_rng(len(who)).normal(0, 10 ** (-72 / 20), TOTAL_N)
    for line in (line for line in LINES if line.who == who):
        spoken = _spoken(line.text, name)
        loud = np.sqrt(np.percentile(np.square(spoken), 90))
        at = round(line.start_s * RATE)
        out[at : at + len(spoken)] += spoken * 10 ** ((level_db - line.softer_db) / 20) / loud
    return out[:, None].astype(np.float32)


def take() -> np.ndarray:
    """What the stand-in microphone hears: a sentence after the other, over a little room noise; (n, 1) float32."""
    name, level_db = VOICES["narrator"]
    parts = [part for text in TAKE for part in (_spoken(text, name), np.zeros(round(0.6 * RATE)))]
    sound = np.concatenate(parts)
    sound *= 10 ** ((level_db - 4) / 20) / np.sqrt(np.percentile(np.square(sound), 90))
    sound += np.random.default_rng(4).normal(0, 10 ** (-72 / 20), len(sound))
    return np.clip(sound, -0.9, 0.9)[:, None].astype(np.float32)


def _spoken(text: str, name: str) -> np.ndarray:
    with scratch() as folder:
        path = folder / "line.wav"
        subprocess.run(["flite", "-voice", name, "-t", text, "-o", str(path)], check=True)
        sound, rate = soundfile.read(path)
    loud = np.flatnonzero(np.abs(sound) > 0.01)
    return soxr.resample(sound[loud[0] : loud[-1] + 1], rate, RATE)


# The bed: eight bars of harmony, each four beats, as steps of a minor scale on A.
CHORDS = ((0, 3, 7), (-4, 0, 3), (3, 7, 10), (-2, 2, 5), (0, 3, 7), (5, 8, 12), (-4, 3, 8), (-5, -1, 2))
TUNE = (12, None, 15, 14, 12, None, 10, 7, 12, 14, 15, None, 19, 17, 15, 14, 17, None, 15, 12, 10, 12, 7, None)
# first bar, pattern: still, plucked, plucked with a tune, full
SECTIONS = ((0, "plucked"), (2, "full"), (6, "still"), (8, "tune"), (14, "plucked"), (18, "full"), (24, "still"),
            (26, "tune"), (32, "full"), (38, "plucked"), (41, "full"), (46, "plucked"), (49, "still"))  # fmt: skip
BARS = 51  # eight more than the film has: the bed is tailored to it
BED_N = round(BARS * 4 * BEAT_S * RATE)


SHANTY_S, SHANTY_LOUD = 31 * 4 * BEAT_S, 0.55  # from bar 31 on
SHANTY = (
    ("haul", (3, 3)), ("away", (7, 5, 3)), ("the", (2,)), ("morning", (3, 2, 0)), ("haul", (3, 3)), ("away", (7, 8, 7)),
    ("for", (5,)), ("home", (3, 2, 0, 0)),
)  # fmt: skip


def bed() -> np.ndarray:
    """Original music of fifty-one bars: plucked figures, a bass, soft chords, a tune, a line of a shanty where the
    clock goes home by boat; (n, 2) float32."""
    out = np.zeros((BED_N + 6 * RATE, 2))
    for at_s, pitch, length_s, loud, pan, colour in _notes():
        at, note = round(at_s * RATE), _note(pitch, length_s, colour) * loud
        out[at : at + len(note), 0] += note * np.cos(pan)
        out[at : at + len(note), 1] += note * np.sin(pan)
    played, sung, line = _hall(out)[:BED_N], np.zeros((BED_N, 2)), shanty()
    sung[round(SHANTY_S * RATE) :][: len(line)] += line[:, None]
    loud = np.abs(played).max() / 0.44
    out = (played + _hall(sung)) / loud
    out[-3 * RATE :] *= np.linspace(1, 0, 3 * RATE)[:, None] ** 2
    return out.astype(np.float32)


def shanty() -> np.ndarray:
    """A line sung: the synthesiser's words with their vowels drawn out to notes, by the WORLD vocoder (Morise et al.
    2016); (n,)."""
    import pyworld

    parts = []
    for word, steps in SHANTY:
        spoken = soxr.resample(_spoken(word, "slt"), RATE, 16_000).astype(np.float64)
        pitch, times = pyworld.harvest(spoken, 16_000)
        shape, breath = (find(spoken, pitch, times, 16_000) for find in (pyworld.cheaptrick, pyworld.d4c))
        voiced = np.flatnonzero(pitch > 0)
        frames = round(len(steps) * BEAT_S / 0.005)
        vowel = np.linspace(voiced[0], voiced[-1], max(2, frames - voiced[0])).round().astype(int)
        taken = np.concatenate((np.arange(voiced[0]), vowel, np.arange(voiced[-1], len(pitch))))[:frames]
        at = np.arange(len(taken)) * 0.005
        step = np.array(steps)[np.minimum((at / BEAT_S).astype(int), len(steps) - 1)]
        swing = 0.35 * np.clip((at % BEAT_S - 0.2) / 0.2, 0, 1) * np.sin(2 * np.pi * 5.5 * at)
        hz = np.where(pitch[taken] > 0, 220.0 * 2 ** ((step + swing) / 12), 0.0)
        made = pyworld.synthesize(hz, np.ascontiguousarray(shape[taken]), np.ascontiguousarray(breath[taken]), 16_000)
        parts.append(soxr.resample(made, 16_000, RATE)[: round(len(steps) * BEAT_S * RATE)])
    sung = np.concatenate(parts)
    return sung * SHANTY_LOUD / np.sqrt(np.percentile(np.square(sung), 90))


def _notes() -> Iterator[tuple[float, int, float, float, float, str]]:
    """Start in s, pitch in half-tones from A3, length in s, loudness, place from left to right in rad, colour."""
    for bar in range(BARS):
        pattern = [kind for first, kind in SECTIONS if bar >= first][-1]
        chord, start = CHORDS[bar % len(CHORDS)], bar * 4 * BEAT_S
        yield start, chord[0] - 24, 4 * BEAT_S, 0.5, 0.8, "bass"
        for i, step in enumerate(chord):
            yield start, step, 4.4 * BEAT_S, 0.12 if pattern == "still" else 0.2, 0.4 + 0.4 * i, "soft"
        if pattern == "still":
            continue
        for i in range(8):
            step = (*chord, chord[1] + 12)[(i * 3 + bar) % 4] + 12 * (i % 2)
            yield start + i * BEAT_S / 2, step, 1.6, 0.34 if i % 4 == 0 else 0.24, 0.35 + 0.12 * i, "plucked"
        if pattern in ("tune", "full"):
            for i in range(4):
                note = TUNE[(bar * 4 + i) % len(TUNE)]
                if note is not None:
                    yield start + i * BEAT_S, note, 1.9, 0.4, 0.75, "bell"
        if pattern == "full":
            for i in range(4):
                yield start + i * BEAT_S, chord[0] - 12, 0.7, 0.5, 0.8, "bass"


def _note(pitch: int, length_s: float, colour: str) -> np.ndarray:
    t = np.arange(round(length_s * RATE)) / RATE
    f = 220.0 * 2 ** (pitch / 12)
    partials = {"plucked": (1, 0.5, 0.3, 0.14, 0.08), "bell": (1, 0.1, 0.35, 0.02, 0.12), "bass": (1, 0.45, 0.12),
                "soft": (1, 0.22, 0.1)}[colour]  # fmt: skip
    fall = {"plucked": 3.2, "bell": 2.2, "bass": 1.6, "soft": 0.25}[colour]
    tone = sum(
        a * np.sin(2 * np.pi * f * k * t) * np.exp(-fall * (0.6 + 0.4 * k) * t) for k, a in enumerate(partials, 1)
    )
    rise = np.minimum(1, t / (0.5 if colour == "soft" else 0.006))
    return tone * rise * np.minimum(1, (length_s - t) / 0.15)


def _hall(dry: np.ndarray) -> np.ndarray:
    """A little room: decaying noise, convolved in the frequency domain."""
    n = round(1.4 * RATE)
    tail = np.random.default_rng(3).normal(size=(n, 2)) * np.exp(-np.arange(n) / (0.35 * RATE))[:, None]
    size = 1 << (len(dry) + n - 1).bit_length()
    wet = np.fft.irfft(np.fft.rfft(dry, size, axis=0) * np.fft.rfft(tail, size, axis=0), size, axis=0)[: len(dry)]
    return dry + wet * 0.22 / np.sqrt(np.square(tail).sum(axis=0).mean())


def workshop() -> np.ndarray:
    """What the camera heard: a room by the water, a clock ticking, now and then a small hammer; (n, 2) float32."""
    random = np.random.default_rng(11)
    noise = random.normal(size=(TOTAL_N, 2))
    spectrum = np.fft.rfft(noise, axis=0)
    f = np.fft.rfftfreq(TOTAL_N, 1 / RATE)[:, None]
    room = np.fft.irfft(spectrum / (1 + (f / 180) ** 1.2), TOTAL_N, axis=0)
    room *= 10 ** (-46 / 20) / room.std()
    swell = 1 + 0.5 * np.sin(2 * np.pi * np.arange(TOTAL_N) / RATE / 7.3)
    out = room * swell[:, None]
    for at_s in np.arange(33.5, 92, 1.0):
        _strike(out, at_s, 2600, 0.006, 0.02, 0.4)
    for at_s in np.concatenate((np.arange(38.6, 41.5, 0.72), np.arange(68.4, 72.2, 0.72), np.arange(76.5, 80, 0.9))):
        _strike(out, at_s, 1450, 0.05, 0.11, 0.6)
    for at_s in np.arange(110.6, 114, 1.6):
        _strike(out, at_s, 392, 0.9, 0.16, 0.5)
    return np.clip(out, -0.9, 0.9).astype(np.float32)


def _strike(out: np.ndarray, at_s: float, f: float, fall_s: float, loud: float, pan: float) -> None:
    t = np.arange(round(6 * fall_s * RATE)) / RATE
    tone = sum(np.sin(2 * np.pi * f * k * t) / k for k in (1.0, 2.41, 3.9)) * np.exp(-t / fall_s) * loud
    tone[: RATE // 1000] *= np.linspace(0, 1, RATE // 1000)
    at = round(at_s * RATE)
    room = out[at : at + len(tone)]
    room += (tone[:, None] * np.array([1 - pan, pan]))[: len(room)]
