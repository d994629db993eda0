"""Captions: text with times, brought in from a file, tied to what it was written for.

a cue     "It was full of salt."  [──────]      on the timeline when it was brought in
its parts      ┌ in media time of the clip under it ┐      so that it moves with every cut
"""

from __future__ import annotations

import html
import json
import re
from enum import StrEnum
from typing import Any, NamedTuple
from unicodedata import category

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import ID, LARGEST_ID, LARGEST_N, Choice, Flag, Kind, Line, refused

TAG = re.compile(r"</?([A-Za-z]+)[^<>]*>|<[\d:.]+>")
PLACE = re.compile(r"\{\\[^{}]*\}")  # of SubRip: {\an8} and the like
MOST_CUES = 50_000
LONGEST_TEXT = 4000
MOST_PARTS = 1000
LONGEST_HEAD = 200_000


class CaptionForm(StrEnum):
    """The format that a text is written in, with its marks."""

    VTT = "vtt"  # WebVTT
    SRT = "srt"  # SubRip


class Part(NamedTuple):
    """Some of a cue: media [start_n, stop_n) of the clip `root` and all that is split off it; 0: of the timeline."""

    root: int
    start_n: int
    stop_n: int


class Cue(NamedTuple):
    """A text in its format, the settings of its place on the picture (WebVTT), and its parts, in order of time."""

    text: str
    settings: str
    parts: tuple[Part, ...]


class CuesKind(Kind):
    """The cues of captions: a list of [text, settings, [root, start_n, stop_n] …]; in the database its text."""

    def checked(self, value: object, what: str) -> tuple[Cue, ...]:
        """From such a list."""
        if not isinstance(value, (list, tuple)) or len(value) > MOST_CUES:
            raise refused(what, value, f"a list of at most {MOST_CUES} cues", "Bring the file in again.")
        return tuple(_cue(each, f"{what} {i}") for i, each in enumerate(value, 1))

    def plain(self, value: tuple[Cue, ...]) -> list[list[Any]]:
        """As such a list."""
        return [[cue.text, cue.settings, *(list(part) for part in cue.parts)] for cue in value]

    def stored(self, value: tuple[Cue, ...]) -> str:
        """As JSON text."""
        return json.dumps(self.plain(value), ensure_ascii=False, separators=(",", ":"))

    def kept(self, value: Any) -> tuple[Cue, ...]:
        """From JSON text."""
        return tuple(
            Cue(text, set_to, tuple(Part(*part) for part in parts)) for text, set_to, *parts in json.loads(value)
        )


class Text(Kind):
    """Text of several lines, at most so many characters."""

    def __init__(self, most: int) -> None:
        self._most = most

    @property
    def script(self) -> str:
        """A string."""
        return "string"

    def checked(self, value: object, what: str) -> str:
        """The text, without what no file can hold."""
        if not isinstance(value, str) or len(value) > self._most:
            raise refused(what, value, f"text of at most {self._most} characters")
        return clean(value)


TEXT = Text(LONGEST_TEXT)


def clean(text: str) -> str:
    """A text without signs that no file should hold: control characters but for the ends of lines, halves of letters,
    marks of byte order. What joins or turns letters in many scripts stays."""
    return "".join(c for c in text if c in "\n\t" or (category(c) not in ("Cc", "Cs") and c != "\ufeff"))


def plain_text(text: str, form: CaptionForm) -> str:
    """A text as it is read: without tags and, in WebVTT, with what stands for signs that have a meaning there."""
    if form is CaptionForm.SRT:
        return TAG.sub("", PLACE.sub("", text))
    return html.unescape(TAG.sub("", text))


def _cue(value: object, what: str) -> Cue:
    limit = "a text, its settings, and parts of [root, start_n, stop_n]"
    if not isinstance(value, (list, tuple)) or not 2 <= len(value) <= 2 + MOST_PARTS:
        raise refused(what, value, limit)
    text, set_to, *parts = value
    text, set_to = TEXT.checked(text, what), TEXT.checked(set_to, what)
    return Cue(text, set_to, tuple(_part(each, what, limit) for each in parts))


def _part(value: object, what: str, limit: str) -> Part:
    if not isinstance(value, (list, tuple)) or len(value) != 3 or any(type(each) is not int for each in value):
        raise refused(what, value, limit)
    root, start_n, stop_n = value
    if not 0 <= root <= LARGEST_ID or not -LARGEST_N <= start_n < stop_n <= LARGEST_N:
        raise refused(what, value, limit)
    return Part(root, start_n, stop_n)


@noun
class Captions:
    """Captions under the name of their file. `checked`: the check-up compares the talk with them. `head` is what stood
    before the first cue, styles and regions, and is written back."""

    id: int = described(ID)
    name: str = described(Line(200))
    form: CaptionForm = described(Choice(CaptionForm))
    cues: tuple[Cue, ...] = described(CuesKind())
    checked: bool = described(Flag(), default=True)
    head: str = described(Text(LONGEST_HEAD), default="")
