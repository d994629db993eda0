"""The tuning map: what every pair of two settings would make of a project, and where among them it is sweet.

hold
 │ ▒▒▓▓██          each place is a decision by itself: time of music at full level, dips, flutter,
 │ ░▒▓▓▓█          how clear the least clear passage stands, points of the curves
 └──────── sensitivity
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from jaylantern.core.ducking import check_up
from jaylantern.core.ducking.media_power import middles
from jaylantern.core.ducking.plan import Plan, yielding
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.timeline.settings import KNOB, ClearIn, Knob, Mode, Settings

FULL_DB = -0.5  # music that is so little down is at its full level
NEAR_LU = {ClearIn.LOUDNESS: 0.5, ClearIn.INTELLIGIBILITY: 0.02}  # of the clearest: nobody hears less
NEAR_FULL = 0.02
SWEET = (
    "Least flutter; of that, speech as clear as is wished for or near the clearest; of that, music at full level"
    " longest, within 2 %."
)
DRAWN = ("sensitivity", "amount_db", "wish_lu", "wish_sii", "hold_ms", "attack_ms", "release_ms", "lead_in_ms",
         "least_rise_ms", "last_release_ms", "deepest_db", "slightest_db", "step_db")  # fmt: skip
KNOBS: Mapping[Mode, tuple[str, ...]] = {
    Mode.PASSAGE: DRAWN,
    Mode.COMPRESSOR: ("threshold_db", "ratio", "knee_db", "range_db", "comp_attack_ms", "comp_hold_ms",
                      "comp_release_ms", "look_ahead_ms"),
    Mode.EVEN: (),
}  # fmt: skip


class Figures(NamedTuple):
    """What comes of one place: share of the music's time at full level (1 where there is none), dips of the leading
    curve, rises of under a second, how clear the least clear passage stands (None without one), points of curves."""

    full: float
    dips: int
    flutter: int
    clear: float | None
    points: int


@dataclass(frozen=True)
class Look:
    """One thing to look at: its name, its unit, and whether more of it is better (None: neither)."""

    word: str
    unit: str
    more: bool | None


LOOKS: Mapping[str, Look] = {
    "full": Look("Music at full level", "%", True),
    "clear": Look("Least clear passage", "", True),
    "flutter": Look("Flutter", "", False),
    "dips": Look("Dips", "", None),
    "points": Look("Points on the curve", "", None),
}


def values(knob: Knob, count: int) -> list[float]:
    """So many values over all that a slider covers, from its beginning, on its steps."""
    found = np.linspace(knob.slide_low, knob.slide_high, count)
    return [round(float(np.rint(value / knob.step) * knob.step), 6) for value in found]


def at(settings: Settings, names: tuple[str, str], place: tuple[float, float]) -> Settings:
    """The settings at a place. Raises InvalidValue where the two can't stand together."""
    return settings.changed(dict(zip(names, place, strict=True)))


def figures(plan: Plan, clear: Sequence[float]) -> Figures:
    """What has come of a decision; `clear`: how clear each passage stands."""
    full, dips = 1.0, 0
    if plan.leading_key is not None:
        full, dips = _at_full(plan), _count(plan.leading_outline.gain_db < FULL_DB)
    points = sum(len(plan.curves.outline(key).time_n) for key in plan.curves)
    marks = MARKS[plan.project.settings.clear_in]
    least = marks.shown(min(clear)) if clear and np.isfinite(min(clear)) else None
    return Figures(full, dips, check_up.flutter(plan), least, points)


def _at_full(plan: Plan) -> float:
    """The share of the leading lane's time in which it is at its full level, by steps of 100 ms."""
    steps = -(-plan.project.length_n // STEP_N)
    there = np.zeros(steps, bool)
    assert plan.leading_key is not None
    for lane, perch, clips in yielding(plan.project, plan.order):
        if (lane.id, perch) == plan.leading_key:
            for clip in clips:
                there[clip.start_n // STEP_N : -(-clip.stop_n // STEP_N)] = True
    if not there.any():
        return 1.0
    full = plan.curves.gain_at(plan.leading_key, middles(steps)) >= FULL_DB
    return round(float(full[there].mean()), 4)


def _count(down: np.ndarray) -> int:
    """How often it goes down."""
    return int(down[0]) + int((down[1:] & ~down[:-1]).sum())


def sweet(found: Mapping[tuple[int, int], Figures], settings: Settings) -> list[tuple[int, int]]:
    """The places of a map that are sweet, by the rule that SWEET says; none where there are none to choose from."""
    if not found:
        return []
    steady = min(each.flutter for each in found.values())
    left = {place: each for place, each in found.items() if each.flutter == steady}
    clear = {place: np.inf if each.clear is None else each.clear for place, each in left.items()}
    enough = min(settings.wish, max(clear.values()) - NEAR_LU[settings.clear_in])
    left = {place: each for place, each in left.items() if clear[place] >= enough}
    most = max(each.full for each in left.values())
    return sorted(place for place, each in left.items() if each.full >= most - NEAR_FULL)


def usual(settings: Settings) -> tuple[str, str]:
    """The two settings a map begins with."""
    return ("threshold_db", "comp_hold_ms") if settings.mode is Mode.COMPRESSOR else ("sensitivity", "hold_ms")


def choices(settings: Settings) -> list[Knob]:
    """The settings a map may have."""
    return [KNOB[name] for name in KNOBS[settings.mode]]
