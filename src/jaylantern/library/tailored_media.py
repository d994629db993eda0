"""Tailored music in the data folder: a medium of its own whose folder holds what is known of it, not its sound again.

tailored.json   the recording's content hash, the pieces      piece-K.raw   a piece whose speed is changed
beats.npz       in the recording's folder: what tailoring heard of it, heard when first asked for
"""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np

from jaylantern.core.signal.analysis import CHUNK_N, Analyser
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.tailoring.cut import Cut
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.library import facts, ingest
from jaylantern.library.bringing import taking_in
from jaylantern.library.facts import About
from jaylantern.library.library import Library
from jaylantern.media.peaks_file import PeaksFile
from jaylantern.media.tailored import tailored, write_sped
from jaylantern.store import edits, media, ours
from jaylantern.store.connection import atomic
from jaylantern.support.atomic_file import unfinished
from jaylantern.support.progress import Progress, silent


def listen_for_beats(library: Library, found: Media, progress: Progress = silent) -> None:
    """Hear what tailoring needs of a recording, unless it was heard before."""
    folder = library.folder_of(found.sha256)
    with taking_in(found.sha256):
        if not facts.has_features(folder):
            track = library.track(found)
            levels = np.zeros(0, np.float32) if track is None else track.level_db
            facts.save_features(folder, ingest.features_of(library.sound(found), levels, progress))


def keep(library: Library, db: sqlite3.Connection, source: Media, tailoring: Tailoring, *, name: str) -> Media:
    """The medium of a tailoring, made and recorded unless it is there already."""
    sha256 = tailoring.sha256
    with taking_in(sha256):
        known = media.find(db, sha256)
        if known is not None and not known.missing:
            return known
        folder = library.folder_of(sha256)
        ours.begin(db, ours.of_media(sha256))  # settled when it is recorded
        shutil.rmtree(folder, ignore_errors=True)  # what a kill, or a step that was not taken, left behind
        folder.mkdir(parents=True)
        try:
            about = _fill(library, folder, source, tailoring)
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        if known is not None:
            with atomic(db):
                media.here_again(db, known.id, about.length_n, has_sound=True, has_picture=False)
                ours.settle(db, ours.of_media(sha256))
                edits.news(db, [known.id])
            return media.get(db, known.id)
        return media.insert(
            db,
            sha256=sha256,
            name=name,
            size_bytes=0,
            length_n=about.length_n,
            has_sound=True,
            has_picture=False,
            tailored=tailoring,
        )


def filled(library: Library, source: Media, found: Media) -> About:
    """The folder of tailored music filled once more from its recording."""
    assert found.tailored is not None
    folder = library.folder_of(found.sha256)
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "about.json").unlink(missing_ok=True)
    return _fill(library, folder, source, found.tailored)


def _fill(library: Library, folder: Path, source: Media, tailoring: Tailoring) -> About:
    """Write what is known of it: measured anew, but for the voice, which is that of the recording."""
    cut = tailoring.cut
    write_sped(library.sound(source), cut, folder)
    facts.save_tailoring(folder, tailoring)
    sound = tailored(library.sound(source), cut, folder)
    analyser = Analyser(sound.channels)
    with unfinished(folder / "peaks.bin") as path, closing(PeaksFile(path)) as peaks:
        for chunk in sound.chunks(CHUNK_N):
            peaks.add(analyser.add(chunk))
        level_counts = peaks.finish()
    analysis = analyser.finish()
    track = library.track(source)
    voice = VoiceTrack.not_listened(analysis.level_db, cut.length_n)
    if track is not None and not track.older and not track.unheard:
        voice = rearranged(track, cut, analysis.level_db)
    facts.save_voice(folder, voice, power=analysis.power)
    facts.write_bands(folder, analysis.bands)
    about = About(
        length_n=cut.length_n,
        sound_n=cut.length_n,
        channels=sound.channels,
        dtype="float32",
        sound_word=f"tailored from {source.name}",
        level_counts=level_counts,
        true_peak=analysis.true_peak,
    )
    facts.write_about(folder, about)
    return about


def rearranged(track: VoiceTrack, cut: Cut, level_db: np.ndarray) -> VoiceTrack:
    """The voice track of a cut from that of its recording: each 10 ms as what is heard in the middle of it."""
    middles = np.arange(len(level_db)) * HOP_N + HOP_N // 2
    starts = np.array(cut.starts_n)
    number = np.searchsorted(starts, middles, side="right") - 1
    first, rate = (np.array([getattr(piece, name) for piece in cut.pieces]) for name in ("from_n", "rate"))
    blocks = ((first[number] + (middles - starts[number]) * rate[number]) // HOP_N).astype(np.intp)
    blocks = np.clip(blocks, 0, max(0, len(track.probability) - 1))
    singing, music = (None if each is None else each[blocks] for each in (track.singing, track.music))
    return VoiceTrack(track.probability[blocks], level_db, cut.length_n, track.standing_out()[blocks], singing, music)
