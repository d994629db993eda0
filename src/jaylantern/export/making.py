"""Making the files that are handed off, from a project as it is now."""

from __future__ import annotations

import re
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from jaylantern.commands import params
from jaylantern.core.edit.ending import Ending, ended, span
from jaylantern.core.mixing.mix import ALONE, BLOCK_N, STEMS, Variant
from jaylantern.core.signal.timebase import RATE, seconds_to_n
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.imported import Called
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.timecode import rate_of_text
from jaylantern.errors import InvalidValue, Refused
from jaylantern.export import data, sound_output
from jaylantern.export.request import PATTERN, STRETCHES, TOKENS, WORDS, Task, Wish
from jaylantern.export.sound_output import Progress, Written
from jaylantern.media import cuts
from jaylantern.media.film import QUALITIES, Cut, Shot, suffix_for, write_cut_film, write_film
from jaylantern.media.film_sound import SOUND_TRACKS, codecs_of
from jaylantern.media.probe import probe, varying
from jaylantern.media.sound_files import form_of
from jaylantern.projectfile import archive
from jaylantern.projectfile.archive import Belonging
from jaylantern.store import jobs, media
from jaylantern.store.jobs import Job
from jaylantern.support.atomic_file import whole
from jaylantern.workspace.workspace import Workbench

FILM_BYTES_PER_S = 24_000  # of its sound
LONGEST_FADE_S = 60


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
    track, quality = str(values.get("track", "aac")), str(values.get("quality", "medium"))
    if track not in SOUND_TRACKS or quality not in QUALITIES:
        known = f"{', '.join(SOUND_TRACKS)}; its quality one of {', '.join(QUALITIES)}"
        raise InvalidValue(f"The sound of a film is one of {known}.")
    ending, fade_s = params.one_of(Ending, values.get("ending", "picture"), "The end of a film"), _fade_s(values)
    return Wish(
        what,
        form,
        rate,
        stretch=str(stretch),
        clip_ids=frozenset(ids),
        pattern=pattern,
        asked_at=str(values.get("asked_at", "")),
        track=SOUND_TRACKS[track],
        quality=quality,
        keep=values.get("keep") in (True, "keep"),
        ending=ending,
        fade_s=fade_s,
        fps=rate_of_text(str(values["fps"])) if values.get("fps") else None,
    )


def _fade_s(values: dict[str, Any]) -> float:
    """How long music is faded where a film cuts it off, in seconds."""
    value = values.get("fade_s", 2.0)
    try:
        seconds = float(value)
    except (TypeError, ValueError):
        seconds = -1.0
    if isinstance(value, bool) or not 0 <= seconds <= LONGEST_FADE_S:
        raise InvalidValue(f"A fade at the end lasts from 0 to {LONGEST_FADE_S} s; {str(value)[:40]!r} is not that.")
    return seconds


def export(bench: Workbench, db: sqlite3.Connection, job: Job, report: Progress) -> None:
    """Make the files asked for. What is made is whole or not there."""
    project, decided = bench.load(db, job.project_id)
    if not project.length_n:
        raise Refused("The timeline is empty: there is nothing to hand off. Bring in files first.")
    folder = bench.export_folder(job.id)
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    task = Task(bench, project, decided, folder, wish_of(job.payload), report, belonging(db, project.id))
    jobs.finish(db, job.id, state="done", message=make(task))


def make(task: Task) -> str:
    """Make what is asked for in the task's folder; returns what the person should know of it."""
    if _bytes(task) > task.bench.free_bytes():
        raise Refused(
            "There is not enough room in the data folder for this file. Free some, or remove what was made before."
        )
    said = EXPORTS[task.wish.what](task)
    missing = sum(clip.media.missing for _, clip in task.project.placed())
    if missing and task.wish.what in (*SOUNDS, "film"):
        said = f"{said} {missing} clip{'s are' if missing > 1 else ' is'} silent or black: the file is missing.".strip()
    return said


