"""Captions as files: WebVTT (W3C, WebVTT: The Web Video Text Tracks Format) and SubRip (no standard; common practice).

    00:01:02.500 --> 00:01:05.000 line:10%        begin, end, and in WebVTT where the text stands on the picture
    It was full of <i>salt</i>.

Files from everywhere come in: any order, overlapping, numbered or not, with blank lines missing, in old encodings. What
can't be read is left out and said.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TextIO
from unicodedata import normalize

import charset_normalizer

from jaylantern.core.captions.placing import Shown
from jaylantern.core.signal.timebase import HOUR_N, RATE, clock
from jaylantern.core.timeline.captions import LONGEST_TEXT, MOST_CUES, PLACE, TAG, CaptionForm, clean, plain_text
from jaylantern.core.timeline.kinds import LARGEST_N
from jaylantern.errors import InvalidValue

LARGEST_BYTES = 16 << 20
_TIME = r"(?:(\d{1,3}):)?(\d{1,2}):(\d{1,2})(?:[.,](\d{1,3}))?"
_TIMES = re.compile(rf"^\s*{_TIME}\s*-{{1,2}}>\s*{_TIME}(?:\s+(\S.*))?$")
_NUMBER = re.compile(r"^\s*\d+\s*$")
_KEPT_TAG = re.compile(r"</?[biu]>")
_BARE_AND = re.compile(r"&(?!(?:amp|lt|gt|nbsp|lrm|rlm|#\d+);)")
_LIKE_TIMES = re.compile(r"^\s*[\d:.,]+\s*-{1,2}>")
_NO_TIMES = "have no times that can be read"
_BLOCKS = ("NOTE", "STYLE", "REGION")
_WESTERN = "cp1252"
_LATIN = {
    "cp1250", "cp1254", "cp1257", "iso8859_2", "iso8859_3", "iso8859_4", "iso8859_9", "iso8859_10", "iso8859_13",
    "iso8859_14", "iso8859_15", "iso8859_16", "latin_1", "mac_roman", "mac_latin2", "cp437", "cp850", "cp852", "cp858",
    "hp_roman8", "cp1258", "mac_iceland", "mac_turkish",
}  # fmt: skip
_RARE = "ŕŔĺĹ"
_MAP = "X-TIMESTAMP-MAP"  # ties the times to a stream, which they do not belong to any more


@dataclass(frozen=True)
class FoundCue:
    """A cue of a file: samples, its text as it stands there, the settings of its place, and its `lead`: notes before it
    and its name (WebVTT)."""

    start_n: int
    stop_n: int
    text: str
    settings: str = ""
    lead: str = ""


@dataclass(frozen=True)
class FoundCaptions:
    """What a file holds: its cues in order of time, what stood before and behind them, how its letters were read where
    that had to be guessed, and what should be known of it."""

    form: CaptionForm
    cues: tuple[FoundCue, ...]
    head: str = ""
    remarks: tuple[str, ...] = ()
    tail: str = ""
    encoding: str = ""

    def within(self, length_n: int) -> FoundCaptions:
        """Counted from their first hour, where all of them lie an hour or more in and the film, of some length, is over
        by then; and with a remark where cues lie after its end."""
        first_n = min(cue.start_n for cue in self.cues)
        hours_n = first_n // HOUR_N * HOUR_N
        found, remarks = self, self.remarks
        if hours_n and 0 < length_n <= first_n:
            cues = tuple(replace(cue, start_n=cue.start_n - hours_n, stop_n=cue.stop_n - hours_n) for cue in self.cues)
            found = replace(self, cues=cues)
            remarks = (*remarks, f"Its times begin at {clock(hours_n, decimals=0)}, after the end of the film: they are"
                       " counted from there.")  # fmt: skip
        beyond = sum(cue.start_n >= length_n for cue in found.cues) if length_n else 0
        if beyond:
            remarks = (*remarks, f"{_many(beyond, 'cue lies', 'cues lie')} after the end of the film.")
        return replace(found, remarks=remarks)


def read(data: bytes, name: str) -> FoundCaptions:
    """The captions in a file. Raises InvalidValue, which says what is wrong with it."""
    if not data:
        raise InvalidValue(f"{name} is empty (0 bytes). Export it again.")
    if len(data) > LARGEST_BYTES:
        raise InvalidValue(f"{name} has {len(data) >> 20} MiB; that is no file of captions.")
    text, encoding = _decoded(data)
    remarks = [_guessed(encoding)] if encoding else []
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    is_vtt = lines[0].lstrip("\ufeff").startswith("WEBVTT")
    form = CaptionForm.VTT if is_vtt or name.lower().endswith(".vtt") else CaptionForm.SRT
    if form is CaptionForm.VTT and not is_vtt:
        remarks.append("It does not begin with WEBVTT, as it should; it was read all the same.")
    return replace(_Reading(name, form, lines, remarks).found(), encoding=encoding)


def _decoded(data: bytes) -> tuple[str, str]:
    """Its text, and how it is written where that had to be guessed, by Python's name; else nothing."""
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, "replace"), ""
    try:
        return data.decode("utf-8"), ""
    except UnicodeDecodeError:
        pass
    best = charset_normalizer.from_bytes(data, steps=1, chunk_size=len(data)).best()  # all of it is looked at
    encoding = best.encoding if best else _WESTERN
    if encoding in _LATIN and _more_likely(data, _WESTERN, encoding):
        encoding = _WESTERN
    return data.decode(encoding, "replace"), encoding


