"""Handing off data: the curve, passages, markers, clips, the timeline, each in an open format."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import partial
from typing import Protocol, TextIO

from jaylantern import pipeline
from jaylantern.core.captions import placing
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.edit.tailored_clips import by_hand
from jaylantern.core.timeline.captions import CaptionForm
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from jaylantern.export.form import ExportForm
from jaylantern.export.task import Task
from jaylantern.interchange import captions as captions_file
from jaylantern.interchange import edl, keyframes, passages, timeline
from jaylantern.interchange.recipe_out import plain_recipe
from jaylantern.projectfile import archive
from jaylantern.support.atomic_file import put_text, whole, whole_text


class WriteCurve(Protocol):
    """Writes the curve of a clip into a file."""

    def __call__(self, out: TextIO, *, what: str, curve: Curve, clip: Clip, lane: Lane) -> None: ...


def _curves(task: Task, suffix: str, write: WriteCurve) -> str:
    """A file for each music clip, and for each gain line drawn by hand; a single one carries the plain name."""
    music = [(lane, c) for lane in task.project.lanes for c in lane.clips if _yields(lane, c)]
    drawn = [(lane, c) for lane in task.project.lanes for c in lane.clips if c.line]
    if not music and not drawn:
        raise Refused("No lane is tagged music and no gain line is drawn, so there is no curve. Tag one under Tag.")
    for what, clips, curve_of in (("keyframes", music, task.result.plan.curve_of), ("gain line", drawn, _line_of)):
        for i, (lane, clip) in enumerate(clips, 1):
            ending = suffix if len(clips) == 1 else f" {i}{suffix}"
            curve = pipeline.keyframes(curve_of(lane, clip) or Curve.flat(), clip)
            whole_text(task.path(what, ending), partial(write, what=what, curve=curve, clip=clip, lane=lane))
    return ""


def _line_of(lane: Lane, clip: Clip) -> Curve | None:
    return line_of(clip)


def _keyframes(task: Task) -> str:
    def write(out: TextIO, *, what: str, curve: Curve, clip: Clip, lane: Lane) -> None:
        keyframes.write_csv(out, curve, fps=task.fps)

    return _curves(task, ".csv", write)


def _keyframes_json(task: Task) -> str:
    def write(out: TextIO, *, what: str, curve: Curve, clip: Clip, lane: Lane) -> None:
        about = {
            "curve": "ducking" if what == "keyframes" else what,
            "project": task.project.name,
            "lane": lane.name,
            "clip": clip.name,
        }
        keyframes.write_json(out, curve, fps=task.fps, about=about)

    return _curves(task, ".json", write)


def _text(task: Task, what: str, suffix: str, write: Callable[[TextIO], None]) -> str:
    whole_text(task.path(what, suffix), write)
    return ""


def _dips(task: Task) -> list[float]:
    return [task.result.dip_db(passage) for passage in task.result.plan.passages]


def _vtt(task: Task) -> str:
    found, clear = task.result.plan.passages, task.result.clear_lu
    return _text(task, "passages", ".vtt", lambda out: passages.write_vtt(out, found, _dips(task), clear))


def _passages_csv(task: Task) -> str:
    result = task.result
    found, clear = result.plan.passages, (result.clear_lu, result.sii)
    return _text(
        task, "passages", ".csv", lambda out: passages.write_csv(out, found, _dips(task), *clear, fps=task.fps)
    )


def _markers(task: Task) -> str:
    found = task.result.plan.passages
    return _text(task, "markers", ".csv", lambda out: passages.write_markers(out, task.project, found, fps=task.fps))


def _clips(task: Task) -> str:
    return _text(task, "clips", ".txt", lambda out: passages.write_clips(out, task.project))


def _captions(task: Task, wanted: CaptionForm) -> str:
    """A file for each captions, cut and moved as the picture is; of part of the film alone, counted from there."""
    if not task.project.captions:
        raise Refused("There are no captions. Bring in a file of them first, WebVTT or SubRip.")
    several, said = len(task.project.captions) > 1, []
    for captions in task.project.captions:
        shown = placing.shown(task.project, captions)
        cues = placing.within(shown, *task.span)
        name = f"captions {captions.id} {captions.name.rsplit('.', 1)[0]}" if several else "captions"
        write = partial(
            captions_file.write, cues=cues, form=captions.form, wanted=wanted, head=captions.head, tail=captions.tail
        )
        whole_text(task.path(name, f".{wanted}"), write)
        after = sum(each.start_n >= task.project.length_n for each in shown)
        if after:
            lie = "cue of {} lies" if after == 1 else "cues of {} lie"
            are = "is" if after == 1 else "are"
            said.append(f"{after} {lie.format(captions.name)} after the end of the film and {are} not in it.")
    return " ".join(said)


def _timeline(task: Task) -> str:
    """The timeline, its media named by their content; where they lie is this machine's own affair."""

    def curve_of(lane: Lane, clip: Clip) -> Curve | None:
        curve = task.result.plan.curve_of(lane, clip)
        return None if curve is None else pipeline.keyframes(curve, clip)

    path = task.path("timeline", ".otio")
    aliases = tuple(task.belonging.aliases)

    def url_of(media: Media) -> str | None:
        return None if media.missing else media.name

    recordings = {each.sha256: each for each in task.belonging.media}
    write = partial(timeline.write, curve_of=curve_of, url_of=url_of, aliases=aliases, recordings=recordings)
    whole(path, lambda part: write(part, task.project))
    return ""


