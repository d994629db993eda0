"""How well speech is found on real prompts in conditions of our own, beside network, GMM detector and gate.

Truth comes from the clean recordings: where they have sound by their own level, pauses under 0.3 s counted in.

Every detector's stretches are joined over pauses under 0.3 s; the GMM detector and the gate get their best settings
of a few for each condition, which is more than they would have in real use.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache

import numpy as np
import soxr

from benchmarks.marks import Marks, marks
from jaylantern.core.signal import intervals
from jaylantern.core.signal.analysis import CHUNK_N, Analyser
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N, level_db, mean_squares
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import VoiceTrack, find_speech
from jaylantern.pipeline import hear

PROMPTS = (
    "vm-intro", "vm-opts", "vm-advopts", "tt-weasels", "agent-newlocation", "vm-options", "demo-congrats",
    "conf-adminmenu-18", "vm-delete", "agent-loginok", "vm-savedto", "vm-reachoper", "privacy-prompt", "vm-review",
    "queue-thankyou", "conf-usermenu-162", "vm-starmain", "dir-instr", "demo-instruct",
    "conf-hasjoin", "conf-hasleft", "conf-muted", "conf-locked", "confbridge-pin", "dir-nomatch", "goodbye",
    "hello-world", "im-sorry", "auth-thankyou", "auth-incorrect", "demo-thanks", "demo-nogo", "demo-enterkeywords",
    "conf-waitforleader", "conf-getpin", "conf-onlyperson", "conf-invalid", "activated", "call-waiting",
    "do-not-disturb", "check-number-dial-again", "all-circuits-busy-now", "dir-welcome", "dir-usingkeypad",
    "agent-alreadyon", "agent-incorrect", "agent-loggedoff", "conf-full", "conf-kicked", "demo-moreinfo",
)  # fmt: skip
PIECES = ("macroform-the_simplicity", "macroform-cold_day", "macroform-robot_dity", "manolo_camp-morning_coffee",
          "reno_project-system")  # fmt: skip
JOIN_N = round(0.3 * RATE)


@dataclass(frozen=True)
class Case:
    """Sound of one condition (n,), mono, with what is spoken in it."""

    sound: np.ndarray
    truth: Intervals


@cache
def clean() -> Case:
    """The prompts one after another with pauses of 0.7 to 3 s between them."""
    from tests.sounds import prompt

    random = np.random.default_rng(7)
    parts = [np.zeros(RATE, np.float32)]
    for name in PROMPTS:
        try:
            parts += [prompt(name), np.zeros(round(random.uniform(0.7, 3.0) * RATE), np.float32)]
        except Exception:
            continue
    sound = np.concatenate(parts)
    level = level_db(mean_squares(sound[:, None]))
    spoken = level > np.percentile(level[level > -70], 95) - 30
    joined = intervals.union(intervals.runs(spoken) * HOP_N, gap_n=JOIN_N)
    return Case(sound, joined[joined[:, 1] - joined[:, 0] > 0.1 * RATE])


def _speech_rms() -> float:
    case = clean()
    spoken = np.concatenate([case.sound[a:b] for a, b in case.truth])
    return float(np.sqrt(np.mean(np.square(spoken, dtype=np.float64))))


def _with(other: np.ndarray, under_db: float) -> Case:
    """The prompts with something else so many dB under them, by RMS."""
    case = clean()
    other = np.resize(other, len(case.sound))
    gain = _speech_rms() * 10 ** (under_db / 20) / np.sqrt(np.mean(np.square(other, dtype=np.float64)))
    return Case((case.sound + gain * other).astype(np.float32), case.truth)


def _noise(under_db: float) -> Case:
    return _with(np.random.default_rng(1).standard_normal(len(clean().sound)), under_db)


def _music(under_db: float) -> Case:
    from tests.sounds import music

    pieces = [music(name)[: 40 * RATE] for name in PIECES if _there(name)]
    return _with(np.concatenate(pieces), under_db)


def _there(name: str) -> bool:
    from benchmarks.material import MUSIC

    return (MUSIC / f"{name}.g722").exists()


def _in_pauses(
    make: Callable[[np.random.Generator], np.ndarray], *, every_s: float, under_db: float, seed: int
) -> Case:
    """The prompts with short sounds laid into the pauses between them, peaks so many dB under the speech's RMS."""
    case, random = clean(), np.random.default_rng(seed)
    out = case.sound.copy()
    gaps = intervals.without(np.array([[0, len(out)]], np.int64), case.truth)
    for start_n, stop_n in gaps.tolist():
        at = start_n + round(0.12 * RATE)
        while at < stop_n:
            burst = make(random)
            burst = burst / np.abs(burst).max() * _speech_rms() * 10 ** (under_db / 20)
            if at + len(burst) + round(0.12 * RATE) > stop_n:
                break
            out[at : at + len(burst)] += burst.astype(np.float32)
            at += len(burst) + round(random.uniform(0.4, 1.0) * every_s * RATE)
    return Case(out, case.truth)


