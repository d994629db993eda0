"""What the program and its page both compute, as values: `python -m tests.vectors` writes them from the program's side.
Both test runs read them, so that a change on one side alone fails at once."""

from __future__ import annotations

import json
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np

from jaylantern.core.ducking.curve import course
from jaylantern.core.ducking.gain_line import over_media
from jaylantern.core.edit.lines import raised
from jaylantern.core.signal.peaks import BASE_N, halved, pairs
from jaylantern.core.signal.timebase import RATE, clock, db_to_amplitude
from jaylantern.core.timeline.fades import Shape, rise
from jaylantern.core.timeline.gain_line import GainLine, LinePoint
from jaylantern.core.timeline.picture import _framed
from jaylantern.core.timeline.settings import Ramp

FILE = Path(__file__).parent / "shared.json"
SHARES = [0.0, 0.01, 0.25, 0.5, 0.75, 0.99, 1.0]
GAINS = [(0, -20), (-20, 0), (-60, 24), (-3, -3), (6, -90)]
RATES = [24, 25, 30, 50, 24_000 / 1001, 30_000 / 1001, 60_000 / 1001]
TIMES = [0, 1, 239, 240, 800, 801, 960, 1000, 1920, 2880, 47_999, 48_000, 100_000, 2_879_760, 172_800_000, 518_400_123]
LINES = [
    [],
    [[4.0, -2]],
    [[6.0, 0], [7.0, -4], [20.0, -4]],
    [[6.0, 0], [7.0, 23], [20.0, -4]],
    [[5.99, -58], [6.0, -59], [6.01, 3]],
]
STRETCHES = [(6.0, 9.0, 3), (6.0, 9.0, -6), (5.5, 6.0, 12), (19.0, 20.0, -40)]


def _rounded(values: Any) -> list[float]:
    return [round(float(value), 9) for value in values]


def _framed_at(time_n: int, fps: float, shift_n: int) -> int:
    film = SimpleNamespace(media=None, start_n=0, stop_n=10**12, shift_n=shift_n)
    return _framed([film], time_n, lambda media: fps)  # type: ignore[list-item]


def _raised(points: list[list[float]], start_s: float, stop_s: float, by_db: float) -> list[list[float]]:
    line = GainLine(tuple(LinePoint(round(at_s * RATE), gain_db, Ramp.DB) for at_s, gain_db in points))
    found = over_media(raised(line, round(start_s * RATE), round(stop_s * RATE), by_db))
    return [[n, round(db, 9)] for n, db in zip(found.time_n.tolist(), found.gain_db.tolist(), strict=True)]


def _pyramid(samples: np.ndarray) -> list[np.ndarray]:
    levels = [pairs(samples[:, None])]
    while len(levels[-1]) > 1:
        levels.append(halved(levels[-1]))
    return levels


def _peaks(n_per_px: int, start_n: int = 8 * BASE_N, count: int = 4) -> dict[str, Any]:
    samples = np.random.default_rng(n_per_px).integers(-32767, 32767, start_n + count * n_per_px).astype(np.int16)
    levels, seen = _pyramid(samples), samples[start_n:].reshape(count, n_per_px)
    return {
        "base_n": BASE_N, "counts": [len(level) for level in levels], "pairs": np.concatenate(levels).ravel().tolist(),
        "start_n": start_n, "n_per_px": n_per_px,
        "columns": _rounded(np.stack((seen.min(axis=1), seen.max(axis=1)), axis=1).ravel() / 32767),
    }  # fmt: skip


def values() -> dict[str, Any]:
    """All of them, as the program computes them now."""
    shares = np.array(SHARES)
    return {
        "peaks": [_peaks(BASE_N * by) for by in (1, 8)],
        "ramps": [
            {"code": code, "from_db": a, "to_db": b, "shares": SHARES, "gain_db": _rounded(course(code, a, b, shares))}
            for code in range(len(Ramp))
            for a, b in GAINS
        ],
        "fades": [
            {"shape": str(shape), "shares": SHARES, "amplitude": _rounded(rise(shape, shares))} for shape in Shape
        ],
        "frames": [
            {
                "fps": fps,
                "origin_n": origin_n,
                "time_n": TIMES,
                "framed_n": [_framed_at(n, fps, origin_n) for n in TIMES],
            }
            for fps in RATES
            for origin_n in (0, 333, -48_000)
        ],
        "raised": [
            {"line": points, "stretch": list(stretch), "points": _raised(points, *stretch)}
            for points in LINES
            for stretch in STRETCHES
        ],
        "clock": [
            {"decimals": decimals, "time_n": TIMES, "text": [clock(n, decimals=decimals) for n in TIMES]}
            for decimals in (0, 1, 2, 3)
        ],
        "amplitude": [{"gain_db": db, "amplitude": round(db_to_amplitude(db), 9)} for db in (-60, -6, -0.1, 0, 12)],
    }


def write() -> None:
    """Write the file anew."""
    rows = {name: "[\n" + ",\n".join(json.dumps(row) for row in part) + "\n]" for name, part in values().items()}
    FILE.write_text("{\n" + ",\n".join(f'"{name}": {text}' for name, text in rows.items()) + "\n}\n", encoding="utf-8")
