"""Beats of real and made music as librosa's tracker finds them (McFee et al., SciPy 2015), kept beside the tests: the
library compiles for more than a minute before its tracker runs. `python -m tests.external.reference_beats` finds them
again and writes them.
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
LIBRARY_RATE = 22_050
KEPT = Path(__file__).parent / "reference_beats.json"


def kept() -> dict[str, np.ndarray]:
    """Beats in seconds by piece or tempo."""
    return {name: np.array(at_s) for name, at_s in json.loads(KEPT.read_text(encoding="utf-8"))["beats"].items()}


def main() -> None:
    """Find them and write them."""
    import librosa

    found = {}
    for name in (*PIECES, *map(str, TEMPOS)):
        sound = sounds.music(name) if name in PIECES else tune("AABA", bpm=int(name)).sound[:, 0]
        mono = soxr.resample(sound, RATE, LIBRARY_RATE)
        at_s = librosa.beat.beat_track(y=mono, sr=LIBRARY_RATE, units="time")[1]
        found[name] = [round(float(each), 3) for each in at_s]
    KEPT.write_text(json.dumps({"librosa": librosa.__version__, "beats": found}) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
