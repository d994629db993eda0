"""The timeline as OpenTimelineIO, out: lanes as tracks with clips and gaps, markers, metadata for the rest.

Written times are whole samples at 48 kHz. Where clips of a lane overlap, the lane becomes as many tracks as it needs.
Tracks of pictures are written from the bottom up, as the format has it; our own first lane is the one on top. What the
format has no word for stands in the metadata under "jay_lantern"; `timeline_in.py` reads it from there.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from types import MappingProxyType
from typing import Any

import opentimelineio as otio

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.timebase import HOUR_N, RATE
from jaylantern.core.tailoring.cut import HALF_N, Speed
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import nested
from jaylantern.core.timeline.imported import MediaAlias
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.interchange.document import VERSION, decisions

KEY = "jay_lantern"
DISSOLVE = otio.schema.TransitionTypes.SMPTE_Dissolve
CurveOf = Callable[[Lane, Clip], Curve | None]
UrlOf = Callable[[Media], str | None]


def write(
    path: Path,
    project: Project,
    *,
    curve_of: CurveOf,
    url_of: UrlOf,
    aliases: Sequence[MediaAlias] = (),
    recordings: Mapping[str, Media] = MappingProxyType({}),
) -> None:
    """Write a project. `curve_of` answers the gain curve that a clip follows, straight in dB; `url_of` where the file
    of a medium lies, None for one that is missing there; `recordings`, by content hash, are what tailored music is made
    of."""
    made = timeline(project, curve_of=curve_of, url_of=url_of, recordings=recordings)
    made.metadata[KEY]["called"] = [nested(each) for each in aliases]
    otio.adapters.write_to_file(made, str(path), adapter_name="otio_json")


def timeline(
    project: Project,
    *,
    curve_of: CurveOf,
    url_of: UrlOf,
    recordings: Mapping[str, Media] = MappingProxyType({}),
) -> Any:
    """The project as an OpenTimelineIO timeline."""
    made = otio.schema.Timeline(project.name, global_start_time=_time(round(project.settings.start_hour) * HOUR_N))
    about = {"version": VERSION, "rate": RATE, "in_n": project.in_n, "out_n": project.out_n}
    made.metadata[KEY] = {**about, **decisions(project)}
    for marker in project.markers:
        span = otio.opentime.TimeRange(_time(marker.time_n), _time(0))
        made.tracks.markers.append(otio.schema.Marker(marker.name, span))
    pictures = [lane for lane in project.lanes if lane.kind is LaneKind.PICTURE]
    sounds = [lane for lane in project.lanes if lane.kind is LaneKind.SOUND]
    for lane in (*pictures[::-1], *sounds):
        for number, layer in enumerate(_layers(lane.clips)):
            made.tracks.append(_track(project, lane, layer, number, curve_of, url_of, recordings))
    return made


def _time(n: int) -> Any:
    return otio.opentime.RationalTime(n, RATE)


def _layers(clips: tuple[Clip, ...]) -> list[list[Clip]]:
    """The clips in as few rows as keep those that overlap apart; one empty row for none."""
    layers: list[list[Clip]] = [[]]
    for clip in clips:
        row = next((each for each in layers if not each or each[-1].stop_n <= clip.start_n), None)
        if row is None:
            layers.append(row := [])
        row.append(clip)
    return layers


def _track(
    project: Project,
    lane: Lane,
    clips: list[Clip],
    number: int,
    curve_of: CurveOf,
    url_of: UrlOf,
    recordings: Mapping[str, Media],
) -> Any:
    kinds = otio.schema.TrackKind
    track = otio.schema.Track(lane.name, kind=kinds.Video if lane.kind is LaneKind.PICTURE else kinds.Audio)
    position = [each.id for each in project.lanes].index(lane.id)
    track.metadata[KEY] = {**nested(lane), "position": position, "layer": number}
    at_n = 0
    for clip in clips:
        if clip.start_n > at_n:
            track.append(otio.schema.Gap(duration=_time(clip.start_n - at_n)))
        made = _clip(lane, clip, curve_of, url_of)
        source = None if clip.media.tailored is None else recordings.get(clip.media.tailored.source)
        track.extend([made] if source is None else _pieces(clip, made.metadata[KEY], source, url_of))
        at_n = clip.stop_n
    return track


def _stretch(name: str, media: Media, offset_n: int, length_n: int, url_of: UrlOf) -> Any:
    """A clip of the library: a stretch of a medium."""
    whole = otio.opentime.TimeRange(_time(0), _time(media.length_n))
    url = None if media.tailored is not None else url_of(media)
    reference = (
        otio.schema.ExternalReference(url, whole)
        if url
        else otio.schema.MissingReference(media.name, available_range=whole)
    )
    known = {"sha256": "" if media.missing else media.sha256, "name": media.name}
    reference.metadata[KEY] = {"id": media.id, **known}
    return otio.schema.Clip(name, reference, otio.opentime.TimeRange(_time(offset_n), _time(length_n)))


def _pieces(clip: Clip, about: dict[str, Any], source: Media, url_of: UrlOf) -> list[Any]:
    """Tailored music as its pieces, a dissolve at every fold. The first says in its metadata what they are part of."""
    tailoring = clip.media.tailored
    assert tailoring is not None
    items: list[Any] = []
    for piece, from_n, _, length_n in tailoring.cut.between(clip.offset_n, clip.offset_n + clip.length_n):
        if items:
            items.append(otio.schema.Transition("fold", DISSOLVE, _time(HALF_N), _time(HALF_N)))
        item = _stretch(clip.name, source, from_n, length_n, url_of)
        if piece.speed is not Speed.NONE:
            item.effects.append(otio.schema.LinearTimeWarp(time_scalar=piece.rate))
        item.metadata[KEY] = {"part_of": clip.id}
        items.append(item)
    parts = len(items) // 2 + 1
    items[0].metadata[KEY] = {**about, "parts": parts, "medium": clip.media.id, "tailored": tailoring.plain}
    return items


def _clip(lane: Lane, clip: Clip, curve_of: CurveOf, url_of: UrlOf) -> Any:
    made = _stretch(clip.name, clip.media, clip.offset_n, clip.length_n, url_of)
    about = nested(clip)
    curve = curve_of(lane, clip)
    if curve is not None:
        about["curve"] = {"time_n": curve.time_n.tolist(), "gain_db": [round(db, 3) for db in curve.gain_db.tolist()]}
    made.metadata[KEY] = about
    return made
