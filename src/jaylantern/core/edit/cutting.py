"""Split, trim, slip, delete, close gaps, cut a stretch out."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace
from enum import StrEnum

import numpy as np

from jaylantern.core.edit import ripple
from jaylantern.core.edit.draft import SHORTEST_N, Draft, lane_of, together
from jaylantern.core.signal import intervals
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused


class Ripple(StrEnum):
    """What happens to the gap a deletion leaves."""

    NONE = "none"
    LANE = "lane"  # what comes later on the same lane moves up
    ALL = "all"  # what begins later on any lane moves up


class Edge(StrEnum):
    """An end of a clip."""

    START = "start"
    STOP = "stop"


def split(project: Project, new_id: NewId, *, at_n: int, clip_ids: Iterable[int] | None = None) -> Project:
    """Cut these clips in two at a time, or (None) whatever lies there on any lane. Raises Refused if nothing does.

    Both halves keep tag, gain and all else; each keeps the fade at its outer end.
    """
    found = list(project.placed()) if clip_ids is None else together(project, clip_ids)
    under = [(lane, clip) for lane, clip in found if clip.start_n < at_n < clip.stop_n]
    if not under:
        raise Refused(
            "Nothing to split: the playhead stands inside none of these clips. Put it inside one, or split all lanes."
        )
    draft = Draft(project)
    _split(draft, new_id, under, at_n)
    return draft.finish()


def _split(draft: Draft, new_id: NewId, under: Iterable[tuple[Lane, Clip]], at_n: int, edge_n: int = 0) -> None:
    """Split clips that hold a time; both new ends get a fade of `edge_n`."""
    links: dict[int, int] = {}
    for lane, clip in under:
        if clip.link is not None and clip.link not in links:
            links[clip.link] = new_id()
        left_n = at_n - clip.start_n
        draft.put(replace(clip, length_n=left_n, fade_out=Fade(edge_n, clip.fade_out.shape)))
        right = replace(
            clip,
            id=new_id(),
            root=clip.origin,
            start_n=at_n,
            offset_n=clip.offset_n + left_n,
            length_n=clip.length_n - left_n,
            fade_in=Fade(edge_n, clip.fade_in.shape),
            link=None if clip.link is None else links[clip.link],
        )
        draft.put(right, lane.id)


def trim(project: Project, *, clip_ids: Iterable[int], edge: Edge, by_n: int) -> Project:
    """Move an end of clips by so many samples, as far as their media reach. Raises Refused if that is nowhere."""
    group = together(project, clip_ids)
    if edge is Edge.START:
        low = max(-min(clip.offset_n, clip.start_n - _before_n(lane, clip)) for lane, clip in group)
        high = min(clip.length_n - SHORTEST_N for _, clip in group)
    else:
        low = max(SHORTEST_N - clip.length_n for _, clip in group)
        high = min(
            min(clip.media.length_n - clip.offset_n - clip.length_n, _after_n(lane, clip) - clip.stop_n)
            for lane, clip in group
        )
    moved = _within(by_n, low, high)
    if by_n and not moved:
        where = "before its start" if edge is Edge.START else "after its end"
        outward = (by_n < 0) == (edge is Edge.START)
        reason = f"has nothing more {where}: slip it" if outward else "can't be made any shorter: delete it"
        raise Refused(f"{group[0][1].name} {reason} instead.")
    draft = Draft(project)
    for _, clip in group:
        begin_n, end_n = (moved, 0) if edge is Edge.START else (0, moved)
        draft.put(
            replace(
                clip,
                start_n=clip.start_n + begin_n,
                offset_n=clip.offset_n + begin_n,
                length_n=clip.length_n - begin_n + end_n,
            )
        )
    return draft.finish()


def _within(value: int, low: int, high: int) -> int:
    """The value brought into [low, high]; a range that is empty allows nothing."""
    return max(min(low, 0), min(value, max(high, 0)))


def _before_n(lane: Lane, clip: Clip) -> int:
    """How early a clip may begin: on a picture lane not before the clip before it ends."""
    ends = [other.stop_n for other in lane.clips if other.stop_n <= clip.start_n]
    return max(ends, default=0) if lane.kind is LaneKind.PICTURE else 0


def _after_n(lane: Lane, clip: Clip) -> int:
    """How late a clip may end: on a picture lane not after the next one begins."""
    starts = [other.start_n for other in lane.clips if other.start_n >= clip.stop_n]
    far = clip.start_n + clip.media.length_n
    return min(starts, default=far) if lane.kind is LaneKind.PICTURE else far


def slip(project: Project, *, clip_ids: Iterable[int], by_n: int) -> Project:
    """Show the media that lies `by_n` samples later inside clips that stay where they are, as far as it reaches."""
    group = together(project, clip_ids)
    low = max(-clip.offset_n for _, clip in group)
    high = min(clip.media.length_n - clip.offset_n - clip.length_n for _, clip in group)
    moved = _within(by_n, low, high)
    if by_n and not moved:
        raise Refused(
            f"{group[0][1].name} has no more media {'after' if by_n > 0 else 'before'} what it shows. Trim it first."
        )
    draft = Draft(project)
    for _, clip in group:
        draft.put(replace(clip, offset_n=clip.offset_n + moved))
    return draft.finish()


def delete(project: Project, new_id: NewId, *, clip_ids: Iterable[int], close: Ripple = Ripple.NONE) -> Project:
    """Take clips off the timeline, and close the gaps they leave if asked to.

    Where all lanes close up, what lies over a gap and has to stay in step with the rest is cut through (`cut_along`):
    what of it lies in the gap goes, the rest moves up as everything does.
    """
    clip_ids = list(clip_ids)
    group = together(project, clip_ids)
    draft = Draft(project)
    for _, clip in group:
        draft.drop(clip.id)
    if close is Ripple.NONE:
        return draft.finish()
    if close is Ripple.ALL:
        gone = intervals.union(_spans(clip for _, clip in group))
        links: dict[tuple[int, int], int] = {}
        for clip in cut_along(project, clip_ids):
            _cut_through(draft, new_id, clip, gone, links)
        return ripple.close_all(draft, gone)
    spans = {}
    for lane in {lane.id: lane for lane, _ in group}.values():
        gone = intervals.union(_spans(clip for on, clip in group if on.id == lane.id))
        spans[lane.id] = intervals.without(gone, intervals.union(_spans(draft.on(lane.id))))
    ripple.close_lanes(draft, spans)
    return draft.finish()


def cut_along(project: Project, clip_ids: Iterable[int]) -> list[Clip]:
    """The other clips that go on beyond what these leave when all lanes close up, and have to move up as far as all
    that comes later: those that begin in it and, where a picture goes, those that reach over it. Music and atmosphere,
    which no eye or ear holds against the picture, are whole; so is what has nothing after it to be in step with."""
    group = together(project, clip_ids)
    ids = {clip.id for _, clip in group}
    gone = intervals.union(_spans(clip for _, clip in group))
    seen = any(lane.kind is LaneKind.PICTURE for lane, _ in group)

    def _goes_on(clip: Clip) -> bool:
        beyond = (clip.start_n < gone[:, 1]) & (gone[:, 1] < clip.stop_n)
        return bool((beyond if seen else beyond & (gone[:, 0] <= clip.start_n)).any())

    return [
        clip
        for lane, clip in project.placed()
        if clip.id not in ids
        and (lane.kind is LaneKind.PICTURE or lane.tag_of(clip) not in (Tag.MUSIC, Tag.ATMOSPHERE))
        and _goes_on(clip)
    ]


def _cut_through(
    draft: Draft, new_id: NewId, clip: Clip, gone: intervals.Intervals, links: dict[tuple[int, int], int]
) -> None:
    """Take what lies in these spans out of a clip; what is left stays where it is. Linked clips that are cut alike stay
    linked part by part: `links` has the new numbers."""
    lane_id = next(lane.id for lane in draft.project.lanes if any(each.id == clip.id for each in lane.clips))
    draft.drop(clip.id)
    left = intervals.without(_spans([clip]), gone).tolist()
    for k, (start_n, stop_n) in enumerate(left):
        behind = int(np.searchsorted(gone[:, 1], start_n, side="right"))  # how many of the spans
        link = clip.link
        if link is not None and behind:
            key = link, behind
            link = links[key] = links.get(key) or new_id()
        draft.put(
            replace(
                clip,
                id=clip.id if not k else new_id(),
                root=clip.root if not k else clip.origin,
                start_n=start_n,
                offset_n=clip.offset_n + start_n - clip.start_n,
                length_n=stop_n - start_n,
                link=link,
                fade_in=clip.fade_in if start_n == clip.start_n else Fade(0, clip.fade_in.shape),
                fade_out=clip.fade_out if stop_n == clip.stop_n else Fade(0, clip.fade_out.shape),
            ),
            lane_id,
        )


def _spans(clips: Iterable[Clip]) -> intervals.Intervals:
    return np.array([(clip.start_n, clip.stop_n) for clip in clips], np.int64).reshape(-1, 2)


def close_gaps(project: Project, *, lane_id: int | None = None) -> Project:
    """Close the gaps between the clips of a lane, or (None) every gap in which nothing lies on any lane."""
    draft = Draft(project)
    if lane_id is None:
        gone = ripple.between(_spans(clip for _, clip in project.placed()))
        if not len(gone):
            raise Refused("There is no gap that goes through all lanes. Choose a clip to close those of its lane.")
        return ripple.close_all(draft, gone)
    lane = lane_of(project, lane_id)
    gone = ripple.between(_spans(lane.clips))
    if not len(gone):
        raise Refused(f"There is no gap on lane {lane.name}: nothing has to be closed.")
    ripple.close_lanes(draft, {lane.id: gone})
    return draft.finish()


def cut_out(
    project: Project,
    new_id: NewId,
    *,
    spans: intervals.Intervals,
    lane_ids: Collection[int] | None = None,
    close: Ripple = Ripple.ALL,
    edge_n: int = 0,
) -> Project:
    """Cut disjoint stretches out of lanes, or (None) out of all, through whatever lies there, and close up.

    Clips linked with those that are cut are cut with them. Closing up on all lanes takes markers and in and out
    points along. The new ends get a fade of `edge_n`. Raises Refused where there is nothing to cut.
    """
    draft = Draft(project)
    lanes = {lane.id for lane in project.lanes} if lane_ids is None else set(lane_ids)
    for start_n, stop_n in spans.tolist():
        for at_n in (start_n, stop_n):
            _split(
                draft, new_id, [(lane, c) for lane, c in _of(draft, lanes) if c.start_n < at_n < c.stop_n], at_n, edge_n
            )
        for _, clip in _of(draft, lanes):
            if start_n <= clip.start_n and clip.stop_n <= stop_n:
                draft.drop(clip.id)
    if close is Ripple.ALL:
        return ripple.close_all(draft, spans)
    if close is Ripple.LANE:
        ripple.close_lanes(draft, dict.fromkeys(lanes, spans))
    return draft.finish()


def _of(draft: Draft, lanes: set[int]) -> list[tuple[Lane, Clip]]:
    """The clips on some lanes and those linked with them."""
    links = {clip.link for lane_id in lanes for clip in draft.on(lane_id)} - {None}
    return [
        (lane, clip)
        for lane in draft.project.lanes
        for clip in draft.on(lane.id)
        if lane.id in lanes or clip.link in links
    ]
