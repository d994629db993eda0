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
WITNESSES = 3  # so many stretches of talk, and of captions, must lie together then
MOSTLY = 0.7  # by so much of them
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
    shift_n = int(shifts[np.argmax(together[shifts])]) * STEP_N
    if abs(shift_n) < LEAST_SHIFT_N:
        return 0
    borne_out = _borne_out(talk, covered, shift_n) and _borne_out(covered, talk, -shift_n)
    return shift_n if borne_out else 0


def _borne_out(spans: Intervals, others: Intervals, shift_n: int) -> bool:
    """Do enough of these stretches speak for it that the others are moved so far, also without the one that gains most
    by it?

    Talk of one passage, found or marked by hand, proves nothing about all captions.
    """
    now, then = _covered_n(spans, others), _covered_n(spans, others + shift_n)
    gains = then - now
    rest = np.arange(len(spans)) != int(np.argmax(gains))
    least_n = FITTING * min(int((spans[rest, 1] - spans[rest, 0]).sum()), int((others[:, 1] - others[:, 0]).sum()))
    enough = int((then >= MOSTLY * (spans[:, 1] - spans[:, 0])).sum()) >= WITNESSES
    return enough and float(then[rest].sum()) > max(BETTER * float(now[rest].sum()), least_n)


def _covered_n(spans: Intervals, others: Intervals) -> np.ndarray:
    """How much of each stretch lies under the others, which are disjoint and in order: samples."""
    times = others.reshape(-1)
    so_far = np.repeat(np.cumsum(others[:, 1] - others[:, 0]), 2)
    so_far[::2] -= others[:, 1] - others[:, 0]
    return np.interp(spans[:, 1], times, so_far) - np.interp(spans[:, 0], times, so_far)


def _sampled(spans: Intervals, stop_n: int) -> np.ndarray:
    """1 where a moment lies in a stretch, every 50 ms."""
    found = np.zeros(stop_n // STEP_N + 2)
    for a, b in np.rint(spans / STEP_N).astype(np.int64).tolist():
        found[max(a, 0) : max(b, 0)] = 1.0
    return found
