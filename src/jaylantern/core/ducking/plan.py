"""The duck plan: a dip under every passage, and the gain curves they make.

A curve belongs to the clips of one lane on one perch. Where several perches are given way to, the deepest dip counts:
amounts never add up. Level sets see to that: for every amount the stretches that ask for it or for more are bridged by
themselves, and the lower envelope of all their dips (`dips.py`) is the curve.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking import passages as talks
from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import CurveKey, Curves
from jaylantern.core.ducking.dips import SHORTEST_RAMP_N, Dip, dip_under, dips_under, envelope
from jaylantern.core.ducking.just_enough import Enough, Reach, followed, gently
from jaylantern.core.ducking.media_power import Undipped
from jaylantern.core.ducking.passages import Passage, Talk
from jaylantern.core.ducking.pecking_order import Order
from jaylantern.core.ducking.points import Resting, with_points
from jaylantern.core.ducking.rises import on_the_beat
from jaylantern.core.ducking.sidechain import SidechainGain
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.pin import WISHES, Own
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, DuckBy, Mode, RiseOn, Settings
from jaylantern.core.timeline.tag import SPEAKING, Tag

Above = Mapping[str, Mapping[str, Settings]]  # for each perch those it gives way to, as `Order` has it
BeatsOf = Callable[[int], NDArray[np.int64]]
NOTHING_RESTS = Resting()
NEIGHBOURS_N = 48_000  # pieces of music closer than a second are one, as to where its last dip is


def no_beats(media_id: int) -> NDArray[np.int64]:
    """Of media whose beats are not known."""
    return np.zeros(0, np.int64)


@dataclass(frozen=True)
class Plan:
    """Passages in order with the dip that each asks for, and the gain curve of each lane and perch that gives way.

    `pin_of` says for each point of a curve which pin it is, 0 for a computed one; `rides` has the leveller's gain line
    of clips of dialogue, by number; `reach` says for each passage that goes by clearance what was wished for.
    """

    project: Project
    order: Order
    passages: tuple[Passage, ...]
    dips: tuple[Dip, ...]
    talk: Talk
    curves: Curves
    pin_of: Mapping[CurveKey, tuple[int, ...]]
    resting: Resting = NOTHING_RESTS
    rides: Mapping[int, Curve] = field(default_factory=dict)
    reach: tuple[Reach | None, ...] = ()

    @cached_property
    def spans(self) -> Intervals:
        """The passages, (n, 2)."""
        return np.array([(p.start_n, p.stop_n) for p in self.passages], np.int64).reshape(-1, 2)

    @cached_property
    def speech(self) -> Intervals:
        """All that sounds and is given way to, on the timeline."""
        return self.talk.of(list(self.talk.spans))

    @cached_property
    def spoken(self) -> NDArray[np.bool_]:
        """For each passage, (n,): does anybody speak in it, or do only effects sound?"""
        perches = [perch for perch in self.talk.spans if pecking_order.main_tag(self.project, perch) in SPEAKING]
        return sounds_in(self.talk.of(perches), self.spans)

    @cached_property
    def uppers(self) -> tuple[str, ...]:
        """For each passage the perch above the leading curve's whose pair is in force there; () where nothing leads."""
        if self.leading_key is None:
            return ()
        return uppers_of(self.order.above[self.leading_key[1]], self.passages, self.talk)

    def key_of(self, lane: Lane, clip: Clip) -> CurveKey | None:
        """Which curve a clip follows; None where it gives way to nothing."""
        perch = self.order.perch(lane, clip)
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


# — what a perch asks of a lane —


@dataclass(frozen=True)
class Ask:
    """The dip that a stretch of timeline asks for, by settings; `none`: that it asks for none."""

    start_n: int
    stop_n: int
    settings: Settings
    none: bool = False

    @property
    def by_clearance(self) -> bool:
        """Does it go as deep as it takes?"""
        return self.settings.duck_by is DuckBy.CLEARANCE and not self.none


def asks_for(
    project: Project, above: Mapping[str, Settings], lower: str, found: Sequence[Passage], talk: Talk
) -> list[Ask]:
    """All dips that those above one perch ask it for; they may overlap. Pauses are bridged as the project says."""
    levels: dict[tuple[bool, float], Settings] = {}
    for settings in above.values():
        levels.setdefault(_level(settings), settings)
    owned = [passage for passage in found if not passage.own.empty]
    music, clear = is_music(project, lower), pecking_order.main_tag(project, lower) not in SPEAKING
    asks: list[Ask] = []
    for level in sorted(levels):
        uppers = [perch for perch, each in above.items() if _level(each)[0] == level[0] and _level(each) <= level]
        spans = talks.bridge(talk.of(uppers), project.settings, cuts=talk.cuts, joins=talk.joins)
        pair = levels[level]
        if owned:
            for span in spans.tolist():
                asks += _with_own(span, project, pair, owned, music=music, clear=clear)
        else:
            asks += [Ask(start_n, stop_n, pair) for start_n, stop_n in spans.tolist()]
    return asks


