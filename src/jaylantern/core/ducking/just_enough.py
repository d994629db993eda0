"""Just enough: how deep each dip goes so that speech stands so many LU above everything else, and no deeper.

In a stretch with the speech power S, the power F of what gives way to nothing and P of what does (each Σ over the
100 ms steps in which someone speaks), x dB is wanted with

    10·log10(S / (F + Σ P·10^(r·x/10))) = wish          r: 1 for music, what else gives way in proportion

within the deepest and the slightest dip. Where F alone leaves too little, x is what brings P so far under F that a
deeper dip would gain less than half an LU. From one dip to the next the depth changes by so many dB at most; the
slighter one goes deeper.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.curves import CurveKey, Curves
from jaylantern.core.ducking.dips import SHORTEST_RAMP_N, Dip
from jaylantern.core.ducking.media_power import Spoken, Undipped, middles
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import Settings

NEAR_N = 10 * RATE  # dips with a longer pause between them are not held to the largest step
LEFT = 0.1  # of what gives way to nothing: what is under that is lost in it, 10·log10(1.1) = 0.4 LU
LOWEST_DB = -120.0
HALVINGS = 40
LEAST_FOLLOWED_N = 2 * RATE
GENTLE_DB_PER_S = 3.0


class Bound(StrEnum):
    """What keeps speech from standing as clear as was wished for."""

    OTHERS = "others"  # what gives way to nothing is too loud
    DEEPEST = "deepest"  # the deepest dip is not deep enough


@dataclass(frozen=True)
class Reach:
    """What was wished for of one passage, and what keeps it from that, None for nothing. `lane_id`: the loudest lane
    of what gives way to nothing, and `left_lu` by how much speech would stand above all of that alone."""

    wish_lu: float
    bound: Bound | None = None
    lane_id: int | None = None
    left_lu: float = np.inf


def depths(speech: Doubles, fixed: Doubles, yielding: Doubles, shares: Doubles, wish_lu: Doubles) -> Doubles:
    """How deep n stretches have to go, (n,) dB, 0 where speech stands clear without. Powers (n,) of speech and of what
    gives way to nothing, (n, m) of what does with its shares (m,), wishes (n,) LU. No speech asks for nothing."""
    room = np.maximum(speech / 10 ** (wish_lu / 10) - fixed, LEFT * fixed)
    asks = (yielding.sum(axis=1) > room) & (speech > 0)
    found = np.zeros(len(speech))
    if not asks.any():
        return found
    room, power = room[asks], yielding[asks]
    low, high = np.full(len(room), LOWEST_DB), np.zeros(len(room))
    if (shares == 1).all():
        with np.errstate(divide="ignore"):
            low = high = np.maximum(10 * np.log10(room / power.sum(axis=1)), LOWEST_DB)
    else:
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            over = (power * 10 ** (middle[:, None] * shares / 10)).sum(axis=1) > room
            low, high = np.where(over, low, middle), np.where(over, middle, high)
    found[asks] = (low + high) / 2
    return found


def eased(spans: Intervals, depth_db: Doubles, step_db: Doubles | float, *, near_n: int = NEAR_N) -> Doubles:
    """Depths (n,) of stretches (n, 2) in order, deepened so that from one to the next they change by no more than
    `step_db` where the pause between them is shorter than `near_n`."""
    found = depth_db.tolist()
    steps = np.broadcast_to(step_db, len(found)).tolist()
    near = (spans[1:, 0] - spans[:-1, 1] < near_n).tolist()
    for i in range(1, len(found)):
        if near[i - 1]:
            found[i] = min(found[i], found[i - 1] + steps[i])
    for i in range(len(found) - 2, -1, -1):
        if near[i]:
            found[i] = min(found[i], found[i + 1] + steps[i])
    return np.array(found)


def followed(span: tuple[int, int], follow_s: float) -> list[tuple[int, int]]:
    """A passage in equal stretches of about so many seconds; whole where it is not half as long again."""
    start_n, stop_n = span
    follow_n = max(round(follow_s * RATE), LEAST_FOLLOWED_N) if follow_s > 0 else 0
    count = round((stop_n - start_n) / follow_n) if follow_n else 1
    if count <= 1:
        return [span]
    edges = [start_n + round((stop_n - start_n) * k / count) for k in range(count + 1)]
    return list(pairwise(edges))


def gently(dip: Dip, span: tuple[int, int], within: tuple[int, int]) -> Dip:
    """The dip of one stretch of a passage that is followed: towards its neighbours it goes by 3 dB a second."""
    start_n, stop_n = span
    if span == within:
        return dip
    ramp_n = max(round(-dip.amount_db / GENTLE_DB_PER_S * RATE), SHORTEST_RAMP_N)
    from_n, down_n = (dip.from_n, dip.down_n) if start_n == within[0] else (start_n - ramp_n, start_n)
    rise_n, up_n = (dip.rise_n, dip.up_n) if stop_n == within[1] else (stop_n, stop_n + ramp_n)
    return Dip(from_n, min(down_n, rise_n), rise_n, up_n, dip.amount_db, dip.fall, dip.rise)


class Enough:
    """How deep dips by clearance go in one project. `shares`: by perch, of those that go by clearance; `curves`: of all
    that gives way by an amount."""

    def __init__(self, found: Undipped, speech: Intervals, shares: Mapping[str, float], curves: Curves) -> None:
        self._found, self._spoken = found, Spoken(speech, found.steps)
        talk, rest = found.speech.copy(), found.rest.copy()
        self._kept: dict[CurveKey, Doubles] = {}
        yielding: dict[float, Doubles] = {}
        for (key, talks), power in found.yielding.items():
            if key not in curves:
                share = shares.get(key[1], 1.0)
                yielding[share] = yielding[share] + power if share in yielding else power
                continue
            ducked = power * 10.0 ** (curves.gain_at(key, middles(found.steps)) / 10.0)
            if talks:
                talk += ducked
            else:
                rest += ducked
                self._kept[key] = ducked
        self._speech, self._fixed = self._spoken.total(talk), self._spoken.total(rest)
        self._shares = np.array(list(yielding))
        self._yielding = [self._spoken.total(power) for power in yielding.values()]

    def depths(self, spans: Intervals, settings: list[Settings]) -> Doubles:
        """How deep the music goes under each of (n, 2) stretches in order of time, by the settings of each, (n,) dB."""
        if not len(spans):
            return np.zeros(0)
        wanted = self._wanted(spans, np.array([each.wish_lu for each in settings]))
        deepest, slightest = (np.array([getattr(s, name) for s in settings]) for name in ("deepest_db", "slightest_db"))
        bounded = np.maximum(np.minimum(wanted, slightest), deepest)
        return eased(spans, bounded, np.array([each.step_db for each in settings]))

    def reach(self, spans: Intervals, settings: list[Settings]) -> list[Reach]:
        """What was wished for in each stretch, and whether it can be had."""
        if not len(spans):
            return []
        speech, fixed = (self._spoken.sums(total, spans) for total in (self._speech, self._fixed))
        wanted = self._wanted(spans, np.array([each.wish_lu for each in settings]))
        with np.errstate(divide="ignore", invalid="ignore"):
            left_lu = np.where(speech > 0, 10 * np.log10(speech / fixed), np.inf)
        found = []
        for i, each in enumerate(settings):
            bound, lane_id = None, None
            if left_lu[i] < each.wish_lu:
                bound, lane_id = Bound.OTHERS, self._loudest(spans[i : i + 1])
            elif wanted[i] < each.deepest_db:
                bound = Bound.DEEPEST
            found.append(Reach(each.wish_lu, bound, lane_id, float(left_lu[i])))
        return found

    def _wanted(self, spans: Intervals, wish_lu: NDArray[np.float64]) -> Doubles:
        speech, fixed = (self._spoken.sums(total, spans) for total in (self._speech, self._fixed))
        sums = [self._spoken.sums(total, spans) for total in self._yielding]
        power = np.stack(sums, axis=1) if sums else np.zeros((len(spans), 0))
        return depths(speech, fixed, power, self._shares, wish_lu)

    def _loudest(self, span: Intervals) -> int | None:
        """The lane that is loudest in a stretch of what goes down by nothing, or by an amount."""
        sums = {lane_id: float(self._spoken.sums(total, span)[0]) for lane_id, total in self._lanes.items()}
        return max(sums, key=lambda each: sums[each], default=None)

    @cached_property
    def _lanes(self) -> dict[int, Doubles]:
        """What such lanes add up to, by lane; worked out when the first is asked for."""
        power = dict(self._found.others)
        for (lane_id, _), ducked in self._kept.items():
            power[lane_id] = power[lane_id] + ducked if lane_id in power else ducked
        return {lane_id: self._spoken.total(each) for lane_id, each in power.items()}
