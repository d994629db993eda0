"""How clips sound: gain, mute, channels, fades, tag, bystander; of one or of many at once."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from jaylantern.core.edit.draft import Draft, clip_of, named, together
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused

COPIED = ("gain_db", "muted", "channels", "fade_in", "fade_out")


def sound_clips(project: Project, clip_ids: Iterable[int]) -> list[Clip]:
    """Of these clips and those linked with them the ones on sound lanes. Raises Refused if there are none."""
    found = [clip for lane, clip in together(project, clip_ids) if lane.kind is LaneKind.SOUND]
    if not found:
        raise Refused("What is chosen lies on picture lanes and has no sound to set. Choose its sound on a lane below.")
    return found


def called(project: Project, clip_ids: Iterable[int]) -> str:
    """What to call the sound clips among these."""
    return named(sound_clips(project, clip_ids))


def change(project: Project, *, clip_ids: Iterable[int], **changed: Any) -> Project:
    """Sound clips with some fields changed."""
    draft = Draft(project)
    for clip in sound_clips(project, clip_ids):
        draft.put(replace(clip, **changed))
    return draft.finish()


def raise_gain(project: Project, *, clip_ids: Iterable[int], by_db: float, low_db: float, high_db: float) -> Project:
    """Sound clips louder by so many dB, each within the limits."""
    draft = Draft(project)
    for clip in sound_clips(project, clip_ids):
        draft.put(replace(clip, gain_db=round(min(max(clip.gain_db + by_db, low_db), high_db), 3)))
    return draft.finish()


def fade(project: Project, *, clip_ids: Iterable[int], end: str, length_n: int | None, shape: Shape | None) -> Project:
    """Sound clips with another fade, `end` being "fade_in" or "fade_out"; None leaves length or shape as it is.

    A fade reaches no further than to where the one at the other end begins.
    """
    other = "fade_out" if end == "fade_in" else "fade_in"
    draft = Draft(project)
    for clip in sound_clips(project, clip_ids):
        now: Fade = getattr(clip, end)
        most_n = clip.length_n - getattr(clip, other).length_n
        wanted_n = now.length_n if length_n is None else min(length_n, most_n)
        new = Fade(wanted_n, shape or now.shape)
        draft.put(replace(clip, fade_in=new) if end == "fade_in" else replace(clip, fade_out=new))
    return draft.finish()


def copy(project: Project, *, from_id: int, clip_ids: Iterable[int]) -> Project:
    """Gain, mute, channels and fades of one clip given to others."""
    _, source = clip_of(project, from_id)
    near = sound_clips(project, [from_id])
    model = source if source in near else near[0]
    others = [number for number in clip_ids if number != from_id]
    return change(project, clip_ids=others, **{name: getattr(model, name) for name in COPIED})


def gathered(project: Project, clip_ids: Iterable[int]) -> Project:
    """What all clips of a lane are by tags of their own becomes the lane's tag, on the lanes of these clips.

    Only lanes change whose clips with sound all have a tag of their own, the same one; those then take the lane's.
    """
    wanted = set(clip_ids)
    lanes = []
    for lane in project.lanes:
        own = {clip.tag for clip in lane.clips if clip.media.has_sound}
        tag = next(iter(own)) if len(own) == 1 else None
        if tag is not None and wanted & {clip.id for clip in lane.clips}:
            clips = tuple(replace(clip, tag=None) if clip.tag is tag else clip for clip in lane.clips)
            lane = replace(lane, tag=tag, clips=clips)
        lanes.append(lane)
    return replace(project, lanes=tuple(lanes))
