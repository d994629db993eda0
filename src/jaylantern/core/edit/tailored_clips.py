"""Give a clip tailored music in the place of what it plays, or the recording again; points set by hand go along."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.gain_line import as_line, over_media
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.ducking.thinning import thinned
from jaylantern.core.edit.draft import Draft, clip_of
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.tailoring.cut import Cut
from jaylantern.core.tailoring.wish import FADE_OUT_N
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import NO_FADE, Fade
from jaylantern.core.timeline.gain_line import GainLine
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.pin import PointPin
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.tailoring import Until
from jaylantern.errors import Refused

STRAIGHT_DB = 0.05  # by which a bent ramp of a gain line may stray on another medium
NEXT_N = RATE  # a marker nearer to the beginning of a clip than this is not its end


def end_of(project: Project, clip: Clip, until: Until, plan: Plan, seen_n: Callable[[Media], int]) -> int:
    """Where on the timeline a clip ends that follows something. Raises Refused where there is nothing to follow.

    `seen_n` answers how long the picture of a medium is, which its sound may outlast; 0 where that is not known."""
    if until is Until.PICTURE:
        shown = [each for lane in project.lanes if lane.kind is LaneKind.PICTURE for each in lane.clips]
        ends = [_seen_until(each, seen_n(each.media)) for each in shown]
        word = "There is no picture to end with. Lay out a film first."
    elif until is Until.TALK:
        ends, word = plan.speech[:, 1].tolist(), "Nobody speaks yet: tag a clip as dialogue or narration first."
    elif until is Until.RANGE:
        ends = [] if project.in_n is None or project.out_n is None else [project.out_n]
        word = "Set an in and an out point first."
    elif until is Until.MARKER:
        after = [each.time_n for each in project.markers if each.time_n >= clip.start_n + NEXT_N]
        ends, word = after and [min(after)], "There is no marker after the beginning of the clip. Set one first."
    else:
        return clip.stop_n
    start_n = start_of(project, clip, until)
    if not ends or max(ends) < start_n + RATE:
        raise Refused(word if not ends else "That lies before the clip, or less than a second after it begins.")
    return int(max(ends))


def _seen_until(clip: Clip, seen_n: int) -> int:
    """Where a picture clip's picture ends on the timeline."""
    return min(clip.stop_n, max(clip.start_n, seen_n + clip.shift_n)) if seen_n else clip.stop_n


def start_of(project: Project, clip: Clip, until: Until) -> int:
    """Where a clip begins that follows something."""
    return project.in_n if until is Until.RANGE and project.in_n is not None else clip.start_n


def tailored(
    project: Project, *, clip_id: int, found: Media, new_id: NewId, start_n: int | None = None, fade_out: bool = False
) -> Project:
    """The clip plays all of `found`: tailored music, or a recording. Points of its curve go where their place in the
    recording is heard now; where it is left out they rest."""
    _, clip = clip_of(project, clip_id)
    alone = all(other.id == clip.id or other.origin != clip.origin for _, other in project.placed())
    root = clip.root if alone else new_id()

    def _carried(points: tuple[PointPin, ...]) -> tuple[PointPin, ...]:
        pins = [_moved(pin, clip.media, found) for pin in points if pin.root == clip.origin]
        if not alone:
            return (*points, *(replace(pin, id=new_id(), root=root) for pin in pins))
        moved = {pin.id: pin for pin in pins}
        return tuple(moved.get(pin.id, pin) for pin in points)

    after = replace(
        clip,
        media=found,
        line=_line(clip, found),
        offset_n=0,
        length_n=found.length_n,
        start_n=clip.start_n if start_n is None else start_n,
        root=root,
        link=None,
        fade_out=Fade(FADE_OUT_N, clip.fade_out.shape) if fade_out and clip.fade_out.length_n < RATE else clip.fade_out,
    )
    draft = Draft(project)
    draft.put(after)
    held = None if project.held is None else replace(project.held, point_pins=_carried(project.held.point_pins))
    return draft.finish(point_pins=_carried(project.point_pins), held=held)


