"""Care measured: what two voices cost a render, with every part on, when they are treated and when they were before."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np

from jaylantern.core.care.evenness import evened
from jaylantern.core.care.heard import Voice as Heard
from jaylantern.core.care.heard import VoiceListener
from jaylantern.core.ducking.key_level import KeyListener
from jaylantern.core.mixing.mix import Programme, Variant, Voice
from jaylantern.core.timeline.care import Care, Source
from jaylantern.core.timeline.tag import Tag
from jaylantern.export import sound_output
from jaylantern.media.cared import CaredSound
from jaylantern.media.sound import Reading, Sound, SoundStore
from jaylantern.media.wav import write_wav

ALL = Care(low_cut=80, presence=2, hush=10, evenness=4, soft_s=5, breaths=9)
CHUNK_N = 96_000


def heard(store: SoundStore) -> Heard:
    """What care needs to know of a decoded voice; it speaks in the first half of every four seconds."""
    starts = np.arange(0, store.length_n, 4 * 48_000, dtype=np.int64)
    listener = VoiceListener(np.stack((starts, starts + 2 * 48_000), axis=1))
    for chunk in store.chunks(CHUNK_N):
        listener.add(chunk)
    return listener.finish()


def cared(store: SoundStore, folder: Path) -> CaredSound:
    """A voice with every part on; its folder holds nothing yet."""
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    voice, key = heard(store), KeyListener()
    for chunk in store.chunks(CHUNK_N):
        key.add(chunk)
    return CaredSound(store, ALL, voice, evened(key.finish(), speech_db=voice.speech_db, amount_db=4), folder)


def render(voices: tuple[Sound, Sound], bed: SoundStore, out: Path, care: Care | None) -> None:
    """Two voices and a bed, mixed, limited, written as a file."""
    stores: dict[Source, Sound] = {3: bed}
    for number, voice in enumerate(voices, 1):
        stores[number if care is None else (number, care)] = voice
    length_n = bed.length_n
    placed = tuple(Voice(n, 0, length_n, 0, 1.0, Tag.DIALOGUE, None, care=care) for n in (1, 2))
    programme = Programme(length_n, (*placed, Voice(3, 0, length_n, 0, 1.0, Tag.MUSIC, None)), -1.0)
    out.unlink(missing_ok=True)
    wanted = sound_output.whole_of(programme, Reading(stores), Variant.DUCKED)
    write_wav(out, sound_output.rendered(wanted, lambda share, doing: None))
