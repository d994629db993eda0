"""Sound to measure with: made once per run from music on hold where it is installed, else from noise in bursts."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from jaylantern.core.timebase import RATE

MUSIC = Path("/usr/share/asterisk/moh")
PROMPTS = Path("/usr/share/asterisk/sounds/en_US_f_Allison")


def minute(seed: int) -> np.ndarray:
    """A minute of stereo sound, (2880000, 2) float32, peaks at −6 dBFS: a bed as it is mixed under talk."""
    random = np.random.default_rng(seed)
    if MUSIC.is_dir():
        from tests.sounds import music

        piece = music(sorted(path.stem for path in MUSIC.glob("*.g722"))[seed % 5])
        piece = np.resize(piece, 60 * RATE)
        left, right = piece, np.roll(piece, 17 + seed)
        sound = np.stack((left, right), axis=1)
    else:
        t = np.arange(60 * RATE)[:, None] / RATE
        sound = random.standard_normal((60 * RATE, 2)) * (0.5 + 0.5 * np.sin(2 * np.pi * t / 3.7)) * 0.2
    return (sound / np.abs(sound).max() * 0.5).astype(np.float32)


def talk_minute(seed: int) -> np.ndarray:
    """A minute of talk with pauses, (2880000, 2) float32, peaks at −3 dBFS; the minute of another piece elsewhere."""
    if not PROMPTS.is_dir():
        return minute(seed + 7)
    from tests.sounds import prompt

    spoken = np.concatenate(
        [np.pad(prompt(name), (0, 2 * RATE)) for name in ("demo-congrats", "vm-options", "vm-opts")]
    )
    spoken = np.roll(np.resize(spoken, 60 * RATE), seed * RATE)
    return np.repeat((spoken / np.abs(spoken).max() * 0.7)[:, None], 2, axis=1).astype(np.float32)


def write_programme(path: Path, *, minutes: int, make: Callable[[int], np.ndarray] = minute, gain: float = 1.0) -> Path:
    """A 16-bit WAV of so many minutes at 48 kHz; kept if it is there already."""
    if not path.exists():
        with soundfile.SoundFile(path, "w", RATE, 2, "PCM_16") as out:
            for k in range(minutes):
                out.write(make(k % 5) * gain)
    return path
