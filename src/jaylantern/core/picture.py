"""Which clip of the picture lanes is seen when."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from jaylantern.core.model import Clip, LaneKind, Project


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


def pieces(project: Project) -> list[Piece]:
    """The whole timeline cut where another clip is seen. Of several at once the first lane's is seen, and on one lane
    the one that began first."""
    clips = _clips(project)
    edges = sorted({0, project.length_n, *(n for _, clip in clips for n in (clip.start_n, clip.stop_n))})
    found: list[Piece] = []
    for start_n, stop_n in pairwise(edges):
        over = [(rank, clip.start_n, clip.id, clip) for rank, clip in clips if clip.start_n <= start_n < clip.stop_n]
        seen = min(over)[3] if over else None
        if found and found[-1].clip is seen:
            found[-1] = Piece(found[-1].start_n, stop_n, seen)
        else:
            found.append(Piece(start_n, stop_n, seen))
    return found


def uncut(project: Project) -> Clip | None:
    """The one picture clip, whole from its beginning to its end, whose picture can be copied; None where it is cut."""
    clips = [clip for _, clip in _clips(project)]
    if len(clips) != 1 or clips[0].offset_n or clips[0].length_n != clips[0].media.length_n:
        return None
    return clips[0]


def why_anew(project: Project) -> str:
    """Why the picture has to be encoded anew, in words; empty where it can be copied."""
    clips = [clip for _, clip in _clips(project)]
    if not clips or uncut(project) is not None:
        return ""
    if len(clips) > 1:
        return f"there are {len(clips)} picture clips on the timeline"
    return "the picture is cut"
