"""Corrections by hand: speech marked and unmarked, edges, passages split and joined, dips of their own.

All of them become pins in media time; they need the plan to know whose speech makes a passage.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from jaylantern.core.ducking import passages
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.edit.cutting import Edge
from jaylantern.core.signal import intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.pin import PINS, DipPin, Heard, Own, SpeechPin
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.errors import NotFound, Refused

SHORTEST_N = RATE // 20
HELD_N = RATE // 2  # of a passage next to an edge that was set by hand, which counts as speech from then on
EDGES = {Edge.START: Heard.BEGINS, Edge.STOP: Heard.ENDS}
NO_KEY = "There is nobody who could speak there: no clip that others give way to. Tag one as dialogue first."


def passage_of(plan: Plan, index: object) -> Passage:
    """A passage by its place in the list. Raises NotFound."""
    if isinstance(index, bool) or not isinstance(index, int) or not 0 <= index < len(plan.passages):
        raise NotFound("That passage is not there any more. Choose another.")
    return plan.passages[index]


def _over(project: Project, start_n: int, stop_n: int) -> list[tuple[int, Clip]]:
    """Clips that are given way to and lie over some of a stretch, by how much, the most first."""
    shared = [(min(stop_n, clip.stop_n) - max(start_n, clip.start_n), clip) for _, clip in passages.key_clips(project)]
    return sorted(((n, clip) for n, clip in shared if n > 0), key=lambda found: -found[0])


def _pin(new_id: NewId, clip: Clip, heard: Heard, start_n: int, stop_n: int) -> SpeechPin:
    """A pin on a clip's media over the part of a stretch of timeline that the clip shows."""
    return SpeechPin(
        new_id(),
        clip.media.id,
        heard,
        max(start_n, clip.start_n) - clip.shift_n,
        min(stop_n, clip.stop_n) - clip.shift_n,
    )


def _with_pins(project: Project, new: Iterable[SpeechPin]) -> Project:
    """The project with new pins; older ones that say of a stretch within theirs what counts have had their day."""
    made = list(new)
    says = {Heard.SPEECH, Heard.NOT_SPEECH}

    def _outdone(old: SpeechPin) -> bool:
        return any(
            old.media_id == pin.media_id
            and pin.start_n <= old.start_n
            and old.stop_n <= pin.stop_n
            and ((old.heard in says and pin.heard in says) or {old.heard, pin.heard} == {Heard.APART, Heard.JOINED})
            for pin in made
        )

    return replace(project, speech_pins=(*(pin for pin in project.speech_pins if not _outdone(pin)), *made))


def mark(
    project: Project, new_id: NewId, *, start_n: int, stop_n: int, speech: bool, clip_ids: Collection[int] = ()
) -> Project:
    """Say that a stretch of timeline is speech, or is not.

    Speech is marked on the chosen clips if they are ones that are given way to, else on the one that lies over most
    of it; what is not speech is marked on all.
    """
    found = [clip for _, clip in _over(project, start_n, stop_n)]
    if not found:
        raise Refused(NO_KEY)
    if speech:
        found = [clip for clip in found if clip.id in clip_ids] or found[:1]
    heard = Heard.SPEECH if speech else Heard.NOT_SPEECH
    return _with_pins(project, [_pin(new_id, clip, heard, start_n, stop_n) for clip in found])


def drag_edge(project: Project, plan: Plan, new_id: NewId, *, index: int, edge: Edge, to_n: int) -> Project:
    """Let a passage begin or end elsewhere, and just there from now on: what it gains counts as speech, what it loses
    as none. Beyond the clip that is spoken in, where nobody can speak, it is the music that goes down earlier, or stays
    down longer: by a lead-in or a hold of the passage's own.

    Raises Refused where nothing would be left.
    """
    passage = passage_of(plan, index)
    at_n = passage.start_n if edge is Edge.START else passage.stop_n
    gains = to_n < at_n if edge is Edge.START else to_n > at_n
    start_n, stop_n = min(at_n, to_n), max(at_n, to_n)
    if stop_n <= start_n:
        return project
    if not gains:
        left_n = passage.stop_n - to_n if edge is Edge.START else to_n - passage.start_n
        if left_n < SHORTEST_N:
            raise Refused("Nothing would be left of the passage. To take it away, say that it is not speech.")
        held = (
            (to_n, min(to_n + HELD_N, passage.stop_n))
            if edge is Edge.START
            else (max(to_n - HELD_N, passage.start_n), to_n)
        )
        without = mark(_without_edges(project, start_n, stop_n), new_id, start_n=start_n, stop_n=stop_n, speech=False)
        here = next((clip for _, clip in _over(project, *held)), None)
        return without if here is None else _with_pins(without, [_pin(new_id, here, EDGES[edge], *held)])
    inside_n = at_n if edge is Edge.START else at_n - 1
    near = [clip for _, clip in _over(project, passage.start_n, passage.stop_n)]
    here = next((clip for clip in near if clip.start_n <= inside_n < clip.stop_n), None)
    if here is None:
        raise Refused(NO_KEY)
    beyond_n = max(0, here.start_n - start_n, stop_n - here.stop_n)
    start_n, stop_n = max(start_n, here.start_n), min(stop_n, here.stop_n)
    if start_n < stop_n:
        project = _without_edges(project, start_n, stop_n)
        project = _with_pins(project, [_pin(new_id, here, EDGES[edge], start_n, stop_n)])
    if not beyond_n:
        return project
    dip = plan.dips[index]
    name, now_n = (
        ("lead_in_ms", passage.start_n - dip.down_n) if edge is Edge.START else ("hold_ms", dip.rise_n - passage.stop_n)
    )
    wanted_ms = 1000 * (now_n + beyond_n) / RATE
    own_ms = round(min(max(wanted_ms, KNOB[name].low), KNOB[name].high))
    return set_own(project, plan, new_id, index=index, values={name: own_ms})