def belonging(db: sqlite3.Connection, project_id: int) -> Belonging:
    """What belongs to a project beside its clips."""
    brought = media.of_project(db, project_id)
    return Belonging(
        [each.media for each in brought],
        [Called(each.media.id, each.name, each.is_take) for each in brought],
        media.wanted_in(db, project_id),
    )


def _bytes(task: Task) -> float:
    """How large what is asked for will be at most, in bytes."""
    if task.wish.what == "archive":
        return archive.size_bytes(task.bench, archive.media_of(task.project, task.belonging))
    if task.wish.what == "film":
        return task.project.length_n / RATE * FILM_BYTES_PER_S + _picture_bytes(task)
    if task.wish.what not in SOUNDS:
        return task.project.length_n / RATE * FILM_BYTES_PER_S
    start_n, stop_n = task.span
    files = len(STEMS) + 2 if task.wish.what == "stems" else 1
    return files * (stop_n - start_n) / RATE * task.wish.form.bytes_per_s * task.wish.rate / RATE


def _picture_bytes(task: Task) -> float:
    """What the pictures that are seen take in the files they come from, their sound included."""
    return sum(
        (task.bench.media_folder(piece.clip.media.sha256) / "original").stat().st_size
        * (piece.stop_n - piece.start_n)
        / piece.clip.media.length_n
        for piece in picture.pieces(task.project)
        if piece.clip is not None
    )


def _sound(task: Task, variant: Variant, report: Progress) -> Written:
    render = sound_output.Render(task.programme, task.bench.reader(task.project), variant, *task.span)
    path = task.path(WORDS[variant], task.wish.form.suffix)
    form, rate = task.wish.form, task.wish.rate
    return sound_output.write_render(path, render, report, form=form, rate=rate, bext=task.about(variant))


