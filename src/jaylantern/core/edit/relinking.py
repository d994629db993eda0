"""Relink: give clips whose medium is missing the file that was meant."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from jaylantern.core.timeline.captions import Cue
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.held_draft import HeldDraft
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.pin import DipPin, PointPin, SpeechPin
from jaylantern.core.timeline.project import Project

StretchPin = TypeVar("StretchPin", SpeechPin, DipPin)


@dataclass(frozen=True)
class Relinked:
    """The project afterwards, and how many clips reach beyond what the file holds: cut to it, or missing still."""

    project: Project
    short: int


def relink(project: Project, *, missing_id: int, found: Media, origins: Iterable[int] = ()) -> Relinked:
    """Put `found` in the place of a missing medium, for all its clips and what was corrected of them.

    Other programs may count the time of a medium from its timecode. `origins` are times in samples that may stand for
    its first sample; the first at which all clips lie within the file is taken, 0 before all others.
    """
    clips = [clip for _, clip in project.placed() if clip.media.id == missing_id]
    first_n = min((clip.offset_n for clip in clips), default=0)
    last_n = max((clip.offset_n + clip.length_n for clip in clips), default=0)
    ways = [0, *origins]
    origin_n = next((n for n in ways if n <= first_n and last_n - n <= found.length_n), None)
    if origin_n is None:  # nothing fits: the file's own count if the clips lie after it, else from the first of them
        origin_n = next((n for n in reversed(ways) if n <= first_n < n + found.length_n), first_n)
    short = 0

    def _fitted(clip: Clip) -> Clip:
        nonlocal short
        if clip.media.id != missing_id:
            return clip
        offset_n = clip.offset_n - origin_n
        length_n = min(clip.length_n, found.length_n - offset_n)
        short += length_n < clip.length_n
        if length_n <= 0:
            return clip
        line = clip.line.shifted(-origin_n)
        return replace(clip, media=found, offset_n=offset_n, length_n=length_n, line=line)

    def _refilled(lane: Lane) -> Lane:
        if all(clip.media.id != missing_id for clip in lane.clips):
            return lane
        return replace(lane, clips=tuple(_fitted(clip) for clip in lane.clips))

    roots = {clip.origin for clip in clips}

    def _point(pin: PointPin) -> PointPin:
        if not origin_n or pin.root not in roots:
            return pin
        instead_n = None if pin.instead_n is None else pin.instead_n - origin_n
        return replace(pin, at_n=pin.at_n - origin_n, instead_n=instead_n)

    def _pins(of: Project | HeldDraft) -> dict[str, Any]:
        return {
            "speech_pins": tuple(_moved(pin, missing_id, found.id, origin_n) for pin in of.speech_pins),
            "dip_pins": tuple(_moved(pin, missing_id, found.id, origin_n) for pin in of.dip_pins),
            "point_pins": tuple(_point(pin) for pin in of.point_pins),
        }

    def _cue(cue: Cue) -> Cue:
        parts = (
            part._replace(start_n=part.start_n - origin_n, stop_n=part.stop_n - origin_n)
            if part.root in roots
            else part
            for part in cue.parts
        )
        return cue._replace(parts=tuple(parts))

    captions = project.captions
    if origin_n:
        captions = tuple(replace(each, cues=tuple(map(_cue, each.cues))) for each in captions)
    held = None if project.held is None else replace(project.held, **_pins(project.held))
    lanes = tuple(_refilled(lane) for lane in project.lanes)
    return Relinked(replace(project, lanes=lanes, held=held, captions=captions, **_pins(project)), short)


def _moved(pin: StretchPin, missing_id: int, found_id: int, origin_n: int) -> StretchPin:
    """A pin of the missing medium, on the one found; one that would lie before its beginning stays where it was."""
    if pin.media_id != missing_id or pin.start_n < origin_n:
        return pin
    return replace(pin, media_id=found_id, start_n=pin.start_n - origin_n, stop_n=pin.stop_n - origin_n)
