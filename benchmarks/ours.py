"""The same work done by Jay Lantern."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.dips import dip_under, envelope
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.mixing.mix import Programme, Variant, Voice
from jaylantern.core.signal.analysis import Analyser, Analysis
from jaylantern.core.signal.loudness import KWeighting, Loudness, measured
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.export import sound_output
from jaylantern.library import bringing
from jaylantern.media.decode import sound_chunks
from jaylantern.media.film import write_film
from jaylantern.media.peaks_file import PeaksFile
from jaylantern.media.sound import Reading, SoundStore
from jaylantern.media.sound_files import FORMS
from jaylantern.media.wav import Bext
from jaylantern.workspace.workspace import Workspace


def analyse(path: Path) -> Analysis:
    """One pass: decode, peaks, levels, loudness, true peak."""
    analyser, peaks = Analyser(2), PeaksFile(path.with_suffix(".peaks"))
    for chunk in sound_chunks(path, name=path.name):
        peaks.add(analyser.add(np.ascontiguousarray(chunk)))
    peaks.finish()
    return analyser.finish()


def loudness(path: Path) -> Loudness:
    """Momentary, short-term, integrated, range of a file."""
    meter = KWeighting(2)
    power = [meter.powers(chunk) for chunk in sound_chunks(path, name=path.name)]
    return measured(np.concatenate(power))


def copy_picture(path: Path, out: Path) -> None:
    """The picture copied with the film's own sound kept; the new sound is short, so that encoding does not count."""
    write_film(out, source=path, name=path.name, sound=iter([np.zeros((1024, 2), np.float32)]), keep=True)


def bring_in(path: Path, data: Path) -> None:
    """All that an import does, the listening for speech included."""
    workspace = Workspace(data)
    workspace.folder.prepare()
    db = workspace.folder.connect()
    try:
        bringing.bring_in(workspace.library, db, path, path.name, lambda share, doing: None)
    finally:
        db.close()
        shutil.rmtree(data)


def passages(count: int, minutes: float) -> list[Passage]:
    """Evenly spaced passages that fill half the time."""
    step = round(minutes * 60 * RATE / count)
    return [Passage(i * step + step // 4, i * step + 3 * step // 4) for i in range(count)]


def curve(count: int, minutes: float, settings: Settings) -> Curve:
    """The gain curve of so many passages."""
    return envelope([dip_under(each, settings) for each in passages(count, minutes)])


def to_raw(path: Path, target: Path) -> SoundStore:
    """A file as a medium of the application: decoded once, raw on disk."""
    return SoundStore.written(target, sound_chunks(path, name=path.name))


def render(
    speech: SoundStore, music: SoundStore, out: Path, *, measure: bool = False, form: str = "wav24", length_n: int = 0
) -> None:
    """Ducked music and speech, mixed, limited, written as a file; measured on the way, as an export is, or not."""
    minutes = speech.length_n / RATE / 60
    ducked = curve(max(1, round(minutes * 8)), minutes, Settings())
    stores = {1: speech, 2: music}
    programme = Programme(
        length_n or speech.length_n,
        (
            Voice(1, 0, speech.length_n, 0, 1.0, Tag.DIALOGUE, None),
            Voice(2, 0, music.length_n, 0, 1.0, Tag.MUSIC, ducked),
        ),
        -1.0,
    )
    wanted = sound_output.whole_of(programme, Reading(stores), Variant.DUCKED)
    out.unlink(missing_ok=True)  # a new file, as for the yardstick
    about = Bext("", "2026-01-01", "12:00:00")
    sound_output.write_render(
        out, wanted, lambda share, doing: None, form=FORMS[form], rate=RATE, bext=about, measure=measure
    )
