"""Clips on a clipboard, as a page holds them: back into the nouns they are, with the media they speak of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from jaylantern.commands.provider import Provider
from jaylantern.core.edit.moving import Copied
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import described, noun, read_flat
from jaylantern.core.timeline.kinds import ID, Choice, Line
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound, Refused

GONE = "What was copied is not there any more: its media has been removed. Bring the file in again."


@noun
class _From:
    """Where a copied clip came from."""

    lane_id: int = described(ID)
    kind: LaneKind = described(Choice(LaneKind))
    lane_name: str = described(Line(80), default="")
    lane_tag: Tag = described(Choice(Tag), default=Tag.UNTAGGED)


def media_of(copied: Sequence[Any], provider: Provider) -> dict[int, Media]:
    """The media that copied clips speak of, by number. Raises InvalidValue for nonsense, Refused where one has gone."""
    found: dict[int, Media] = {}
    for each in copied:
        if not isinstance(each, dict):
            raise InvalidValue("What is on the clipboard can't be pasted. Copy the clips again.")
        number = ID.checked(each.get("media_id"), "A copied clip.media_id")
        try:
            found[number] = found.get(number) or provider.medium(number)
        except NotFound:
            raise Refused(GONE) from None
    return found


def copied_clip(values: Mapping[str, Any], media: Mapping[int, Media]) -> Copied:
    """A copied clip from its JSON: a clip as the page shows it, with its lane. Raises InvalidValue for nonsense."""
    medium = media[values["media_id"]]
    where = read_flat(_From, values, what="A copied clip", given={})
    clip = read_flat(Clip, values, what="A copied clip", given={"id": 0, "media": medium})
    return Copied(clip, where.lane_id, where.lane_name or "Copies", where.kind, where.lane_tag)
