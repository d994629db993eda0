"""Making the files that are handed off, from a project as it is now."""

from __future__ import annotations

import re
import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from jaylantern import handoff, pipeline
from jaylantern.core.curve import Curve
from jaylantern.core.mix import ALONE, STEMS, Programme, Variant, programme
from jaylantern.core.model import Clip, Lane, LaneKind, Project, Tag
from jaylantern.core.timebase import RATE
from jaylantern.errors import InvalidValue, Refused
from jaylantern.handoff import Progress, Written
from jaylantern.media.film import suffix_for
from jaylantern.media.sound_files import Form, form_of
from jaylantern.media.wav import Bext
from jaylantern.pipeline import Decided
from jaylantern.store import jobs
from jaylantern.store.jobs import Job
from jaylantern.workbench import Workbench

PATTERN = "{project} - {what} {time}"
TOKENS = ("project", "what", "date", "time")
STRETCHES = ("whole", "in-out", "chosen")
FILM_BYTES_PER_S = 24_000  # of its sound; the picture is as large as it was
WORDS = {
    Variant.DUCKED: "mix",
    Variant.SPEECH: "speech",
    Variant.MUSIC: "music",
    Variant.MUSIC_PLAIN: "music plain",
    Variant.EFFECTS: "effects",
    Variant.AMBIENCE: "ambience",
    Variant.UNTAGGED: "untagged",
}


@dataclass(frozen=True)
class Wish:
    """What is asked for: form and rate of sound files, which stretch, of which clips alone, names by which pattern."""

    what: str
    form: Form
    rate: int
    stretch: str = "whole"
    clip_ids: frozenset[int] = frozenset()
    pattern: str = PATTERN
    asked_at: str = ""

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
        return " ".join(re.sub(r'[<>:"/\\|?*\x00-\x1f]+', " ", text).split()).strip(" .")[:120] or "project"


def wish_of(values: dict[str, Any]) -> Wish:
    """A wish as it was sent or kept. Raises InvalidValue."""
    what = values.get("what")
    if not isinstance(what, str) or what not in EXPORTS:
        raise InvalidValue(f"What can be handed off is one of {', '.join(EXPORTS)}; {str(what)[:40]!r} is not.")
    form, rate = form_of(values.get("form", "wav24"), values.get("rate", RATE))
    stretch = values.get("stretch", "whole")
    if stretch not in STRETCHES:
        raise InvalidValue(f"A stretch is one of {', '.join(STRETCHES)}; {str(stretch)[:40]!r} is not.")
    ids = values.get("clip_ids") or []
    if not isinstance(ids, list) or not all(isinstance(each, int) and not isinstance(each, bool) for each in ids):
        raise InvalidValue("Chosen clips are a list of their numbers.")
    pattern = str(values.get("pattern") or PATTERN).strip()[:200] or PATTERN
    if re.search(r"[{}]", re.sub("|".join(rf"\{{{token}\}}" for token in TOKENS), "", pattern)):
        known = ", ".join(f"{{{token}}}" for token in TOKENS)
        raise InvalidValue(f"A name can hold {known}; there is something else in braces in {pattern[:60]!r}.")
    return Wish(what, form, rate, str(stretch), frozenset(ids), pattern, str(values.get("asked_at", "")))


@dataclass(frozen=True)
class Task:
    """All that a file is made from."""

    bench: Workbench
    project: Project
    decided: Decided
    folder: Path
    wish: Wish
    report: Progress

    def path(self, what: str, suffix: str) -> Path:
        """Where a file goes."""
        return self.folder / (self.wish.name(self.project.name, what) + suffix)

    def about(self, variant: Variant) -> Bext:
        """What a broadcast WAV says of itself."""
        when = self.wish.when
        words = f"{self.project.name}: {WORDS[variant]}"
        return Bext(words, f"{when:%Y-%m-%d}", f"{when:%H:%M:%S}", self.span[0])

    @property
    def chosen(self) -> list[Clip]:
        """The chosen clips. Raises Refused where none is there any more."""
        clips = [clip for _, clip in self.project.placed() if clip.id in self.wish.clip_ids]
        if not clips:
            raise Refused("No clip is chosen. Choose clips on the timeline first.")
        return clips

    @property
    def span(self) -> tuple[int, int]:
        """First and last sample of what is handed off. Raises Refused where there is none."""
        if self.wish.stretch == "chosen":
            return min(clip.start_n for clip in self.chosen), max(clip.stop_n for clip in self.chosen)
        if self.wish.stretch == "in-out":
            start_n, stop_n = self.project.in_n, self.project.out_n
            if start_n is None or stop_n is None or stop_n <= start_n:
                raise Refused("There is no stretch from in to out. Set the in point (I) and the out point (O).")
            return start_n, min(stop_n, self.project.length_n)
        return 0, self.project.length_n

    @property
    def programme(self) -> Programme:
        """What is rendered: all that is heard, or of it the chosen clips alone; the music gives way just the same."""
        if self.wish.stretch != "chosen":
            return self.decided.programme
        ids = {clip.id for clip in self.chosen}
        lanes = tuple(
            replace(lane, clips=tuple(clip if clip.id in ids else replace(clip, muted=True) for clip in lane.clips))
            for lane in self.project.lanes
        )
        return programme(replace(self.project, lanes=lanes), self.decided.plan)


