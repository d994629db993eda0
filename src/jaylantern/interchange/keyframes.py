"""The gain curve as keyframes, CSV or JSON: time in seconds, frames and timecode, gain in dB and percent of amplitude.

Between two rows the gain is straight in dB. Frames are the nearest ones; where they must be exact, use the seconds.
"""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator
from fractions import Fraction
from typing import Any, TextIO

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.timebase import db_to_percent, n_to_seconds
from jaylantern.core.timeline.timecode import DROPPING, nearest_frame, timecode

HEADER = ("time_s", "gain_db", "gain_percent", "frame", "timecode")


def _points(curve: Curve, fps: Fraction) -> Iterator[tuple[str, str, str, int, str]]:
    for time_n, gain_db in zip(curve.time_n.tolist(), curve.gain_db.tolist(), strict=True):
        frame = nearest_frame(time_n, fps)
        gain = (f"{gain_db:.3f}", f"{db_to_percent(gain_db):.3f}")
        yield (f"{n_to_seconds(time_n):.6f}", *gain, frame, timecode(frame, fps))


def write_csv(out: TextIO, curve: Curve, *, fps: Fraction = Fraction(25)) -> None:
    """One row a point, in order of time."""
    table = csv.writer(out, lineterminator="\n")
    table.writerow(HEADER)
    table.writerows(_points(curve, fps))


def write_json(out: TextIO, curve: Curve, *, fps: Fraction, about: dict[str, Any]) -> None:
    """The same as one object: `about`, the rate, whether timecode drops numbers, and `points` named as in HEADER."""
    points = [
        {"time_s": float(time), "gain_db": float(db), "gain_percent": float(percent), "frame": frame, "timecode": code}
        for time, db, percent, frame, code in _points(curve, fps)
    ]
    rate = {"fps": f"{fps.numerator}/{fps.denominator}", "drop_frame": fps in DROPPING}
    json.dump({**about, **rate, "interpolation": "straight in dB", "points": points}, out, indent=1, ensure_ascii=False)
    out.write("\n")
