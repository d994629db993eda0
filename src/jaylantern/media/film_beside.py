"""What a film carries beside picture and mix: further sounds, captions, chapters, a language, what it measures."""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np
from av.stream import Disposition
from av.subtitles.subtitle import SubtitleSet

from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE

REFERENCE_LUFS = -18.0  # of ReplayGain 2.0
CODECS = {"mp4": "mov_text", "matroska": "subrip"}
MARKS = re.compile(r"<(/?)([biu])>", re.IGNORECASE)
STYLE = (  # what encoders of texts ask for: Advanced SubStation Alpha with one style
    b"[Script Info]\r\nScriptType: v4.00+\r\nPlayResX: 384\r\nPlayResY: 288\r\n\r\n[V4+ Styles]\r\n"
    b"Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic,"
    b" Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, MarginR,"
    b" MarginV, Encoding\r\n"
    b"Style: Default,Arial,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,1\r\n\r\n[Events]\r\n"
    b"Format: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\r\n"
)


@dataclass(frozen=True)
class FurtherSound:
    """A further sound track: its title, its blocks (n, 2) at 48 kHz, how players are told what it is."""

    title: str
    blocks: Iterator[np.ndarray]
    kind: Disposition


@dataclass(frozen=True)
class Cue:
    """A text on the picture at [start_n, stop_n), with the marks of SubRip."""

    start_n: int
    stop_n: int
    text: str


@dataclass(frozen=True)
class CaptionTrack:
    """Captions of that title, in order of time."""

    title: str
    cues: Sequence[Cue]


@dataclass(frozen=True)
class Chapter:
    """A chapter that begins there."""

    start_n: int
    title: str


@dataclass(frozen=True)
class Beside:
    """What a film of so many samples carries beside picture and mix. `language` is a code of ISO 639-2, "" where it is
    not said; `measured` what the mix measures."""

    length_n: int = 0
    sounds: Sequence[FurtherSound] = ()
    captions: Sequence[CaptionTrack] = ()
    chapters: Sequence[Chapter] = ()
    language: str = ""
    measured: Loudness | None = None


NOTHING = Beside()


def titled(title: str, language: str = "") -> dict[str, str]:
    """What a track is called, for either container."""
    return {"title": title, "handler_name": title} | ({"language": language} if language else {})


def loudness_tags(found: Loudness | None) -> dict[str, str]:
    """Tags of a track of Matroska: the gain that brings it to ReplayGain's reference, its peak, and both in words."""
    if found is None or not np.isfinite(found.integrated_lufs):
        return {}
    return {
        "REPLAYGAIN_TRACK_GAIN": f"{REFERENCE_LUFS - found.integrated_lufs:.2f} dB",
        "REPLAYGAIN_TRACK_PEAK": f"{10 ** (found.true_peak_dbtp / 20):.6f}",
        "COMMENT": f"{found.integrated_lufs:.1f} LUFS, {found.true_peak_dbtp:.1f} dBTP (ITU-R BS.1770, EBU R 128)",
    }


def put_chapters(out: Any, beside: Beside) -> None:
    """Give a film being written its chapters, each until the next one."""
    ends = [*(each.start_n for each in beside.chapters[1:]), beside.length_n]
    out.set_chapters(
        [
            {
                "id": number,
                "start": each.start_n,
                "end": max(end_n, each.start_n + 1),
                "time_base": Fraction(1, RATE),
                "metadata": {"title": each.title},
            }
            for number, (each, end_n) in enumerate(zip(beside.chapters, ends, strict=True), 1)
        ]
    )


def as_event(text: str) -> str:
    """A text with the marks of SubRip as an event of Advanced SubStation Alpha."""
    plain = text.replace("\\", "\\\u2060").replace("{", "\\{").replace("}", "\\}")
    marked = MARKS.sub(lambda mark: f"{{\\{mark[2].lower()}{0 if mark[1] else 1}}}", plain)
    return "0,0,Default,,0,0,0,," + marked.replace("\n", "\\N")


def one_at_a_time(cues: Sequence[Cue]) -> list[Cue]:
    """Cues as MP4 holds them: one at a time. What would stand together stands above each other while it does."""
    coming = deque(sorted(cues, key=lambda cue: cue.start_n))
    edges = sorted({edge for cue in cues for edge in (cue.start_n, cue.stop_n)})
    shown: list[Cue] = []
    found: list[Cue] = []
    for start_n, stop_n in pairwise(edges):
        shown = [cue for cue in shown if cue.stop_n > start_n]
        while coming and coming[0].start_n <= start_n:
            shown.append(coming.popleft())
        text = "\n".join(cue.text for cue in shown)
        if found and found[-1].stop_n == start_n and found[-1].text == text:
            found[-1] = replace(found[-1], stop_n=stop_n)
        elif text:
            found.append(Cue(start_n, stop_n, text))
    return found


class Texts:
    """Captions of a film being written, each written as its time comes."""

    def __init__(self, out: Any, track: CaptionTrack, *, language: str, first: bool) -> None:
        form = out.format.name
        self._out, self._cues = out, list(track.cues if form != "mp4" else one_at_a_time(track.cues))
        self._stream = out.add_stream(CODECS[form])
        self._stream.codec_context.subtitle_header = STYLE
        self._stream.codec_context.time_base = self._stream.time_base = Fraction(1, 1000)
        self._stream.metadata.update(titled(track.title, language))
        self._stream.disposition = Disposition.default if first else Disposition(0)
        self._next = 0

    def until(self, seconds: float) -> None:
        """Write what begins before a time."""
        while self._next < len(self._cues) and self._cues[self._next].start_n < seconds * RATE:
            cue = self._cues[self._next]
            self._next += 1
            start, stop = (round(n * 1000 / RATE) for n in (cue.start_n, cue.stop_n))
            event = SubtitleSet.create(as_event(cue.text).encode(), 0, max(1, stop - start), start)
            packet = self._stream.codec_context.encode_subtitle(event)
            packet.stream, packet.time_base = self._stream, Fraction(1, 1000)
            self._out.mux(packet)

    def finish(self) -> None:
        """Write the rest."""
        self.until(float("inf"))