def _edl(task: Task) -> str:
    """As many lists as it takes, each with what it can't carry said in it."""
    project = by_hand(task.project, {each.sha256: each for each in task.belonging.media})
    found = edl.lists(project, fps=task.fps, start_of=task.workspace.library.timecode_start)
    for i, text in enumerate(found, 1):
        ending = ".edl" if len(found) == 1 else f" {i}.edl"
        whole_text(task.path("cuts", ending), partial(_put, text=text))
    return f"Not in it: {edl.NOT_CARRIED}. Times are rounded to frames."


def _put(out: TextIO, *, text: str) -> None:
    out.write(text)


def _recipe(task: Task) -> str:
    """The project's way as a recipe for many films."""
    names = {each.media_id: each.name for each in task.belonging.aliases}
    recordings = {each.sha256: names.get(each.id, each.name) for each in task.belonging.media}
    for _, clip in task.project.placed():
        if clip.media.tailored is not None:
            names[clip.media.id] = recordings.get(clip.media.tailored.source, clip.media.name)
    level = task.workspace.loudness.of(task.project, task.result).loudness
    values = plain_recipe(task.project, names, level.integrated_lufs)
    put_text(task.path("recipe", ".json"), json.dumps(values, indent=2, ensure_ascii=False) + "\n")
    return "What was set by hand on clips and passages is not in it. Look at its patterns of names before it runs."


def _archive(task: Task, *, with_media: bool) -> str:
    whole(
        task.path("project", ".zip"),
        lambda path: archive.write(
            task.workspace, task.project, task.belonging, path, with_media=with_media, progress=task.progress
        ),
    )
    return "" if with_media else "Its media are not in it: they are found again by their content or name."


def _yields(lane: Lane, clip: Clip) -> bool:
    return lane.kind is LaneKind.SOUND and lane.tag_of(clip) is Tag.MUSIC


FORMS = {
    "keyframes": ExportForm("Keyframes, CSV", _keyframes),
    "keyframes-json": ExportForm("Keyframes, JSON", _keyframes_json),
    "passages-vtt": ExportForm("Passages, WebVTT", _vtt),
    "passages-csv": ExportForm("Passages, CSV", _passages_csv),
    "captions-vtt": ExportForm("Captions, WebVTT", partial(_captions, wanted=CaptionForm.VTT)),
    "captions-srt": ExportForm("Captions, SubRip", partial(_captions, wanted=CaptionForm.SRT)),
    "markers": ExportForm("Markers, CSV", _markers),
    "clips": ExportForm("List of clips, text", _clips),
    "timeline": ExportForm("Timeline, OpenTimelineIO", _timeline),
    "edl": ExportForm("Cuts, EDL", _edl),
    "recipe": ExportForm("Recipe for many films, JSON", _recipe),
    "archive": ExportForm("Project and media, zip", partial(_archive, with_media=True)),
    "archive-alone": ExportForm("Project alone, zip", partial(_archive, with_media=False)),
}
