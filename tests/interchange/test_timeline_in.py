"""Timelines of other programs, made with OpenTimelineIO itself; what can't be carried over is said."""

from __future__ import annotations

import json

import opentimelineio as otio
import pytest
from opentimelineio.opentime import RationalTime, TimeRange
from opentimelineio.schema import Clip, ExternalReference, Gap, Marker, Stack, Timeline, Track, Transition

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.interchange import timeline_in

FPS = 24000 / 1001


def t(frames: float, rate: float = 24) -> RationalTime:
    return RationalTime(frames, rate)


def span(start: float, length: float, rate: float = 24) -> TimeRange:
    return TimeRange(t(start, rate), t(length, rate))


def clip(name: str, start: float, length: float, *, url: str = "", available=(0, 2400), rate: float = 24) -> Clip:
    reference = ExternalReference(url or f"file:///there/{name}", span(*available, rate) if available else None)
    return Clip(name, reference, span(start, length, rate))


def read(made):
    return timeline_in.read(made.to_json_string().encode(), "elsewhere.otio")


def opened(*tracks: Track, **more):
    made = Timeline("Elsewhere", **more)
    made.tracks.extend(tracks)
    return read(made)


def track(kind: str, *children, name: str = "") -> Track:
    return Track(name or kind, children=list(children), kind=kind)


def places(found) -> dict[str, list[tuple]]:
    """Clips in frames of 24 a second, by lane."""
    n = RATE / 24
    return {
        row.name: [(c.name, c.start_n / n, c.offset_n / n, c.length_n / n) for c in row.clips]
        for row in found.project.lanes
    }


def test_tracks_are_lanes_the_uppermost_picture_first():
    found = opened(
        track("Video", clip("low.mov", 0, 48), name="V1"),
        track("Video", Gap(duration=t(24)), clip("high.mov", 12, 24), name="V2"),
        track("Audio", clip("low.mov", 0, 48), name="A1"),
    )
    assert [row.name for row in found.project.lanes] == ["V2", "V1", "A1"]
    assert places(found)["V2"] == [("high.mov", 24, 12, 24)]
    by_name = {c.name: c for row in found.project.lanes[1:] for c in row.clips}
    assert by_name["low.mov"].link is not None  # picture and sound of one file at one place belong together
    assert {each.name for each in found.missing.values()} == {"low.mov", "high.mov"}


def test_rates_that_are_meant_exactly_are_taken_exactly():
    found = opened(track("Audio", clip("a.wav", 0, 24 * 3600, rate=FPS, available=(0, 24 * 3600))))
    (placed,) = found.project.lanes[0].clips
    assert placed.length_n == 3600 * RATE * 1001 // 1000  # 86400 frames of 23.976 take 1.001 hours: SMPTE ST 12-1


def test_media_times_begin_where_the_media_do():
    """A file whose timecode begins at 10 hours."""
    found = opened(track("Audio", clip("a.wav", 864000 + 48, 24, available=(864000, 240))))
    assert places(found)["Audio"] == [("a.wav", 0, 48, 24)]
    unknown = opened(track("Audio", clip("a.wav", 864000 + 48, 24, available=None)))
    assert places(unknown)["Audio"] == [("a.wav", 0, 864048, 24)]  # settled when the file is there


def test_dissolves_of_sound_are_overlaps_and_those_at_a_gap_fades():
    found = opened(
        track(
            "Audio",
            clip("a.wav", 24, 48),
            Transition(in_offset=t(6), out_offset=t(10)),
            clip("b.wav", 24, 48),
            Transition(in_offset=t(12), out_offset=t(0)),
            Gap(duration=t(24)),
        )
    )
    assert places(found)["Audio"] == [("a.wav", 0, 24, 58), ("b.wav", 42, 18, 54)]
    first, second = found.project.lanes[0].clips
    assert first.stop_n - second.start_n == 16 * RATE / 24
    assert second.fade_out.length_n == 12 * RATE / 24


