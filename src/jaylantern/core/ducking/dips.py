"""Dips: the one a passage asks for, and the envelope that many of them make.

     down_from          lead-in                         up
0 dB ───o                 ┊                              o───
         \\               ┊   first …… last syllable    /
amount    o───────────────┊──[#######################]─o
        attack          down                   hold  rise  release
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TypeAlias

import numpy as np

from jaylantern.core.ducking.curve import CODES, Curve
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline.settings import Settings

SHORTEST_RAMP_N = 240  # 5 ms: quicker ones click
ON_LINE_DB = 1e-3
Point: TypeAlias = tuple[int, float, int]  # time in samples, gain in dB, code of the ramp to the next


@dataclass(frozen=True)
class Dip:
    """The four corners of one dip in time: it begins to go down, is down, begins to rise, is up again."""

    from_n: int
    down_n: int
    rise_n: int
    up_n: int
    amount_db: float = 0.0
    fall: int = 0  # codes of `curve.CODES`
    rise: int = 0
    last: bool = False  # the last over a piece of music


def dip_under(passage: Passage | tuple[int, int], settings: Settings, *, amount_db: float | None = None) -> Dip:
    """The dip a passage asks for; as deep as its settings say where no amount is given."""
    span = (passage.start_n, passage.stop_n) if isinstance(passage, Passage) else passage
    return dips_under([(span, settings, amount_db)])[0]


def dips_under(asked: Iterable[tuple[tuple[int, int], Settings, float | None]]) -> list[Dip]:
    """The dips that stretches ask for, each by its settings, and by an amount where one is given.

    down = first syllable − lead-in; from = down − attack; rise = last syllable + hold; up = rise + release.
    A lead-in so negative that the dip would begin after its end begins it at its end. No ramp is shorter than 5 ms.
    """
    made = []
    last, shape = None, (0, 0, 0, 0, 0, 0)
    for (start_n, stop_n), settings, amount_db in asked:
        if settings is not last:
            last, shape = settings, _shape_of(settings)
        hold_n, lead_in_n, attack_n, release_n, fall, rise = shape
        rise_n = stop_n + hold_n
        down_n = min(start_n - lead_in_n, rise_n)
        depth_db = settings.amount_db if amount_db is None else amount_db
        made.append(Dip(down_n - attack_n, down_n, rise_n, rise_n + release_n, depth_db, fall, rise))
    return made


def _shape_of(settings: Settings) -> tuple[int, int, int, int, int, int]:
    """Hold, lead-in, attack, release in samples and the codes of the ramps."""
    attack_n, release_n = (max(ms_to_n(each), SHORTEST_RAMP_N) for each in (settings.attack_ms, settings.release_ms))
    hold_n, lead_in_n = ms_to_n(settings.hold_ms), ms_to_n(settings.lead_in_ms)
    return hold_n, lead_in_n, attack_n, release_n, CODES[settings.fall], CODES[settings.rise]


def envelope(dips: Sequence[Dip], *, least_rise_n: int = 0) -> Curve:
    """The lowest of all dips at every moment, as points; between two dips that leave less than `least_rise_n` at full
    level the gain stays at the shallower of their amounts.

    Where dips cross, crossings are found as if all ramps were straight in dB; each piece then has the ramp of the dip
    it belongs to.
    """
    dips = sorted((dip for dip in dips if dip.amount_db < 0), key=lambda dip: (dip.from_n, dip.up_n))
    if not dips:
        return Curve.flat()
    points: list[Point] = []  # time, gain, ramp to the next
    cluster: list[Dip] = []
    reach_n = 0
    for dip in dips:
        if cluster and dip.from_n - reach_n >= max(least_rise_n, 0):
            points += _merged(cluster, least_rise_n)
            cluster = []
        reach_n = max(reach_n, dip.up_n) if cluster else dip.up_n
        cluster.append(dip)
    points += _merged(cluster, least_rise_n)
    points = [a for a, b in pairwise([*points, (1 << 62, 0.0, 0)]) if a[0] < b[0]]  # where nothing is held, one point
    time_n, gain_db, ramp = (np.array(column) for column in zip(*points, strict=True))
    ramps = ramp[:-1].astype(np.int8)
    return Curve(time_n.astype(np.int64), gain_db.astype(np.float64), ramps if ramps.any() else np.zeros(0, np.int8))


def _corners(dip: Dip) -> list[Point]:
    return [
        (dip.from_n, 0.0, dip.fall),
        (dip.down_n, dip.amount_db, 0),
        (dip.rise_n, dip.amount_db, dip.rise),
        (dip.up_n, 0.0, 0),
    ]


def _merged(cluster: list[Dip], least_rise_n: int) -> list[Point]:
    """Points of dips that lie over each other or too near."""
    if len(cluster) == 1:
        return _corners(cluster[0])
    if len({dip.amount_db for dip in cluster}) == 1:
        first, last = cluster[0], max(cluster, key=lambda dip: dip.up_n)
        down_n = min(dip.down_n for dip in cluster)
        rise_n = max(dip.rise_n for dip in cluster)
        return _corners(replace(last, from_n=min(first.from_n, down_n), down_n=down_n, rise_n=rise_n, fall=first.fall))
    return _lowest([*cluster, *_bridges(cluster, least_rise_n)])


def _bridges(cluster: list[Dip], least_rise_n: int) -> list[Dip]:
    """Dips that keep the gain down between neighbours that leave no rise worth having."""
    made = []
    before = cluster[0]
    for dip in cluster[1:]:
        if dip.from_n - before.up_n < max(least_rise_n, 1) and dip.down_n > before.rise_n:
            amount_db = max(before.amount_db, dip.amount_db)
            made.append(Dip(before.from_n, before.down_n, dip.rise_n, dip.up_n, amount_db, before.fall, dip.rise))
        if dip.up_n >= before.up_n:
            before = dip
    return made


def _lowest(dips: list[Dip]) -> list[Point]:
    """The lower envelope of dips that overlap; straight pieces between all their corners and crossings."""
    corner = np.array([(d.from_n, d.down_n, d.rise_n, d.up_n) for d in dips], np.int64)
    edges = np.unique(corner)
    gains = _gains(corner, dips, edges)
    times = [edges]
    for i in range(len(dips)):
        for j in range(i):
            ahead = gains[i] - gains[j]
            crossing = np.flatnonzero(ahead[:-1] * ahead[1:] < 0)
            share = ahead[crossing] / (ahead[crossing] - ahead[crossing + 1])
            times.append(np.rint(edges[crossing] + share * np.diff(edges)[crossing]).astype(np.int64))
    time_n = np.unique(np.concatenate(times))
    gains = _gains(corner, dips, time_n)
    lowest = gains.min(axis=0)
    middle = _gains(corner, dips, (time_n[:-1] + time_n[1:]) // 2)
    points = []
    for k, time in enumerate(time_n.tolist()):
        ramp = 0
        if k + 1 < len(time_n) and lowest[k] != lowest[k + 1]:
            owner = dips[int(middle[:, k].argmin())]
            ramp = owner.fall if lowest[k + 1] < lowest[k] else owner.rise
        points.append((time, float(lowest[k]), ramp))
    return _needed(points)


def _gains(corner: Intervals, dips: list[Dip], time_n: Intervals) -> np.ndarray:
    """Gain of every dip (rows) at these times, straight in dB."""
    return np.array(
        [np.interp(time_n, c, [0.0, d.amount_db, d.amount_db, 0.0]) for c, d in zip(corner, dips, strict=True)]
    )


def _needed(points: list[Point]) -> list[Point]:
    """Without the points that lie on the straight line between their neighbours."""
    kept = [points[0]]
    for here, after in pairwise(points[1:]):
        if not _between(kept[-1], here, after):
            kept.append(here)
    return [*kept, *points[1:][-1:]]


def _between(before: Point, here: Point, after: Point) -> bool:
    """Does a point say nothing: is it on the line between its neighbours, in the middle of one and the same ramp?"""
    share = (here[0] - before[0]) / max(1, after[0] - before[0])
    on_line = abs(before[1] + share * (after[1] - before[1]) - here[1]) < ON_LINE_DB
    goes_on = (before[1] - here[1]) * (here[1] - after[1]) > 0  # down and further down, or up and further up
    return on_line and here[2] == before[2] and (here[2] == 0 or goes_on)
