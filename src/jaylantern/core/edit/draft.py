"""A project while it is being edited: clips by number, put, added and dropped; the finished lanes are checked."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.kinds import LARGEST_N
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import NotFound, Refused

SHORTEST_N = 480  # 10 ms: a clip is never trimmed to less


def lane_of(project: Project, lane_id: object) -> Lane:
    """A lane by number. Raises NotFound."""
    for lane in project.lanes:
        if lane.id == lane_id:
            return lane
    raise NotFound("That lane is not there any more. Undo brings it back.")


def clip_of(project: Project, clip_id: object) -> tuple[Lane, Clip]:
    """A clip by number, with its lane. Raises NotFound."""
    for lane, clip in project.placed():
        if clip.id == clip_id:
            return lane, clip
    raise NotFound("That clip is not there any more. Undo brings it back.")


def together(project: Project, clip_ids: Iterable[int]) -> list[tuple[Lane, Clip]]:
    """The clips of these numbers and all that are linked with them, in the order of the timeline. Raises NotFound."""
    wanted = set(clip_ids)
    here = {clip.id: clip for _, clip in project.placed()}
    if wanted - here.keys():
        raise NotFound("A clip of these is not there any more. Choose them again.")
    if not wanted:
        raise Refused("No clip is chosen. Click one on the timeline first.")
    links = {here[number].link for number in wanted} - {None}
    return [(lane, clip) for lane, clip in project.placed() if clip.id in wanted or clip.link in links]


def named(clips: Sequence[Clip]) -> str:
    """What to call these clips: the name of the only one (or of a linked group), else how many they are."""
    names = {clip.name for clip in clips}
    alone = len(clips) == 1 or (len({clip.link for clip in clips}) == 1 and clips[0].link is not None)
    return next(iter(names)) if alone and len(names) == 1 else f"{len(clips)} clips"


def fitted(clip: Clip) -> Clip:
    """The clip with fades no longer than itself."""
    coming = min(clip.fade_in.length_n, clip.length_n)
    going = min(clip.fade_out.length_n, clip.length_n - coming)
    if (coming, going) == (clip.fade_in.length_n, clip.fade_out.length_n):
        return clip
    return replace(clip, fade_in=Fade(coming, clip.fade_in.shape), fade_out=Fade(going, clip.fade_out.shape))


class Draft:
    """The clips of a project, open to change; `finish` answers the project with them."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self._lane = {clip.id: lane.id for lane, clip in project.placed()}
        self._on = {lane.id: {clip.id: clip for clip in lane.clips} for lane in project.lanes}
        self._touched: set[int] = set()

    def on(self, lane_id: int) -> list[Clip]:
        """The clips now on a lane, in order of time."""
        return _ordered(self._on[lane_id].values())

    def put(self, clip: Clip, lane_id: int | None = None) -> None:
        """Put a clip where a clip of its number was, or, new or moved, on a lane."""
        before = self._lane.get(clip.id)
        after = before if lane_id is None else lane_id
        assert after is not None
        if clip.stop_n > LARGEST_N:
            raise Refused(
                f"{clip.name} would end beyond 24 hours, where the timeline does. Trim it or move it earlier."
            )
        if before is not None:
            self.drop(clip.id)
        self._touched.add(after)
        self._lane[clip.id], self._on[after][clip.id] = after, fitted(clip)

    def drop(self, clip_id: int) -> None:
        """Take a clip off the timeline."""
        lane_id = self._lane.pop(clip_id)
        self._touched.add(lane_id)
        del self._on[lane_id][clip_id]

    def finish(self, **changed: object) -> Project:
        """The project with these clips, and with other fields changed. Raises Refused where clips lie ill."""
        lanes = tuple(
            replace(lane, clips=tuple(self.on(lane.id))) if lane.id in self._touched else lane
            for lane in self.project.lanes
        )
        for lane in lanes:
            if lane.id in self._touched:
                check(lane)
        return replace(self.project, lanes=lanes, **changed)  # type: ignore[arg-type]


def _ordered(clips: Iterable[Clip]) -> list[Clip]:
    return sorted(clips, key=lambda clip: (clip.start_n, clip.id))


def check(lane: Lane) -> None:
    """Refuse a lane whose clips lie over each other in a way that can't be shown or heard.

    On a sound lane neighbours may overlap, and cross over there; none lies wholly over another, and no three share
    a moment. On a picture lane nothing overlaps.
    """
    for i, clip in enumerate(lane.clips[1:], 1):
        before = lane.clips[i - 1]
        if clip.start_n >= before.stop_n:
            continue
        if lane.kind is LaneKind.PICTURE:
            raise Refused(f"{clip.name} would lie over {before.name}. Pictures can't overlap: use another lane.")
        if clip.start_n == before.start_n or clip.stop_n <= before.stop_n:
            raise Refused(
                f"{clip.name} and {before.name} would lie wholly over each other on {lane.name}. Use another lane."
            )
        if i > 1 and lane.clips[i - 2].stop_n > clip.start_n:
            raise Refused(f"Three clips would sound at once on lane {lane.name}. Use another lane for {clip.name}.")