def _said(written: Written) -> str:
    """What a file measures, and what had to be done to it."""
    loudness = written.loudness
    assert loudness is not None
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
        raise Refused("Nothing on the timeline is heard, so there are no stems. Unmute a lane first.")
    start_n, stop_n = task.span
    share = 0.75 if Tag.MUSIC in wanted else 1.0

    def told(done: float, doing: str) -> None:
        task.report(share + (1 - share) * done, doing)

    over = sound_output.write_stems(
        {tag: task.path(WORDS[variant], task.wish.form.suffix) for tag, variant in wanted.items()},
        sound_output.by_tag(
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
    """The picture copied where it is one uncut clip or its cuts allow it, else encoded as the timeline shows it."""
    start_n, stop_n = span(task.project, task.wish.ending)
    clip = picture.uncut(task.project)
    copies = clip is not None and task.wish.ending in (Ending.PICTURE, Ending.HELD) and task.wish.fps is None
    if clip is not None and copies:
        return _copied_film(task, clip, max(0, stop_n - clip.stop_n))
    shown = picture.pieces(task.project, start_n, stop_n)
    first = next((piece.clip for piece in shown if piece.clip is not None), None)
    if first is None:
        raise Refused("There is no picture in there. Bring in the film, or hand off the mix as sound.")
    shots = [_shot(task, piece) for piece in shown]
    if task.wish.ending is Ending.HELD and shots[-1].source is None:
        shots[-1] = replace(shots[-1], held=True)
    blocks = _film_sound(task, start_n, stop_n)
    also = _original_sound(task, shown) if task.wish.keep else None
    task.report(0.0, "looking at the cuts")
    try:
        if task.wish.fps is not None:
            raise cuts.CantCopy(f"{float(task.wish.fps):g} frames a second were asked for")
        plan = cuts.plan(shots, task.fps)
    except cuts.CantCopy as why:
        return _encoded_film(task, shots, f"The picture was encoded anew, because {why}.", sound=blocks, also=also)
    path = task.path("film", suffix_for(task.bench.about(first.media).picture_codec, task.wish.track))
    whole(path, lambda part: cuts.write(part, plan, sound=blocks, track=task.wish.track, also=also))
    if len(plan.shots) == 1:
        return "The picture was copied: both ends lie on frames that can stand alone."
    return f"The picture was copied in {len(plan.shots)} pieces: every cut lies on a frame that can stand alone."


def _encoded_film(
    task: Task, shots: list[Shot], why: str, *, sound: Iterator[np.ndarray], also: Iterator[np.ndarray] | None
) -> str:
    """The film as its timeline shows it; where the rate of a source varies its frames keep their times."""
    sources = {shot.source: shot.name for shot in shots if shot.source is not None}
    found = [probe(source, name=name).picture for source, name in sources.items()]
    size = next((each.width, each.height) for each in found if each is not None)
    varies = task.wish.fps is None and any(varying(source, name) for source, name in sources.items())
    how = Cut(
        (size[0] // 2 * 2, size[1] // 2 * 2),
        task.wish.fps or task.fps,
        QUALITIES[task.wish.quality][1],
        even=not varies,
    )
    track = task.wish.track
    whole(
        task.path("film", suffix_for("h264", track)),
        lambda part: write_cut_film(part, shots=iter(shots), how=how, sound=sound, track=track, also=also),
    )
    return f"{why} Its frame rate varies, and every frame keeps its time." if varies else why


def _shot(task: Task, piece: picture.Piece) -> Shot:
    length_n, clip = piece.stop_n - piece.start_n, piece.clip
    if clip is None:
        return Shot(length_n)
    source = task.bench.media_folder(clip.media.sha256) / "original"
    return Shot(length_n, source, clip.name, clip.offset_n + piece.start_n - clip.start_n)


def _copied_film(task: Task, clip: Clip, hold_n: int) -> str:
    about, track = task.bench.about(clip.media), task.wish.track
    source = task.bench.media_folder(clip.media.sha256) / "original"
    kept = codecs_of(source, clip.name) if task.wish.keep else []
    blocks = _film_sound(task, clip.start_n, clip.stop_n + hold_n)
    whole(
        task.path("film", suffix_for(about.picture_codec, track, kept)),
        lambda part: write_film(
            part, source=source, name=clip.name, sound=blocks, track=track, keep=task.wish.keep, hold_n=hold_n
        ),
    )
    return "The film has no sound of its own to be kept." if task.wish.keep and not kept else ""


def _original_sound(task: Task, shown: list[picture.Piece]) -> Iterator[np.ndarray]:
    """The sound of the films that are seen, as they brought it, silence where there is none."""
    for piece in shown:
        media = None if piece.clip is None else piece.clip.media
        sound = task.bench.sound(media) if media is not None and media.has_sound else None
        for start_n in range(piece.start_n, piece.stop_n, BLOCK_N):
            stop_n = min(start_n + BLOCK_N, piece.stop_n)
            block = np.zeros((stop_n - start_n, 2), np.float32)
            if sound is not None and piece.clip is not None:
                shift = piece.clip.offset_n - piece.clip.start_n
                block[:] = sound.read(start_n + shift, stop_n + shift)  # of one channel on both sides
            yield block


def _film_sound(task: Task, start_n: int, stop_n: int) -> Iterator[np.ndarray]:
    """The mix of a film, music that is cut off at its end faded before it."""
    shorter = ended(task.project, stop_n, seconds_to_n(task.wish.fade_s))
    decided = task.decided if shorter == task.project else task.bench.decide(shorter)
    prog = replace(decided.programme, length_n=max(decided.programme.length_n, stop_n))
    render = sound_output.Render(prog, task.bench.reader(shorter), Variant.DUCKED, start_n, stop_n)
    return sound_output.rendered(render, task.report)


SOUNDS = ("mix", "music", "stems")
EXPORTS: dict[str, Callable[[Task], str]] = {
    "mix": _mix,
    "music": _music,
    "stems": _stems,
    "film": _film,
    **data.EXPORTS,
}
