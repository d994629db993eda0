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


@dataclass(frozen=True)
class FoundCue:
    """A cue of a file: samples, its text as it stands there, the settings of its place."""

    start_n: int
    stop_n: int
    text: str
    settings: str = ""


@dataclass(frozen=True)
class FoundCaptions:
    """What a file holds: its cues in order of time, what stood before them, and what should be known of it."""

    form: CaptionForm
    cues: tuple[FoundCue, ...]
    head: str = ""
    remarks: tuple[str, ...] = ()

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
    text, remarks = _decoded(data)
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    is_vtt = lines[0].lstrip("\ufeff").startswith("WEBVTT")
    form = CaptionForm.VTT if is_vtt or name.lower().endswith(".vtt") else CaptionForm.SRT
    if form is CaptionForm.VTT and not is_vtt:
        remarks.append("It does not begin with WEBVTT, as it should; it was read all the same.")
    return _Reading(name, form, lines, remarks).found()


def _decoded(data: bytes) -> tuple[str, list[str]]:
    """Its text, and a remark where it had to be guessed how it is written."""
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, "replace"), []
    try:
        return data.decode("utf-8"), []
    except UnicodeDecodeError:
        pass
    best = charset_normalizer.from_bytes(data).best()
    encoding = best.encoding if best else "cp1252"
    said = f"It is not written in UTF-8 and was read as {encoding.replace('_', '-')}."
    remark = f"{said} Where letters look wrong, save it as UTF-8 and bring it in again."
    return str(best) if best else data.decode("cp1252", "replace"), [remark]


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
        ends = [i for i, _ in times[1:]]
        for (i, match), stop in zip(times, (*ends, len(self._lines)), strict=False):
            self._take(i, match, self._text_of(i + 1, stop))
        self._say()
        if not self._cues:
            raise InvalidValue(
                f"There are no captions in {self._name}: no line of it says when one begins and ends, such as"
                " 00:00:01.000 --> 00:00:04.000."
            )
        if len(self._cues) > MOST_CUES:
            raise InvalidValue(f"{self._name} has {len(self._cues)} cues; at most {MOST_CUES} can be brought in.")
        self._put_in_order()
        return FoundCaptions(self._form, tuple(self._cues), self._head(times[0][0]), tuple(self._remarks))

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

    def _take(self, i: int, match: re.Match[str], lines: list[str]) -> None:
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
            self._cues.append(FoundCue(start_n, stop_n, text, clean(match[9] or "").strip()[:LONGEST_TEXT]))

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

    def _head(self, first: int) -> str:
        """Styles and regions, which stand before the first cue."""
        if self._form is not CaptionForm.VTT:
            return ""
        blocks = "\n".join(self._lines[1:first]).split("\n\n")
        return clean(
            "\n\n".join(block.strip("\n") for block in blocks if block.lstrip("\n").startswith(("STYLE", "REGION")))
        )


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


def write(out: TextIO, cues: Iterable[Shown], *, form: CaptionForm, wanted: CaptionForm, head: str = "") -> None:
    """Cues as a file in the wanted format, numbered; `form` is the one their texts are in. A blank line in a text would
    end it, and is left out."""
    if wanted is CaptionForm.VTT:
        out.write("WEBVTT\n" + (f"\n{head}\n" if head and form is wanted else ""))
    for i, each in enumerate(cues, 1):
        text = in_marks(each.cue.text, form, wanted)
        place = f" {each.cue.settings}" if wanted is CaptionForm.VTT is form and each.cue.settings else ""
        begins = "\n" if wanted is CaptionForm.VTT or i > 1 else ""
        out.write(f"{begins}{i}\n{_time(each.start_n, wanted)} --> {_time(each.stop_n, wanted)}{place}\n{text}\n")


def _time(time_n: int, form: CaptionForm) -> str:
    ms = round(time_n * 1000 / RATE)
    dot = "." if form is CaptionForm.VTT else ","
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}{dot}{ms % 1000:03d}"
