"""Handing off data: the curve, passages, markers, clips, the timeline, each in an open format."""

from __future__ import annotations

from collections.abc import Callable
from typing import TextIO

from jaylantern import pipeline
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from jaylantern.export import sound_output
from jaylantern.export.request import Task
from jaylantern.interchange import edl, keyframes, passages, timeline
from jaylantern.projectfile import archive
from jaylantern.support.atomic_file import whole


def _curves(task: Task, suffix: str, write: Callable[[TextIO, Curve, Clip, Lane], None]) -> str:
    """A file for each music clip; a single one carries the plain name."""
    music = [(lane, c) for lane in task.project.lanes for c in lane.clips if _yields(lane, c)]
    if not music:
        raise Refused("No lane is tagged music, so there is no curve. Tag one under Tag.")
    for i, (lane, clip) in enumerate(music, 1):
        ending = suffix if len(music) == 1 else f" {i}{suffix}"
        curve = pipeline.keyframes(task.decided.plan.curve_of(lane, clip) or Curve.flat(), clip)
        sound_output.write_text(
            task.path("keyframes", ending), lambda out, curve=curve, clip=clip, lane=lane: write(out, curve, clip, lane)
        )
    return ""


def _keyframes(task: Task) -> str:
    return _curves(task, ".csv", lambda out, curve, *_: keyframes.write_csv(out, curve, fps=task.fps))


def _keyframes_json(task: Task) -> str:
    def write(out: TextIO, curve: Curve, clip: Clip, lane: Lane) -> None:
        about = {"project": task.project.name, "lane": lane.name, "clip": clip.name}
        keyframes.write_json(out, curve, fps=task.fps, about=about)

    return _curves(task, ".json", write)


def _text(task: Task, what: str, suffix: str, write: Callable[[TextIO], None]) -> str:
    sound_output.write_text(task.path(what, suffix), write)
    return ""


def _dips(task: Task) -> list[float]:
    return [task.decided.dip_db(passage) for passage in task.decided.plan.passages]


def _vtt(task: Task) -> str:
    found, clear = task.decided.plan.passages, task.decided.clear_lu
    return _text(task, "passages", ".vtt", lambda out: passages.write_vtt(out, found, _dips(task), clear))


def _passages_csv(task: Task) -> str:
    found, clear = task.decided.plan.passages, task.decided.clear_lu
    return _text(task, "passages", ".csv", lambda out: passages.write_csv(out, found, _dips(task), clear, fps=task.fps))


def _markers(task: Task) -> str:
    found = task.decided.plan.passages
    return _text(task, "markers", ".csv", lambda out: passages.write_markers(out, task.project, found, fps=task.fps))


def _clips(task: Task) -> str:
    return _text(task, "clips", ".txt", lambda out: passages.write_clips(out, task.project))


def _timeline(task: Task) -> str:
    """The timeline, its media named by their content; where they lie is this machine's own affair."""

    def curve_of(lane: Lane, clip: Clip) -> Curve | None:
        curve = task.decided.plan.curve_of(lane, clip)
        return None if curve is None else pipeline.keyframes(curve, clip)

    path = task.path("timeline", ".otio")
    called = tuple(task.belonging.called)

    def url_of(media: Media) -> str | None:
        return None if media.missing else media.name

    whole(path, lambda part: timeline.write(part, task.project, curve_of=curve_of, url_of=url_of, called=called))
    return ""


def _edl(task: Task) -> str:
    """As many lists as it takes, each with what it can't carry said in it."""
    found = edl.lists(task.project, fps=task.fps, start_of=task.bench.timecode_start)
    for i, text in enumerate(found, 1):
        ending = ".edl" if len(found) == 1 else f" {i}.edl"
        sound_output.write_text(task.path("cuts", ending), lambda out, text=text: out.write(text))
    return f"Not in it: {edl.NOT_CARRIED}. Times are rounded to frames."


def _archive(task: Task, *, with_media: bool) -> str:
    whole(
        task.path("project", ".zip"),
        lambda path: archive.write(
            task.bench, task.project, task.belonging, path, with_media=with_media, progress=task.report
        ),
    )
    return "" if with_media else "Its media are not in it: they are found again by their content or name."


def _yields(lane: Lane, clip: Clip) -> bool:
    return lane.kind is LaneKind.SOUND and lane.tag_of(clip) is Tag.MUSIC


EXPORTS: dict[str, Callable[[Task], str]] = {
    "keyframes": _keyframes,
    "keyframes-json": _keyframes_json,
    "passages-vtt": _vtt,
    "passages-csv": _passages_csv,
    "markers": _markers,
    "clips": _clips,
    "timeline": _timeline,
    "edl": _edl,
    "archive": lambda task: _archive(task, with_media=True),
    "archive-alone": lambda task: _archive(task, with_media=False),
}
DATA = {
    "keyframes": "Keyframes, CSV",
    "keyframes-json": "Keyframes, JSON",
    "passages-vtt": "Passages, WebVTT",
    "passages-csv": "Passages, CSV",
    "markers": "Markers, CSV",
    "clips": "List of clips, text",
    "timeline": "Timeline, OpenTimelineIO",
    "edl": "Cuts, EDL",
    "archive": "Project and media, zip",
    "archive-alone": "Project alone, zip",
}
