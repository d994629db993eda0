"""Sound that is handed off: the mix, the music alone, the stems."""

from __future__ import annotations

from jaylantern.core.mixing import objects
from jaylantern.core.mixing.mix import STEMS, Variant
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from jaylantern.export import sound_output
from jaylantern.export.form import ExportForm
from jaylantern.export.sound_output import Written
from jaylantern.export.task import WORDS, Task
from jaylantern.interchange.adm import AdmObject
from jaylantern.render.worker import Render
from jaylantern.support.atomic_file import whole
from jaylantern.support.progress import Progress, within


def _sound(task: Task, variant: Variant, progress: Progress) -> Written:
    render = Render(task.programme, task.workspace.library.reader(task.project), variant, *task.span)
    path = task.path(WORDS[variant], task.request.form.suffix)
    form, rate = task.request.form, task.request.rate
    return sound_output.write_render(path, render, progress, form=form, rate=rate, bext=task.about(variant))


def _words(written: Written) -> str:
    """What a file measures, and what had to be done to it."""
    loudness = written.loudness
    assert loudness is not None
    said = f"{loudness.integrated_lufs:.1f} LUFS, {loudness.true_peak_dbtp:.1f} dBTP"
    said = said.replace("-inf", "−∞").replace("-", "−")
    return (
        f"{said}. {written.over_n} samples were held at full scale: lower the lane's fader." if written.over_n else said
    )


def _mix(task: Task) -> str:
    return _words(_sound(task, Variant.DUCKED, task.progress))


def _music(task: Task) -> str:
    if not any(voice.tag is Tag.MUSIC for voice in task.programme.voices):
        raise Refused("No lane that is heard is tagged music, so there is no music to hand off. Tag one under Tag.")
    return _words(_sound(task, Variant.MUSIC, task.progress))


def _stems(task: Task) -> str:
    """A file for every stem that is heard, and the music without ducking; all as long as each other, none limited."""
    there = {voice.tag.row.stem for voice in task.programme.voices}
    wanted = {str(variant): variant for variant in STEMS if variant in there}
    if not wanted:
        raise Refused("Nothing on the timeline is heard, so there are no stems. Unmute a lane first.")
    start_n, stop_n = task.span
    share = 0.75 if Variant.MUSIC in wanted else 1.0
    over = sound_output.write_stems(
        {stem: task.path(WORDS[variant], task.request.form.suffix) for stem, variant in wanted.items()},
        sound_output.by_stem(
            task.programme,
            task.workspace.library.reader(task.project),
            within(task.progress, 0.0, share),
            start_n=start_n,
            stop_n=stop_n,
        ),
        form=task.request.form,
        rate=task.request.rate,
        about={stem: task.about(variant) for stem, variant in wanted.items()},
    )
    if Variant.MUSIC in wanted:
        over += _sound(task, Variant.MUSIC_PLAIN, within(task.progress, share, 1.0)).over_n
    held = f" {over} samples were held at full scale: make them as 32 bit float." if over else ""
    return f"Together they are the mix before its limiter; music plain is extra.{held}"


def _objects(task: Task) -> str:
    """BW64 with an Audio Definition Model: what is heard as objects of one programme, none limited."""
    found = objects.objects(task.programme, printed=task.request.gains == "printed")
    if not found:
        raise Refused("Nothing on the timeline is heard, so there are no objects. Unmute a lane first.")
    start_n, stop_n = task.span
    meant = [
        AdmObject(name, each.stem, each.tags, None if each.gain is None else objects.lines(each.gain, start_n, stop_n))
        for name, each in zip(objects.names(found), found, strict=True)
    ]
    path, read = task.path("objects", ".wav"), task.workspace.library.reader(task.project)
    written = whole(
        path,
        lambda part: sound_output.write_objects(
            part, task.project.name, found, meant, read, task.progress, start_n=start_n, stop_n=stop_n
        ),
    )
    band = objects.in_band(task.programme)
    return " ".join(
        filter(
            None,
            (
                f"{len(found)} object{'' if len(found) == 1 else 's'}: {', '.join(each.name for each in meant)}.",
                f"As they are meant they are the mix before its limiter: {_words(written)}",
                f"{band} clip{' gives' if band == 1 else 's give'} way in the speech band alone: that is printed."
                if band and task.request.gains != "printed"
                else "",
            ),
        )
    )


def _tailored(task: Task) -> str:
    """Each piece of tailored music alone, whole, with its clip's gain left out and its fades kept."""
    clips = {clip.media.id: clip for _, clip in task.project.placed() if clip.media.tailored and clip.media.has_sound}
    if not clips:
        raise Refused("No music is tailored. Give it a length under Tailor first.")
    for number, clip in enumerate(clips.values(), 1):
        what = "tailored" if len(clips) == 1 else f"tailored {number}"
        sound_output.write_sound(
            task.path(what, task.request.form.suffix),
            sound_output.stereo(task.workspace.library.sound(clip.media), fade_in=clip.fade_in, fade_out=clip.fade_out),
            form=task.request.form,
            rate=task.request.rate,
            bext=task.about(Variant.MUSIC_PLAIN),
            measure=False,
        )
        task.progress(number / len(clips), f"writing {clip.name}")
    return "The tailored music alone: nothing gives way, no gain is set."


FORMS = {
    "mix": ExportForm("Mix", _mix),
    "music": ExportForm("Ducked music", _music),
    "stems": ExportForm("Stems", _stems),
    "objects": ExportForm("Objects, BW64 with ADM", _objects),
    "tailored": ExportForm("Tailored music", _tailored),
}
