"""Just enough: how deep each dip goes so that speech stands so clear of everything else, and no deeper.

In a stretch with the speech power S, the power F of what gives way to nothing and P of what does (each a mean over the
100 ms steps in which someone speaks), x dB is wanted with

    clear(S, F + Σ P·10^(r·x/10)) = wish          r: 1 for music, what else gives way in proportion

on one of two scales, within the deepest and the slightest dip. Where F alone, or what of P lies outside the band that
goes down, leaves too little, x is so deep that a deeper dip would gain less than half an LU, or a hundredth of the
index. From one dip to the next the depth changes by so many dB at most; the slighter one goes deeper.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.curves import CurveKey, Curves
from jaylantern.core.ducking.dips import SHORTEST_RAMP_N, Dip
from jaylantern.core.ducking.media_power import Spoken, Undipped, Yielding, middles
from jaylantern.core.ducking.scales import Loudness, Scale, scale_of
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import ClearIn, Settings

NEAR_N = 10 * RATE  # dips with a longer pause between them are not held to the largest step
LOWEST_DB = -120.0
WITHIN = 0.01  # of what nobody hears: so near to a wish is at it
LEAST_FOLLOWED_N = 2 * RATE
GENTLE_DB_PER_S = 3.0


class Bound(StrEnum):
    """What keeps speech from standing as clear as was wished for."""

    OTHERS = "others"  # what gives way to nothing is too loud
    BAND = "band"  # what of it lies outside the band that goes down is too loud
    DEEPEST = "deepest"  # the deepest dip is not deep enough


@dataclass(frozen=True)
class Reach:
    """What was wished for of one passage, and what keeps it from that, None for nothing. `lane_id`: the loudest lane
    of what gives way to nothing, and `left` how clear speech would stand of what keeps it from its wish alone."""

    wish: float
    bound: Bound | None = None
    lane_id: int | None = None
    left: float = np.inf


@dataclass(frozen=True)
class Stretches:
    """Mean powers in n stretches, (n, …) each: of speech, of what gives way to nothing, of what does, with the share
    by which each goes down of what music does."""

    speech: Doubles
    fixed: Doubles
    yielding: Sequence[tuple[float, Yielding]]

    def some(self, which: NDArray[np.bool_]) -> Stretches:
        """Some of them."""
        yielding = [(share, each.each(lambda power: power[which])) for share, each in self.yielding]
        return Stretches(self.speech[which], self.fixed[which], yielding)

    def clear(self, scale: Scale, depth_db: Doubles) -> Doubles:
        """How clear speech stands when music goes down so deep, (n,)."""
        left = (each.at(share * depth_db) for share, each in self.yielding)
        return scale.of(self.speech, sum(left, self.fixed))

    @property
    def best_db(self) -> Doubles:
        """As deep as anything can go."""
        return np.full(len(self.speech), LOWEST_DB)

    @property
    def spoken_in(self) -> NDArray[np.bool_]:
        """In which of them is any speech?"""
        return np.asarray(self.speech.reshape(len(self.speech), -1).any(axis=1))


def depths(scale: Scale, found: Stretches, wish: Doubles) -> Doubles:
    """How deep n stretches have to go, (n,) dB, 0 where speech stands clear without. No speech asks for nothing."""
    aim = np.minimum(wish, found.clear(scale, found.best_db) - scale.marks.slack)
    deep = np.zeros(len(wish))
    asks = (found.clear(scale, deep) < aim) & found.spoken_in
    if not asks.any():
        return deep
    found, aim = found.some(asks), aim[asks]
    if isinstance(scale, Loudness) and all(share == 1 and each.is_whole for share, each in found.yielding):
        room = found.speech / 10 ** (aim / 10) - found.fixed
        power = sum((each.power for _, each in found.yielding), np.zeros(len(aim)))
        with np.errstate(divide="ignore"):
            deep[asks] = np.maximum(10 * np.log10(np.maximum(room, 0) / power), LOWEST_DB)
        return deep
    low, high = found.best_db, np.zeros(len(aim))
    for _ in range(scale.halvings):
        middle = (low + high) / 2
        over = found.clear(scale, middle) < aim
        low, high = np.where(over, low, middle), np.where(over, middle, high)
    deep[asks] = (low + high) / 2
    return deep


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

    def __init__(
        self, found: Undipped, speech: Intervals, shares: Mapping[str, float], curves: Curves, clear_in: ClearIn
    ) -> None:
        self._found, self._spoken = found, Spoken(speech, found.steps)
        talk, rest = found.speech.copy(), found.rest.copy()
        self._kept: dict[CurveKey, Doubles] = {}
        yielding: dict[float, Yielding] = {}
        for (key, talks), each in found.yielding.items():
            if key not in curves:
                share = shares.get(key[1], 1.0)
                yielding[share] = yielding[share] + each if share in yielding else each
                continue
            ducked = each.at(curves.gain_at(key, middles(found.steps)))
            if talks:
                talk += ducked
            else:
                rest += ducked
                self._kept[key] = ducked
        self._speech, self._fixed = self._spoken.total(talk), self._spoken.total(rest)
        self._yielding = {share: each.each(self._spoken.total) for share, each in yielding.items()}
        self._scale = scale_of(clear_in, self._spoken, self._speech)

    def depths(self, spans: Intervals, settings: list[Settings]) -> Doubles:
        """How deep the music goes under each of (n, 2) stretches in order of time, by the settings of each, (n,) dB."""
        if not len(spans):
            return np.zeros(0)
        wanted = depths(self._scale, self._in(spans), np.array([each.wish for each in settings]))
        deepest, slightest = (np.array([getattr(s, name) for s in settings]) for name in ("deepest_db", "slightest_db"))
        bounded = np.maximum(np.minimum(wanted, slightest), deepest)
        return eased(spans, bounded, np.array([each.step_db for each in settings]))

    def reach(self, spans: Intervals, settings: list[Settings]) -> list[Reach]:
        """What was wished for in each stretch, and whether it can be had."""
        if not len(spans):
            return []
        found = self._in(spans)
        deepest_db = np.array([each.deepest_db for each in settings])
        alone = self._scale.of(found.speech, found.fixed)
        alone[~found.spoken_in] = np.inf
        best, deep = found.clear(self._scale, found.best_db), found.clear(self._scale, deepest_db)
        reach = []
        for i, each in enumerate(settings):
            bound, lane_id = None, None
            if alone[i] < each.wish:
                bound, lane_id = Bound.OTHERS, self._loudest(spans[i : i + 1])
            elif best[i] < each.wish:
                bound = Bound.BAND
            elif deep[i] < each.wish - WITHIN * self._scale.marks.slack:
                bound = Bound.DEEPEST
            reach.append(Reach(each.wish, bound, lane_id, float(best[i] if bound is Bound.BAND else alone[i])))
        return reach

    def _in(self, spans: Intervals) -> Stretches:
        """What sounds in stretches of timeline."""

        def _mean(total: Doubles) -> Doubles:
            return self._spoken.means(total, spans)

        yielding = [(share, each.each(_mean)) for share, each in self._yielding.items()]
        return Stretches(_mean(self._speech), _mean(self._fixed), yielding)

    def _loudest(self, span: Intervals) -> int | None:
        """The lane that is loudest in a stretch of what goes down by nothing, or by an amount."""
        sums = {lane_id: float(self._spoken.means(total, span).sum()) for lane_id, total in self._lanes.items()}
        return max(sums, key=lambda each: sums[each], default=None)

    @cached_property
    def _lanes(self) -> dict[int, Doubles]:
        """What such lanes add up to, by lane; worked out when the first is asked for."""
        power = dict(self._found.others)
        for (lane_id, _), ducked in self._kept.items():
            power[lane_id] = power[lane_id] + ducked if lane_id in power else ducked
        return {lane_id: self._spoken.total(each) for lane_id, each in power.items()}
