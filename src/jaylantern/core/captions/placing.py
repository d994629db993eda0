"""Where captions stand: tied to the clips under them when they came, shown where those clips are now.

brought in   picture ──[ a          ][ b        ]──     a cue over the cut is tied to both
             cue              [───────]
recut        picture ──[ a  ]─────[ b        ]──        what is left of it stands with each
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.captions import Captions, Cue, Part
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import Project

TOUCH_N = RATE // 25  # what comes this near to each other is one: no eye sees a caption go for a frame
LEAST_N = RATE // 4  # a piece of a cut cue that is shorter can't be read, and is not shown


@dataclass(frozen=True)
class Shown:
    """A cue, or what is left of one, on the timeline; `index` among its captions."""

    start_n: int
    stop_n: int
    cue: Cue
    index: int


def pictures(project: Project) -> list[Clip]:
    """Clips of picture, those of upper lanes first."""
    return [clip for lane in project.lanes if lane.kind is LaneKind.PICTURE for clip in lane.clips]


def carriers(project: Project) -> list[Clip]:
    """What captions are tied to: clips of picture, then clips of talk."""
    return [*pictures(project), *(clip for lane, clip in project.sounding() if lane.tag_of(clip).speaks)]


def tied(clips: Sequence[Clip], spans: Iterable[tuple[int, int]]) -> list[tuple[Part, ...]]:
    """The parts of stretches [start_n, stop_n) of the timeline, tied to the first of these clips that is there; where
    none is, to the timeline itself."""
    begins = np.array([clip.start_n for clip in clips], np.int64)
    ends = np.array([clip.stop_n for clip in clips], np.int64)
    return [
        _tied(
            np.array([[start_n, stop_n]], np.int64),
            [clips[i] for i in np.flatnonzero((begins < stop_n) & (ends > start_n)).tolist()],
        )
        for start_n, stop_n in spans
    ]


def _tied(left: Intervals, clips: Sequence[Clip]) -> tuple[Part, ...]:
    found: list[tuple[int, Part]] = []
    for clip in clips:
        under = np.array([[clip.start_n, clip.stop_n]], np.int64)
        for a, b in intervals.overlap(left, under).tolist():
            found.append((a, Part(clip.origin, a - clip.shift_n, b - clip.shift_n)))
        left = intervals.without(left, under)
    found += [(a, Part(0, a, b)) for a, b in left.tolist()]
    return tuple(part for _, part in sorted(found))


def shown(project: Project, captions: Captions) -> list[Shown]:
    """The cues on the timeline as it is cut now, in order of time. One that was cut in two is there twice; one whose
    clip is not there any more is not shown, and comes back with it."""
    places = _Places(project)
    found = [
        Shown(a, b, cue, i)
        for i, cue in enumerate(captions.cues)
        for a, b in _pieces([span for part in cue.parts for span in places.of(part)], _length(cue))
    ]
    return sorted(found, key=lambda each: (each.start_n, each.stop_n, each.index))


def _length(cue: Cue) -> int:
    return sum(part.stop_n - part.start_n for part in cue.parts)


class _Places:
    """Where parts of cues are on the timeline now."""

    def __init__(self, project: Project) -> None:
        self._clips: dict[int, list[Clip]] = {}
        for _, clip in project.placed():
            self._clips.setdefault(clip.origin, []).append(clip)
        self._spans = {
            root: np.array([(clip.offset_n, clip.offset_n + clip.length_n) for clip in clips], np.int64)
            for root, clips in self._clips.items()
        }

    def of(self, part: Part) -> list[tuple[int, int]]:
        """Of one part."""
        if not part.root:
            return [(max(part.start_n, 0), part.stop_n)] if part.stop_n > 0 else []
        if part.root not in self._clips:
            return []
        clips, media_n = self._clips[part.root], self._spans[part.root]
        there = np.flatnonzero((media_n[:, 0] < part.stop_n) & (media_n[:, 1] > part.start_n))
        spans = (clips[i].shows(part.start_n, part.stop_n) for i in there)
        return [span for span in spans if span is not None]


def _pieces(spans: list[tuple[int, int]], length_n: int) -> list[tuple[int, int]]:
    """What can be read of a cue of some length, stretches that touch as one."""
    if not spans:
        return []
    joined = spans if len(spans) == 1 else intervals.union(np.array(spans, np.int64), gap_n=TOUCH_N).tolist()
    return [(a, b) for a, b in joined if b - a >= min(LEAST_N, length_n)]


def stretches(cues: Iterable[Shown]) -> Intervals:
    """Where cues stand, one by one, (cues, 2) in their order; they may overlap."""
    return np.array([(each.start_n, each.stop_n) for each in cues], np.int64).reshape(-1, 2)


def all_stretches(project: Project) -> tuple[Intervals, ...]:
    """Where the cues stand, of each captions of a project; depends on its lanes and captions alone."""
    return tuple(stretches(shown(project, captions)) for captions in project.captions)


def covered(found: Sequence[Intervals]) -> Intervals:
    """Where on the timeline any of these cues stand."""
    return intervals.union(np.concatenate((intervals.none(), *found)))


def moved(project: Project, captions: Captions, by_n: int) -> Captions:
    """Captions moved by some samples. A cue that is seen whole is moved where it stands and tied anew; one that is cut
    is moved in its own time, so that what is hidden of it is not lost. What comes to lie before the timeline begins is
    not seen until it is moved back."""
    whole = {each.index: each for each in shown(project, captions) if each.stop_n - each.start_n == _length(each.cue)}
    spans = [(each.start_n + by_n, each.stop_n + by_n) for each in whole.values()]
    anew = dict(zip(whole, tied(carriers(project), spans), strict=True))
    cues = (cue._replace(parts=anew[i]) if i in anew else _shifted(cue, by_n) for i, cue in enumerate(captions.cues))
    return replace(captions, cues=tuple(cues))


def _shifted(cue: Cue, by_n: int) -> Cue:
    parts = tuple(Part(part.root, part.start_n + by_n, part.stop_n + by_n) for part in cue.parts)
    return cue._replace(parts=parts)


def tied_anew(project: Project, captions: Captions) -> Captions:
    """Captions tied to what lies under them now; cues that are cut stay tied as they are."""
    return moved(project, captions, 0)


def closed_up(captions: Captions, at: Callable[[int], int]) -> Captions:
    """Captions of a timeline out of which stretches were taken: `at` says where a time is now. What was tied to a clip
    moves with it; what was tied to the timeline alone and stood in such a stretch is gone."""
    if not loose(captions):
        return captions

    def _moved(part: Part) -> Part:
        return part if part.root else Part(0, at(part.start_n), at(part.stop_n))

    cues = (
        cue._replace(parts=tuple(part for part in map(_moved, cue.parts) if part.start_n < part.stop_n))
        for cue in captions.cues
    )
    return replace(captions, cues=tuple(cues))


def tied_where_loose(project: Project) -> Project:
    """The project with what of its captions is tied to the timeline alone tied to the picture that is there now."""
    if not any(map(loose, project.captions)):
        return project
    clips = pictures(project)

    def _anew(cue: Cue) -> Cue:
        if all(part.root for part in cue.parts):
            return cue
        parts = ([part] if part.root else tied(clips, [part[1:]])[0] for part in cue.parts)
        return cue._replace(parts=tuple(part for some in parts for part in some))

    captions = tuple(replace(each, cues=tuple(map(_anew, each.cues))) for each in project.captions)
    return replace(project, captions=captions)


def loose(captions: Captions) -> int:
    """How many cues are tied to the timeline alone, at least in part."""
    return sum(any(not part.root for part in cue.parts) for cue in captions.cues)


def within(shown: Iterable[Shown], first_n: int, last_n: int) -> list[Shown]:
    """What is shown in a stretch of the timeline, counted from its beginning."""
    return [
        replace(each, start_n=max(each.start_n, first_n) - first_n, stop_n=min(each.stop_n, last_n) - first_n)
        for each in shown
        if each.start_n < last_n and first_n < each.stop_n
    ]