def uppers_of(above: Mapping[str, Settings], found: Sequence[Passage], talk: Talk) -> tuple[str, ...]:
    """For each passage the perch of those above one whose pair asks for most, of those that sound in it."""
    ranked = sorted(above, key=lambda perch: _level(above[perch]))
    if len(ranked) < 2:
        return tuple(ranked) * len(found)
    spans = np.array([(p.start_n, p.stop_n) for p in found], np.int64).reshape(-1, 2)
    sounds = {perch: sounds_in(talk.of([perch]), spans) for perch in ranked}
    return tuple(next((perch for perch in ranked if sounds[perch][i]), ranked[0]) for i in range(len(found)))


def sounds_in(sounding: Intervals, spans: Intervals) -> NDArray[np.bool_]:
    """Does anything of what sounds lie in each of (n, 2) stretches of timeline?"""
    union = intervals.union(sounding)
    found: NDArray[np.bool_] = np.searchsorted(union[:, 0], spans[:, 1]) > np.searchsorted(
        union[:, 1], spans[:, 0], side="right"
    )
    return found


def any_by_clearance(asks: Sequence[Ask]) -> bool:
    """Does any of these go as deep as it takes? Most have the very same settings."""
    return any(ask.by_clearance for ask in {(id(ask.settings), ask.none): ask for ask in asks}.values())


def _level(settings: Settings) -> tuple[bool, float]:
    """What asks for more of two settings of the same kind sorts first: the lower amount, the higher clearance."""
    if settings.duck_by is DuckBy.CLEARANCE:
        return True, -settings.wish
    return False, settings.amount_db


def dips_of(asks: Sequence[Ask], enough: Enough | None, share: float) -> list[Dip]:
    """The dips that asks come to; those by clearance go `share` times as deep as music does."""
    clear = [ask for ask in asks if ask.by_clearance] if any_by_clearance(asks) else []
    plain = (ask for ask in asks if not ask.none and not (clear and ask.by_clearance))
    dips = dips_under(((ask.start_n, ask.stop_n), ask.settings, None) for ask in plain)
    if enough is None or not clear:
        return dips
    clear.sort(key=lambda ask: (ask.start_n, ask.stop_n))
    lowest_db = KNOB["amount_db"].low
    whole = [(ask.start_n, ask.stop_n) for ask in clear]
    parts = [(k, part) for k, span in enumerate(whole) for part in followed(span, clear[k].settings.follow_s)]
    depth_db = enough.depths(np.array([part for _, part in parts], np.int64), [clear[k].settings for k, _ in parts])
    for (k, part), each_db in zip(parts, depth_db.tolist(), strict=True):
        dip = dip_under(whole[k], clear[k].settings, amount_db=max(lowest_db, share * each_db))
        dips.append(gently(dip, part, whole[k]))
    return dips


def is_music(project: Project, perch: str) -> bool:
    """Is it the perch of music, or of a lane of music?"""
    return pecking_order.main_tag(project, perch) is Tag.MUSIC


def lies_even(project: Project, group: tuple[Lane, str, list[Clip]]) -> bool:
    """Is this part of an even bed: music or atmosphere, and nothing that speaks?"""
    lane, perch, clips = group
    speaks = any(lane.tag_of(clip).speaks for clip in clips)
    return not speaks and pecking_order.main_tag(project, perch) in (Tag.MUSIC, Tag.ATMOSPHERE)


def share_of(project: Project, above: Mapping[str, Settings], lower: str) -> float:
    """By how much of what music goes down by clearance what sits on a perch does: in proportion, as by amount."""
    usual_db = project.settings.amount_db
    if usual_db >= 0 or is_music(project, lower):
        return 1.0
    return min(pair.amount_db for pair in above.values()) / usual_db


def _with_own(
    span: Sequence[int], project: Project, pair: Settings, owned: list[Passage], *, music: bool, clear: bool
) -> list[Ask]:
    """What one stretch asks for, with what the passages it lies in have of their own."""
    start_n, stop_n = span
    made = []
    for passage in owned:
        if not (passage.start_n < stop_n and start_n < passage.stop_n):
            continue
        if start_n < passage.start_n:
            made.append(Ask(start_n, passage.start_n, pair))
        start_n = max(start_n, passage.start_n)
        end_n = min(stop_n, passage.stop_n)
        if not passage.own.none:
            made.append(Ask(start_n, end_n, own_settings(passage.own, project, pair, music=music, clear=clear)))
        start_n = end_n
    if start_n < stop_n:
        made.append(Ask(start_n, stop_n, pair))
    return made


