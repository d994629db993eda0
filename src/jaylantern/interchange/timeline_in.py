"""The timeline as OpenTimelineIO, in: any editor's tracks as lanes; our own with all that was result."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any
from urllib.parse import unquote, urlsplit

import opentimelineio as otio

from jaylantern.core.edit.draft import fitted
from jaylantern.core.signal.timebase import HOUR_N, RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.imported import ImportedProject, MediaAlias, MissingMedia
from jaylantern.core.timeline.kinds import ID, LARGEST_N, LENGTH, TIME, Maybe
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tailoring import TailoringKind
from jaylantern.core.timeline.timecode import rate_of
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.interchange.document import read_decisions
from jaylantern.interchange.foreign import ForeignTimeline
from jaylantern.interchange.plain import Plain, parsed
from jaylantern.interchange.timeline import KEY

MOST_CLIPS = 20_000
FRESH = 1 << 50  # numbers from here on are given to what has none of its own
HASH = 64
IN, OUT = Maybe(TIME), Maybe(LENGTH)
OWN_OF_LANE = ("id", "name", "kind")  # what the track itself says
OWN_OF_CLIP = ("id", "name", "media", "start_n", "offset_n", "length_n")  # what the item itself says


def read(text: bytes, name: str) -> ImportedProject:
    """A timeline from anywhere as a project. `name` is what its file is called.

    Media are stand-ins, known by the hash in our own metadata, else by their address. Compositions within a track are
    laid out flat, dissolves of sound become overlaps; what can't be carried over stands in the remarks. Raises
    MediaError for a file that is no timeline, InvalidValue for one that holds what no timeline can.
    """
    parsed(text, name)  # its depth and its spelling, before the library sees it
    try:
        found = otio.adapters.read_from_string(text.decode("utf-8", "replace"), "otio_json")
    except Exception as error:  # the library raises what comes to it
        said = str(error).splitlines()[0][:120] if str(error) else type(error).__name__
        raise MediaError(f"{name} is no OpenTimelineIO file that can be read: {said}.") from error
    return _Reading(name=name).imported(found)


def _first_hour(start: Any) -> int:
    """The hour at which a timeline of another program says that it begins; the first where it says nothing usable."""
    try:
        hour = to_n(start) // HOUR_N
    except (InvalidValue, AttributeError, TypeError, ValueError):
        return 1
    return hour if 0 < hour < 24 else 1


def to_n(time: Any) -> int:
    """A time of the library in samples at 48 kHz, exactly for rates that are meant exactly. Raises InvalidValue."""
    value, rate = float(time.value), float(time.rate)
    if not (math.isfinite(value) and math.isfinite(rate) and 1 <= rate <= 1_000_000):
        raise InvalidValue(f"A time of {value:g} at {rate:g} a second is none.")
    exact = rate_of(rate) if rate <= 1000 else Fraction(rate).limit_denominator(1001)
    found = round(Fraction(value) / exact * RATE)
    if not -LARGEST_N <= found <= LARGEST_N:
        raise InvalidValue(f"A time of {value / rate:.0f} s lies outside the 24 hours a timeline can have.")
    return found


@dataclass(frozen=True)
class _Placed:
    """A clip of the library where it lies: its first sample on the timeline, what of it may be seen.

    `before_n` and `after_n` are how far it reaches beyond its ends into a dissolve with its neighbours; `coming_n` and
    `going_n` how long it fades where it has none.
    """

    item: Any
    at_n: int
    from_n: int
    to_n: int
    before_n: int = 0
    after_n: int = 0
    coming_n: int = 0
    going_n: int = 0
    whole_n: int = 0  # of tailored music: how long all its pieces are together


@dataclass
class _Reading(ForeignTimeline):
    """One timeline being read."""

    name: str = ""
    markers: list[Marker] = field(default_factory=list)
    numbers: set[int] = field(default_factory=set)
    positions: dict[int, int] = field(default_factory=dict)  # of lanes, where the metadata tell
    fresh: int = FRESH

    def imported(self, found: Any) -> ImportedProject:
        """The project of a timeline."""
        if isinstance(found, otio.schema.SerializableCollection):
            timelines = [each for each in found if isinstance(each, otio.schema.Timeline)]
            self.leave_out("further timelines of the file", max(0, len(timelines) - 1))
            found = timelines[0] if timelines else found
        if not isinstance(found, otio.schema.Timeline):
            raise MediaError(f"{self.name} holds no timeline.")
        self.take_markers(found.tracks, 0)
        tracks = list(found.tracks)
        pictures = [track for track in tracks if isinstance(track, otio.schema.Track) and _is_picture(track)]
        others = [track for track in tracks if track not in pictures]
        rows = [lane for track in (*pictures[::-1], *others) if (lane := self.lane(track)) is not None]
        lanes = self.finished(self.linked(_merged(rows)))
        about = _about(found, "metadata")
        numbers = {medium.id for medium in self.media.values()}
        values, remarks = read_decisions(about, numbers, {lane.id for lane in lanes})
        aliases = tuple(
            each.noun(MediaAlias) for each in about.objects("called") if each.speaks_of("media_id", numbers)
        )
        if "settings" not in about.values:
            values["settings"] = values["settings"].changed({"start_hour": _first_hour(found.global_start_time)})
        title = " ".join(str(found.name or "").split())[:200] or PurePosixPath(self.name).stem or "Timeline"
        return self.project(
            title,
            lanes,
            remarks=remarks,
            aliases=aliases,
            markers=tuple(self.markers),
            in_n=about.value("in_n", IN, None),
            out_n=about.value("out_n", OUT, None),
            **values,
        )

    def linked(self, lanes: list[Lane]) -> list[Lane]:
        """The lanes in order, picture and sound of one stretch of a medium linked where nothing is linked yet."""
        if all(lane.id in self.positions for lane in lanes):
            lanes = sorted(lanes, key=lambda lane: self.positions[lane.id])
        pairs: dict[tuple[int, int, int, int], list[tuple[LaneKind, int]]] = {}
        for lane in lanes:
            for clip in lane.clips:
                place = (clip.media.id, clip.start_n, clip.offset_n, clip.length_n)
                pairs.setdefault(place, []).append((lane.kind, clip.id))
        if any(clip.link is not None for lane in lanes for clip in lane.clips):
            return lanes
        links: dict[int, int] = {}
        for i, pair in enumerate(pairs.values(), FRESH):
            if sorted(kind for kind, _ in pair) == [LaneKind.PICTURE, LaneKind.SOUND]:
                links |= {number: i for _, number in pair}
        return [
            replace(lane, clips=tuple(replace(clip, link=links.get(clip.id)) for clip in lane.clips)) for lane in lanes
        ]

    def number(self, stated: object) -> int:
        """A number no one else has: the stated one where it is free."""
        if (
            isinstance(stated, int)
            and not isinstance(stated, bool)
            and 0 < stated < FRESH
            and stated not in self.numbers
        ):
            self.numbers.add(stated)
            return stated
        self.fresh += 1
        return self.fresh

    def take_markers(self, item: Any, at_n: int) -> None:
        """The markers of an item whose own time 0 lies at `at_n`."""
        for each in item.markers:
            time_n = at_n + to_n(each.marked_range.start_time)
            if time_n >= 0:
                text = " ".join(str(each.name or each.comment or "").split())[:200]
                self.markers.append(Marker(len(self.markers) + 1, time_n, text or "marker"))

    def lane(self, track: Any) -> Lane | None:
        """A track as a lane, with `position` in its metadata kept for the order; None for what is no track."""
        if not isinstance(track, otio.schema.Track):
            self.leave_out("stacks beside the tracks")
            return None
        about = _about(track, "track")
        kind = LaneKind.PICTURE if _is_picture(track) else LaneKind.SOUND
        self.leave_out("effects of tracks", len(track.effects))
        stated = about.values.get("id")
        again = about.values.get("layer", 0) and stated in self.numbers  # a further row of a lane that is there
        clips = [clip for placed in self.flat(track, 0, 0, LARGEST_N) if (clip := self.clip(track, placed)) is not None]
        if len(clips) > MOST_CLIPS:
            raise InvalidValue(f"{self.name} has more than {MOST_CLIPS} clips on one track.")
        sound = about.fields(Lane, but=OWN_OF_LANE)
        if not getattr(track, "enabled", True):
            sound["muted"] = True
        number = int(stated) if again and isinstance(stated, int) else self.number(stated)
        if isinstance(about.values.get("position"), int):
            self.positions[number] = about.values["position"]
        return Lane(
            number,
            str(track.name or "")[:80] or kind.title(),
            kind,
            clips=tuple(clips),
            **sound,
        )

    def flat(self, parent: Any, at_n: int, from_n: int, to: int) -> Iterator[_Placed]:
        """The clips of a composition whose beginning lies at `at_n`, as far as they lie in [from_n, to)."""
        trimmed = parent.source_range
        if trimmed is not None:
            at_n -= to_n(trimmed.start_time)
            from_n = max(from_n, at_n + to_n(trimmed.start_time))
            to = min(to, at_n + to_n(trimmed.end_time_exclusive()))
        now_n = at_n
        children = list(parent)
        skipped = 0
        for i, child in enumerate(children):
            if skipped or isinstance(child, otio.schema.Transition):
                skipped -= bool(skipped)
                continue
            parts = _parts(children, i)
            if parts:
                total_n = sum(to_n(each.duration()) for each in parts[::2])
                self.medium(child, child.media_reference, 1)  # the recording
                yield _Placed(child, now_n, from_n, to, whole_n=total_n)
                now_n, skipped = now_n + total_n, len(parts) - 1
                continue
            length_n = to_n(child.duration())
            self.take_markers(child, now_n - to_n(child.trimmed_range().start_time))
            if isinstance(child, otio.schema.Clip):
                yield _Placed(child, now_n, from_n, to, **self.ends(children, i))
            elif isinstance(child, otio.core.Composition):
                self.leave_out("effects", len(child.effects))
                yield from self.flat(child, now_n, max(from_n, now_n), min(to, now_n + length_n))
            if not isinstance(parent, otio.schema.Stack):
                now_n += length_n

    def ends(self, children: list[Any], i: int) -> dict[str, int]:
        """How the transitions beside child i make it reach out or fade. The cut lies between their two offsets."""
        found: dict[str, int] = {}
        for step, dissolve, fade in ((-1, "before_n", "coming_n"), (1, "after_n", "going_n")):
            if not (0 <= i + step < len(children) and isinstance(children[i + step], otio.schema.Transition)):
                continue
            beyond = i + 2 * step
            alone = not 0 <= beyond < len(children) or isinstance(children[beyond], otio.schema.Gap)
            here = children[i + step]
            outward = here.in_offset if step < 0 else here.out_offset
            inward = here.out_offset if step < 0 else here.in_offset
            found |= {fade: max(0, to_n(inward))} if alone else {dissolve: max(0, to_n(outward))}
        return found

    def clip(self, track: Any, placed: _Placed) -> Clip | None:
        """A clip as far as it is seen; None where nothing of it is."""
        item, reference = placed.item, placed.item.media_reference
        about = _about(item, f"clip {item.name!r}"[:60])
        for effect in () if placed.whole_n else item.effects:
            timed = isinstance(effect, otio.schema.TimeEffect)
            self.leave_out("changes of speed" if timed else "effects")
        if isinstance(reference, otio.schema.GeneratorReference):
            self.leave_out("made pictures such as colour bars")
            return None
        span = item.trimmed_range()
        begins_n = to_n(reference.available_range.start_time) if reference and reference.available_range else 0
        offset_n, length_n = to_n(span.start_time) - begins_n, to_n(span.duration)
        if placed.whole_n:
            offset_n, length_n = about.value("offset_n", TIME), placed.whole_n
        picture = _is_picture(track)
        if picture and (placed.before_n or placed.after_n or placed.coming_n or placed.going_n):
            self.leave_out("dissolves and fades of pictures")
        before_n = 0 if picture else min(placed.before_n, max(0, offset_n))
        have_n = to_n(reference.available_range.duration) if reference and reference.available_range else LARGEST_N
        after_n = 0 if picture else max(0, min(placed.after_n, have_n - offset_n - length_n))
        start_n = max(placed.at_n - before_n, placed.from_n)
        stop_n = min(placed.at_n + length_n + after_n, placed.to_n)
        offset_n += start_n - placed.at_n
        if stop_n <= start_n:
            return None
        if start_n < 0 or offset_n < 0 or stop_n > LARGEST_N:
            raise InvalidValue(
                f"{self.name}: clip {str(item.name)[:60]!r} begins before its media or the timeline does."
            )
        needed_n = offset_n + stop_n - start_n
        medium = self.tailored(about, needed_n) if placed.whole_n else self.medium(item, reference, needed_n)
        sound = about.fields(Clip, but=OWN_OF_CLIP)
        if not picture and placed.coming_n:
            sound["fade_in"] = Fade(placed.coming_n)
        if not picture and placed.going_n:
            sound["fade_out"] = Fade(placed.going_n)
        if not getattr(item, "enabled", True):
            sound["muted"] = True
        number = self.number(about.values.get("id"))
        if number >= FRESH and isinstance(about.values.get("id"), int):
            sound |= {"root": sound["root"] or about.value("id", ID), "link": None}  # a copy made elsewhere
        name = about.line("name", "") or " ".join(str(item.name or medium.name).split())[:200]
        return fitted(Clip(number, name or medium.name, medium, start_n, offset_n, stop_n - start_n, **sound))

    def tailored(self, about: Plain, needed_n: int) -> Media:
        """The stand-in of tailored music."""
        tailoring = about.value("tailored", TailoringKind())
        if needed_n > tailoring.cut.length_n:
            raise InvalidValue(f"{self.name}: tailored music is shorter than its clip.")
        number = 0 if tailoring.sha256 in self.media else self.number(about.values.get("medium"))
        missing = MissingMedia(about.line("name", "") or "music", tailoring.sha256, tailored=tailoring)
        return self.needed(tailoring.sha256, tailoring.cut.length_n, number=number, about=missing)

    def medium(self, item: Any, reference: Any, needed_n: int) -> Media:
        """The stand-in of a clip's medium, at least as long as is needed of it."""
        about = _about(reference, "media reference")
        url = str(getattr(reference, "target_url", "") or "")
        sha256 = about.line("sha256", "")
        if len(sha256) != HASH:
            sha256 = ""
        name = about.line("name", "") or file_name(url) or str(getattr(reference, "name", "") or item.name or "")
        name = " ".join(name.split())[:200] or "unnamed file"
        known = sha256 or url or name
        available = reference.available_range if reference is not None else None
        length_n = max(needed_n, to_n(available.duration) if available else 0)
        number = 0 if known in self.media else self.number(about.values.get("id"))
        return self.needed(known, length_n, number=number, about=MissingMedia(name, sha256, url))