def by_hand(project: Project, recordings: Mapping[str, Media]) -> Project:
    """The project with each tailored clip as the pieces of its recording, one after another without crossfades; one
    whose recording is not among `recordings`, by content hash, stays as it is. For lists of cuts: ids come twice."""

    def laid(clip: Clip) -> list[Clip]:
        """A clip as its pieces."""
        tailoring = clip.media.tailored
        source = None if tailoring is None else recordings.get(tailoring.source)
        if tailoring is None or source is None:
            return [clip]
        out = []
        for _, from_n, at_n, heard_n in tailoring.cut.between(clip.offset_n, clip.offset_n + clip.length_n):
            length_n = min(heard_n, source.length_n - from_n)
            if length_n > 0:
                start_n = at_n + clip.shift_n
                out.append(replace(clip, media=source, offset_n=from_n, start_n=start_n, length_n=length_n))
        last = len(out) - 1
        return [
            replace(each, fade_in=NO_FADE if k else clip.fade_in, fade_out=clip.fade_out if k == last else NO_FADE)
            for k, each in enumerate(out)
        ]

    lanes = tuple(
        replace(lane, clips=tuple(part for clip in lane.clips for part in laid(clip)))
        if any(clip.media.tailored for clip in lane.clips)
        else lane
        for lane in project.lanes
    )
    return replace(project, lanes=lanes)


def _moved(pin: PointPin, before: Media, after: Media) -> PointPin:
    at_n = _place(pin.at_n, before, after)
    return replace(pin, at_n=at_n, instead_n=None if pin.instead_n is None else _place(pin.instead_n, before, after))


def _line(clip: Clip, after: Media) -> GainLine:
    """The clip's gain line on another medium made of the same recording: at each place of the recording the gain it
    had, however often it is heard. What was left out before is straight between what was heard."""
    if not clip.line:
        return clip.line
    curve = over_media(clip.line).straightened(largest_db=STRAIGHT_DB)
    if clip.media.tailored is not None:
        curve = _of_recording(curve, clip.media.tailored.cut)
    if after.tailored is not None:
        curve = _as_heard(curve, after.tailored.cut)
    return as_line(thinned(curve, largest_db=0.001)[0])


def _of_recording(curve: Curve, cut: Cut) -> Curve:
    """A curve over tailored music as one over the recording; where something is said again, as it was first."""
    found: dict[int, float] = {}
    known: list[tuple[int, int]] = []
    for piece, start_n in zip(cut.pieces, cut.starts_n, strict=True):
        part = curve.within(start_n, start_n + piece.length_n - 1)
        at_n = piece.from_n + np.round((part.time_n - start_n) * piece.rate).astype(np.int64)
        for time_n, gain_db in zip(at_n.tolist(), part.gain_db.tolist(), strict=True):
            if not any(first_n <= time_n < last_n for first_n, last_n in known):
                found.setdefault(time_n, gain_db)
        known.append((piece.from_n, piece.to_n))
    times = sorted(found)
    return Curve(np.array(times, np.int64), np.array([found[time_n] for time_n in times]))


def _as_heard(curve: Curve, cut: Cut) -> Curve:
    """A curve over a recording as one over music tailored of it."""
    times, gains = [], []
    for piece, start_n in zip(cut.pieces, cut.starts_n, strict=True):
        part = curve.within(piece.from_n, piece.from_n + round((piece.length_n - 1) * piece.rate))
        times.append(start_n + np.round((part.time_n - piece.from_n) / piece.rate).astype(np.int64))
        gains.append(part.gain_db)
    return Curve(np.concatenate(times), np.concatenate(gains))


def _place(at_n: int, before: Media, after: Media) -> int:
    """A time of one medium in another made of the same recording. What is left out lies before its beginning, as far
    as it does in the recording, so that it is found again."""
    source_n = at_n
    if before.tailored is not None:
        source_n = -1 - at_n if at_n < 0 else before.tailored.cut.played_at(at_n)
    if after.tailored is None:
        return source_n
    found = after.tailored.cut.heard_at(source_n, near_n=max(at_n, 0))
    return -1 - source_n if found is None else found
