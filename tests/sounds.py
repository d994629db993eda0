"""Sound for tests: known signals, and real speech and music from Debian's packages for telephone exchanges."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import av
import numpy as np
import soxr

from jaylantern.core.signal.analysis import Analyser
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.singing import find_singing
from jaylantern.core.speech.tag_suggestions import Evidence
from jaylantern.core.speech.voice_track import find_speech
from jaylantern.pipeline import hear

PROMPTS = Path("/usr/share/asterisk/sounds/en_US_f_Allison")  # asterisk-core-sounds-en-g722: one English speaker
MUSIC = Path("/usr/share/asterisk/moh")  # asterisk-moh-opsound-g722: music on hold


def g722(path: Path) -> np.ndarray:
    """A headerless G.722 file as mono float32 at 48 kHz."""
    with av.open(str(path), format="g722") as file:
        parts = [frame.to_ndarray().ravel() for frame in file.decode(audio=0)]
    return soxr.resample(np.concatenate(parts).astype(np.float32) / 32768, 16_000, RATE, quality="HQ")


@cache
def prompt(name: str) -> np.ndarray:
    """A spoken prompt, mono float32 at 48 kHz."""
    return g722(PROMPTS / f"{name}.g722")


@cache
def music(name: str = "macroform-the_simplicity") -> np.ndarray:
    """A piece of music on hold, mono float32 at 48 kHz."""
    return g722(MUSIC / f"{name}.g722")


def sine(*, hz: float, seconds: float, amplitude: float = 0.5, channels: int = 1, phase: float = 0.0) -> np.ndarray:
    """A sine, (n, channels) float32."""
    t = np.arange(round(seconds * RATE)) / RATE
    return np.repeat((amplitude * np.sin(2 * np.pi * hz * t + phase))[:, None], channels, axis=1).astype(np.float32)


def noise(*, seconds: float, amplitude: float = 0.1, channels: int = 1, seed: int = 1) -> np.ndarray:
    """White noise, (n, channels) float32."""
    random = np.random.default_rng(seed)
    return (random.standard_normal((round(seconds * RATE), channels)) * amplitude).astype(np.float32)


def talk(starts_s: dict[str, float], *, seconds: float) -> np.ndarray:
    """Prompts at given times over silence, (n, 1) float32."""
    out = np.zeros((round(seconds * RATE), 1), np.float32)
    for name, start_s in starts_s.items():
        at = round(start_s * RATE)
        sound = prompt(name)[: len(out) - at]
        out[at : at + len(sound), 0] += sound
    return out


def rms_db(samples: np.ndarray) -> float:
    """RMS level in dBFS."""
    return float(10 * np.log10(np.mean(np.square(samples, dtype=np.float64)) + 1e-30))


def facts_of(sound: np.ndarray, offset_n: int = 0, length_n: int | None = None) -> Evidence:
    """What a suggestion is made from, of mono sound (n,), found as an import finds it."""
    analyser = Analyser(1)
    analyser.add(sound[:, None])
    track = hear(iter([sound[:, None]]), analyser.finish().level_db, length_n=len(sound))
    character = tag_suggestions.listen(lambda start_n, stop_n: sound[start_n:stop_n], len(sound))
    speech = find_speech(track, sensitivity=50)
    length_n = len(sound) if length_n is None else length_n
    singing = find_singing(track.singing, length_n=len(sound))
    return tag_suggestions.evidence(
        character, speech, track.level_db, offset_n=offset_n, length_n=length_n, singing=singing, music=track.music
    )
