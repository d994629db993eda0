"""Which clip of the picture lanes is seen when."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE, nearest
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project

ROUNDING = 0.01  # of a sample


@dataclass(frozen=True)
class Piece:
    """A stretch of timeline, in samples, with the clip that is seen in it; None for black."""

    start_n: int
    stop_n: int
    clip: Clip | None


def _clips(project: Project) -> list[tuple[int, Clip]]:
    """Every picture clip whose file is here, with the rank of its lane."""
    lanes = [lane for lane in project.lanes if lane.kind is LaneKind.PICTURE]
    return [(rank, clip) for rank, lane in enumerate(lanes) for clip in lane.clips if not clip.media.missing]


def pieces(project: Project, start_n: int = 0, stop_n: int | None = None) -> list[Piece]:
    """A stretch of the timeline, or all of it, cut where another clip is seen. Of several at once the first lane's is
    seen, and on one lane the one that began first."""
    clips = _clips(project)
    end_n = project.length_n if stop_n is None else stop_n
    inside = {n for _, clip in clips for n in (clip.start_n, clip.stop_n) if start_n < n < end_n}
    edges = sorted({start_n, end_n, *inside})
    found: list[Piece] = []
    for from_n, to_n in pairwise(edges):
        over = [(rank, clip.start_n, clip.id, clip) for rank, clip in clips if clip.start_n <= from_n < clip.stop_n]
        seen = min(over)[3] if over else None
        if found and found[-1].clip is seen:
            found[-1] = Piece(found[-1].start_n, to_n, seen)
        else:
            found.append(Piece(from_n, to_n, seen))
    return found


def uncut(project: Project) -> Clip | None:
    """The one picture clip, whole from its beginning to its end, whose picture can be copied; None where it is cut."""
    clips = [clip for _, clip in _clips(project)]
    if len(clips) != 1 or clips[0].offset_n or clips[0].length_n != clips[0].media.length_n:
        return None
    return clips[0]


def out_of_step(project: Project) -> dict[int, int]:
    """By how many samples the sound of a film is heard later (or, negative, earlier) than its picture is seen, by clip;
    only where both are on the timeline at the same time and not in step."""
    shown: dict[int, list[Clip]] = {}
    for _, clip in _clips(project):
        shown.setdefault(clip.media.id, []).append(clip)
    found = {}
    for lane, clip in project.placed():
        if lane.kind is LaneKind.SOUND and clip.media.id in shown:
            late = [
                clip.shift_n - seen.shift_n
                for seen in shown[clip.media.id]
                if seen.start_n < clip.stop_n and clip.start_n < seen.stop_n
            ]
            if late and 0 not in late:
                found[clip.id] = min(late, key=abs)
    return found


def why_anew(project: Project) -> str:
    """Why the picture has to be encoded anew, in words; empty where it can be copied."""
    clips = [clip for _, clip in _clips(project)]
    if not clips or uncut(project) is not None:
        return ""
    if len(clips) > 1:
        return f"there are {len(clips)} picture clips on the timeline"
    return "the picture is cut"


def between_frames(project: Project, fps_of: Callable[[Media], float]) -> list[int]:
    """Where picture clips are cut between two frames of their file, in samples of the timeline, in order.

    A cut lies on a frame if it is within half a sample of where one begins, media time being counted from the first:
    |t·fps − round(t·fps)| ≤ fps / (2·48000), with t in seconds. The end of a file is no cut.
    """
    found = set()
    for _, clip in _clips(project):
        fps = fps_of(clip.media)
        for media_n, time_n in ((clip.offset_n, clip.start_n), (clip.offset_n + clip.length_n, clip.stop_n)):
            frames = media_n * fps / RATE
            inside = 0 < media_n < clip.media.length_n
            if fps and inside and abs(frames - round(frames)) > (0.5 + ROUNDING) * fps / RATE:
                found.add(time_n)
    return sorted(found)


def on_frames(
    project: Project, spans: Intervals, lane_ids: Collection[int], fps_of: Callable[[Media], float]
) -> Intervals:
    """Stretches (n, 2) of timeline that are to be cut out of lanes, their ends brought to where frames begin of the
    pictures that are cut along because they are linked with what lies there. Without such pictures they stay."""
    links = {clip.link for lane, clip in project.placed() if lane.id in lane_ids} - {None}
    films = [clip for _, clip in _clips(project) if clip.link in links]
    found = [[_framed(films, int(time_n), fps_of) for time_n in span] for span in spans]
    kept = [span for span in found if span[0] < span[1]]
    return np.array(kept, np.int64).reshape(-1, 2)


def on_frame(project: Project, time_n: int, lane_ids: Collection[int], fps_of: Callable[[Media], float]) -> int:
    """A time at which lanes are cut, brought to where a frame begins of the picture that is cut there: one on these
    lanes, or linked with what is cut on them. As it is where no picture is cut."""
    cut = [(lane, clip) for lane, clip in project.placed() if clip.start_n < time_n < clip.stop_n]
    links = {clip.link for lane, clip in cut if lane.id in lane_ids} - {None}
    here = {clip.id for lane, clip in cut if lane.id in lane_ids or clip.link in links}
    return _framed([clip for _, clip in _clips(project) if clip.id in here], time_n, fps_of)


def _framed(films: Sequence[Clip], time_n: int, fps_of: Callable[[Media], float]) -> int:
    """The beginning of the frame nearest to a time, of the first picture that is seen there: k = ⌊t·fps + ½⌋."""
    for clip in films:
        fps = fps_of(clip.media)
        if fps and clip.start_n <= time_n <= clip.stop_n:
            return clip.shift_n + nearest(nearest((time_n - clip.shift_n) * fps / RATE) * RATE / fps)
    return time_n
