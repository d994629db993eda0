"""The duck plan: a dip under every passage, and the gain curves they make.

     down_from          lead-in                         up
0 dB ───o                 ┊                              o───
         \\               ┊   first …… last syllable    /
amount    o───────────────┊──[#######################]─o
        attack          down                   hold  rise  release

A curve belongs to the clips of one lane on one perch. Where several perches are given way to, the deepest dip counts:
amounts never add up. Level sets see to that: for every amount the stretches that ask for it or for more are bridged by
themselves, and the lower envelope of all their dips is the curve.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from jaylantern.core.ducking import passages as talks
from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.curve import CODES, Curve
from jaylantern.core.ducking.curves import CurveKey, Curves
from jaylantern.core.ducking.passages import Passage, Talk
from jaylantern.core.ducking.points import Resting, with_points
from jaylantern.core.ducking.sidechain import Squeeze
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.pin import Own
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, Mode, Settings
from jaylantern.core.timeline.tag import Tag

SHORTEST_RAMP_N = 240  # 5 ms: quicker ones click
NOTHING_RESTS = Resting()
NEIGHBOURS_N = 48_000  # pieces of music closer than a second are one, as to where its last dip is


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


@dataclass(frozen=True)
class Plan:
    """Passages in order with the dip that each asks for, and the gain curve of each lane and perch that gives way.

    `pin_of` says for each point of a curve which pin it is, 0 for a computed one; `rides` has the leveller's gain line
    of clips of dialogue, by number.
    """

    project: Project
    passages: tuple[Passage, ...]
    dips: tuple[Dip, ...]
    talk: Talk
    curves: Curves
    pin_of: Mapping[CurveKey, tuple[int, ...]]
    resting: Resting = NOTHING_RESTS
    rides: Mapping[int, Curve] = field(default_factory=dict)

    @cached_property
    def speech(self) -> Intervals:
        """All that sounds and is given way to, on the timeline."""
        return self.talk.of(list(self.talk.spans))

    def key_of(self, lane: Lane, clip: Clip) -> CurveKey | None:
        """Which curve a clip follows; None where it gives way to nothing."""
        perch = pecking_order.order_of(self.project).perch(lane, clip)
        key = (lane.id, perch or "")
        return key if key in self.curves else None

    def curve_of(self, lane: Lane, clip: Clip) -> Curve | None:
        """The curve a clip follows."""
        key = self.key_of(lane, clip)
        return None if key is None else self.curves[key]

    @cached_property
    def leading_key(self) -> CurveKey | None:
        """The curve that stands for the whole film: that of the first lane of music, else of whatever gives way."""
        return min(self.curves, key=lambda key: not is_music(self.project, key[1]), default=None)

    @property
    def leading(self) -> Curve:
        """That curve; flat where nothing gives way."""
        return Curve.flat() if self.leading_key is None else self.curves[self.leading_key]

    @property
    def leading_outline(self) -> Curve:
        """That curve for a look at the whole."""
        return Curve.flat() if self.leading_key is None else self.curves.outline(self.leading_key)


def dip_under(passage: Passage | tuple[int, int], settings: Settings) -> Dip:
    """The dip a passage asks for.

    down = first syllable − lead-in; from = down − attack; rise = last syllable + hold; up = rise + release.
    A lead-in so negative that the dip would begin after its end begins it at its end. No ramp is shorter than 5 ms.
    """
    start_n, stop_n = (passage.start_n, passage.stop_n) if isinstance(passage, Passage) else passage
    rise_n = stop_n + ms_to_n(settings.hold_ms)
    down_n = min(start_n - ms_to_n(settings.lead_in_ms), rise_n)
    return Dip(
        down_n - max(ms_to_n(settings.attack_ms), SHORTEST_RAMP_N),
        down_n,
        rise_n,
        rise_n + max(ms_to_n(settings.release_ms), SHORTEST_RAMP_N),
        settings.amount_db,
        CODES[settings.fall],
        CODES[settings.rise],
    )


# — the envelope of dips —


def envelope(dips: Sequence[Dip], *, least_rise_n: int = 0) -> Curve:
    """The lowest of all dips at every moment, as points; between two dips that leave less than `least_rise_n` at full
    level the gain stays at the shallower of their amounts.

    Where dips cross, crossings are found as if all ramps were straight in dB; each piece then has the ramp of the dip
    it belongs to.
    """
    dips = sorted((dip for dip in dips if dip.amount_db < 0), key=lambda dip: (dip.from_n, dip.up_n))
    if not dips:
        return Curve.flat()
    points: list[tuple[int, float, int]] = []  # time, gain, ramp to the next
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


def _corners(dip: Dip) -> list[tuple[int, float, int]]:
    return [
        (dip.from_n, 0.0, dip.fall),
        (dip.down_n, dip.amount_db, 0),
        (dip.rise_n, dip.amount_db, dip.rise),
        (dip.up_n, 0.0, 0),
    ]


def _merged(cluster: list[Dip], least_rise_n: int) -> list[tuple[int, float, int]]:
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


def _lowest(dips: list[Dip]) -> list[tuple[int, float, int]]:
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


def _needed(points: list[tuple[int, float, int]]) -> list[tuple[int, float, int]]:
    """Without the points that lie on the straight line between their neighbours."""
    kept = [points[0]]
    for here, after in zip(points[1:], [*points[2:], None], strict=True):
        if after is not None:
            before = kept[-1]
            share = (here[0] - before[0]) / max(1, after[0] - before[0])
            on_line = abs(before[1] + share * (after[1] - before[1]) - here[1]) < 1e-3
            if on_line and here[2] == before[2] == 0:
                continue
            if on_line and here[2] == before[2] and (before[1] - here[1]) * (here[1] - after[1]) > 0:
                continue
        kept.append(here)
    return kept


# — what a perch asks of a lane —


def dips_for(project: Project, lower: str, found: Sequence[Passage], talk: Talk) -> list[Dip]:
    """All dips that one perch makes under those above it; they may overlap. Pauses are bridged as the project says."""
    above = pecking_order.order_of(project).above[lower]
    by_amount: dict[float, Settings] = {}
    for settings in above.values():
        by_amount.setdefault(settings.amount_db, settings)
    owned = [passage for passage in found if not passage.own.empty]
    music = is_music(project, lower)
    dips: list[Dip] = []
    for amount_db in sorted(by_amount):
        settings = by_amount[amount_db]
        uppers = [perch for perch, each in above.items() if each.amount_db <= amount_db]
        spans = talks.bridge(talk.of(uppers), project.settings, cuts=talk.cuts, joins=talk.joins)
        for span in spans.tolist():
            dips += _with_own(span, project, settings, owned, music=music)
    return dips


def is_music(project: Project, perch: str) -> bool:
    """Is it the perch of music, or of a lane of music?"""
    return perch == Tag.MUSIC or any(perch_of_lane(e.id) == perch and e.main_tag is Tag.MUSIC for e in project.lanes)


def _with_own(span: Sequence[int], project: Project, pair: Settings, owned: list[Passage], *, music: bool) -> list[Dip]:
    """The dips under one stretch, with what the passages it lies in have of their own."""
    start_n, stop_n = span
    made = []
    for passage in owned:
        if not (passage.start_n < stop_n and start_n < passage.stop_n):
            continue
        if start_n < passage.start_n:
            made.append(dip_under((start_n, passage.start_n), pair))
        start_n = max(start_n, passage.start_n)
        end_n = min(stop_n, passage.stop_n)
        if not passage.own.none:
            made.append(dip_under((start_n, end_n), own_settings(passage.own, project, pair, music=music)))
        start_n = end_n
    if start_n < stop_n:
        made.append(dip_under((start_n, stop_n), pair))
    return made


def own_settings(own: Own, project: Project, pair: Settings, *, music: bool) -> Settings:
    """The settings of a pair with what a passage has of its own. An amount is said of the music; what gives way by
    another goes down in proportion."""
    values = dict(own.values)
    usual_db = project.settings.amount_db
    if "amount_db" in values and not music and usual_db < 0:
        values["amount_db"] = max(KNOB["amount_db"].low, pair.amount_db * values["amount_db"] / usual_db)
    return pair.changed(values) if values else pair


def with_last_releases(dips: list[Dip], pieces: Intervals, settings: Settings, found: Sequence[Passage]) -> list[Dip]:
    """The last dip over each piece of music comes back in its own time, at the latest where the next piece begins; a
    passage's own release counts before it."""
    if not dips:
        return dips
    own = [p for p in found if "release_ms" in p.own.values]
    made = list(dips)
    begin, rise, up = (np.array([getattr(dip, name) for dip in dips]) for name in ("from_n", "rise_n", "up_n"))
    release_n = max(ms_to_n(settings.last_release_ms), SHORTEST_RAMP_N)
    for k, (first_n, last_n) in enumerate(pieces.tolist()):
        inside = np.flatnonzero((begin < last_n) & (up > first_n))
        if not len(inside) or rise[inside].max() >= last_n:
            continue
        next_n = int(pieces[k + 1, 0]) if k + 1 < len(pieces) else None
        for i in inside[rise[inside] == rise[inside].max()].tolist():
            dip = made[i]
            if not any(p.start_n <= dip.rise_n and dip.down_n <= p.stop_n for p in own):
                up_n = dip.rise_n + release_n
                made[i] = replace(dip, up_n=up_n if next_n is None else max(dip.up_n, min(up_n, next_n)), last=True)
    return made