def test_compositions_within_a_track_are_laid_out_flat():
    inner = track("Audio", clip("a.wav", 0, 24), clip("b.wav", 0, 24))
    nested = Stack("scene", children=[inner], source_range=span(12, 24))
    found = opened(track("Audio", Gap(duration=t(10)), nested, clip("c.wav", 5, 10)))
    assert places(found)["Audio"] == [("a.wav", 10, 12, 12), ("b.wav", 22, 0, 12), ("c.wav", 34, 5, 10)]


def test_markers_of_timeline_and_clips_lie_where_they_are_seen():
    made = clip("a.wav", 24, 48)
    made.markers.append(Marker("bell", span(36, 0)))
    timeline = Timeline("Elsewhere")
    timeline.tracks.append(track("Audio", Gap(duration=t(12)), made))
    timeline.tracks.markers.append(Marker("start", span(3, 0)))
    found = read(timeline)
    assert [(m.name, m.time_n * 24 / RATE) for m in found.project.markers] == [("start", 3), ("bell", 24)]


def test_what_is_switched_off_is_muted_and_what_can_not_be_carried_is_said():
    off = clip("a.wav", 0, 24)
    off.enabled = False
    fast = clip("b.wav", 0, 24)
    fast.effects.append(otio.schema.LinearTimeWarp(time_scalar=2))
    bars = Clip("bars", otio.schema.GeneratorReference("bars", "SMPTEBars"), span(0, 24))
    found = opened(
        track("Audio", off, fast),
        track("Video", clip("p.mov", 0, 24), Transition(in_offset=t(2), out_offset=t(2)), clip("q.mov", 3, 24), bars),
    )
    sound = next(row for row in found.project.lanes if row.kind is LaneKind.SOUND)
    assert [c.muted for c in sound.clips] == [True, False]
    said = " ".join(found.remarks)
    for word in ("changes of speed (1)", "dissolves and fades of pictures (2)", "colour bars (1)"):
        assert word in said


@pytest.mark.parametrize(
    ("text", "word"),
    [
        (b"", "no JSON"),
        (b"RIFF\x00\x00WAVE", "no JSON"),
        (b"[" * 100_000, "no JSON"),
        (b'{"OTIO_SCHEMA": "Timeline.1", "name": ' + b"[" * 5000 + b"]" * 5000 + b"}", "JSON|OpenTimelineIO"),
        (b"{}", "no timeline|OpenTimelineIO"),
        (b'{"OTIO_SCHEMA": "Clip.2", "name": "alone"}', "no OpenTimelineIO"),
        (b'{"OTIO_SCHEMA": "SerializableCollection.1", "name": "", "metadata": {}, "children": []}', "no timeline"),
        (b'{"OTIO_SCHEMA": "Timeline.9", "name": "newer"}', "OpenTimelineIO|no timeline"),
    ],
)
def test_what_is_no_timeline_is_said_to_be_none(text, word):
    with pytest.raises(MediaError, match=word):
        timeline_in.read(text, "odd.otio")


@pytest.mark.parametrize(
    "meddle",
    [
        lambda d: d["tracks"]["children"][0]["children"][0]["source_range"]["duration"].update(value=1e30),
        lambda d: d["tracks"]["children"][0]["children"][0]["source_range"]["start_time"].update(value=-500),
        lambda d: d["tracks"]["children"][0]["children"][0]["source_range"]["duration"].update(rate=0),
        lambda d: d["tracks"]["children"][0]["children"][0]["metadata"].update(jay_lantern={"gain_db": 900}),
        lambda d: d["tracks"]["children"][0]["children"][0]["metadata"].update(jay_lantern="text"),
    ],
)
def test_times_and_values_that_can_not_be_are_refused(meddle):
    made = Timeline("Elsewhere")
    made.tracks.append(track("Audio", clip("a.wav", 0, 24)))
    document = json.loads(made.to_json_string())
    meddle(document)
    with pytest.raises((InvalidValue, MediaError)):
        timeline_in.read(json.dumps(document).encode(), "odd.otio")
