"""Closing gaps: stretches are taken out of the timeline and what comes later moves up.

before   ──[aaaa]──[bbb]────[cc]──        b taken out with its stretch
after    ──[aaaa]──────[cc]──             c begins earlier by as much
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from jaylantern.core.captions.placing import closed_up
from jaylantern.core.edit.draft import Draft
from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.timeline.project import Project


def moved_up_n(spans: Intervals, time_n: int) -> int:
    """By how much what begins at a time moves up when these disjoint spans are taken out."""
    return int(np.clip(time_n - spans[:, 0], 0, spans[:, 1] - spans[:, 0]).sum())


def close_lanes(draft: Draft, spans: Mapping[int, Intervals]) -> None:
    """Take spans out of single lanes; clips linked with those that move up move with them."""
    shift: dict[int, int] = {}
    links: dict[int, int] = {}
    for lane_id, gone in spans.items():
        for clip in draft.on(lane_id):
            shift[clip.id] = moved_up_n(gone, clip.start_n)
            if clip.link is not None:
                links[clip.link] = max(links.get(clip.link, 0), shift[clip.id])
    for lane in draft.project.lanes:
        for clip in draft.on(lane.id):
            by_n = shift.get(clip.id, 0) if clip.link is None else links.get(clip.link, 0)
            if by_n:
                draft.put(replace(clip, start_n=max(0, clip.start_n - by_n)))


def close_all(draft: Draft, gone: Intervals) -> Project:
    """Take spans out of the whole timeline: every lane, the markers, captions that are tied to no clip, the in and out
    points."""
    project = draft.project
    links: dict[int, int] = {}
    clips = [clip for lane in project.lanes for clip in draft.on(lane.id)]
    for clip in clips:
        if clip.link is not None:
            links[clip.link] = min(links.get(clip.link, clip.start_n), clip.start_n)
    for clip in clips:
        by_n = moved_up_n(gone, clip.start_n if clip.link is None else links[clip.link])
        if by_n:
            draft.put(replace(clip, start_n=clip.start_n - by_n))

    def _earlier(time_n: int | None) -> int | None:
        return None if time_n is None else time_n - moved_up_n(gone, time_n)

    in_n, out_n = _earlier(project.in_n), _earlier(project.out_n)
    if out_n is not None and out_n <= (in_n or 0):  # nothing is left between them
        in_n = out_n = None
    markers = tuple(
        replace(marker, time_n=marker.time_n - moved_up_n(gone, marker.time_n)) for marker in project.markers
    )
    captions = tuple(closed_up(each, lambda time_n: time_n - moved_up_n(gone, time_n)) for each in project.captions)
    return draft.finish(markers=markers, in_n=in_n, out_n=out_n, captions=captions)


def between(spans: Intervals) -> Intervals:
    """What lies between spans, from the end of the first to the start of the last."""
    covered = intervals.union(spans)
    return np.stack((covered[:-1, 1], covered[1:, 0]), axis=1) if len(covered) else intervals.none()
