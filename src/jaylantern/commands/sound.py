"""Commands on how clips sound and what they are: gain, mute, channels, fades, tags, bystanders."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum
from typing import Any

from jaylantern.commands.command import CLIP_GAIN, CLIPS, Command, NewId, Param, maybe
from jaylantern.core.edit import clip_sound
from jaylantern.core.edit.draft import Draft, clip_of
from jaylantern.core.timeline.clip import GAIN, GAIN_LIMITS_DB, THRESHOLD, Channels, Trigger
from jaylantern.core.timeline.fades import Shape
from jaylantern.core.timeline.kinds import ID, TIME, Choice, Flag, Maybe, Values, number_in
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


class End(StrEnum):
    """Which fade of a clip."""

    IN = "fade_in"
    OUT = "fade_out"


def _set_clips(project: Project, new_id: NewId, *, clip_ids: list[int], **changed: Any) -> Answer:
    """Gain, mute, channels, bystander, trigger or threshold of clips."""
    what = clip_sound.called(project, clip_ids)
    if not changed:
        raise InvalidValue("Say what to change of the clips.")
    name, value = list(changed.items())[-1]
    words = {
        "gain_db": lambda: f"Gain of {what} to {value:g} dB",
        "muted": lambda: f"{'Mute' if value else 'Unmute'} {what}",
        "channels": lambda: f"Channels of {what}: {value}",
        "bystander": lambda: f"{what} {'stands outside' if value else 'back in'} the pecking order",
        "trigger": lambda: f"Trigger of {what}: {value or 'as its lane'}",
        "level_db": lambda: f"Threshold of {what}: {'as its lane' if value is None else f'{value:g} dBFS'}",
    }
    return words[name](), clip_sound.change(project, clip_ids=clip_ids, **changed)


def _raise_clips(project: Project, new_id: NewId, *, clip_ids: list[int], by_db: float) -> Answer:
    low_db, high_db = GAIN_LIMITS_DB
    after = clip_sound.raise_gain(project, clip_ids=clip_ids, by_db=by_db, low_db=low_db, high_db=high_db)
    return f"{clip_sound.called(project, clip_ids)} by {by_db:+g} dB", after


def _fade_clips(
    project: Project, new_id: NewId, *, clip_ids: list[int], end: End, length_n: int | None, shape: Shape | None
) -> Answer:
    after = clip_sound.fade(project, clip_ids=clip_ids, end=end, length_n=length_n, shape=shape)
    return f"{'Fade in' if end is End.IN else 'Fade out'} of {clip_sound.called(project, clip_ids)}", after


def _copy_sound(project: Project, new_id: NewId, *, clip_ids: list[int], from_id: int) -> Answer:
    source = clip_of(project, from_id)[1]
    after = clip_sound.copy(project, from_id=source.id, clip_ids=clip_ids)
    return (
        f"Sound settings of {source.name} to {clip_sound.called(project, [n for n in clip_ids if n != source.id])}",
        after,
    )


def _tag_clips(project: Project, new_id: NewId, *, clip_ids: list[int], tag: Tag | None) -> Answer:
    """Give clips a tag, or (null) let them take their lane's again."""
    what = clip_sound.called(project, clip_ids)
    label = f"Tag {what} as {tag}" if tag else f"Let {what} take the tag of the lane"
    return label, clip_sound.change(project, clip_ids=clip_ids, tag=tag)


def _tag_each(project: Project, new_id: NewId, *, tags: dict[str, Tag]) -> Answer:
    """Give each clip its tag in one step: suggestions that were accepted. What all of a lane get, the lane gets."""
    draft, numbers = Draft(project), list(map(number_in, tags))
    for number, tag in zip(numbers, tags.values(), strict=True):
        _, clip = clip_of(project, number)
        draft.put(replace(clip, tag=tag))
    after = clip_sound.gathered(draft.finish(), [number for number in numbers if number is not None])
    return f"Accept {len(tags)} suggested tag{'s' if len(tags) > 1 else ''}", after


COMMANDS = (
    Command(
        "set_clips",
        _set_clips,
        clip_ids=CLIPS,
        gain_db=maybe(GAIN, called="The gain of a clip"),
        muted=maybe(Flag()),
        channels=maybe(Choice(Channels), called="What is heard of two channels"),
        bystander=maybe(Flag()),
        trigger=maybe(Maybe(Choice(Trigger)), called="A trigger"),
        level_db=maybe(Maybe(THRESHOLD), called="A threshold"),
    ),
    Command("raise_clips", _raise_clips, clip_ids=CLIPS, by_db=CLIP_GAIN),
    Command(
        "fade_clips",
        _fade_clips,
        clip_ids=CLIPS,
        end=Choice(End),
        length_n=maybe(Maybe(TIME), None, "The length of a fade"),
        shape=maybe(Maybe(Choice(Shape)), None, "The shape of a fade"),
    ),
    Command("copy_sound", _copy_sound, clip_ids=CLIPS, from_id=ID),
    Command("tag_clips", _tag_clips, clip_ids=CLIPS, tag=maybe(Maybe(Choice(Tag)), None, "A tag")),
    Command(
        "tag_each", _tag_each, tags=Param(Values(Choice(Tag), 1, "Say which clip gets which tag."), called="A tag")
    ),
)
