"""From probability and level to speech: which stretches of a medium are spoken, at a given sensitivity.

start a stretch where the probability reaches `enter`; extend it both ways down to `stay`;
set its edges on the rise and fall of the level; join what is close; drop what is too short.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core import intervals
from jaylantern.core.intervals import Intervals
from jaylantern.core.levels import HOP_N
from jaylantern.core.timebase import ms_to_n

FRAME_N = 1536  # 32 ms at the project rate: 512 samples at 16 kHz
ENTER = 0.85  # at sensitivity 50; this and what follows was measured on telephone prompts in five languages
STAY = 0.70
LOGIT_PER_STEP = 0.07
OUTWARD_MS, INWARD_MS = 300, 150
CONTRAST_DB = 20.0
RISE_SHARE = 0.4  # where between the quietest and the loudest of the neighbourhood the word begins
UNSURE_MS = 20  # where no rise is seen; 40 lost more first syllables in noise than it spared
JOIN_MS, SHORTEST_MS = 300, 150


@dataclass(frozen=True, eq=False)
class VoiceTrack:
    """What speech is decided from, in media time.

    `probability` (frames of 32 ms,), 0 to 1; `level_db` (blocks of 10 ms,), dBFS; `length_n` samples.
    """

    probability: NDArray[np.float32]
    level_db: NDArray[np.float32]
    length_n: int


def _logit(p: float) -> float:
    return math.log(p / (1.0 - p))


def thresholds(sensitivity: float) -> tuple[float, float]:
    """Probabilities (enter, stay) for a sensitivity 0–100: (.85, .70) at 50, even steps on the logit scale."""
    shift = LOGIT_PER_STEP * (sensitivity - 50.0)
    return tuple(1.0 / (1.0 + math.exp(shift - _logit(p))) for p in (ENTER, STAY))  # type: ignore[return-value]


def _onset(level: NDArray[np.float32], edge_n: int) -> int | None:
    """Sample at which the level rises near edge_n, going back from its loudest place; None without contrast."""
    lo = max(0, (edge_n - ms_to_n(OUTWARD_MS)) // HOP_N)
    near = level[lo : (edge_n + ms_to_n(INWARD_MS)) // HOP_N]
    if len(near) < 2:
        return None
    top = int(near.argmax())
    quiet = float(near[: top + 1].min())
    if near[top] - quiet < CONTRAST_DB:
        return None
    threshold = quiet + RISE_SHARE * (float(near[top]) - quiet)
    below = np.flatnonzero(near[:top] < threshold)
    return (lo + int(below[-1]) + 1) * HOP_N if len(below) else None


def _snapped(spans: Intervals, track: VoiceTrack) -> Intervals:
    """Edges moved onto the local rise and fall of the level, else drawn in a little."""
    level, backward = track.level_db, track.level_db[::-1]
    size_n = len(level) * HOP_N
    unsure = ms_to_n(UNSURE_MS)
    out = []
    for start, stop in spans.tolist():
        rise, fall = _onset(level, start), _onset(backward, size_n - stop)
        begin = start + unsure if rise is None else rise
        end = stop - unsure if fall is None else size_n - fall
        out.append((begin, end) if begin < end else (start, stop))
    return np.array(out, np.int64).reshape(-1, 2)


def find_speech(track: VoiceTrack, *, sensitivity: float) -> Intervals:
    """Spoken stretches of a medium, shape (n, 2) in samples, sorted and apart.

    A stretch is a run of frames at or above `stay` that holds at least one at or above `enter`.
    """
    enter, stay = thresholds(sensitivity)
    runs = intervals.runs(track.probability >= stay)
    high = np.concatenate(([0], np.cumsum(track.probability >= enter)))
    runs = runs[high[runs[:, 1]] > high[runs[:, 0]]]
    spans = _snapped(runs * FRAME_N, track)
    spans = intervals.union(spans, gap_n=ms_to_n(JOIN_MS) - 1)
    spans = intervals.clipped(spans, start_n=0, stop_n=track.length_n)
    return spans[spans[:, 1] - spans[:, 0] >= ms_to_n(SHORTEST_MS)]
