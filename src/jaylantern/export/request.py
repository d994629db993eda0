"""What is asked for when something is handed off, checked as it was sent or kept."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from fractions import Fraction
from typing import Any

from jaylantern.core.edit.ending import Ending
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.described import described, noun, read
from jaylantern.core.timeline.kinds import Choice, Ids, Kind, Line, Number, refused
from jaylantern.core.timeline.timecode import rate_of_text
from jaylantern.errors import InvalidValue
from jaylantern.media.film import QUALITIES
from jaylantern.media.film_sound import SOUND_TRACKS, SoundTrack
from jaylantern.media.sound_files import Form, form_of
from jaylantern.support import file_names

PATTERN = "{project} - {what} {time}"
TOKENS = ("project", "what", "date", "time")
LONGEST_FADE_S = 60
GAINS = ("over time", "printed")  # how objects carry their ducking


class Extent(StrEnum):
    """What of the timeline is handed off as sound."""

    WHOLE = "whole"
    IN_OUT = "in-out"
    CHOSEN = "chosen"


@dataclass(frozen=True)
class OneOf(Kind):
    """One of some words."""

    words: tuple[str, ...]

    def checked(self, value: object, what: str) -> str:
        """The word."""
        if value not in self.words:
            raise refused(what, value, f"one of {', '.join(self.words)}", "Choose one of them.")
        return str(value)


@dataclass(frozen=True)
class Seconds(Number):
    """Seconds, as a number or as typed."""

    def checked(self, value: object, what: str) -> float:
        """The number."""
        try:
            return super().checked(float(value) if isinstance(value, str) else value, what)
        except ValueError:
            raise refused(what, value, f"from {self.low:g} to {self.high:g} s", self.remedy) from None


@dataclass(frozen=True)
class Pattern(Kind):
    """A pattern of file names."""

    def checked(self, value: object, what: str) -> str:
        """The pattern; the usual one for an empty one."""
        pattern = str(value or PATTERN).strip()[:200] or PATTERN
        if re.search(r"[{}]", re.sub("|".join(rf"\{{{token}\}}" for token in TOKENS), "", pattern)):
            known = ", ".join(f"{{{token}}}" for token in TOKENS)
            raise InvalidValue(f"A name can hold {known}; there is something else in braces in {pattern[:60]!r}.")
        return pattern


@dataclass(frozen=True)
class Language(Kind):
    """A language by three letters (ISO 639-2), or none."""

    def checked(self, value: object, what: str) -> str:
        """The letters, small."""
        text = str(value or "").strip().lower()
        if text and not re.fullmatch("[a-z]{3}", text):
            raise InvalidValue(f"A language is said by three letters of ISO 639-2, such as eng; {text[:20]!r} is not.")
        return text


@dataclass(frozen=True)
class FrameRate(Kind):
    """Frames a second as text, or none."""

    def checked(self, value: object, what: str) -> Fraction | None:
        """The rate."""
        return rate_of_text(str(value)) if value else None


@noun
class _Sent:
    """A request as it is sent: what may be left out is as usual."""

    form: str = described(Kind(), default="wav24")
    rate: int = described(Kind(), default=RATE)
    range: Extent = described(Choice(Extent), default=Extent.WHOLE)
    clip_ids: list[int] = described(Ids("Choose clips on the timeline first."), default=())
    pattern: str = described(Pattern(), default=PATTERN)
    asked_at: str = described(Line(40), default="")
    track: str = described(OneOf(tuple(SOUND_TRACKS)), default="aac")
    quality: str = described(OneOf(tuple(QUALITIES)), default="medium")
    keep: bool | str = described(Kind(), default=False)
    parts: bool | str = described(Kind(), default=False)
    texts: bool | str = described(Kind(), default=True)
    language: str = described(Language(), default="")
    ending: Ending = described(Choice(Ending), default=Ending.PICTURE)
    gains: str = described(OneOf(GAINS), default=GAINS[0])
    fade_s: float = described(Seconds(0, LONGEST_FADE_S, "s", "A fade lasts a minute at most."), default=2.0)
    fps: Fraction | None = described(FrameRate(), default=None)


@dataclass(frozen=True)
class ExportRequest:
    """What is asked for: form and rate of sound files, which extent, of which clips alone, names by which pattern."""

    what: str
    form: Form
    rate: int
    range: Extent = Extent.WHOLE
    clip_ids: frozenset[int] = frozenset()
    pattern: str = PATTERN
    asked_at: str = ""
    track: SoundTrack = SOUND_TRACKS["aac"]  # of a film
    quality: str = "medium"  # of a picture that is encoded anew
    keep: bool = False  # the film's own sound, as a further track
    parts: bool = False  # of a film: speech alone and music alone as further tracks
    texts: bool = True  # of a film: markers as chapters, captions as tracks
    language: str = ""  # of a film's tracks: ISO 639-2, "" where it is not said
    ending: Ending = Ending.PICTURE  # of a film
    fade_s: float = 2.0  # of music that is cut off where a film ends
    gains: str = GAINS[0]  # of objects
    fps: Fraction | None = None  # of a film; None keeps the times of its frames

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON, from which `request_of` makes it again."""
        return {
            **vars(self),
            "form": self.form.name,
            "clip_ids": sorted(self.clip_ids),
            "track": self.track.name,
            "fps": None if self.fps is None else str(self.fps),
        }

    @property
    def when(self) -> datetime:
        """When it was asked for."""
        return datetime.fromisoformat(self.asked_at) if self.asked_at else datetime.now()

    def name(self, project: str, what: str) -> str:
        """A file's name without its ending, fit for any system."""
        when = self.when
        values = {"project": project, "what": what, "date": f"{when:%Y-%m-%d}", "time": f"{when:%H%M%S}"}
        pattern = self.pattern if "{what}" in self.pattern else self.pattern + " {what}"
        text = re.sub(r"\{(\w+)\}", lambda found: values[found[1]], pattern)
        if len(text.encode(errors="replace")) <= file_names.MOST_BYTES:
            return file_names.fit(text, otherwise="project")
        tail = file_names.fit(what, most_bytes=file_names.MOST_BYTES // 2)  # by which files of one project differ
        head = file_names.fit(text, most_bytes=file_names.MOST_BYTES - len(tail.encode()) - 1, otherwise="project")
        return f"{head} {tail}"


def request_of(values: Mapping[str, Any], forms: tuple[str, ...]) -> ExportRequest:
    """A request as it was sent or kept; `forms` are the names of all that can be handed off. Raises InvalidValue."""
    what = OneOf(forms).checked(values.get("what"), "What is handed off")
    kept = {**values, "range": values.get("range", values.get("stretch"))}  # as one of an older version calls it
    sent = read(_Sent, {name: value for name, value in kept.items() if value is not None})
    form, rate = form_of(sent.form, sent.rate)
    return ExportRequest(
        what,
        form,
        rate,
        range=sent.range,
        clip_ids=frozenset(sent.clip_ids),
        pattern=sent.pattern,
        asked_at=sent.asked_at,
        track=SOUND_TRACKS[sent.track],
        quality=sent.quality,
        keep=sent.keep in (True, "keep"),
        parts=sent.parts in (True, "parts"),
        texts=sent.texts in (True, "texts"),
        language=sent.language,
        ending=sent.ending,
        fade_s=sent.fade_s,
        gains=sent.gains,
        fps=sent.fps,
    )
