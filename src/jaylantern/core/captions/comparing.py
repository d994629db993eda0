"""Captions against talk: talk that has none, captions without talk, and by how much they would have to be moved to fit.

talk       ──[#####]──────[####]────
captions   ──[-----]──[--]──────────     the second caption has no talk, the second talk no caption
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE

SLACK_N = RATE // 2  # captions come and go a little beside the words: common practice, half a second
LEAST_TALK_N = RATE  # less talk than a second needs no caption
STEP_N = RATE // 20
FARTHEST_N = 60 * RATE  # captions are looked for no farther off
LEAST_SHIFT_N = RATE // 2  # less off is as good as right
BETTER = 1.1  # so much more of the talk must be captioned for a move to be worth saying
FITTING = 0.6  # and so much of the talk, or of the captions if they are shorter, must lie together then


@dataclass(frozen=True)
class Comparison:
    """Stretches of the timeline: `bare` talk without captions, `mute` captions without talk; `shift_n` moves the
    captions to where they fit the talk best, 0 where they do so already."""

    bare: Intervals
    mute: Intervals
    shift_n: int


def compared(talk: Intervals, cues: Intervals) -> Comparison:
    """Of disjoint stretches of talk, and of the cues one by one, in samples."""
    covered = intervals.union(cues)
    bare = intervals.without(talk, intervals.union(covered + np.array([-SLACK_N, SLACK_N])))
    bare = bare[bare[:, 1] - bare[:, 0] >= LEAST_TALK_N]
    near = intervals.union(talk + np.array([-SLACK_N, SLACK_N]))
    begun = np.searchsorted(near[:, 0], cues[:, 1], side="left")  # stretches that begin before a cue ends
    over = np.searchsorted(near[:, 1], cues[:, 0], side="right")  # and those that are over when it begins
    return Comparison(bare, cues[begun <= over], best_shift(talk, covered))


def best_shift(talk: Intervals, covered: Intervals) -> int:
    """By how many samples captions have to be moved to lie on the most talk; 0 where that is no clear gain.

    Both are looked at every 50 ms, and counted together at every shift up to a minute, by their correlation.
    """
    if not len(talk) or not len(covered):
        return 0
    stop_n = int(max(talk[-1, 1], covered[-1, 1]))
    one, other = (_sampled(spans, stop_n) for spans in (talk, covered))
    count = 1 << (2 * len(one) - 1).bit_length()
    together = np.fft.irfft(np.fft.rfft(one, count) * np.conj(np.fft.rfft(other, count)), count)
    farthest = min(FARTHEST_N // STEP_N, len(one) - 1)
    shifts = np.arange(-farthest, farthest + 1)
    scores = together[shifts]
    best = int(np.argmax(scores))
    least = max(BETTER * float(together[0]), FITTING * min(float(one.sum()), float(other.sum())))
    shift_n = int(shifts[best]) * STEP_N
    return shift_n if scores[best] > least and abs(shift_n) >= LEAST_SHIFT_N else 0


def _sampled(spans: Intervals, stop_n: int) -> np.ndarray:
    """1 where a moment lies in a stretch, every 50 ms."""
    found = np.zeros(stop_n // STEP_N + 2)
    for a, b in np.rint(spans / STEP_N).astype(np.int64).tolist():
        found[max(a, 0) : max(b, 0)] = 1.0
    return found
