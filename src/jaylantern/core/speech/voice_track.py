"""From probability and level to speech: which stretches of a medium are spoken, at a given sensitivity.

start a stretch where the probability reaches `enter`; extend it both ways down to `stay`;
set its edges where the sound stands out from what is there without speech (`prominence`); add what any lower
sensitivity finds; join what is close; drop what is too short. So more sensitivity never loses what less of it found.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.speech.prominence import prominence

ENTER, STAY = 0.60, 0.30  # at sensitivity 50; how it was chosen: benchmarks/hearing.py
OLDER_FRAME_N = 1536  # of an older data folder: what one network alone said of each 32 ms, and its thresholds
OLDER_ENTER, OLDER_STAY = 0.85, 0.50
LOGIT_PER_STEP, OLDER_LOGIT_PER_STEP = 0.05, 0.07
BEFORE, AFTER, INWARD = 20, 5, 10  # blocks of 10 ms searched for first and last sounds; a hall goes on after those
GAP = 4  # blocks that may be silent within them: the closure of a stop
STEP = 5  # of sensitivity: what is found grows in steps of five
JOIN_MS, SHORTEST_MS = 300, 150


@dataclass(frozen=True, eq=False)
class VoiceTrack:
    """What speech is found from, in media time.

    `probability` of speech, 0 to 1, and `level_db`, dBFS, (blocks of 10 ms,); `length_n` samples; `over_db` as the
    levels: how far the sound stands out in its best band, from the level alone where that was not kept; `singing` and
    `music`, probabilities as that of speech, None where they were not listened for. `frame_n`: samples that one
    probability of speech stands for; more than a block in older data folders.
    """

    probability: NDArray[np.float32]
    level_db: NDArray[np.float32]
    length_n: int
    over_db: NDArray[np.float32] | None = None
    singing: NDArray[np.floating] | None = None
    music: NDArray[np.floating] | None = None
    frame_n: int = HOP_N

    @property
    def older(self) -> bool:
        """Was it heard by the one network alone?"""
        return self.frame_n != HOP_N

    @classmethod
    def not_listened(cls, level_db: NDArray[np.float32], length_n: int) -> VoiceTrack:
        """Of a medium whose level is known, but to which nobody listened yet: no speech."""
        return cls(np.zeros(0, np.float32), level_db, length_n, np.zeros(0, np.float32))

    @property
    def unheard(self) -> bool:
        """Has nobody listened to it yet?"""
        return not len(self.probability) and bool(len(self.level_db))

    def standing_out(self) -> NDArray[np.float32]:
        """`over_db`, or what the level alone tells of it."""
        if self.over_db is not None:
            return self.over_db
        return prominence(
            self.level_db[:, None].astype(np.float16), self.probability, frame_blocks=self.frame_n / HOP_N
        )


def _logit(p: float) -> float:
    return math.log(p / (1.0 - p))


def thresholds(sensitivity: float, *, older: bool = False) -> tuple[float, float]:
    """Probabilities (enter, stay) for a sensitivity 0–100: (.60, .30) at 50, even steps on the logit scale."""
    step, enter, stay = (OLDER_LOGIT_PER_STEP, OLDER_ENTER, OLDER_STAY) if older else (LOGIT_PER_STEP, ENTER, STAY)
    shift = step * (sensitivity - 50.0)
    return 1.0 / (1.0 + math.exp(shift - _logit(enter))), 1.0 / (1.0 + math.exp(shift - _logit(stay)))


def _edge(over_db: NDArray[np.float32], at: int, outward: int) -> int:
    """Block at which what stands out near block `at` begins, looking back at most `outward` blocks; `at` itself where
    nothing near it stands out."""
    heard = np.flatnonzero(over_db[at : at + INWARD] > 0)
    if not len(heard):
        return at
    back = over_db[max(0, at - outward) : at + int(heard[0]) + 1][::-1] > 0
    gaps = np.flatnonzero(np.diff(np.flatnonzero(np.append(back, True))) > GAP + 1)
    last = int(np.flatnonzero(back)[gaps[0] if len(gaps) else -1])
    return at + int(heard[0]) - last


class _Edges:
    """Edges of one track set where it begins and ceases to stand out; each is looked at once, whatever sensitivity
    asks."""

    def __init__(self, track: VoiceTrack) -> None:
        self._over = track.standing_out()
        self._backward = self._over[::-1]
        self._begins: dict[int, int] = {}
        self._ends: dict[int, int] = {}
        self.found: dict[int, Intervals] = {}  # by step of sensitivity: all that it or a lower one finds, not joined

    def begin(self, start_n: int) -> int:
        """Where the word begins whose stretch starts here."""
        if start_n not in self._begins:
            self._begins[start_n] = _edge(self._over, start_n // HOP_N, BEFORE) * HOP_N
        return self._begins[start_n]

    def end(self, stop_n: int) -> int:
        """Where the word ends whose stretch stops here."""
        if stop_n not in self._ends:
            size = len(self._backward)
            self._ends[stop_n] = (size - _edge(self._backward, max(0, size - stop_n // HOP_N), AFTER)) * HOP_N
        return self._ends[stop_n]

    def snapped(self, spans: Intervals) -> Intervals:
        """Stretches with their edges set; one that would vanish stays as it was."""
        out = []
        for start, stop in spans.tolist():
            begin, end = self.begin(start), self.end(stop)
            out.append((begin, end) if begin < end else (start, stop))
        return np.array(out, np.int64).reshape(-1, 2)


def _at_step(track: VoiceTrack, edges: _Edges, step: int) -> Intervals:
    """Stretches that hold for a step of sensitivity or for a lower one."""
    if step not in edges.found:
        enter, stay = thresholds(step, older=track.older)
        spans = intervals.runs_reaching(track.probability, enter=enter, stay=stay)
        spans = edges.snapped(spans * track.frame_n)
        below = _at_step(track, edges, step - STEP) if step > 0 else intervals.none()
        edges.found[step] = intervals.union(np.concatenate((spans, below)))
    return edges.found[step]


def find_speech(track: VoiceTrack, *, sensitivity: float) -> Intervals:
    """Spoken stretches of a medium, shape (n, 2) in samples, sorted and apart.

    A stretch is a run of frames at or above `stay` that holds at least one at or above `enter`. Sensitivity counts in
    steps of five.
    """
    kept = track.__dict__
    if "edges" not in kept:
        kept["edges"] = _Edges(track)
    edges: _Edges = kept["edges"]
    spans = _at_step(track, edges, round(sensitivity / STEP) * STEP)
    spans = intervals.union(spans, gap_n=ms_to_n(JOIN_MS) - 1)
    spans = intervals.clipped(spans, start_n=0, stop_n=track.length_n)
    return spans[spans[:, 1] - spans[:, 0] >= ms_to_n(SHORTEST_MS)]
