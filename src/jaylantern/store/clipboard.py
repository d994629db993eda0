"""Clips on a clipboard, as a page holds them: back into core's form, with the media they speak of."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from jaylantern.core.edit.moving import Copied
from jaylantern.core.fades import Fade, Shape
from jaylantern.core.model import Channels, Clip, LaneKind, Media, Tag
from jaylantern.errors import InvalidValue, NotFound, Refused
from jaylantern.store import media
from jaylantern.store.commands import asked

GONE = "What was copied is not there any more: its media has been removed. Bring the file in again."


def read(connection: sqlite3.Connection, found: object) -> list[Copied]:
    """Copied clips from their JSON. Raises InvalidValue for nonsense, Refused where a medium has gone."""
    if not isinstance(found, list) or len(found) > asked.MOST_CLIPS:
        raise InvalidValue("What is on the clipboard can't be pasted. Copy the clips again.")
    known: dict[int, Media] = {}
    for each in found:
        number = asked.whole(each.get("media_id") if isinstance(each, dict) else None, "A media number", low=1)
        if number not in known:
            try:
                known[number] = media.get(connection, number)
            except NotFound:
                raise Refused(GONE) from None
    return [_copied(each, known[each["media_id"]]) for each in found]


def _copied(each: Mapping[str, Any], medium: Media) -> Copied:
    clip = Clip(
        id=0,
        name=asked.line(each.get("name"), otherwise=medium.name),
        media=medium,
        start_n=asked.time_n(each, "start_n"),
        offset_n=asked.time_n(each, "offset_n"),
        length_n=asked.whole(each.get("length_n"), "The length of a clip", low=1),
        tag=asked.one_of(Tag, each["own_tag"], "A tag") if each.get("own_tag") else None,
        gain_db=asked.gain_db(each.get("gain_db", 0)),
        muted=each.get("muted") is True,
        link=asked.whole(each["link"], "A link", low=0) if each.get("link") is not None else None,
        channels=asked.one_of(Channels, each.get("channels", "both"), "What is heard of two channels"),
        fade_in=_fade(each, "fade_in"),
        fade_out=_fade(each, "fade_out"),
        bystander=each.get("bystander") is True,
    )
    return Copied(
        clip,
        lane_id=asked.whole(each.get("lane_id"), "A lane number", low=0),
        lane_name=asked.line(each.get("lane_name"), otherwise="Copies"),
        kind=asked.one_of(LaneKind, each.get("kind"), "The kind of a lane"),
        lane_tag=asked.one_of(Tag, each.get("lane_tag", "untagged"), "A tag"),
    )


def _fade(each: Mapping[str, Any], end: str) -> Fade:
    length_n = asked.whole(each.get(f"{end}_n", 0), "The length of a fade", low=0)
    return Fade(length_n, asked.one_of(Shape, each.get(f"{end}_shape", "round"), "The shape of a fade"))