def yielding(project: Project) -> list[tuple[Lane, str, list[Clip]]]:
    """Lanes and perches with clips that give way, in the order of the lanes."""
    order = pecking_order.order_of(project)
    groups: dict[CurveKey, tuple[Lane, str, list[Clip]]] = {}
    for lane in project.lanes:
        for clip in lane.clips:
            perch = order.perch(lane, clip)
            if perch is not None and perch in order.above and clip.media.has_sound:
                groups.setdefault((lane.id, perch), (lane, perch, []))[2].append(clip)
    return list(groups.values())


def pieces_of(clips: Sequence[Clip]) -> Intervals:
    """The stretches of timeline that clips cover; those closer than a second are one."""
    return intervals.union(np.array([(c.start_n, c.stop_n) for c in clips], np.int64), gap_n=NEIGHBOURS_N)


def make_plan(project: Project, sounding: Sounding) -> Plan:
    """Everything that ducking decides, from the project and what its media hold."""
    talk = talks.talk_of(project, sounding)
    found = talks.passages_of(project, talk)
    groups = yielding(project)
    drawn = _Drawn(project, found, talk)
    squeezed = _Squeezed(project, found, talk, sounding) if project.settings.mode is Mode.COMPRESSOR else None
    curves: dict[CurveKey, Curve | Squeeze] = {}
    pin_of: dict[CurveKey, tuple[int, ...]] = {}
    resting = NOTHING_RESTS
    for lane, perch, clips in groups:
        key = (lane.id, perch)
        if project.settings.mode is Mode.EVEN and not lane.frozen:
            curves[key] = Curve.flat(project.settings.even_db)
        elif squeezed and not lane.frozen:
            curves[key] = squeezed.under(perch)
        else:
            curve = Curve.flat() if lane.frozen else drawn.curve(perch, clips)
            pinned = with_points(curve, clips, project.point_pins, frozen=lane.frozen)
            curves[key], pin_of[key], resting = pinned.curve, pinned.pin_of, resting.joined(pinned.resting)
    music = next((group for group in groups if is_music(project, group[1])), None)
    return Plan(project, found, drawn.shown(music), talk, Curves(curves), pin_of, resting)


