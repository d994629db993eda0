"""Points set by hand on a gain curve: which of them hold now, and the curve with them.

computed   ──o           o──            a moved point takes the place of the computed one nearest to where that was;
              \\         /              one that was added goes in between; one that was taken away is left out
with pins  ──o  ◆─────o                 where no computed point is near any more, the pin rests
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.pin import PointPin

Point: TypeAlias = tuple[int, float, int, int]  # time, gain in dB, code of the ramp to the next, pin
NEAR_N = RATE // 2  # how far a computed point may have moved and still be the one that was meant
DIPPED_DB = -0.5


@dataclass(frozen=True)
class Resting:
    """Which pins hold, and which rest because what they corrected is not there."""

    held: frozenset[int] = frozenset()
    resting: frozenset[int] = frozenset()

    def joined(self, other: Resting) -> Resting:
        """Of several curves: a pin that holds anywhere holds."""
        held = self.held | other.held
        return Resting(held, (self.resting | other.resting) - held)


@dataclass(frozen=True)
class Pinned:
    """A curve with the points set by hand; `pin_of` (n,) is each point's pin, 0 for one that was computed."""

    curve: Curve
    pin_of: tuple[int, ...]
    resting: Resting


def with_points(curve: Curve, clips: Sequence[Clip], pins: Iterable[PointPin], *, frozen: bool) -> Pinned:
    """The curve of clips of one lane with the point pins set on them."""
    by_root: dict[int, list[PointPin]] = {}
    for pin in pins:
        by_root.setdefault(pin.root, []).append(pin)
    mine = [(clip, by_root[clip.origin]) for clip in clips if clip.origin in by_root]
    if frozen:
        return _plain(mine)
    if not mine:
        return Pinned(curve, (0,) * len(curve.time_n), Resting())
    return _corrected(curve, mine)


def _corrected(curve: Curve, mine: list[tuple[Clip, list[PointPin]]]) -> Pinned:
    """The curve with what its pins say: those that hold take the place of computed points, or go in between."""
    there, added, resting = _applied(curve, mine)
    kept = [point for point, still in zip(_computed(curve), there.tolist(), strict=True) if still]
    merged = sorted([*kept, *added], key=lambda point: point[0]) or [(0, 0.0, 0, 0)]
    for first_n, last_n in _spans(mine):
        merged = _fenced(merged, curve, first_n, last_n)
    time_n, gain_db, ramp, pin_of = zip(*merged, strict=True)
    ramps = np.array(ramp[:-1], np.int8)
    made = Curve(np.array(time_n, np.int64), np.array(gain_db), ramps if ramps.any() else ramps[:0])
    return Pinned(made, tuple(pin_of), resting)


def _computed(curve: Curve) -> list[Point]:
    """The points of a curve as they were computed."""
    return list(zip(curve.time_n.tolist(), curve.gain_db.tolist(), curve.codes, [0] * len(curve.time_n), strict=True))


def _applied(curve: Curve, mine: list[tuple[Clip, list[PointPin]]]) -> tuple[NDArray[np.bool_], list[Point], Resting]:
    """Which computed points stay, the points that come to them, and which pins hold and which rest."""
    there, points = np.ones(len(curve.time_n), bool), _computed(curve)
    added: list[Point] = []
    held, resting = set(), set()
    for clip, pin in ((clip, pin) for clip, pins in mine for pin in pins if _shown(clip, pin)):
        place = _replaced(curve, there, pin, clip)
        if place is None:
            resting.add(pin.id)
            continue
        held.add(pin.id)
        if pin.instead_n is not None:
            there[place] = False
        if pin.gain_db is not None:
            added.append((pin.at_n + clip.shift_n, pin.gain_db, points[place][2], pin.id))
    return there, added, Resting(frozenset(held), frozenset(resting - held))


def _shown(clip: Clip, pin: PointPin) -> bool:
    """Does the clip show where the pin is, or where the point was that it takes away?"""
    at_n = pin.at_n if pin.gain_db is not None else pin.instead_n
    return at_n is not None and clip.offset_n <= at_n <= clip.offset_n + clip.length_n