def _without_edges(project: Project, start_n: int, stop_n: int) -> Project:
    """Without the pins that hold passages apart in a stretch of timeline over which an edge is moved."""
    clips = [clip for _, clip in passages.key_clips(project)]

    def _moved_over(pin: SpeechPin) -> bool:
        return pin.edge_n is not None and any(
            pin.media_id == clip.media.id and start_n <= pin.edge_n + clip.shift_n <= stop_n for clip in clips
        )

    return replace(project, speech_pins=tuple(pin for pin in project.speech_pins if not _moved_over(pin)))


def split(project: Project, plan: Plan, new_id: NewId, *, at_n: int) -> Project:
    """Let one passage end and another begin at a time, however short the pause. Raises Refused outside a passage."""
    inside = next((p for p in plan.passages if p.start_n < at_n < p.stop_n), None)
    if inside is None:
        raise Refused("The playhead stands in no passage. Put it where one is to be split.")
    over = [clip for _, clip in _over(project, at_n, at_n + 1)] or [
        clip for _, clip in _over(project, inside.start_n, inside.stop_n)
    ]
    clip = over[0]
    here_n = min(max(at_n, clip.start_n), clip.stop_n - 1)
    kept = [
        pin
        for pin in project.speech_pins
        if not (
            pin.media_id == clip.media.id
            and pin.heard is Heard.JOINED
            and pin.start_n + clip.shift_n <= at_n <= pin.stop_n + clip.shift_n
        )
    ]
    return _with_pins(replace(project, speech_pins=tuple(kept)), [_pin(new_id, clip, Heard.APART, here_n, here_n + 1)])


def join(project: Project, plan: Plan, new_id: NewId, *, index: int) -> Project:
    """Make one passage of this and the next. Raises Refused for the last, or where no clip lies over the pause."""
    passage = passage_of(plan, index)
    if index + 1 >= len(plan.passages):
        raise Refused("There is no passage after this one to join it with. Choose an earlier one.")
    after = plan.passages[index + 1]
    spans = (passage.stop_n, after.start_n)
    clips = [clip for _, clip in passages.key_clips(project)]
    apart = {
        pin.id
        for pin in project.speech_pins
        for clip in clips
        if pin.edge_n is not None
        and pin.media_id == clip.media.id
        and passage.stop_n - 1 <= pin.edge_n + clip.shift_n <= after.start_n + 1
    }
    project = replace(project, speech_pins=tuple(pin for pin in project.speech_pins if pin.id not in apart))
    if apart and after.start_n - passage.stop_n < passages.shortest_gap_n(project.settings):
        return project
    over = next((c for _, c in _over(project, *spans) if c.start_n <= spans[0] and spans[1] <= c.stop_n), None)
    if over is None:
        raise Refused("No clip lies over the whole pause between them. A longer hold bridges it.")
    return _with_pins(project, [_pin(new_id, over, Heard.JOINED, *spans)])


