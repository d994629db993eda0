"""Move, nudge, duplicate, paste, place media."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from jaylantern.core.edit.draft import Draft, clip_of, lane_of, together
from jaylantern.core.edit.lanes import with_lane
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused


def move(
    project: Project, *, clip_ids: Iterable[int], by_n: int, leader_id: int | None = None, lanes_by: int = 0
) -> Project:
    """Move clips along the timeline, no further than its start; linked clips move together.

    `lanes_by` moves those of the leader's kind of lane down so many lanes of that kind (up: negative), as far as
    there are any.
    """
    draft = Draft(project)
    for clip, lane_id in moved(project, clip_ids=clip_ids, by_n=by_n, leader_id=leader_id, lanes_by=lanes_by):
        draft.put(clip, lane_id)
    return draft.finish()


def moved(
    project: Project, *, clip_ids: Iterable[int], by_n: int, leader_id: int | None = None, lanes_by: int = 0
) -> list[tuple[Clip, int]]:
    """Clips as they are when they are moved so, with the lanes they lie on then; see `move`."""
    chosen = set(clip_ids)
    group = together(project, chosen)
    shift = max(by_n, -min(clip.start_n for _, clip in group))
    kind = clip_of(project, leader_id)[0].kind if leader_id is not None else None
    alike = [lane.id for lane in project.lanes if lane.kind is kind]
    ranks = [alike.index(lane.id) for lane, clip in group if lane.kind is kind and clip.id in chosen]
    down = max(-min(ranks), min(lanes_by, len(alike) - 1 - max(ranks))) if ranks else 0
    if (by_n or lanes_by) and not shift and not down:
        raise Refused("There is no room to move there. Add a lane first, or move them the other way.")

    def _lane_id(lane: Lane, clip: Clip) -> int:
        return alike[alike.index(lane.id) + down] if lane.kind is kind and clip.id in chosen else lane.id

    return [(replace(clip, start_n=clip.start_n + shift), _lane_id(lane, clip)) for lane, clip in group]


@dataclass(frozen=True)
class Copied:
    """A clip on the clipboard: all it is, and where it came from."""

    clip: Clip
    lane_id: int
    lane_name: str
    kind: LaneKind
    lane_tag: Tag


def paste(project: Project, new_id: NewId, *, copied: Sequence[Copied], at_n: int) -> Project:
    """Lay copies on the timeline, the first at a time, the others as far behind it as they were.

    Each goes onto the lane it came from; where that is gone or occupied, onto a new lane below. A copy keeps its tag:
    one that had its lane's tag gets it for its own where the new place would change it.
    """
    if not copied:
        raise Refused("There is nothing to paste. Copy or cut clips first.")
    shift = at_n - min(each.clip.start_n for each in copied)
    links: dict[int, int] = {}
    lanes: dict[int, int] = {}
    for lane_id in dict.fromkeys(each.lane_id for each in copied):
        mine = [each for each in copied if each.lane_id == lane_id]
        project, lanes[lane_id] = _room(project, new_id, mine, shift)
    draft = Draft(project)
    for each in copied:
        link = each.clip.link
        if link is not None and link not in links:
            links[link] = new_id()
        lane = lane_of(project, lanes[each.lane_id])
        tag = each.clip.tag or (None if lane.tag is each.lane_tag else each.lane_tag)
        start_n = each.clip.start_n + shift
        new = replace(each.clip, id=new_id(), start_n=start_n, tag=tag, link=None if link is None else links[link])
        draft.put(new, lane.id)
    return draft.finish()


def _room(project: Project, new_id: NewId, copied: Sequence[Copied], shift: int) -> tuple[Project, int]:
    """A lane for copies that came from one lane: that lane if it is free there, else a new one below it."""
    first = copied[0]
    home = next((lane for lane in project.lanes if lane.id == first.lane_id and lane.kind is first.kind), None)
    if home is not None and all(_free(home, each.clip.start_n + shift, each.clip.stop_n + shift) for each in copied):
        return project, home.id
    made = Lane(new_id(), first.lane_name, first.kind, first.lane_tag)
    return with_lane(project, made, below=home.id if home else None), made.id


def _free(lane: Lane, start_n: int, stop_n: int) -> bool:
    return all(clip.stop_n <= start_n or stop_n <= clip.start_n for clip in lane.clips)


def duplicate(project: Project, new_id: NewId, *, clip_ids: Iterable[int]) -> Project:
    """Lay copies of clips behind them: at their end, or at the first place after it where all have room."""
    group = together(project, clip_ids)
    copied = [Copied(clip, lane.id, lane.name, lane.kind, lane.tag) for lane, clip in group]
    start_n, stop_n = min(clip.start_n for _, clip in group), max(clip.stop_n for _, clip in group)
    shift = stop_n - start_n
    places = sorted({other.stop_n for lane, _ in group for other in lane.clips if other.stop_n > stop_n})
    for at_n in [stop_n, *places]:
        shift = at_n - start_n
        if all(_free(lane, clip.start_n + shift, clip.stop_n + shift) for lane, clip in group):
            break
    return paste(project, new_id, copied=copied, at_n=start_n + shift)


def place(
    project: Project, new_id: NewId, *, media: Media, name: str, at_n: int, tag: Tag = Tag.UNTAGGED, offset_n: int = 0
) -> Project:
    """Put a medium onto lanes of its own: its picture above all sound lanes, its sound below everything."""
    link = new_id() if media.has_picture and media.has_sound else None
    title = (name.rsplit(".", 1)[0] or name)[:80]
    kinds = [
        kind for kind, there in ((LaneKind.PICTURE, media.has_picture), (LaneKind.SOUND, media.has_sound)) if there
    ]
    for kind in kinds or [LaneKind.SOUND]:
        lane = Lane(new_id(), title, kind, tag if kind is LaneKind.SOUND else Tag.UNTAGGED)
        clip = Clip(new_id(), name, media, at_n, offset_n, media.length_n - offset_n, link=link)
        project = with_lane(project, replace(lane, clips=(clip,)))
    return project


def place_on(project: Project, new_id: NewId, *, media: Media, name: str, at_n: int, lane_id: int) -> Project:
    """Put a medium's picture or sound, as the lane takes, onto a lane. Raises Refused if it has none."""
    lane = lane_of(project, lane_id)
    if not (media.has_picture if lane.kind is LaneKind.PICTURE else media.has_sound):
        raise Refused(f"{name} has no {lane.kind} for lane {lane.name}. Choose a lane that takes what it has.")
    draft = Draft(project)
    draft.put(Clip(new_id(), name, media, at_n, 0, media.length_n), lane.id)
    return draft.finish()