def _spans(mine: list[tuple[Clip, list[PointPin]]]) -> list[tuple[int, int]]:
    """Stretches of timeline over which clips of one root go on without a cut in the media."""
    found: list[list[int]] = []
    before: Clip | None = None
    for clip, _ in sorted(mine, key=lambda each: each[0].start_n):
        on = before and before.stop_n == clip.start_n and (before.origin, before.shift_n) == (clip.origin, clip.shift_n)
        if on:
            found[-1][1] = clip.stop_n
        else:
            found.append([clip.start_n, clip.stop_n])
        before = clip
    return [(first_n, last_n) for first_n, last_n in found]


def _fenced(points: list[Point], curve: Curve, first_n: int, last_n: int) -> list[Point]:
    """Points whose corrections within a stretch change nothing outside it: towards its ends the gain of a point set by
    hand is held, or reached from what was computed there."""
    inside = [i for i, point in enumerate(points) if first_n <= point[0] <= last_n]
    if not inside:
        return points
    out = list(points)
    if points[inside[-1]][3] and points[inside[-1]][0] < last_n:
        held = (last_n - 1, points[inside[-1]][1], 0, 0)
        out[inside[-1] + 1 : inside[-1] + 1] = [held, (last_n, float(curve.at(np.array([last_n]))[0]), 0, 0)]
    if points[inside[0]][3] and points[inside[0]][0] > first_n:
        out.insert(inside[0], (first_n, float(curve.at(np.array([first_n]))[0]), 0, 0))
    return out


def _replaced(curve: Curve, there: np.ndarray, pin: PointPin, clip: Clip) -> int | None:
    """Index of the computed point a pin takes the place of, or lies behind if it was added; None: it rests."""
    if pin.instead_n is not None:
        away = np.abs(curve.time_n - (pin.instead_n + clip.shift_n))
        away = np.where(there, away, NEAR_N + 1)
        nearest = int(away.argmin())
        return nearest if away[nearest] <= NEAR_N else None
    time_n = pin.at_n + clip.shift_n
    dipped = float(curve.at(np.array([time_n]))[0]) < DIPPED_DB
    return max(0, int(np.searchsorted(curve.time_n, time_n, side="right")) - 1) if dipped == pin.dipped else None


def _plain(mine: list[tuple[Clip, list[PointPin]]]) -> Pinned:
    """Points alone, straight in dB between them: each clip shows its stretch of what was set on its root."""
    parts: list[tuple[int, float, int]] = []
    held: set[int] = set()
    for clip, pins in sorted(mine, key=lambda each: each[0].start_n):
        ordered = sorted((pin for pin in pins if pin.gain_db is not None), key=lambda pin: (pin.at_n, pin.id))
        if not ordered:
            continue
        while parts and parts[-1][0] > clip.start_n:
            parts.pop()
        at_n = np.array([pin.at_n for pin in ordered], np.int64)
        gains = np.array([float(pin.gain_db or 0.0) for pin in ordered])
        first_n, last_n = clip.offset_n, clip.offset_n + clip.length_n
        ends = np.interp([first_n, last_n], at_n, gains)
        inside = [pin for pin in ordered if first_n <= pin.at_n <= last_n]
        held |= {pin.id for pin in ordered}
        if not inside or inside[0].at_n > first_n:
            parts.append((clip.start_n, float(ends[0]), 0))
        parts += [(pin.at_n + clip.shift_n, float(pin.gain_db or 0.0), pin.id) for pin in inside]
        if not inside or inside[-1].at_n < last_n:
            parts.append((clip.stop_n, float(ends[1]), 0))
    if not parts:
        return Pinned(Curve.flat(), (0,), Resting())
    time_n, gain_db, pin_of = zip(*parts, strict=True)
    return Pinned(Curve(np.array(time_n, np.int64), np.array(gain_db)), tuple(pin_of), Resting(frozenset(held)))
