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

from jaylantern.core.memo import Memo, Same, anew
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


Groups = tuple[NDArray[np.int64], NDArray[np.int64]]


def _groups(over_db: NDArray[np.float32]) -> Groups:
    """Blocks that stand out, (m,), and for each the number of the one its group begins with: blocks near each other."""
    out = np.flatnonzero(over_db > 0)
    begins = np.diff(out, prepend=-GAP - 2) > GAP + 1
    return out, np.maximum.accumulate(np.where(begins, np.arange(len(out)), 0))


def _edges(groups: Groups, at: NDArray[np.int64], outward: int) -> NDArray[np.int64]:
    """Blocks at which what stands out near each of the blocks `at` begins, (n,), looking back at most `outward` blocks;
    `at` itself where nothing near it stands out."""
    out, first = groups
    if not len(out):
        return at
    heard = np.searchsorted(out, at)
    near = np.minimum(heard, len(out) - 1)
    there = (heard < len(out)) & (out[near] < at + INWARD)
    back = np.maximum(first[near], np.minimum(near, np.searchsorted(out, at - outward)))
    return np.where(there, out[back], at)


def _snapped(spans: Intervals, forward: Groups, backward: Groups, *, size: int) -> Intervals:
    """Stretches with their edges set where the sound begins and ceases to stand out, as heard from either end of `size`
    blocks; one that would vanish stays as it was."""
    begin = _edges(forward, spans[:, 0] // HOP_N, BEFORE) * HOP_N
    end = (size - _edges(backward, np.maximum(0, size - spans[:, 1] // HOP_N), AFTER)) * HOP_N
    return np.where((begin < end)[:, None], np.stack((begin, end), axis=1), spans)


def find_speech(track: VoiceTrack, *, sensitivity: float, memo: Memo = anew) -> Intervals:
    """Spoken stretches of a medium, shape (n, 2) in samples, sorted and apart.

    A stretch is a run of frames at or above `stay` that holds at least one at or above `enter`. Sensitivity counts in
    steps of five.
    """
    standing: list[Groups] = []  # as heard from either end; looked for where a step has to be worked out

    def to_step(step: int) -> Intervals:
        """Stretches that hold for a step of sensitivity or for a lower one."""
        enter, stay = thresholds(step, older=track.older)
        spans = intervals.runs_reaching(track.probability, enter=enter, stay=stay) * track.frame_n
        over_db = memo(("standing out", Same(track)), track.standing_out)
        if not standing:
            standing.extend((_groups(over_db), _groups(over_db[::-1])))
        spans = _snapped(spans, *standing, size=len(over_db))
        return intervals.union(np.concatenate((spans, speech_at(step - STEP)))) if step > 0 else intervals.union(spans)

    def speech_at(step: int) -> Intervals:
        """The same, made once."""
        return memo(("speech to step", Same(track), step), lambda: to_step(step))

    spans = intervals.union(speech_at(round(sensitivity / STEP) * STEP), gap_n=ms_to_n(JOIN_MS) - 1)
    spans = intervals.clipped(spans, start_n=0, stop_n=track.length_n)
    return spans[spans[:, 1] - spans[:, 0] >= ms_to_n(SHORTEST_MS)]
