"""Clips on a clipboard, as a page holds them: back into the nouns they are, with the media they speak of."""

from __future__ import annotations

from typing import Any

from jaylantern.commands.at_hand import AtHand
from jaylantern.core.edit.moving import Copied
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import described, noun, read_flat
from jaylantern.core.timeline.kinds import ID, Choice, Line
from jaylantern.core.timeline.lane import LaneKind
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


def copied_clip(values: Any, at_hand: AtHand) -> Copied:
    """A copied clip from its JSON: a clip as the page shows it, with its lane. Raises InvalidValue for nonsense,
    Refused where its medium has gone."""
    if not isinstance(values, dict):
        raise InvalidValue("What is on the clipboard can't be pasted. Copy the clips again.")
    try:
        medium = at_hand.medium(ID.checked(values.get("media_id"), "A copied clip.media_id"))
    except NotFound:
        raise Refused(GONE) from None
    where = read_flat(_From, values, what="A copied clip", given={})
    clip = read_flat(Clip, values, what="A copied clip", given={"id": 0, "media": medium})
    return Copied(clip, where.lane_id, where.lane_name or "Copies", where.kind, where.lane_tag)
