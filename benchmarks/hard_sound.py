"""Conditions in which speech is hard to find, built from recorded voices; truth comes from each utterance alone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
import soxr

from benchmarks.voices import HOP_N, RATE, SPEECH_DB, brought_to, cries, others, speakers, spoken

SECONDS = 150  # of each condition


@dataclass(frozen=True)
class Case:
    """Sound (n,), mono at 16 kHz, and what is spoken in it, a mask of blocks of 10 ms."""

    sound: np.ndarray
    truth: np.ndarray


class Maker:
    """Makes the conditions of one part of the material."""

    def __init__(self, folder: Path, part: str) -> None:
        self.folder, self.part = folder, part
        self.random = np.random.default_rng(11 if part == "choose" else 12)
        self.voices = speakers(folder, part)

    def line(self, *, of: str = "", least_s: float = 0.0) -> np.ndarray:
        """An utterance of a speaker, or of any."""
        while True:
            name = of or str(self.random.choice(list(self.voices)))
            pool = self.voices[name]
            sound = pool[int(self.random.integers(len(pool)))]
            if len(sound) >= least_s * RATE or of:
                return sound

    def laid(
        self,
        *,
        seconds: float = SECONDS,
        pause_s: tuple[float, float] = (0.5, 3.0),
        change: Callable[[np.ndarray], np.ndarray] = lambda sound: sound,
        gain_db: Callable[[int], float] = lambda i: 0.0,
    ) -> Case:
        """Utterances one after another, by changing speakers, two or three of one speaker at a time."""
        out = np.zeros(round(seconds * RATE), np.float32)
        truth = np.zeros(len(out) // HOP_N, bool)
        at, turn, name = round(0.8 * RATE), 0, ""
        while True:
            if turn % 3 == 0:
                name = str(self.random.choice(list(self.voices)))
            sound = self.line(of=name)
            said, mask = change(sound) * np.float32(10 ** (gain_db(turn) / 20)), spoken(sound)
            if at + max(len(said), len(sound)) + RATE > len(out):
                return Case(out, truth)
            at -= at % HOP_N
            out[at : at + len(said)] += said
            truth[at // HOP_N : at // HOP_N + len(mask)] |= mask
            at += len(sound) + round(self.random.uniform(*pause_s) * RATE)
            turn += 1

    def bed(self, kind: str, seconds: float = SECONDS) -> np.ndarray:
        """Music, one piece after another, each cut in hard as editors do."""
        pool, parts, have = others(self.folder, self.part, kind), [], 0
        while have < seconds * RATE:
            parts.append(pool[int(self.random.integers(len(pool)))][: 30 * RATE])
            have += len(parts[-1])
        return np.concatenate(parts)[: round(seconds * RATE)]

    def under(self, case: Case, bed: np.ndarray, ratio_db: float) -> Case:
        """A case with something so many dB under its speech (90th percentiles of 10 ms)."""
        return Case(case.sound + brought_to(bed, SPEECH_DB - ratio_db)[: len(case.sound)], case.truth)

    def floor(self, case: Case, db: float) -> Case:
        """A case with the noise of a room so many dB under its speech."""
        shaped = _tilted(self.random.standard_normal(len(case.sound)), -3)
        return self.under(case, shaped, db)

    def babble(self, talkers: int = 8) -> np.ndarray:
        """Many people at once, of the other part's speakers."""
        other = Maker(self.folder, "report" if self.part == "choose" else "choose")
        return np.sum([other.laid(pause_s=(0.05, 0.3)).sound for _ in range(talkers)], axis=0)

    def alone(self, pool: list[np.ndarray], pause_s: tuple[float, float] = (0.3, 1.5), seconds: float = 90) -> Case:
        """Sounds that are no speech, one after another."""
        out, at = np.zeros(round(seconds * RATE), np.float32), RATE // 2
        while True:
            sound = pool[int(self.random.integers(len(pool)))][: 20 * RATE]
            if at + len(sound) > len(out):
                break
            out[at : at + len(sound)] += sound
            at += len(sound) + round(self.random.uniform(*pause_s) * RATE)
        case = Case(out, np.zeros(len(out) // HOP_N, bool))
        return self.floor(case, 50)


def _tilted(noise: np.ndarray, db_per_octave: float) -> np.ndarray:
    spectrum = np.fft.rfft(noise)
    hz = np.fft.rfftfreq(len(noise), 1 / RATE)
    spectrum *= np.maximum(hz, 20.0) ** (db_per_octave / 6.02)
    return np.fft.irfft(spectrum, len(noise)).astype(np.float32)


def hall(seconds: float, wet_db: float = -4.0, seed: int = 3) -> Callable[[np.ndarray], np.ndarray]:
    """A room whose sound takes so long to fall by 60 dB: a direct sound, a few early returns, a tail of noise."""
    random = np.random.default_rng(seed)
    t = np.arange(round(1.2 * seconds * RATE)) / RATE
    tail = _tilted(random.standard_normal(len(t)), -2) * 10 ** (-3 * t / seconds)
    tail[: round(0.012 * RATE)] = 0
    tail *= 10 ** (wet_db / 20) / np.sqrt(np.sum(np.square(tail)))
    for at_s, amplitude in ((0.007, 0.3), (0.013, -0.25), (0.021, 0.2), (0.034, -0.15)):
        tail[round(at_s * RATE)] += amplitude * 10 ** (wet_db / 20)

    def played(sound: np.ndarray) -> np.ndarray:
        size = 1 << (len(sound) + len(tail)).bit_length()
        wet = np.fft.irfft(np.fft.rfft(sound, size) * np.fft.rfft(tail, size), size)[: len(sound) + len(tail)]
        wet[: len(sound)] += sound
        return wet.astype(np.float32)

    return played


def whispered(sound: np.ndarray, seed: int = 5) -> np.ndarray:
    """The same words without voice: noise that takes on the level of speech in 24 bands, as a whisper's breath does,
    with the lowest bands taken back (from memory: a whisper lacks what lies under 500 Hz)."""
    random = np.random.default_rng(seed)
    edges = np.geomspace(100, 7800, 25)
    noise, out = np.fft.rfft(random.standard_normal(len(sound))), np.zeros(len(sound))
    voiced, hz = np.fft.rfft(sound), np.fft.rfftfreq(len(sound), 1 / RATE)
    smooth = np.hanning(321) / np.hanning(321).sum()
    for low, high in pairwise(edges):
        inside = (hz >= low) & (hz < high)
        carrier = np.fft.irfft(np.where(inside, noise, 0), len(sound))
        band = np.fft.irfft(np.where(inside, voiced, 0), len(sound))
        envelope = np.sqrt(np.maximum(np.convolve(band**2, smooth, "same"), 0))
        power = np.sqrt(np.convolve(carrier**2, smooth, "same") + 1e-12)
        out += carrier / power * envelope * min(1.0, (np.sqrt(low * high) / 600) ** 1.5)
    return brought_to(out.astype(np.float32), SPEECH_DB - 6)


def sung(sound: np.ndarray, random: np.random.Generator) -> np.ndarray | None:
    """The words of an utterance sung: its vowels drawn out to notes of a scale with vibrato, by the WORLD vocoder
    (Morise et al. 2016); after Saitou et al. 2007, "Speech-to-singing synthesis". None for sound without voice."""
    import pyworld

    pitch, times = pyworld.harvest(sound.astype(np.float64), RATE)
    shape = pyworld.cheaptrick(sound.astype(np.float64), pitch, times, RATE)
    breath = pyworld.d4c(sound.astype(np.float64), pitch, times, RATE)
    voiced = pitch > 0
    if voiced.mean() < 0.3:
        return None
    edges = np.flatnonzero(np.diff(np.concatenate(([0], voiced.astype(int), [0])))).reshape(-1, 2)
    rows: list[np.ndarray] = []
    melody: list[np.ndarray] = []
    degree = int(random.integers(0, 5))
    base = float(np.median(pitch[voiced]))
    base = 55 * 2 ** (round(12 * np.log2(base * 1.3 / 55)) / 12)
    last = 0
    for start, stop in edges.tolist():
        rows.append(np.arange(last, start))
        melody.append(np.zeros(start - last))
        size = max(1, round((stop - start) * random.uniform(2.0, 4.0)))
        rows.append(np.linspace(start, stop - 1, size).round().astype(int))
        degree = int(np.clip(degree + random.integers(-2, 3), 0, 7))
        note = base * 2 ** ((0, 2, 4, 5, 7, 9, 11, 12)[degree] / 12)
        t = np.arange(size) * 0.005
        depth = 0.5 * np.clip((t - 0.2) / 0.3, 0, 1)  # semitones of vibrato, setting in after a while
        melody.append(note * 2 ** (depth * np.sin(2 * np.pi * 5.5 * t) / 12))
        last = stop
    taken, f0 = np.concatenate(rows), np.concatenate(melody)
    made = pyworld.synthesize(f0, np.ascontiguousarray(shape[taken]), np.ascontiguousarray(breath[taken]), RATE)
    return brought_to(made.astype(np.float32), SPEECH_DB)


def songs(maker: Maker, count: int = 24) -> list[np.ndarray]:
    """Sung lines."""
    out: list[np.ndarray] = []
    while len(out) < count:
        made = sung(maker.line(least_s=1.2), maker.random)
        if made is not None:
            out.append(made)
    return out


def _eight(case: Case) -> Case:
    narrow = soxr.resample(case.sound, RATE, 8000, quality="HQ")
    return Case(np.pad(soxr.resample(narrow, 8000, RATE, quality="HQ"), (0, 1))[: len(case.sound)], case.truth)


def _drifting(case: Case, maker: Maker) -> Case:
    t = np.arange(len(case.sound)) / RATE
    swing = 12 * np.sin(2 * np.pi * t / 23) + 6 * np.sin(2 * np.pi * t / 61 + 1)
    return maker.floor(Case((case.sound * 10 ** (swing / 20)).astype(np.float32), case.truth), 48)


def _acted(maker: Maker) -> Case:
    """Lines with cries, groans and laughter in the pauses between them."""
    case = maker.laid(pause_s=(1.5, 3.5))
    out, pool = case.sound.copy(), cries(maker.folder, maker.part)
    silent = np.concatenate(([0], (~case.truth).astype(np.int8), [0]))
    for start, stop in np.flatnonzero(np.diff(silent)).reshape(-1, 2).tolist():
        cry = pool[int(maker.random.integers(len(pool)))]
        at = start * HOP_N + RATE // 4
        if at + len(cry) + RATE // 4 < stop * HOP_N:
            out[at : at + len(cry)] += cry
    return maker.floor(Case(out, case.truth), 48)


def wind(maker: Maker, seconds: float = SECONDS) -> np.ndarray:
    """Wind on a microphone: low noise that comes in gusts."""
    count = round(seconds * RATE)
    noise = _tilted(maker.random.standard_normal(count), -9)
    slow = _tilted(maker.random.standard_normal(round(seconds * 50)), -6)
    gusts = np.interp(np.arange(count) * 50 / RATE, np.arange(len(slow)), 10 ** (8 * slow / slow.std() / 20))
    return (noise * gusts).astype(np.float32)


def traffic(maker: Maker, seconds: float = SECONDS) -> np.ndarray:
    """A street: a steady rumble, cars that pass, a horn now and then."""
    count = round(seconds * RATE)
    t, out = np.arange(count) / RATE, _tilted(maker.random.standard_normal(count), -4.5)
    out /= out.std()
    for at in np.arange(2.0, seconds, 5.0):
        near = np.exp(-np.square((t - at - maker.random.uniform(0, 3)) / 1.2))
        out += 3 * near * _tilted(maker.random.standard_normal(count), -3) / 0.02 * 0.02
        if maker.random.random() < 0.3:
            horn = (t > at) & (t < at + 0.5)
            out += 2.0 * horn * (np.sin(2 * np.pi * 392 * t) + np.sin(2 * np.pi * 494 * t))
    return out.astype(np.float32)


def _far_second(maker: Maker) -> Case:
    """Two take turns, the second far from the microphone: 20 dB softer, with its room."""
    near, far = maker.laid(seconds=SECONDS), None
    parts, truth, room = [], [], hall(0.5, -2, seed=8)
    for turn in range(12):
        case = maker.laid(seconds=12, pause_s=(0.4, 1.2), change=room if turn % 2 else lambda sound: sound)
        far = case.sound * np.float32(10 ** (-20 / 20)) if turn % 2 else case.sound
        parts.append(far)
        truth.append(case.truth)
    return maker.floor(Case(np.concatenate(parts), np.concatenate(truth)), 55) if far is not None else near


def _meeting(maker: Maker) -> Case:
    """Four seats at one microphone, at different distances, in one room."""
    steps = (0.0, -6.0, -11.0, -16.0)
    room = hall(0.6, -3, seed=9)
    return maker.floor(maker.laid(pause_s=(0.2, 2.0), change=room, gain_db=lambda i: steps[i // 3 % 4]), 45)


SPOKEN: dict[str, Callable[[Maker], Case]] = {
    "read": lambda m: m.floor(m.laid(pause_s=(0.4, 2.0)), 55),
    "acted, with cries": _acted,
    "meeting": _meeting,
    "far second voice": _far_second,
    "music +12 dB": lambda m: m.under(m.laid(), m.bed("music"), 12),
    "music +6 dB": lambda m: m.under(m.laid(), m.bed("music"), 6),
    "music +3 dB": lambda m: m.under(m.laid(), m.bed("music"), 3),
    "music 0 dB": lambda m: m.under(m.laid(), m.bed("music"), 0),
    "music −3 dB": lambda m: m.under(m.laid(), m.bed("music"), -3),
    "hall, 0.9 s": lambda m: m.floor(m.laid(change=hall(0.9)), 50),
    "hall, 2.5 s": lambda m: m.floor(m.laid(change=hall(2.5, -2)), 50),
    "babble +10 dB": lambda m: m.under(m.laid(), m.babble(), 10),
    "babble +4 dB": lambda m: m.under(m.laid(), m.babble(), 4),
    "wind +3 dB": lambda m: m.under(m.laid(), wind(m), 3),
    "traffic +3 dB": lambda m: m.under(m.laid(), traffic(m), 3),
    "effects +3 dB": lambda m: m.under(m.laid(), m.bed("effects"), 3),
    "whisper": lambda m: m.floor(m.laid(change=whispered), 42),
    "8 kHz, hiss": lambda m: _eight(m.floor(m.laid(), 28)),
    "drifting level": lambda m: _drifting(m.laid(), m),
    "clipped": lambda m: (lambda c: Case(np.clip(c.sound * 8, -0.5, 0.5), c.truth))(m.floor(m.laid(), 50)),
    "hall 0.9 s, music +6 dB": lambda m: m.under(m.laid(change=hall(0.9)), m.bed("music"), 6),
}
SILENT: dict[str, Callable[[Maker], Case]] = {
    "music alone": lambda m: m.floor(Case(m.bed("music", 240), np.zeros(240 * 100, bool)), 60),
    "cries alone": lambda m: m.alone(cries(m.folder, m.part)),
    "effects alone": lambda m: m.alone(others(m.folder, m.part, "effects", 40, 8)),
    "sung": lambda m: m.alone(songs(m)),
    "sung over music": lambda m: m.under(m.alone(songs(m), (0.2, 1.0)), m.bed("music", 90), 3),
}