def _band(random: np.random.Generator, seconds: float, low_hz: float, high_hz: float) -> np.ndarray:
    count = round(seconds * RATE)
    spectrum = np.fft.rfft(random.standard_normal(count))
    hz = np.fft.rfftfreq(count, 1 / RATE)
    spectrum[(hz < low_hz) | (hz > high_hz)] = 0
    return np.fft.irfft(spectrum, count)


def _breath(random: np.random.Generator) -> np.ndarray:
    """Air drawn in: noise of 400 Hz to 6 kHz that swells and stops, 250 to 500 ms."""
    sound = _band(random, random.uniform(0.25, 0.5), 400, 6000)
    x = np.linspace(0, 1, len(sound))
    return sound * np.sin(np.pi * x**1.5) ** 2


def _knock(random: np.random.Generator) -> np.ndarray:
    """A blow or a click: a few damped tones, 80 ms."""
    t = np.arange(round(0.08 * RATE)) / RATE
    tones = [np.sin(2 * np.pi * random.uniform(150, 4000) * t) for _ in range(4)]
    return np.sum(tones, axis=0) * np.exp(-t * random.uniform(60, 200))


def _whoosh(random: np.random.Generator) -> np.ndarray:
    """A mouth-like whoosh: noise through a moving resonance, 400 to 900 ms."""
    sound = _band(random, random.uniform(0.4, 0.9), 200, 5000)
    centre = np.linspace(random.uniform(400, 900), random.uniform(1200, 2500), len(sound))
    out, y1, y2 = np.zeros(len(sound)), 0.0, 0.0
    r = 0.985
    for i, x in enumerate(sound.tolist()):
        y = x + 2 * r * np.cos(2 * np.pi * centre[i] / RATE) * y1 - r * r * y2
        out[i], y2, y1 = y, y1, y
    return out * np.hanning(len(out))


def _hall(seconds: float) -> Case:
    """The prompts in a hall whose sound takes so long to fall by 60 dB, dry and wet equally loud."""
    random, case = np.random.default_rng(3), clean()
    t = np.arange(round(seconds * RATE)) / RATE
    tail = random.standard_normal(len(t)) * 10 ** (-3 * t / seconds)
    size = 1 << (len(case.sound) + len(tail)).bit_length()
    wet = np.fft.irfft(np.fft.rfft(case.sound, size) * np.fft.rfft(tail, size), size)[: len(case.sound)]
    wet *= np.sqrt(np.mean(np.square(case.sound)) / np.mean(np.square(wet)))
    return Case((case.sound + 0.5 * wet).astype(np.float32), case.truth)


