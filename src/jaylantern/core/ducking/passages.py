"""Passages: stretches of timeline in which something that others give way to is sounding.

speech in media time  ──[##]─[###]────────[##]──
clips                 |───────────────────────|
on the timeline       ────────[##]─[###]────────[##]──      union over all clips that are given way to
passages              ────────[########]────────[##]──      pauses not worth a rise are bridged
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from jaylantern.core.ducking import pecking_order, triggers
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal import intervals
from jaylantern.core.signal.arrays import Times
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.pin import NOTHING_OWN, DipPin, Heard, Own
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings


@dataclass(frozen=True)
class Passage:
    """One stretch of talk on the timeline, [start_n, stop_n): first syllable to the end of the last.

    `pin` is what its dip has of its own; `touched`: its extent was corrected by hand.
    """

    start_n: int
    stop_n: int
    pin: DipPin | None = None
    touched: bool = False

    @property
    def own(self) -> Own:
        """What its dip has of its own."""
        return self.pin.own if self.pin else NOTHING_OWN


@dataclass(frozen=True, eq=False)
class Talk:
    """What is sounding on the timeline: `spans` by perch; passages are held apart at `cuts`, bridged over `joins`."""

    spans: dict[str, Intervals]
    cuts: Times = field(default_factory=lambda: np.zeros(0, np.int64))
    joins: Intervals = field(default_factory=intervals.none)

    def of(self, perches: Sequence[str]) -> Intervals:
        """What sounds on any of these perches."""
        parts = [self.spans[perch] for perch in perches if perch in self.spans]
        return intervals.union(np.concatenate(parts)) if parts else intervals.none()


def key_clips(project: Project) -> list[tuple[Lane, Clip]]:
    """The sounding clips that others give way to, each with its lane."""
    order = pecking_order.order_of(project)
    return [(lane, clip) for lane, clip in project.sounding() if order.perch(lane, clip) in order.keys]


def talk_of(project: Project, sounding: Sounding) -> Talk:
    """What is sounding on each perch that others give way to, with the corrections made by hand."""
    order, pins = pecking_order.order_of(project), triggers.pins_by_media(project)
    parts: dict[str, list[Intervals]] = {}
    cuts: list[int] = []
    joins: list[tuple[int, int]] = []
    for lane, clip in key_clips(project):
        mine = pins.get(clip.media.id, [])
        perch = order.perch(lane, clip)
        assert perch is not None
        parts.setdefault(perch, []).append(triggers.spans_of(lane, clip, project.settings, sounding, mine))
        for pin in mine:
            shown = clip.shows(pin.start_n, pin.stop_n)
            if pin.edge_n is not None:
                if clip.offset_n <= pin.edge_n <= clip.offset_n + clip.length_n:
                    cuts.append(pin.edge_n + clip.shift_n)
            elif shown and pin.heard is Heard.JOINED:
                joins.append(shown)
    spans = {perch: intervals.union(np.concatenate(each)) for perch, each in parts.items()}
    return Talk(spans, np.unique(np.array(cuts, np.int64)), intervals.union(np.array(joins, np.int64)))


def shortest_gap_n(settings: Settings) -> int:
    """The shortest pause the music comes up in: hold + release + least rise + attack + lead-in, in samples."""
    total = settings.hold_ms + settings.release_ms + settings.least_rise_ms + settings.attack_ms + settings.lead_in_ms
    return max(0, ms_to_n(total))


def bridge(
    talk: Intervals, settings: Settings, *, cuts: Times | None = None, joins: Intervals | None = None
) -> Intervals:
    """Passages (n, 2) from speech on the timeline: pauses shorter than `shortest_gap_n` are bridged, and those marked
    so; where they are held apart, one ends with the last word before and the next begins with the first one after.
    """
    if not len(talk):
        return intervals.none()
    spans = talk if joins is None or not len(joins) else np.concatenate((talk, _reaching(talk, joins)))
    joined = intervals.union(spans, gap_n=max(0, shortest_gap_n(settings) - 1))
    if cuts is None or not len(cuts):
        return joined
    out = []
    for start_n, stop_n in joined.tolist():
        for cut_n in cuts[(cuts > start_n) & (cuts < stop_n)].tolist():
            before, after = _around(talk, cut_n)
            if start_n < before <= after < stop_n:
                out.append((start_n, before))
                start_n = after
        out.append((start_n, stop_n))
    return np.array(out, np.int64)


def _reaching(talk: Intervals, joins: Intervals) -> Intervals:
    """What of the joins lies between the first word and the last: nothing begins earlier or ends later for them."""
    first, last = talk[0, 0], talk[-1, 1]
    kept = np.clip(joins, first, last)
    return kept[kept[:, 1] > kept[:, 0]]


def _around(talk: Intervals, cut_n: int) -> tuple[int, int]:
    """Where speech ends before a time and begins after it; the time itself where someone is speaking."""
    i = int(np.searchsorted(talk[:, 0], cut_n, side="right")) - 1
    if i >= 0 and talk[i, 1] > cut_n:
        return cut_n, cut_n
    before = int(talk[i, 1]) if i >= 0 else cut_n
    after = int(talk[i + 1, 0]) if i + 1 < len(talk) else cut_n
    return before, after


def passages_of(project: Project, talk: Talk) -> tuple[Passage, ...]:
    """The passages of a project, each with what was corrected by hand."""
    spans = bridge(talk.of(list(talk.spans)), project.settings, cuts=talk.cuts, joins=talk.joins)
    if not project.dip_pins and not project.speech_pins:
        return tuple(Passage(*span) for span in spans.tolist())
    pinned = _pins_on_timeline(project)
    touched = _touched(project, spans)
    return tuple(
        Passage(start_n, stop_n, _pin_of(start_n, stop_n, pinned), touched[i])
        for i, (start_n, stop_n) in enumerate(spans.tolist())
    )


def _pins_on_timeline(project: Project) -> list[tuple[int, int, DipPin]]:
    """Where on the timeline the passages of dip pins lie: one entry for each clip that shows some of it."""
    clips = [clip for _, clip in key_clips(project)]
    return [
        (*shown, pin)
        for pin in project.dip_pins
        for clip in clips
        if clip.media.id == pin.media_id and (shown := clip.shows(pin.start_n, pin.stop_n))
    ]


def _pin_of(start_n: int, stop_n: int, pinned: list[tuple[int, int, DipPin]]) -> DipPin | None:
    """The dip pin whose stretch a passage holds most of; of equals the one set last."""
    best: tuple[int, int] = (0, 0)
    chosen = None
    for from_n, to_n, pin in pinned:
        shared = min(stop_n, to_n) - max(start_n, from_n)
        if shared > 0 and (shared, pin.id) > best:
            best, chosen = (shared, pin.id), pin
    return chosen


def _touched(project: Project, spans: Intervals) -> list[bool]:
    """Which passages hold or touch a stretch that was corrected by hand."""
    pins = triggers.pins_by_media(project)
    marks = [
        shown
        for _, clip in key_clips(project)
        for pin in pins.get(clip.media.id, [])
        if (shown := clip.shows(pin.start_n, pin.stop_n))
    ]
    return [any(a <= stop_n and start_n <= b for a, b in marks) for start_n, stop_n in spans.tolist()]