def own_settings(own: Own, project: Project, pair: Settings, *, music: bool, clear: bool = True) -> Settings:
    """The settings of a pair with what a passage has of its own. An amount is said of the music; what gives way by
    another goes down in proportion. A clearance means nothing (`clear`) for what speaks."""
    values = dict(own.values)
    usual_db = project.settings.amount_db
    if not clear:
        values = {name: value for name, value in values.items() if name not in WISHES}
    if "amount_db" in values and not music and usual_db < 0:
        values["amount_db"] = max(KNOB["amount_db"].low, pair.amount_db * values["amount_db"] / usual_db)
    return Own(values).over(pair) if values else pair


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


def yielding(project: Project, order: Order) -> list[tuple[Lane, str, list[Clip]]]:
    """Lanes and perches with clips that give way, in the order of the lanes."""
    groups: dict[CurveKey, tuple[Lane, str, list[Clip]]] = {}
    for lane in project.lanes:
        for clip in lane.clips:
            perch = order.yielding(lane, clip)
            if perch is not None and clip.media.has_sound:
                groups.setdefault((lane.id, perch), (lane, perch, []))[2].append(clip)
    return list(groups.values())


def pieces_of(clips: Sequence[Clip]) -> Intervals:
    """The stretches of timeline that clips cover; those closer than a second are one."""
    return intervals.union(np.array([(c.start_n, c.stop_n) for c in clips], np.int64), gap_n=NEIGHBOURS_N)


def make_plan(
    project: Project,
    sounding: Sounding,
    beats: BeatsOf = no_beats,
    levels: Callable[[], Undipped] | None = None,
) -> Plan:
    """Everything that ducking decides, from the project and what its media hold. `beats` answers the beats, or bars, of
    a medium that rises may end on, media time; `levels` what sounds before anything gives way, asked for only where
    something goes by clearance, and without which nothing does."""
    order = pecking_order.order_of(project)
    talk = talks.talk_of(project, sounding)
    found = talks.passages_of(project, talk)
    groups = yielding(project, order)
    drawn = _Drawn(project, order.above, found, talk, beats)
    compressed = (
        _Compressed(project, order.above, found, sounding) if project.settings.mode is Mode.COMPRESSOR else None
    )
    curves: dict[CurveKey, Curve | SidechainGain] = {}
    pin_of: dict[CurveKey, tuple[int, ...]] = {}
    resting = NOTHING_RESTS

    def by_clearance(group: tuple[Lane, str, list[Clip]]) -> bool:
        """Is it decided by what all others come to?"""
        lane, perch, _ = group
        return project.settings.mode is Mode.PASSAGE and not lane.frozen and drawn.by_clearance(perch)

    for group in sorted(groups, key=by_clearance):
        lane, perch, clips = group
        key = (lane.id, perch)
        if project.settings.mode is Mode.EVEN and not lane.frozen:
            curves[key] = Curve.flat(project.settings.even_db if lies_even(project, group) else 0.0)
        elif compressed and not lane.frozen:
            curves[key] = compressed.under(perch)
        else:
            if levels and drawn.enough is None and by_clearance(group):
                drawn.weigh(levels(), Curves(dict(curves)))
            curve = Curve.flat() if lane.frozen else drawn.curve(perch, clips)
            pinned = with_points(curve, clips, project.point_pins, frozen=lane.frozen)
            curves[key], pin_of[key], resting = pinned.curve, pinned.pin_of, resting.joined(pinned.resting)
    ordered = {(lane.id, perch): curves[lane.id, perch] for lane, perch, _ in groups}
    music = next((group for group in groups if is_music(project, group[1])), None)
    dips, reach = drawn.shown(music)
    return Plan(project, order, found, dips, talk, Curves(ordered), pin_of, resting, reach=reach)


