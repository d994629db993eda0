"""Edit decision lists in the manner of CMX 3600, out and in.

One event a line: number, reel, channels, transition, source in and out, record in and out, all in timecode; comments
behind it. Source: the format's description as editing handbooks print it, from memory. It carries cuts of one picture
and four sound channels, and dissolves; no gain, no tag, no curve, no marker, and no time finer than a frame.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import chain, count, pairwise
from unicodedata import combining, normalize

from jaylantern.core.timeline import picture
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.imported import ImportedProject, MissingMedia
from jaylantern.core.timeline.kinds import LARGEST_N
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.timecode import DROPPING, frame_of, nearest_frame, rate_of_text, time_of, timecode
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.interchange.foreign import ForeignTimeline

CHANNELS = ("A", "A2", "A3", "A4")
MOST_EVENTS = 999
MOST_LINES, MOST_READ = 200_000, 10_000  # of a list that is read, and events among them
LONGEST_DISSOLVE = 999
LEADER_S = 120  # what lies so near before a whole hour, and not alone, is a leader: common practice
NOT_CARRIED = "gains and gain lines, mutes, tags, fades, the curve, what is done to voices, corrections and markers"
StartOf = Callable[[Media], int]


@dataclass(frozen=True)
class _Event:
    """One event in frames; `before` is what it dissolves from, `dissolve` for how long."""

    channel: str
    clip: Clip
    source: int
    start: int
    stop: int
    before: tuple[Clip, int] | None = None  # the clip, and its source frame where the dissolve begins
    dissolve: int = 0


def lists(project: Project, *, fps: Fraction, start_of: StartOf) -> list[str]:
    """The project as so many lists as it takes: four sound lanes and 999 events go into one, pictures into the first.

    `start_of` answers where the timecode of a medium begins, in samples. Record time begins at the hour that is set.
    """
    shown = [_Event("V", *_placed(piece.clip, piece.start_n, piece.stop_n, fps, start_of))
             for piece in picture.pieces(project) if piece.clip is not None]  # fmt: skip
    sounding = [lane for lane in project.lanes if lane.kind is LaneKind.SOUND and lane.clips]
    groups = [sounding[i : i + len(CHANNELS)] for i in range(0, len(sounding), len(CHANNELS))] or [[]]
    reels = _Reels(start_of)
    found = []
    for i, group in enumerate(groups):
        events = [] if i else shown
        for channel, lane in zip(CHANNELS, group, strict=False):
            events = [*events, *_sound_events(channel, lane, fps, start_of)]
        events = sorted((e for e in events if e.stop > e.start), key=lambda e: (e.start, e.channel != "V", e.channel))
        for j in range(0, max(1, len(events)), MOST_EVENTS):
            found.append(_text(project, events[j : j + MOST_EVENTS], group, fps, reels))
    return found


def _placed(clip: Clip, start_n: int, stop_n: int, fps: Fraction, start_of: StartOf) -> tuple[Clip, int, int, int]:
    source_n = start_of(clip.media) + clip.offset_n + start_n - clip.start_n
    return clip, nearest_frame(source_n, fps), nearest_frame(start_n, fps), nearest_frame(stop_n, fps)


def _sound_events(channel: str, lane: Lane, fps: Fraction, start_of: StartOf) -> Iterator[_Event]:
    """The clips of a lane; where two cross over, the first ends where they begin to, and the second dissolves in."""
    for before, clip, after in _neighbours(lane.clips):
        stop_n = clip.stop_n if after is None else min(clip.stop_n, after.start_n)
        event = _Event(channel, *_placed(clip, clip.start_n, stop_n, fps, start_of))
        if before is not None and before.stop_n > clip.start_n:
            length = nearest_frame(before.stop_n, fps) - event.start
            from_n = start_of(before.media) + before.offset_n + clip.start_n - before.start_n
            length = min(length, LONGEST_DISSOLVE, event.stop - event.start)
            event = replace(event, before=(before, nearest_frame(from_n, fps)), dissolve=length)
        yield event


def _neighbours(clips: Sequence[Clip]) -> Iterator[tuple[Clip | None, Clip, Clip | None]]:
    yield from zip((None, *clips[:-1]), clips, (*clips[1:], None), strict=True)


class _Reels:
    """Names of reels: at most eight capital letters and figures, no two media alike."""

    def __init__(self, start_of: StartOf) -> None:
        self._names: dict[int, str] = {}
        self.start_of = start_of

    def name(self, media: Media) -> str:
        """The reel of a medium."""
        if media.id not in self._names:
            plain = re.sub(r"[^A-Z0-9]", "", media.name.rsplit(".", 1)[0].upper()) or "REEL"
            taken = set(self._names.values()) | {"BL", "AX"}
            tries = (plain[: 8 - len(ending)] + ending for ending in chain([""], map(str, count(2))))
            self._names[media.id] = next(each for each in tries if each not in taken)
        return self._names[media.id]


SPELLED = {
    "ä": "ae", "ö": "oe", "ü": "ue", "Ä": "Ae", "Ö": "Oe", "Ü": "Ue", "ß": "ss", "æ": "ae", "Æ": "Ae", "ø": "oe",
    "Ø": "Oe", "å": "aa", "Å": "Aa", "œ": "oe", "Œ": "Oe", "þ": "th", "Þ": "Th", "ð": "d", "Ð": "D", "ł": "l", "Ł": "L",
    "đ": "d", "Đ": "D", "ı": "i", "–": "-", "—": "-", "‘": "'", "’": "'", "“": '"', "”": '"', "„": '"', "…": "...",
}  # fmt: skip


def in_ascii(text: str) -> str:
    """A name in the letters that a list can hold: umlauts and the like spelled out, accents left away. What has no such
    letters (another script) stands as it is: readers of today take UTF-8."""
    spelled = "".join(SPELLED.get(c, c) for c in text)
    bare = "".join(c for c in normalize("NFD", spelled) if not combining(c))
    return " ".join("".join(c if c.isprintable() else " " for c in bare).split())


def _text(project: Project, events: Sequence[_Event], lanes: Sequence[Lane], fps: Fraction, reels: _Reels) -> str:
    first = frame_of(f"{project.settings.start_hour:02.0f}:00:00:00", fps)
    title = in_ascii(project.name)[:60].strip()
    lines = [
        f"TITLE: {title or 'UNTITLED'}",
        f"FCM: {'DROP FRAME' if fps in DROPPING else 'NON-DROP FRAME'}",
        "",
    ]
    about = [  # behind the events: some readers want nothing before them
        f"* FRAME RATE: {fps.numerator}/{fps.denominator}",
        *(f"* CHANNEL {channel}: {lane.name}" for channel, lane in zip(CHANNELS, lanes, strict=False)),
        f"* NOT IN THIS LIST: {NOT_CARRIED}",
    ]

    def line(number: int, clip: Clip, channel: str, how: str, source: tuple[int, int], record: tuple[int, int]) -> str:
        codes = [timecode(source[0], fps), timecode(source[1], fps)]
        codes += [timecode(first + frame, fps) for frame in record]
        shown = {"A3": "NONE", "A4": "NONE"}.get(channel, channel)
        return f"{number:03d}  {reels.name(clip.media):<8} {shown:<5} {how:<8} {' '.join(codes)}"

    for number, each in enumerate(events, 1):
        source = (each.source, each.source + each.stop - each.start)
        record = (each.start, each.stop)
        if each.before is None or not each.dissolve:
            lines.append(line(number, each.clip, each.channel, "C", source, record))
            lines += _named(each, "FROM", each.clip)
        else:
            before, at = each.before
            lines.append(line(number, before, each.channel, "C", (at, at), (each.start, each.start)))
            lines.append(line(number, each.clip, each.channel, f"D    {each.dissolve:03d}", source, record))
            lines += _named(each, "FROM", before) + _named(each, "TO", each.clip)
    return "\n".join([*lines, *about]) + "\n"


def _named(event: _Event, way: str, clip: Clip) -> list[str]:
    aud = [f"AUD  {event.channel[1]}"] if event.channel in ("A3", "A4") and way == "FROM" else []
    return [*aud, f"* {way} CLIP NAME: {clip.media.name}"]


EVENT = re.compile(
    r"(?P<number>\d{1,6})\s+(?P<reel>\S.{0,80}?)\s+(?P<channels>[A-Z0-9/]{1,12})\s+(?P<how>C|D|W\d{1,3}|KB?|KO)\s+(?:(?P<frames>\d{1,3})\s+)?"
    r"(?P<times>(?:\d{2}[:;.]\d{2}[:;.]\d{2}[:;.,]\d{2,3}\s*){4})$"
)
NAMED = re.compile(r"\*\s*(?P<way>FROM|TO) CLIP NAME\s*:\s*(?P<name>.+)", re.IGNORECASE)
PLACED = re.compile(r"\*\s*LOC\s*:\s*(?P<time>\S+)\s+\S+\s*(?P<name>.*)", re.IGNORECASE)
RATED = re.compile(r"\*\s*FRAME RATE\s*:\s*(?P<rate>[\d./]+)", re.IGNORECASE)


@dataclass
class _Read:
    """An event as it was read, in the order of the file."""

    line: int
    reel: str
    channels: list[str]
    how: str
    frames: int
    times: list[str]
    name: str = ""


@dataclass
class _Found:
    title: str = ""
    drop: bool = False
    rate: Fraction | None = None
    events: list[_Read] = field(default_factory=list)
    marks: list[tuple[str, str]] = field(default_factory=list)
    speeds: int = 0


def read(text: bytes, name: str, *, fps: Fraction | None = None) -> ImportedProject:
    """A list as a project. It does not say its frame rate: where `fps` does not either, it is told from its timecodes.

    Times of media are those of their timecode; where that begins is found when they are relinked. Raises MediaError
    for what is no list, with the line at fault.
    """
    found = _lines(text, name)
    rate = fps or found.rate or _rate(found)
    try:
        return _project(found, name, rate)
    except InvalidValue as error:
        raise MediaError(f"{name} can't be read as an edit decision list: {error}") from error


def _lines(text: bytes, name: str) -> _Found:
    found = _Found()
    lines = text.decode("utf-8-sig", "replace").splitlines()
    if len(lines) > MOST_LINES:
        raise MediaError(f"{name} has {len(lines)} lines; a list of at most {MOST_LINES} can be read.")
    for number, raw in enumerate(lines, 1):
        line = raw.strip()
        if not line:
            continue
        event = EVENT.match(line)
        if event is not None:
            found.events.append(_event(event, number))
        elif line[0].isdigit() and len(line.split()) > 4:
            raise MediaError(f"{name}, line {number}: an event can't be read: {line[:60]!r}.")
        else:
            _remark(found, line)
    if len(found.events) > MOST_READ:
        raise MediaError(f"{name} has {len(found.events)} events; a list of at most {MOST_READ} can be read.")
    if not found.events:
        raise MediaError(f"{name} is no edit decision list: there is no event in it.")
    return found


def _event(found: re.Match[str], line: int) -> _Read:
    channels = {"B": ["V", "A"], "AA": ["A", "A2"], "A1": ["A"], "V1": ["V"], "NONE": []}
    said = found["channels"].upper()
    parts = [part for each in said.split("/") for part in channels.get(each, [each])]
    return _Read(line, found["reel"], parts, found["how"], int(found["frames"] or 0), found["times"].split())


def _remark(found: _Found, line: str) -> None:
    """A line that is no event: of the whole list, or of the event before it."""
    upper = line.upper()
    if upper.startswith("TITLE:"):
        found.title = line[6:].strip()
    elif upper.startswith("FCM:"):
        found.drop = "NON" not in upper and "DROP" in upper
    elif upper.startswith("M2"):
        found.speeds += 1
    elif upper.startswith("AUD") and found.events:
        found.events[-1].channels += [f"A{part}" for part in line.split()[1:] if part in ("3", "4")]
    elif (named := NAMED.match(line)) is not None and found.events:
        last = found.events[-1]
        dissolves = last.how != "C" and len(found.events) > 1
        (found.events[-2] if dissolves and named["way"].upper() == "FROM" else last).name = named["name"].strip()[:200]
    elif (placed := PLACED.match(line)) is not None:
        found.marks.append((placed["time"], placed["name"].strip()[:200] or "marker"))
    elif (rated := RATED.match(line)) is not None:
        with suppress(InvalidValue):
            found.rate = rate_of_text(rated["rate"])


def _rate(found: _Found) -> Fraction:
    """The rate that is likely meant: the lowest usual one that has room for every frame number."""
    if found.drop or any(";" in time for event in found.events for time in event.times):
        return DROPPING[0]
    highest = max(int(re.split(r"[:;.,]", time)[-1]) for event in found.events for time in event.times)
    return next(
        (rate for rate in (Fraction(25), Fraction(30), Fraction(50), Fraction(60)) if highest < rate), Fraction(60)
    )


def _project(found: _Found, name: str, fps: Fraction) -> ImportedProject:
    hour, origin_n = _begins(found, fps)
    laid = _Laid(fps=fps, origin_n=origin_n)
    laid.leave_out("changes of speed", found.speeds)
    for before, event in pairwise([None, *found.events]):
        assert event is not None
        laid.place(event, before)
    markers = tuple(
        Marker(i, max(0, time_of(frame_of(time, fps), fps) - origin_n), text)
        for i, (time, text) in enumerate(found.marks, 1)
    )
    remarks = [] if found.rate else [f"Read at {float(fps):.6g} frames a second, as the list does not say otherwise."]
    title = " ".join(found.title.split())[:200] or name.rsplit(".", 1)[0]
    settings = Settings(start_hour=hour)
    return laid.project(title, laid.finished(laid.lanes()), remarks=remarks, markers=markers, settings=settings)


def _begins(found: _Found, fps: Fraction) -> tuple[int, int]:
    """The hour at which the programme begins, and where on its timecode the timeline does, in samples: at that whole
    hour; where a leader stands before it, with the leader."""
    first = min((event.times[2] for event in found.events), key=lambda time: frame_of(time, fps))
    hour, frame = int(first[:2]), frame_of(first, fps)
    next_hour = frame_of(f"{(hour + 1) % 24:02d}:00:00:00", fps)
    leads = 0 < next_hour - frame <= LEADER_S * fps and any(
        frame_of(event.times[2], fps) >= next_hour for event in found.events
    )
    return (hour + 1, time_of(frame, fps)) if leads else (hour, time_of(frame_of(f"{hour:02d}:00:00:00", fps), fps))


LANES = {"V": "Picture", "A": "Sound 1", "A2": "Sound 2", "A3": "Sound 3", "A4": "Sound 4"}


@dataclass
class _Laid(ForeignTimeline):
    """Events laid onto their channels, one after another as the list has them."""

    fps: Fraction = Fraction(25)
    origin_n: int = 0
    rows: dict[str, list[Clip]] = field(default_factory=lambda: {channel: [] for channel in LANES})
    numbers: Iterator[int] = field(default_factory=lambda: count(1))

    def lanes(self) -> tuple[Lane, ...]:
        """The channels on which something lies."""
        return tuple(
            Lane(
                i,
                LANES[channel],
                LaneKind.PICTURE if channel == "V" else LaneKind.SOUND,
                clips=tuple(sorted(row, key=lambda clip: (clip.start_n, clip.id))),
            )
            for i, (channel, row) in enumerate(((each, row) for each, row in self.rows.items() if row), 1)
        )

    def place(self, event: _Read, before: _Read | None) -> None:
        """Lay an event down; what it covers of earlier ones gives way, but for the length of a dissolve."""
        try:
            frames = [frame_of(time, self.fps) for time in event.times]
        except InvalidValue as error:
            raise InvalidValue(f"line {event.line}: {error}") from error
        offset_n = time_of(frames[0], self.fps)
        start_n, stop_n = (time_of(frame, self.fps) - self.origin_n for frame in frames[2:])
        if event.how.startswith("K"):
            self.leave_out("keys")
            return
        if stop_n <= start_n or event.reel.upper() == "BL":
            return
        if start_n < 0 or stop_n > LARGEST_N:
            raise InvalidValue(f"line {event.line}: it lies outside the 24 hours a timeline can have.")
        if abs((frames[1] - frames[0]) - (frames[3] - frames[2])) > 1:
            self.leave_out("changes of speed")
        called = event.name or (before.name if before and before.reel == event.reel else "") or event.reel
        medium = self.called(called, offset_n + stop_n - start_n)
        channels = [each for each in event.channels if each in LANES]
        link = next(self.numbers) if {"V", "A"} <= set(channels) else None
        if "A" in channels and "A2" in channels:
            channels.remove("A2")  # both sound channels of one source are one stereo clip
        for channel in channels:
            over_n = time_of(event.frames, self.fps) if event.how != "C" and channel != "V" else 0
            if event.how != "C" and channel == "V":
                self.leave_out("dissolves and wipes of pictures")
            row = self.rows[channel]
            if over_n or any(each.stop_n > start_n for each in row):
                left = (self.given_way(each, start_n, stop_n, over_n) for each in row)
                self.rows[channel] = row = [each for each in left if each is not None]
            row.append(Clip(next(self.numbers), called, medium, start_n, offset_n, stop_n - start_n, link=link))

    def called(self, name: str, length_n: int) -> Media:
        """The stand-in of a medium of this name, at least so long."""
        return self.needed(name, max(1, length_n), number=len(self.media) + 1, about=MissingMedia(name))

    def given_way(self, clip: Clip, start_n: int, stop_n: int, over_n: int) -> Clip | None:
        """An earlier clip with what a later one covers taken off its end, or, dissolved from, so much longer."""
        if over_n and clip.stop_n == start_n:
            length_n = clip.length_n + min(over_n, stop_n - start_n)
            return replace(clip, media=self.called(clip.media.name, clip.offset_n + length_n), length_n=length_n)
        if clip.stop_n <= start_n or stop_n <= clip.start_n:
            return clip
        return replace(clip, length_n=start_n - clip.start_n) if clip.start_n < start_n else None
