"""The gain curve as CSV keyframes: time in seconds, gain in dB and in percent of amplitude."""

from __future__ import annotations

import csv
from typing import TextIO

from jaylantern.core.curve import Curve
from jaylantern.core.timebase import db_to_percent, n_to_seconds

HEADER = ("time_s", "gain_db", "gain_percent")


def write_csv(out: TextIO, curve: Curve) -> None:
    """One row a point, in order of time; between rows the gain is straight in dB."""
    table = csv.writer(out, lineterminator="\n")
    table.writerow(HEADER)
    for time_n, gain_db in zip(curve.time_n.tolist(), curve.gain_db.tolist(), strict=True):
        table.writerow((f"{n_to_seconds(time_n):.6f}", f"{gain_db:.3f}", f"{db_to_percent(gain_db):.3f}"))
