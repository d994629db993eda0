"""Clips on a clipboard, as a page holds them: back into core's form, with the media they speak of."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from jaylantern.commands import params
from jaylantern.core.edit.moving import Copied
from jaylantern.core.timeline.clip import Channels, Clip
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound, Refused
from jaylantern.store import media

GONE = "What was copied is not there any more: its media has been removed. Bring the file in again."


def read(connection: sqlite3.Connection, found: object) -> list[Copied]:
    """Copied clips from their JSON. Raises InvalidValue for nonsense, Refused where a medium has gone."""
    if not isinstance(found, list) or len(found) > params.MOST_CLIPS:
        raise InvalidValue("What is on the clipboard can't be pasted. Copy the clips again.")
    known: dict[int, Media] = {}
    for each in found:
        number = params.whole(each.get("media_id") if isinstance(each, dict) else None, "A media number", low=1)
        if number not in known:
            try:
                known[number] = media.get(connection, number)
            except NotFound:
                raise Refused(GONE) from None
    return [_copied(each, known[each["media_id"]]) for each in found]


def _copied(each: Mapping[str, Any], medium: Media) -> Copied:
    clip = Clip(
        id=0,
        name=params.line(each.get("name"), otherwise=medium.name),
        media=medium,
        start_n=params.time_n(each, "start_n"),
        offset_n=params.time_n(each, "offset_n"),
        length_n=params.whole(each.get("length_n"), "The length of a clip", low=1),
        tag=params.one_of(Tag, each["own_tag"], "A tag") if each.get("own_tag") else None,
        gain_db=params.gain_db(each.get("gain_db", 0)),
        muted=each.get("muted") is True,
        link=params.whole(each["link"], "A link", low=0) if each.get("link") is not None else None,
        channels=params.one_of(Channels, each.get("channels", "both"), "What is heard of two channels"),
        fade_in=_fade(each, "fade_in"),
        fade_out=_fade(each, "fade_out"),
        bystander=each.get("bystander") is True,
    )
    return Copied(
        clip,
        lane_id=params.whole(each.get("lane_id"), "A lane number", low=0),
        lane_name=params.line(each.get("lane_name"), otherwise="Copies"),
        kind=params.one_of(LaneKind, each.get("kind"), "The kind of a lane"),
        lane_tag=params.one_of(Tag, each.get("lane_tag", "untagged"), "A tag"),
    )


def _fade(each: Mapping[str, Any], end: str) -> Fade:
    length_n = params.whole(each.get(f"{end}_n", 0), "The length of a fade", low=0)
    return Fade(length_n, params.one_of(Shape, each.get(f"{end}_shape", "round"), "The shape of a fade"))