CONDITIONS: dict[str, Callable[[], Case]] = {
    "clean": clean,
    "very quiet, −30 dB": lambda: Case((clean().sound * 10 ** (-30 / 20)).astype(np.float32), clean().truth),
    "noise −25 dB": lambda: _noise(-25),
    "noise −15 dB": lambda: _noise(-15),
    "quiet and noisy": lambda: Case((_noise(-18).sound * 0.05).astype(np.float32), clean().truth),
    "music −20 dB": lambda: _music(-20),
    "music −12 dB": lambda: _music(-12),
    "music −6 dB": lambda: _music(-6),
    "breaths": lambda: _in_pauses(_breath, every_s=0.8, under_db=-6, seed=4),
    "knocks and clicks": lambda: _in_pauses(_knock, every_s=0.5, under_db=6, seed=5),
    "whooshes": lambda: _in_pauses(_whoosh, every_s=1.0, under_db=0, seed=6),
    "hall, 0.6 s": lambda: _hall(0.6),
    "hall, 1.8 s": lambda: _hall(1.8),
}


def track_of(sound: np.ndarray) -> VoiceTrack:
    """The voice track of a sound, as an import makes it."""
    analyser = Analyser(1)
    chunks = [np.ascontiguousarray(sound[at : at + CHUNK_N, None]) for at in range(0, len(sound), CHUNK_N)]
    for chunk in chunks:
        analyser.add(chunk)
    return hear(iter(chunks), analyser.finish().level_db, length_n=len(sound))


def network(track: VoiceTrack) -> Intervals:
    """The bare networks, weighed: probability of one half or more, pauses joined."""
    return intervals.union(intervals.runs(track.probability >= 0.5) * HOP_N, gap_n=JOIN_N)


def gmm(case: Case) -> Intervals:
    """A Gaussian-mixture detector at the best of its four settings."""
    import webrtcvad

    narrow = (soxr.resample(case.sound, RATE, 16_000).clip(-1, 1) * 32767).astype(np.int16)

    def found(mode: int) -> Intervals:
        detector, step = webrtcvad.Vad(mode), 480
        frames = range(0, len(narrow) - step, step)
        voiced = np.array([detector.is_speech(narrow[at : at + step].tobytes(), 16_000) for at in frames])
        return intervals.union(intervals.runs(voiced) * 3 * step, gap_n=JOIN_N)

    return max((found(mode) for mode in range(4)), key=lambda spans: marked(spans, case).f1)


def gate(case: Case) -> Intervals:
    """A level gate at the best of a few thresholds."""
    level = level_db(mean_squares(case.sound[:, None]))
    at = [intervals.union(intervals.runs(level > db) * HOP_N, gap_n=JOIN_N) for db in range(-66, -17, 6)]
    return max(at, key=lambda spans: marked(spans, case).f1)


def marked(found: Intervals, case: Case) -> Marks:
    """How well found stretches fit the truth of a case."""
    return marks(found, case.truth, -(-len(case.sound) // HOP_N))


def lines() -> Iterator[str]:
    """The table."""
    yield f"{'':<20} frame F1   late  false  missed  flutter    network    GMM   gate"
    scores = []
    for name, make in CONDITIONS.items():
        case = make()
        track = track_of(case.sound)
        found = find_speech(track, sensitivity=50)
        mine = marked(found, case)
        others = [marked(each, case).f1 for each in (network(track), gmm(case), gate(case))]
        scores.append([mine.f1, *others])
        yield (
            f"{name:<20}{mine.f1:>9.3f} {mine.late:>6.1%} {mine.false:>6.1%} {mine.missed:>7.1%} "
            f"{mine.flutters:>8}   {others[0]:>8.3f} {others[1]:>6.3f} {others[2]:>6.3f}"
        )
    mean = np.mean(scores, axis=0)
    yield f"{'mean':<20}{mean[0]:>9.3f} {'':>30}   {mean[1]:>8.3f} {mean[2]:>6.3f} {mean[3]:>6.3f}"
    minutes = len(clean().sound) / RATE / 60
    yield f"{minutes:.1f} minutes of prompts a condition, {len(clean().truth)} stretches of speech"


def run() -> None:
    """Print the table."""
    for line in lines():
        print(line, flush=True)