def set_own(
    project: Project, plan: Plan, new_id: NewId, *, index: int, values: Mapping[str, Any], none: bool | None = None
) -> Project:
    """Give the dip of a passage an amount, times or ramps of its own, or (`none`) no dip at all; None follows again."""
    passage = passage_of(plan, index)
    before = passage.own
    own = before.changed(values)
    own = Own(own.values, before.none if none is None else none)
    rest = [pin for pin in project.dip_pins if passage.pin is None or pin.id != passage.pin.id]
    if own.empty:
        return replace(project, dip_pins=tuple(rest))
    if passage.pin is not None:
        made = replace(passage.pin, own=own)
    else:
        over = _over(project, passage.start_n, passage.stop_n)
        if not over:
            raise Refused(NO_KEY)
        clip = over[0][1]
        stretch = _pin(lambda: 0, clip, Heard.SPEECH, passage.start_n, passage.stop_n)
        made = DipPin(new_id(), clip.media.id, stretch.start_n, stretch.stop_n, own)
    return replace(project, dip_pins=(*rest, made))


def duck_further(project: Project, plan: Plan, new_id: NewId, *, start_n: int, stop_n: int, by_db: float) -> Project:
    """Let the dips of all passages that reach into a stretch of timeline go deeper by some dB; those of passages that
    have none stay away. Raises Refused where nobody speaks."""
    there = [i for i, p in enumerate(plan.passages) if p.start_n < stop_n and start_n < p.stop_n and not p.own.none]
    if not there:
        raise Refused("Nobody speaks there, so there is no dip to deepen.")
    lowest = KNOB["amount_db"].low
    for index in there:
        deeper_db = max(lowest, plan.dips[index].amount_db + by_db)
        project = set_own(project, plan, new_id, index=index, values={"amount_db": deeper_db})
    return project


def lift(project: Project, plan: Plan, *, index: int) -> Project:
    """Take away all that was corrected by hand of one passage."""
    passage = passage_of(plan, index)
    clips = [clip for _, clip in passages.key_clips(project)]
    gone = {
        pin.id
        for pin in project.speech_pins
        for clip in clips
        if pin.media_id == clip.media.id
        and clip.shows(pin.start_n, pin.stop_n)
        and pin.start_n + clip.shift_n <= passage.stop_n
        and passage.start_n <= pin.stop_n + clip.shift_n
    }
    return replace(
        project,
        speech_pins=tuple(pin for pin in project.speech_pins if pin.id not in gone),
        dip_pins=tuple(pin for pin in project.dip_pins if passage.pin is None or pin.id != passage.pin.id),
    )


def set_aside(project: Project, plan: Plan) -> list[tuple[int, int]]:
    """Stretches of timeline (start_n, stop_n), in order, said by hand to be no speech, where no passage is left.

    What a passage lost when its end was moved is no such stretch: it lies beyond that end, and belongs to the passage.
    """
    pinned = [
        (clip, pin)
        for clip in {clip.id: clip for _, clip in passages.key_clips(project)}.values()
        for pin in project.speech_pins
        if pin.media_id == clip.media.id
    ]
    begins, ends = (
        {pin.edge_n + clip.shift_n for clip, pin in pinned if pin.heard is heard and pin.edge_n is not None}
        for heard in (Heard.BEGINS, Heard.ENDS)
    )
    shown = [clip.shows(pin.start_n, pin.stop_n) for clip, pin in pinned if pin.heard is Heard.NOT_SPEECH]
    found = {each for each in shown if each and each[1] not in begins and each[0] not in ends}
    apart = intervals.union(np.array(sorted(found), np.int64).reshape(-1, 2))
    return [
        (start_n, stop_n)
        for start_n, stop_n in apart.tolist()
        if not any(each.start_n < stop_n and start_n < each.stop_n for each in plan.passages)
    ]


def lift_within(project: Project, *, start_n: int, stop_n: int) -> Project:
    """Take back that a stretch of timeline is no speech. Raises NotFound where that was never said."""
    clips = [clip for _, clip in passages.key_clips(project)]
    gone = {
        pin.id
        for pin in project.speech_pins
        for clip in clips
        if pin.heard is Heard.NOT_SPEECH and pin.media_id == clip.media.id
        if (shown := clip.shows(pin.start_n, pin.stop_n)) and start_n <= shown[0] and shown[1] <= stop_n
    }
    if not gone:
        raise NotFound("Nothing was corrected there, or it was lifted already.")
    return replace(project, speech_pins=tuple(pin for pin in project.speech_pins if pin.id not in gone))


def lift_pin(project: Project, *, pin_id: int) -> Project:
    """Take away one pin of any kind. Raises NotFound."""
    kept: dict[str, Any] = {name: tuple(pin for pin in getattr(project, name) if pin.id != pin_id) for name in PINS}
    if all(len(pins) == len(getattr(project, name)) for name, pins in kept.items()):
        raise NotFound("That pin is not there any more: it was lifted.")
    return replace(project, **kept)


def lift_all(project: Project) -> Project:
    """Take away every correction of passages; points set by hand stay."""
    return replace(project, speech_pins=(), dip_pins=())
