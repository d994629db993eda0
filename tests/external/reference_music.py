"""Real and made music as librosa hears it (McFee et al., SciPy 2015), kept beside the tests: the library is large, and
compiles for more than a minute before it runs. With it installed, `python -m tests.external.reference_music` hears the
music again and writes what is kept.

reference_beats.json    beats in seconds, as its tracker finds them, by piece or tempo
reference_sound.npz     by piece: mel spectrum in dB (40 bands up to 7 kHz) and chroma, each STEP_S
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import soxr

from tests import sounds
from tests.tunes import RATE, tune

PIECES = [
    "macroform-the_simplicity", "macroform-robot_dity", "macroform-cold_day", "manolo_camp-morning_coffee",
    "reno_project-system",
]  # fmt: skip
TEMPOS = [90, 120]  # of made music
LIBRARY_RATE, HOP = 22_050, 512
STEP_S = 2 * HOP / LIBRARY_RATE
HIGHEST_HZ = 7000  # ITU-T G.722 carries 50 to 7000 Hz; above lies what the codec left behind
LONGEST_S = 120
STEP_DB = 0.4  # of what is kept of the spectrum, under its loudest
BEATS, SOUND = (Path(__file__).parent / f"reference_{name}" for name in ("beats.json", "sound.npz"))


def beats() -> dict[str, np.ndarray]:
    """Beats in seconds by piece or tempo."""
    return {name: np.array(at_s) for name, at_s in json.loads(BEATS.read_text(encoding="utf-8"))["beats"].items()}


def heard(name: str) -> tuple[np.ndarray, np.ndarray]:
    """Mel spectrum (steps, 40) in dB and chroma (steps, 12) of the first two minutes of a piece."""
    with np.load(SOUND) as saved:
        return -STEP_DB * saved[f"{name} mel"].astype(np.float32), saved[f"{name} chroma"].astype(np.float32) / 255


def main() -> None:
    """Hear it all and write it."""
    import librosa

    found, sound = {}, {}
    for name in (*PIECES, *map(str, TEMPOS)):
        samples = sounds.music(name) if name in PIECES else tune("AABA", bpm=int(name)).sound[:, 0]
        mono = soxr.resample(samples, RATE, LIBRARY_RATE)
        at_s = librosa.beat.beat_track(y=mono, sr=LIBRARY_RATE, units="time")[1]
        found[name] = [round(float(each), 3) for each in at_s]
        if name in PIECES:
            mono = soxr.resample(samples[: LONGEST_S * RATE], RATE, LIBRARY_RATE)
            mel = librosa.feature.melspectrogram(y=mono, sr=LIBRARY_RATE, hop_length=HOP, n_mels=40, fmax=HIGHEST_HZ)
            chroma = librosa.feature.chroma_cqt(y=mono, sr=LIBRARY_RATE, hop_length=HOP, tuning=0.0)
            both = [each.T[: len(each.T) // 2 * 2] for each in (librosa.power_to_db(mel, ref=np.max), chroma)]
            both = [each.reshape(-1, 2, each.shape[1]).mean(axis=1) for each in both]
            sound[f"{name} mel"] = np.rint(np.clip(-both[0] / STEP_DB, 0, 255)).astype(np.uint8)
            sound[f"{name} chroma"] = np.rint(np.clip(both[1], 0, 1) * 255).astype(np.uint8)
    BEATS.write_text(json.dumps({"librosa": librosa.__version__, "beats": found}) + "\n", encoding="utf-8")
    np.savez_compressed(SOUND, **sound)


if __name__ == "__main__":
    main()
