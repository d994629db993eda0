"""The film that is handed off: picture copied where that is possible, else encoded as the timeline shows it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from av.stream import Disposition

from jaylantern.core.captions import placing
from jaylantern.core.edit.ending import Ending, ended, span
from jaylantern.core.mixing.mix import BLOCK_N, Renderer, Variant
from jaylantern.core.signal.timebase import seconds_to_n
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.captions import CaptionForm
from jaylantern.core.timeline.clip import Clip
from jaylantern.errors import Refused
from jaylantern.export import sound_output
from jaylantern.export.form import ExportForm
from jaylantern.export.task import Task
from jaylantern.interchange.captions import in_marks
from jaylantern.media import cuts
from jaylantern.media.film import QUALITIES, Cut, Shot, suffix_for, write_cut_film, write_film
from jaylantern.media.film_beside import Beside, CaptionTrack, Chapter, Cue, FurtherSound
from jaylantern.media.film_sound import codecs_of
from jaylantern.media.probe import probe, varying
from jaylantern.render.worker import Render
from jaylantern.support.atomic_file import whole


def _film(task: Task) -> str:
    """The picture copied where it is one uncut clip or its cuts allow it, else encoded as the timeline shows it."""
    start_n, stop_n = span(task.project, task.request.ending)
    clip = picture.uncut(task.project)
    copies = clip is not None and task.request.ending in (Ending.PICTURE, Ending.HELD) and task.request.fps is None
    if clip is not None and copies:
        return _copied_film(task, clip, max(0, stop_n - clip.stop_n))
    shown = picture.pieces(task.project, start_n, stop_n)
    first = next((piece.clip for piece in shown if piece.clip is not None), None)
    if first is None:
        raise Refused("There is no picture in there. Bring in the film, or hand off the mix as sound.")
    shots = [_shot(task, piece) for piece in shown]
    if task.request.ending is Ending.HELD and shots[-1].source is None:
        shots[-1] = replace(shots[-1], held=True)
    blocks, beside = _film_sound(task, start_n, stop_n)
    also = _original_sound(task, shown) if task.request.keep else None
    task.progress(0.0, "looking at the cuts")
    try:
        if task.request.fps is not None:
            raise cuts.CantCopy(f"{float(task.request.fps):g} frames a second were asked for")
        plan = cuts.plan(shots, task.fps)
    except cuts.CantCopy as why:
        words = f"The picture was encoded anew, because {why}."
        return _encoded_film(task, shots, words, sound=blocks, also=also, beside=beside)
    path = task.path("film", suffix_for(task.workspace.library.about(first.media).picture_codec, task.request.track))
    whole(path, lambda part: cuts.write(part, plan, sound=blocks, track=task.request.track, also=also, beside=beside))
    if len(plan.shots) == 1:
        return "The picture was copied: both ends lie on frames that can stand alone."
    return f"The picture was copied in {len(plan.shots)} pieces: every cut lies on a frame that can stand alone."


def _encoded_film(
    task: Task,
    shots: list[Shot],
    why: str,
    *,
    sound: Iterator[np.ndarray],
    also: Iterator[np.ndarray] | None,
    beside: Beside,
) -> str:
    """The film as its timeline shows it; where the rate of a source varies its frames keep their times."""
    sources = {shot.source: shot.name for shot in shots if shot.source is not None}
    found = [probe(source, name=name).picture for source, name in sources.items()]
    size = next((each.width, each.height) for each in found if each is not None)
    varies = task.request.fps is None and any(varying(source, name) for source, name in sources.items())
    how = Cut(
        (size[0] // 2 * 2, size[1] // 2 * 2),
        task.request.fps or task.fps,
        QUALITIES[task.request.quality][1],
        even=not varies,
    )
    track = task.request.track
    whole(
        task.path("film", suffix_for("h264", track)),
        lambda part: write_cut_film(
            part, shots=iter(shots), how=how, sound=sound, track=track, also=also, beside=beside
        ),
    )
    return f"{why} Its frame rate varies, and every frame keeps its time." if varies else why


def _shot(task: Task, piece: picture.Piece) -> Shot:
    length_n, clip = piece.stop_n - piece.start_n, piece.clip
    if clip is None:
        return Shot(length_n)
    source = task.workspace.folder.media(clip.media.sha256) / "original"
    return Shot(length_n, source, clip.name, clip.offset_n + piece.start_n - clip.start_n)


def _copied_film(task: Task, clip: Clip, hold_n: int) -> str:
    about, track = task.workspace.library.about(clip.media), task.request.track
    source = task.workspace.folder.media(clip.media.sha256) / "original"
    kept = codecs_of(source, clip.name) if task.request.keep else []
    blocks, beside = _film_sound(task, clip.start_n, clip.stop_n + hold_n)
    whole(
        task.path("film", suffix_for(about.picture_codec, track, kept)),
        lambda part: write_film(
            part,
            source=source,
            name=clip.name,
            sound=blocks,
            track=track,
            keep=task.request.keep,
            hold_n=hold_n,
            beside=beside,
        ),
    )
    return "The film has no sound of its own to be kept." if task.request.keep and not kept else ""


def _original_sound(task: Task, shown: list[picture.Piece]) -> Iterator[np.ndarray]:
    """The sound of the films that are seen, as they brought it, silence where there is none."""
    for piece in shown:
        media = None if piece.clip is None else piece.clip.media
        sound = task.workspace.library.sound(media) if media is not None and media.has_sound else None
        for start_n in range(piece.start_n, piece.stop_n, BLOCK_N):
            stop_n = min(start_n + BLOCK_N, piece.stop_n)
            block = np.zeros((stop_n - start_n, 2), np.float32)
            if sound is not None and piece.clip is not None:
                shift = piece.clip.offset_n - piece.clip.start_n
                block[:] = sound.read(start_n + shift, stop_n + shift)  # of one channel on both sides
            yield block


def _film_sound(task: Task, start_n: int, stop_n: int) -> tuple[Iterator[np.ndarray], Beside]:
    """The mix of a film, music that is cut off at its end faded before it, and what the film carries beside it."""
    shorter = ended(task.project, stop_n, seconds_to_n(task.request.fade_s))
    result = task.result if shorter == task.project else task.workspace.decide(shorter)
    prog = replace(result.programme, length_n=max(result.programme.length_n, stop_n))
    render = Render(prog, task.workspace.library.reader(shorter), Variant.DUCKED, start_n, stop_n)
    whole_film = start_n == 0 and stop_n >= result.programme.length_n
    beside = Beside(
        stop_n - start_n,
        _parts(render) if task.request.parts else (),
        _captions(task, start_n, stop_n) if task.request.texts else (),
        _chapters(task, start_n, stop_n) if task.request.texts else (),
        task.request.language,
        task.workspace.loudness.of(shorter, result).loudness if whole_film else None,
    )
    return sound_output.rendered(render, task.progress), beside


def _parts(render: Render) -> list[FurtherSound]:
    """Speech alone and music alone, where there is any, as the mix holds them."""
    found = []
    for variant, title, kind in (
        (Variant.SPEECH, "Speech alone", Disposition.hearing_impaired),
        (Variant.MUSIC, "Music alone", Disposition.clean_effects),
    ):
        part = Renderer(render.prog, render.read, variant)
        if part.voices:
            found.append(FurtherSound(title, part.blocks(render.start_n, render.stop_n), kind))
    return found


def _captions(task: Task, start_n: int, stop_n: int) -> list[CaptionTrack]:
    """The captions of the film as it is now."""
    found = []
    for each in task.project.captions:
        shown = placing.within(placing.shown(task.project, each), start_n, stop_n)
        cues = [Cue(cue.start_n, cue.stop_n, in_marks(cue.cue.text, each.form, CaptionForm.SRT)) for cue in shown]
        if cues:
            found.append(CaptionTrack(each.name.rsplit(".", 1)[0], cues))
    return found


def _chapters(task: Task, start_n: int, stop_n: int) -> list[Chapter]:
    """The markers that lie in it, as chapters."""
    inside = sorted(
        (each for each in task.project.markers if start_n <= each.time_n < stop_n), key=lambda each: each.time_n
    )
    return [Chapter(each.time_n - start_n, each.name or f"Chapter {k}") for k, each in enumerate(inside, 1)]


FORMS = {"film": ExportForm("Film with its new sound", _film)}