def _more_likely(data: bytes, one: str, other: str) -> bool:
    """Is a text written in one encoding rather than in another, by how their signs stand in its words? Where both are
    as likely it is the other; where they say the same, the one."""
    if data.decode(one, "ignore") == data.decode(other, "ignore"):
        return True
    return _sense(data, one, other) > _sense(data, other, one)


def _sense(data: bytes, encoding: str, other: str) -> int:
    """How well those signs stand that another encoding reads differently."""
    try:
        text, others = data.decode(encoding), data.decode(other)
    except UnicodeDecodeError:
        return -len(data)
    return sum(_stands_well(text, i) for i, (a, b) in enumerate(zip(text, others, strict=True)) if a != b)


def _stands_well(text: str, i: int) -> int:
    """More for a vowel among consonants and a consonant among vowels, less for the opposite, for capitals within a
    word, for letters that hardly any word has, and for other signs within a word."""
    sign, before, after = text[i], text[i - 1 : i], text[i + 1 : i + 2]
    beside = [each for each in (before, after) if each.isalpha()]
    if not sign.isalpha():
        return 1 - 2 * len(beside)
    if sign in _RARE or (sign.isupper() and before.islower()):
        return -2
    return sum(1 if _is_vowel(sign) != _is_vowel(each) else -1 for each in beside)


def _is_vowel(letter: str) -> bool:
    return normalize("NFD", letter.lower())[0] in "aeiouyæøœı"


def _guessed(encoding: str) -> str:
    return (
        f"It is not written in UTF-8 and was read as {encoding.replace('_', '-')}. Where letters look wrong, choose"
        " another way to read them in the menu of its lane."
    )


