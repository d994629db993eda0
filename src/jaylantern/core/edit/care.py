"""What is done to voices: set for a lane or for clips of their own, place by place."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from jaylantern.core.edit import lanes
from jaylantern.core.edit.clip_sound import sound_clips
from jaylantern.core.edit.draft import Draft, clip_of, lane_of
from jaylantern.core.timeline.care import BY_NAME, Care
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue, Refused


def changed(care: Care, parts: Mapping[str, float | None]) -> Care:
    """Care with some parts set, or (None) switched off. Raises InvalidValue."""
    unknown = [name for name in parts if name not in BY_NAME]
    if unknown:
        raise InvalidValue(
            f"Nothing called {str(unknown[0])[:40]!r} can be done to a voice. It is {', '.join(BY_NAME)}."
        )
    return replace(care, **parts)  # type: ignore[arg-type]


def of_lane(project: Project, *, lane_id: int, parts: Mapping[str, float | None]) -> Project:
    """A lane's care changed."""
    lane = lane_of(project, lane_id)
    if lane.kind is not LaneKind.SOUND:
        raise Refused(f"{lane.name} carries picture; there is no voice on it.")
    return lanes.change(project, lane_id=lane_id, care=changed(lane.care, parts))


def of_clips(project: Project, *, clip_ids: Iterable[int], parts: Mapping[str, float | None]) -> Project:
    """Clips with a care of their own, changed; one that had none begins with its lane's."""
    draft = Draft(project)
    for clip in sound_clips(project, clip_ids):
        lane, _ = clip_of(project, clip.id)
        draft.put(replace(clip, care=changed(lane.care_set(clip), parts)))
    return draft.finish()


def as_lane(project: Project, *, clip_ids: Iterable[int]) -> Project:
    """Clips without a care of their own."""
    draft = Draft(project)
    for clip in sound_clips(project, clip_ids):
        draft.put(replace(clip, care=None))
    return draft.finish()


def spare(project: Project, *, clip_id: int, at_n: int, spared: bool) -> Project:
    """Leave alone, or not any more, the place of a clip's medium that begins at a media time; the clip gets a care of
    its own."""
    lane, clip = clip_of(project, clip_id)
    care = lane.care_set(clip)
    places = {*care.spared, at_n} if spared else set(care.spared) - {at_n}
    draft = Draft(project)
    draft.put(replace(clip, care=replace(care, spared=tuple(places))))
    return draft.finish()