def file_name(url: str) -> str:
    """What a file is called that lies at an address, which may be a path of any system."""
    path = unquote(urlsplit(url).path) if "://" in url else url
    return path.replace("\\", "/").rstrip("/").rsplit("/", 1)[-1]


def _parts(children: list[Any], i: int) -> list[Any]:
    """The pieces and dissolves of tailored music that begins with child i, if nothing of it was touched elsewhere."""
    here = children[i]
    about = _plain(here.metadata.get(KEY)) if isinstance(here, otio.schema.Clip) else None
    if not about or "tailored" not in about or not isinstance(about.get("parts"), int):
        return []
    found = children[i : i + 2 * about["parts"] - 1]
    clips = found[::2]
    same = all((_plain(each.metadata.get(KEY)) or {}).get("part_of") == about.get("id") for each in clips[1:])
    whole = len(found) == 2 * about["parts"] - 1 and all(isinstance(each, otio.schema.Clip) for each in clips)
    folds = all(isinstance(each, otio.schema.Transition) for each in found[1::2])
    length = whole and sum(to_n(each.duration()) for each in clips) == about.get("length_n")
    return found if whole and same and folds and length else []


def _about(item: Any, where: str) -> Plain:
    """What stands of ours in the metadata of an item, if there is one."""
    return Plain({} if item is None else _plain(item.metadata.get(KEY)) or {}, where)


def _plain(value: Any) -> Any:
    """Metadata of the library as plain values."""
    if value is None:
        return None
    if hasattr(value, "items"):
        return {str(name): _plain(each) for name, each in value.items()}
    if isinstance(value, (str, int, float, bool)):
        return value
    return [_plain(each) for each in value] if hasattr(value, "__iter__") else str(value)


def _is_picture(track: Any) -> bool:
    return str(track.kind) != otio.schema.TrackKind.Audio


def _merged(rows: list[Lane]) -> list[Lane]:
    """The rows of one lane as that lane."""
    lanes: dict[int, Lane] = {}
    for row in rows:
        there = lanes.get(row.id)
        clips = sorted((*(there.clips if there else ()), *row.clips), key=lambda clip: (clip.start_n, clip.id))
        lanes[row.id] = replace(there or row, clips=tuple(clips))
    return list(lanes.values())
