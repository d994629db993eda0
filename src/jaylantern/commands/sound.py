"""Commands on how clips sound and what they are: gain, mute, channels, fades, tags, bystanders."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from jaylantern.commands import params
from jaylantern.core.edit import clip_sound
from jaylantern.core.edit.draft import Draft, NewId, clip_of, named
from jaylantern.core.timeline.clip import GAIN_LIMITS_DB, Channels, Trigger
from jaylantern.core.timeline.fades import Shape
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]


def _sound_of(project: Project, clip_ids: Sequence[int]) -> str:
    return named(clip_sound.sound_clips(project, clip_ids))


def _set_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Gain, mute, channels or bystander of clips."""
    ids = params.clip_ids(values)
    what = _sound_of(project, ids)
    changed: dict[str, Any] = {}
    label = ""
    if "gain_db" in values:
        changed["gain_db"] = params.gain_db(values["gain_db"], "The gain of a clip")
        label = f"Gain of {what} to {changed['gain_db']:g} dB"
    if "muted" in values:
        changed["muted"] = values["muted"] is True
        label = f"{'Mute' if changed['muted'] else 'Unmute'} {what}"
    if "channels" in values:
        changed["channels"] = params.one_of(Channels, values["channels"], "What is heard of two channels")
        label = f"Channels of {what}: {changed['channels']}"
    if "bystander" in values:
        changed["bystander"] = values["bystander"] is True
        label = f"{what} {'stands outside' if changed['bystander'] else 'back in'} the pecking order"
    if "trigger" in values:
        changed["trigger"] = params.one_of(Trigger, values["trigger"], "A trigger") if values["trigger"] else None
        label = f"Trigger of {what}: {changed['trigger'] or 'as its lane'}"
    if "level_db" in values:
        changed["level_db"] = None if values["level_db"] is None else params.threshold_db(values["level_db"])
        label = (
            f"Threshold of {what}: {'as its lane' if changed['level_db'] is None else params.dbfs(changed['level_db'])}"
        )
    if not changed:
        raise InvalidValue("Say what to change of the clips.")
    return label, clip_sound.change(project, clip_ids=ids, **changed)


def _raise_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids, by_db = params.clip_ids(values), params.gain_db(values.get("by_db"), "A step of gain")
    low_db, high_db = GAIN_LIMITS_DB
    after = clip_sound.raise_gain(project, clip_ids=ids, by_db=by_db, low_db=low_db, high_db=high_db)
    return f"{_sound_of(project, ids)} by {by_db:+g} dB", after


def _fade_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids, end = params.clip_ids(values), values.get("end")
    if end not in ("fade_in", "fade_out"):
        raise InvalidValue(f"A fade is fade_in or fade_out; {str(end)[:40]!r} is not.")
    length_n = params.time_n(values, "length_n") if values.get("length_n") is not None else None
    shape = params.one_of(Shape, values["shape"], "The shape of a fade") if values.get("shape") else None
    after = clip_sound.fade(project, clip_ids=ids, end=end, length_n=length_n, shape=shape)
    return f"{'Fade in' if end == 'fade_in' else 'Fade out'} of {_sound_of(project, ids)}", after


def _copy_sound(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    ids = params.clip_ids(values)
    source = clip_of(project, values.get("from_id"))[1]
    after = clip_sound.copy(project, from_id=source.id, clip_ids=ids)
    return f"Sound settings of {source.name} to {_sound_of(project, [n for n in ids if n != source.id])}", after


def _tag_clips(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Give clips a tag, or (null) let them take their lane's again."""
    ids = params.clip_ids(values)
    tag = params.one_of(Tag, values["tag"], "A tag") if values.get("tag") else None
    what = _sound_of(project, ids)
    label = f"Tag {what} as {tag}" if tag else f"Let {what} take the tag of the lane"
    return label, clip_sound.change(project, clip_ids=ids, tag=tag)


def _tag_each(project: Project, values: Mapping[str, Any], _: NewId) -> Answer:
    """Give each clip its tag in one step: suggestions that were accepted. What all of a lane get, the lane gets."""
    wanted = values.get("tags")
    if not isinstance(wanted, Mapping) or not wanted:
        raise InvalidValue("Say which clip gets which tag.")
    draft = Draft(project)
    for number, tag in wanted.items():
        _, clip = clip_of(project, int(number) if str(number).isdigit() else None)
        draft.put(replace(clip, tag=params.one_of(Tag, tag, "A tag")))
    after = clip_sound.gathered(draft.finish(), [int(number) for number in wanted])
    return f"Accept {len(wanted)} suggested tag{'s' if len(wanted) > 1 else ''}", after


COMMANDS = {
    "set_clips": _set_clips,
    "raise_clips": _raise_clips,
    "fade_clips": _fade_clips,
    "copy_sound": _copy_sound,
    "tag_clips": _tag_clips,
    "tag_each": _tag_each,
}
