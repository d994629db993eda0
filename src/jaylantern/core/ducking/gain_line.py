"""A clip's gain line as a curve: over media time, and over the timeline."""

from __future__ import annotations

import numpy as np

from jaylantern.core.ducking.curve import CODES, Curve
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.gain_line import GainLine, LinePoint
from jaylantern.core.timeline.settings import Ramp

_RAMPS = list(Ramp)


def over_media(line: GainLine) -> Curve:
    """A line as a curve over media time; 0 dB throughout where it has no points."""
    if not line.points:
        return Curve.flat()
    time_n = np.array([point.at_n for point in line.points], np.int64)
    gain_db = np.array([point.gain_db for point in line.points])
    ramp = np.array([CODES[point.ramp] for point in line.points[:-1]], np.int8)
    return Curve(time_n, gain_db, ramp if ramp.any() else ramp[:0])


def line_of(clip: Clip) -> Curve | None:
    """The line of a clip over the timeline; None where it has none."""
    if not clip.line:
        return None
    curve = over_media(clip.line)
    return Curve(curve.time_n + clip.shift_n, curve.gain_db, curve.ramp)


def as_line(curve: Curve, *, by_n: int = 0) -> GainLine:
    """A curve whose points lie at times of their own as a line, its times so much later."""
    return GainLine(
        tuple(
            LinePoint(time_n + by_n, round(gain_db, 3), _RAMPS[code])
            for time_n, gain_db, code in zip(curve.time_n.tolist(), curve.gain_db.tolist(), curve.codes, strict=True)
        )
    )