class _Reading:
    """Going through the lines of a file."""

    def __init__(self, name: str, form: CaptionForm, lines: list[str], remarks: list[str]) -> None:
        self._name, self._form, self._lines, self._remarks = name, form, lines, remarks
        self._cues: list[FoundCue] = []
        self._left_out: dict[str, list[int]] = {}  # why, and in which lines

    def found(self) -> FoundCaptions:
        times = []
        for i, line in self._outside_blocks():
            match = _TIMES.match(line)
            if match:
                times.append((i, match))
            elif _LIKE_TIMES.match(line):
                self._leave_out(_NO_TIMES, i)
        ends, first = [i for i, _ in times[1:]], times[0][0] if times else 0
        begins = after = first - bool(self._name_above(first, 1))
        for (i, match), stop in zip(times, (*ends, len(self._lines)), strict=False):
            lines = self._text_of(i + 1, stop)
            self._take(i, match, lines, self._lead(after, i))
            after = i + 1 + len(lines)
        self._say()
        if not self._cues:
            raise InvalidValue(
                f"There are no captions in {self._name}: no line of it says when one begins and ends, such as"
                " 00:00:01.000 --> 00:00:04.000."
            )
        if len(self._cues) > MOST_CUES:
            raise InvalidValue(f"{self._name} has {len(self._cues)} cues; at most {MOST_CUES} can be brought in.")
        self._put_in_order()
        tail = self._notes(after, len(self._lines)).rstrip("\n") if self._vtt else ""
        return FoundCaptions(self._form, tuple(self._cues), self._head(begins), tuple(self._remarks), tail)

    def _outside_blocks(self) -> Iterator[tuple[int, str]]:
        """The lines that stand in no note, style or region of WebVTT, with their places."""
        block, fresh = False, True
        for i, line in enumerate(self._lines):
            if fresh and line.strip():
                block = self._form is CaptionForm.VTT and line.startswith(_BLOCKS)
            fresh = not line.strip()
            if not block:
                yield i, line

    def _text_of(self, first: int, stop: int) -> list[str]:
        """The lines of a cue's text: up to a blank line, or to the next cue's number where that line is missing."""
        lines = []
        for i in range(first, stop):
            if not self._lines[i].strip():
                break
            lines.append(self._lines[i])
        else:
            if lines and stop < len(self._lines) and _NUMBER.match(lines[-1]):
                lines.pop()
        return lines

    @property
    def _vtt(self) -> bool:
        return self._form is CaptionForm.VTT

    def _notes(self, first: int, stop: int) -> str:
        """The notes that stand between two lines, a blank line after each."""
        blocks = "\n".join(self._lines[first:stop]).split("\n\n")
        return clean("".join(f"{each.strip(chr(10))}\n\n" for each in blocks if each.lstrip("\n").startswith("NOTE")))

    def _name_above(self, times_at: int, first: int) -> str:
        """The name of a cue, which stands in the line above its times."""
        above = self._lines[times_at - 1] if self._vtt and times_at > first else ""
        return "" if above.startswith(_BLOCKS) else clean(above.strip())

    def _lead(self, first: int, times_at: int) -> str:
        """What stands before a cue's times: notes, and its name in the line above."""
        if not self._vtt:
            return ""
        name = self._name_above(times_at, first)
        return (self._notes(first, times_at - bool(name)) + (f"{name}\n" if name else ""))[:LONGEST_TEXT]

    def _take(self, i: int, match: re.Match[str], lines: list[str], lead: str) -> None:
        start_n, stop_n = _samples(match.groups()[:4]), _samples(match.groups()[4:8])
        text = clean("\n".join(line.rstrip() for line in lines))
        if start_n is None or stop_n is None or stop_n > LARGEST_N:
            self._leave_out(_NO_TIMES, i)
        elif stop_n <= start_n:
            self._leave_out("end before they begin", i)
        elif not plain_text(text, self._form).strip():
            self._leave_out("say nothing", i)
        elif len(text) > LONGEST_TEXT:
            self._leave_out("are far too long", i)
        else:
            self._cues.append(FoundCue(start_n, stop_n, text, clean(match[9] or "").strip()[:LONGEST_TEXT], lead))

    def _leave_out(self, why: str, i: int) -> None:
        self._left_out.setdefault(why, []).append(i + 1)

    def _say(self) -> None:
        for why, lines in self._left_out.items():
            one = {"have": "has", "end": "ends", "say": "says", "are": "is"}
            words = why.replace(" they begin", " it begins") if len(lines) == 1 else why
            first, _, rest = words.partition(" ")
            cues = f"1 cue {one[first]} {rest}" if len(lines) == 1 else f"{len(lines)} cues {words}"
            was = "was" if len(lines) == 1 else "were"
            self._remarks.append(
                f"{cues} and {was} left out ({'line' if len(lines) == 1 else 'the first in line'} {lines[0]})."
            )

    def _put_in_order(self) -> None:
        wrong = sum(b.start_n < a.start_n for a, b in pairwise(self._cues))
        if wrong:
            self._remarks.append(f"{_many(wrong, 'cue stood', 'cues stood')} out of order; all are in order now.")
        self._cues.sort(key=lambda cue: (cue.start_n, cue.stop_n))
        over = [b for a, b in pairwise(self._cues) if b.start_n < a.stop_n]
        if over:
            said = _many(len(over), "cue begins", "cues begin")
            self._remarks.append(
                f"{said} before the one before is over (first at {clock(over[0].start_n)}); both are kept."
            )

    def _head(self, stop: int) -> str:
        """What stands behind WEBVTT and before the notes and the name of the first cue."""
        if not self._vtt or not self._lines[0].lstrip("\ufeff").startswith("WEBVTT"):
            return ""
        head = "\n".join(line for line in self._lines[:stop] if not line.startswith(_MAP))
        return clean(head.lstrip("\ufeff").removeprefix("WEBVTT")).rstrip()