class _Drawn:
    """The curves of drawn dips; what a perch asks for is worked out once."""

    def __init__(self, project: Project, found: tuple[Passage, ...], talk: Talk) -> None:
        self._project, self._found, self._talk = project, found, talk
        self._dips: dict[str, list[Dip]] = {}

    def curve(self, perch: str, clips: Sequence[Clip]) -> Curve:
        """The curve that clips of one lane on a perch follow."""
        settings = self._project.settings
        if perch not in self._dips:
            self._dips[perch] = dips_for(self._project, perch, self._found, self._talk)
        dips = with_last_releases(self._dips[perch], pieces_of(clips), settings, self._found)
        return envelope(dips, least_rise_n=ms_to_n(settings.least_rise_ms) - 2 * SHORTEST_RAMP_N)

    def shown(self, music: tuple[Lane, str, list[Clip]] | None) -> tuple[Dip, ...]:
        """For each passage the dip its settings ask for of the music, as the dip picture shows it."""
        pair = self._project.settings
        if music:
            pair = next(iter(pecking_order.order_of(self._project).above[music[1]].values()))
        dips = [dip_under(p, own_settings(p.own, self._project, pair, music=True)) for p in self._found]
        dips = [replace(dip, amount_db=0.0) if p.own.none else dip for p, dip in zip(self._found, dips, strict=True)]
        if music:
            dips = with_last_releases(dips, pieces_of(music[2]), self._project.settings, self._found)
        return tuple(dips)


class _Squeezed:
    """The curves of the compressor; those of perches with the same keys are the same."""

    def __init__(self, project: Project, found: tuple[Passage, ...], talk: Talk, sounding: Sounding) -> None:
        self._project, self._found, self._sounding = project, found, sounding
        self._made: dict[frozenset[str], Squeeze] = {}

    def under(self, perch: str) -> Squeeze:
        """What whatever sits on a perch follows."""
        uppers = frozenset(pecking_order.order_of(self._project).above[perch])
        if uppers not in self._made:
            spared = [(p.start_n, p.stop_n) for p in self._found if p.own.none]
            self._made[uppers] = Squeeze(self._project, uppers, self._sounding.key, spared=spared)
        return self._made[uppers]
