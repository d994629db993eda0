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


class Encoding(StrEnum):
    """How the letters of a file may be written that is not in UTF-8, by Python's name of it."""

    WESTERN = "cp1252"
    CENTRAL = "cp1250"
    CYRILLIC = "cp1251"
    GREEK = "cp1253"
    TURKISH = "cp1254"
    BALTIC = "cp1257"
    HEBREW = "cp1255"
    ARABIC = "cp1256"
    DOS = "cp850"
    JAPANESE = "cp932"
    KOREAN = "cp949"
    CHINESE = "gb18030"
    TAIWANESE = "big5"

    @property
    def word(self) -> str:
        """As a person chooses it."""
        return f"{ENCODING_WORDS[self]} ({self.value})"


ENCODING_WORDS = {
    Encoding.WESTERN: "Western European",
    Encoding.CENTRAL: "Central European",
    Encoding.CYRILLIC: "Cyrillic",
    Encoding.GREEK: "Greek",
    Encoding.TURKISH: "Turkish",
    Encoding.BALTIC: "Baltic",
    Encoding.HEBREW: "Hebrew",
    Encoding.ARABIC: "Arabic",
    Encoding.DOS: "Western European, DOS",
    Encoding.JAPANESE: "Japanese",
    Encoding.KOREAN: "Korean",
    Encoding.CHINESE: "Chinese, simplified",
    Encoding.TAIWANESE: "Chinese, traditional",
}


class Part(NamedTuple):
    """Some of a cue: media [start_n, stop_n) of the clip `root` and all that is split off it; 0: of the timeline."""

    root: int
    start_n: int
    stop_n: int


class Cue(NamedTuple):
    """A text in its format, the settings of its place on the picture (WebVTT), its parts, in order of time, and `lead`,
    what stood before its times in the file: notes and its name (WebVTT)."""

    text: str
    settings: str
    parts: tuple[Part, ...]
    lead: str = ""


class CuesKind(Kind):
    """The cues of captions: a list of [text, settings, [root, start_n, stop_n] …], with the lead behind the settings
    where there is one; in the database its text."""

    def checked(self, value: object, what: str) -> tuple[Cue, ...]:
        """From such a list."""
        if not isinstance(value, (list, tuple)) or len(value) > MOST_CUES:
            raise refused(what, value, f"a list of at most {MOST_CUES} cues", "Bring the file in again.")
        return tuple(_cue(each, f"{what} {i}") for i, each in enumerate(value, 1))

    def plain(self, value: tuple[Cue, ...]) -> list[list[Any]]:
        """As such a list."""
        return [
            [cue.text, cue.settings, *([cue.lead] if cue.lead else []), *(list(part) for part in cue.parts)]
            for cue in value
        ]

    def stored(self, value: tuple[Cue, ...]) -> str:
        """As JSON text."""
        return json.dumps(self.plain(value), ensure_ascii=False, separators=(",", ":"))

    def restored(self, value: Any) -> tuple[Cue, ...]:
        """From JSON text."""
        return tuple(_kept_cue(*each) for each in json.loads(value))


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


def _kept_cue(text: str, set_to: str, *rest: Any) -> Cue:
    lead, parts = (rest[0], rest[1:]) if rest and isinstance(rest[0], str) else ("", rest)
    return Cue(text, set_to, tuple(Part(*part) for part in parts), lead)


def _cue(value: object, what: str) -> Cue:
    limit = "a text, its settings, what stood before it, and parts of [root, start_n, stop_n]"
    if not isinstance(value, (list, tuple)) or not 2 <= len(value) <= 3 + MOST_PARTS:
        raise refused(what, value, limit)
    text, set_to, *rest = value
    lead = TEXT.checked(rest.pop(0), what) if rest and isinstance(rest[0], str) else ""
    text, set_to = TEXT.checked(text, what), TEXT.checked(set_to, what)
    return Cue(text, set_to, tuple(_part(each, what, limit) for each in rest), lead)


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
    behind WEBVTT before the first cue, styles and regions too, and `tail` what stood behind the last one; both are
    written back. `encoding` is how the file's letters were read where that had to be guessed."""

    id: int = described(ID)
    name: str = described(Line(200))
    form: CaptionForm = described(Choice(CaptionForm))
    cues: tuple[Cue, ...] = described(CuesKind())
    checked: bool = described(Flag(), default=True)
    head: str = described(Text(LONGEST_HEAD), default="")
    tail: str = described(Text(LONGEST_HEAD), default="")
    encoding: str = described(Line(40), default="")