def lay_take(
    project: Project, new_id: NewId, *, media: Media, name: str, at_n: int, offset_n: int, lane_id: int | None
) -> Project:
    """Lay a voice take where it was spoken onto a lane or (None) onto a new one. It is what is spoken there: narration
    on a lane of narration, and where the project has one; else dialogue.

    What lay on that lane under the take makes room for it; as media it stays.
    """
    if lane_id is None:
        narrated = any(lane.kind is LaneKind.SOUND and lane.main_tag is Tag.NARRATION for lane in project.lanes)
        tag = Tag.NARRATION if narrated else Tag.DIALOGUE
        made = Lane(new_id(), "Voice takes", LaneKind.SOUND, tag)
        project, lane_id = with_lane(project, made), made.id
    lane = lane_of(project, lane_id)
    take = Clip(new_id(), name, media, at_n, offset_n, media.length_n - offset_n)
    draft = Draft(project)
    for clip in lane.clips:
        make_room(draft, new_id, lane, clip, take)
    main = lane.main_tag
    own = main if main is not None and main.speaks else Tag.DIALOGUE
    draft.put(take if lane.tag is own else replace(take, tag=own), lane.id)
    return draft.finish()


def make_room(draft: Draft, new_id: NewId, lane: Lane, clip: Clip, take: Clip) -> None:
    """Trim, cut in two or drop a clip that lies under one that comes over it, such as a take."""
    before_n, after_n = take.start_n - clip.start_n, clip.stop_n - take.stop_n
    if clip.stop_n <= take.start_n or take.stop_n <= clip.start_n:
        return
    draft.drop(clip.id)
    if before_n > 0:
        draft.put(replace(clip, length_n=before_n), lane.id)
    if after_n > 0:
        new = clip.id if before_n <= 0 else new_id()
        gone_n = clip.length_n - after_n
        draft.put(
            replace(
                clip, id=new, root=clip.origin, start_n=take.stop_n, offset_n=clip.offset_n + gone_n, length_n=after_n
            ),
            lane.id,
        )