def _many(count: int, one: str, more: str) -> str:
    return f"1 {one}" if count == 1 else f"{count} {more}"


def _samples(groups: tuple[str | None, ...]) -> int | None:
    """Samples of hours, minutes, seconds and a fraction; None where there are more than 59 minutes or seconds."""
    hours, minutes, seconds, fraction = groups
    if int(minutes or 0) > 59 or int(seconds or 0) > 59:
        return None
    ms = int((fraction or "0").ljust(3, "0"))
    return ((int(hours or 0) * 60 + int(minutes or 0)) * 60 + int(seconds or 0)) * RATE + ms * RATE // 1000


def _as(text: str, form: CaptionForm, wanted: CaptionForm) -> str:
    """A text in another format: bold, italics and underlines stay."""
    if form is wanted:
        return text
    if wanted is CaptionForm.SRT:
        return html.unescape(TAG.sub(lambda tag: tag[0] if _KEPT_TAG.fullmatch(tag[0]) else "", text))
    parts = re.split(r"(</?[biu]>)", TAG.sub(_kept_in_vtt, _BARE_AND.sub("&amp;", PLACE.sub("", text))))
    return "".join(
        part if _KEPT_TAG.fullmatch(part) else part.replace("<", "&lt;").replace(">", "&gt;") for part in parts
    )


def _kept_in_vtt(tag: re.Match[str]) -> str:
    low = tag[0].lower()
    return low if _KEPT_TAG.fullmatch(low) else ""


def in_marks(text: str, form: CaptionForm, wanted: CaptionForm) -> str:
    """A text with the marks of the wanted format, without blank lines; `form` is the one it is in."""
    return "\n".join(line for line in _as(text, form, wanted).split("\n") if line.strip())


def write(
    out: TextIO, cues: Iterable[Shown], *, form: CaptionForm, wanted: CaptionForm, head: str = "", tail: str = ""
) -> None:
    """Cues as a file in the wanted format; `form` is the one their texts are in. A blank line in a text would end it,
    and is left out. WebVTT that was WebVTT has its head, its notes and the names of its cues as they came; else
    cues are numbered."""
    as_it_came = form is wanted is CaptionForm.VTT
    if wanted is CaptionForm.VTT:
        gap = "\n\n" if head.startswith(("STYLE", "REGION")) else ""  # older heads begin with these
        out.write(f"WEBVTT{gap}{head}\n" if as_it_came else "WEBVTT\n")
    led: set[int] = set()
    for i, each in enumerate(cues, 1):
        text = in_marks(each.cue.text, form, wanted)
        place = f" {each.cue.settings}" if as_it_came and each.cue.settings else ""
        begins = "\n" if wanted is CaptionForm.VTT or i > 1 else ""
        lead = f"{i}\n" if not as_it_came else "" if each.index in led else each.cue.lead
        led.add(each.index)  # of one that was cut the rest has neither notes nor name
        out.write(f"{begins}{lead}{_time(each.start_n, wanted)} --> {_time(each.stop_n, wanted)}{place}\n{text}\n")
    if as_it_came and tail:
        out.write(f"\n{tail}\n")


def _time(time_n: int, form: CaptionForm) -> str:
    ms = round(time_n * 1000 / RATE)
    dot = "." if form is CaptionForm.VTT else ","
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}{dot}{ms % 1000:03d}"