def export(bench: Workbench, db: sqlite3.Connection, job: Job, report: Progress) -> None:
    """Make the files asked for. What is made is whole or not there."""
    project, decided = bench.load(db, job.project_id)
    if not project.length_n:
        raise Refused("The timeline is empty: there is nothing to hand off.")
    folder = bench.export_folder(job.id)
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    task = Task(bench, project, decided, folder, wish_of(job.payload), report)
    if _bytes(task) > bench.free_bytes():
        raise Refused("There is not enough room in the data folder for this file.")
    message = EXPORTS[task.wish.what](task)
    jobs.finish(db, job.id, state="done", message=message)


def _bytes(task: Task) -> float:
    """How large what is asked for will be at most, in bytes."""
    if task.wish.what not in SOUNDS:
        return task.project.length_n / RATE * FILM_BYTES_PER_S
    start_n, stop_n = task.span
    files = len(STEMS) + 2 if task.wish.what == "stems" else 1
    return files * (stop_n - start_n) / RATE * task.wish.form.bytes_per_s * task.wish.rate / RATE


def _sound(task: Task, variant: Variant, report: Progress) -> Written:
    start_n, stop_n = task.span
    blocks = handoff.rendered(
        task.programme, task.bench.reader(task.project), variant, report, start_n=start_n, stop_n=stop_n
    )
    path = task.path(WORDS[variant], task.wish.form.suffix)
    return handoff.write_sound(path, blocks, form=task.wish.form, rate=task.wish.rate, bext=task.about(variant))


def _said(written: Written) -> str:
    """What a file measures, and what had to be done to it."""
    loudness = written.loudness
    said = f"{loudness.integrated_lufs:.1f} LUFS, {loudness.true_peak_dbtp:.1f} dBTP"
    said = said.replace("-inf", "−∞").replace("-", "−")
    return (
        f"{said}. {written.over_n} samples were held at full scale: lower the lane's fader." if written.over_n else said
    )


def _mix(task: Task) -> str:
    return _said(_sound(task, Variant.DUCKED, task.report))


def _music(task: Task) -> str:
    if not any(voice.tag is Tag.MUSIC for voice in task.programme.voices):
        raise Refused("No lane that is heard is tagged music, so there is no music to hand off. Tag one under Tag.")
    return _said(_sound(task, Variant.MUSIC, task.report))


def _stems(task: Task) -> str:
    """A file for every tag that is heard, and the music without ducking; all as long as each other, none limited."""
    there = {voice.tag for voice in task.programme.voices}
    wanted = {ALONE[variant]: variant for variant in STEMS if ALONE[variant] in there}
    if not wanted:
        raise Refused("Nothing on the timeline is heard, so there are no stems.")
    start_n, stop_n = task.span
    share = 0.75 if Tag.MUSIC in wanted else 1.0

    def told(done: float, doing: str) -> None:
        task.report(share + (1 - share) * done, doing)

    over = handoff.write_stems(
        {tag: task.path(WORDS[variant], task.wish.form.suffix) for tag, variant in wanted.items()},
        handoff.by_tag(
            task.programme,
            task.bench.reader(task.project),
            lambda done, doing: task.report(share * done, doing),
            start_n=start_n,
            stop_n=stop_n,
        ),
        form=task.wish.form,
        rate=task.wish.rate,
        about={tag: task.about(variant) for tag, variant in wanted.items()},
    )
    if Tag.MUSIC in wanted:
        over += _sound(task, Variant.MUSIC_PLAIN, told).over_n
    held = f" {over} samples were held at full scale: make them as 32 bit float." if over else ""
    return f"Together they are the mix before its limiter; music plain is extra.{held}"


def _film(task: Task) -> str:
    clip = _only_picture(task.project)
    about = task.bench.about(clip.media)
    blocks = handoff.rendered(
        task.decided.programme,
        task.bench.reader(task.project),
        Variant.DUCKED,
        task.report,
        start_n=clip.start_n,
        stop_n=clip.stop_n,
    )
    handoff.write_film_with(
        task.path("film", suffix_for(about.picture_codec)),
        source=task.bench.media_folder(clip.media.sha256) / "original",
        name=clip.name,
        blocks=blocks,
    )
    return ""


def _only_picture(project: Project) -> Clip:
    """The one uncut picture clip whose picture can be copied."""
    clips = [clip for lane in project.lanes if lane.kind is LaneKind.PICTURE for clip in lane.clips]
    if not clips:
        raise Refused("There is no picture on the timeline. Bring in the film, or hand off the mix as sound.")
    if len(clips) > 1 or clips[0].offset_n or clips[0].length_n != clips[0].media.length_n:
        raise Refused("The picture can only be copied whole: leave one uncut film on the timeline.")
    return clips[0]


def _keyframes(task: Task) -> str:
    """One CSV for each music clip; a single one carries the plain name."""
    music = [(lane, c) for lane in task.project.lanes for c in lane.clips if _yields(lane, c)]
    if not music:
        raise Refused("No lane is tagged music, so there is no curve. Tag one under Tag.")
    for i, (lane, clip) in enumerate(music, 1):
        ending = ".csv" if len(music) == 1 else f" {i}.csv"
        curve = pipeline.keyframes(task.decided.plan.curve_of(lane, clip) or Curve.flat(), clip)
        handoff.write_keyframes(task.path("keyframes", ending), curve)
    return ""


def _yields(lane: Lane, clip: Clip) -> bool:
    return lane.kind is LaneKind.SOUND and lane.tag_of(clip) is Tag.MUSIC


SOUNDS = ("mix", "music", "stems")
EXPORTS: dict[str, Callable[[Task], str]] = {
    "mix": _mix,
    "music": _music,
    "stems": _stems,
    "film": _film,
    "keyframes": _keyframes,
}