class _Drawn:
    """The curves of drawn dips; what a perch asks for is worked out once."""

    def __init__(self, project: Project, above: Above, found: tuple[Passage, ...], talk: Talk, beats: BeatsOf) -> None:
        self._project, self._above, self._found, self._talk, self._beats = project, above, found, talk, beats
        self._dips: dict[str, list[Dip]] = {}
        self._asks: dict[str, list[Ask]] = {}
        self._clear: dict[str, bool] = {}
        self._ends: dict[tuple[int, int], tuple[list[Dip], Sequence[Clip], list[Dip]]] = {}  # with what is asked of
        self.enough: Enough | None = None

    def by_clearance(self, perch: str) -> bool:
        """Does anything a perch is asked for go by clearance?"""
        if perch not in self._clear:
            self._clear[perch] = any_by_clearance(self._asked(perch))
        return self._clear[perch]

    def weigh(self, levels: Undipped, curves: Curves) -> None:
        """From now on how deep dips by clearance go is known. `curves`: of all that gives way by an amount alone."""
        shares = {perch: share_of(self._project, above, perch) for perch, above in self._above.items()}
        speech = self._talk.of(list(self._talk.spans))
        self.enough = Enough(levels, speech, shares, curves, self._project.settings.clear_in)

    def _asked(self, perch: str) -> list[Ask]:
        if perch not in self._asks:
            self._asks[perch] = asks_for(self._project, self._above[perch], perch, self._found, self._talk)
        return self._asks[perch]

    def curve(self, perch: str, clips: Sequence[Clip]) -> Curve:
        """The curve that clips of one lane on a perch follow."""
        if perch not in self._dips:
            share = share_of(self._project, self._above[perch], perch)
            self._dips[perch] = dips_of(self._asked(perch), self.enough, share)
        dips = self._ended(self._dips[perch], clips)
        return envelope(dips, least_rise_n=ms_to_n(self._project.settings.least_rise_ms) - 2 * SHORTEST_RAMP_N)

    def _asks_of(self, music: tuple[Lane, str, list[Clip]] | None) -> list[Ask]:
        """What each passage asks of the music."""
        pairs = [self._project.settings] * len(self._found)
        if music:
            above = self._above[music[1]]
            pairs = [above[upper] for upper in uppers_of(above, self._found, self._talk)]
        return [
            Ask(p.start_n, p.stop_n, pair)
            if p.own.empty
            else Ask(p.start_n, p.stop_n, own_settings(p.own, self._project, pair, music=True), p.own.none)
            for p, pair in zip(self._found, pairs, strict=True)
        ]

    def shown(self, music: tuple[Lane, str, list[Clip]] | None) -> tuple[tuple[Dip, ...], tuple[Reach | None, ...]]:
        """For each passage the dip its settings ask for of the music, as the dip picture shows it; and what was wished
        for, and what keeps it from that: None where it goes by an amount."""
        asks = self._asks_of(music)
        clear = [i for i, ask in enumerate(asks) if ask.by_clearance] if any_by_clearance(asks) else []
        spans = np.array([(asks[i].start_n, asks[i].stop_n) for i in clear], np.int64).reshape(-1, 2)
        settings = [asks[i].settings for i in clear]
        reach: list[Reach | None] = [None] * len(asks)
        if self.enough:
            for i, each in zip(clear, self.enough.reach(spans, settings), strict=True):
                reach[i] = each
        made = self._dips.get(music[1], []) if music and len(clear) in (0, len(asks)) else []
        if music and made and len(made) == len(asks) and asks == self._asks[music[1]]:
            dips = made  # just what its curve was made of
        else:
            amounts = [0.0 if ask.none else ask.settings.amount_db for ask in asks]
            if self.enough:
                for i, depth_db in zip(clear, self.enough.depths(spans, settings).tolist(), strict=True):
                    amounts[i] = depth_db
            asked = zip(asks, amounts, strict=True)
            dips = dips_under(((ask.start_n, ask.stop_n), ask.settings, amount_db) for ask, amount_db in asked)
        return tuple(self._ended(dips, music[2]) if music else dips), tuple(reach)

    def _ended(self, dips: list[Dip], clips: Sequence[Clip]) -> list[Dip]:
        """Dips with their rises as the music under them asks: the last one slower, all of them on its beats."""
        key = (id(dips), id(clips))
        if key not in self._ends:  # the dip picture shows what the curve was made of
            self._ends[key] = dips, clips, self._ended_anew(dips, clips)
        return self._ends[key][2]

    def _ended_anew(self, dips: list[Dip], clips: Sequence[Clip]) -> list[Dip]:
        settings = self._project.settings
        dips = with_last_releases(dips, pieces_of(clips), settings, self._found)
        if settings.rise_on is RiseOn.ANYWHERE:
            return dips
        times = [(beats + c.shift_n)[(beats >= c.offset_n) & (beats < c.offset_n + c.length_n)]
                 for c in clips for beats in [self._beats(c.media.id)]]  # fmt: skip
        return on_the_beat(dips, np.unique(np.concatenate(times)))


class _Compressed:
    """The curves of the compressor; those of perches with the same keys are the same."""

    def __init__(self, project: Project, above: Above, found: tuple[Passage, ...], sounding: Sounding) -> None:
        self._project, self._above, self._found, self._sounding = project, above, found, sounding
        self._made: dict[frozenset[str], SidechainGain] = {}

    def under(self, perch: str) -> SidechainGain:
        """What whatever sits on a perch follows."""
        uppers = frozenset(self._above[perch])
        if uppers not in self._made:
            spared = [(p.start_n, p.stop_n) for p in self._found if p.own.none]
            self._made[uppers] = SidechainGain(
                self._project, uppers, self._sounding.key, spared=spared, memo=self._sounding.memo
            )
        return self._made[uppers]
