"""From a file to a media folder: decoded sound, analysis, picture. `facts.py` says what the folder then holds."""

from __future__ import annotations

import io
import os
import shutil
import zipfile
import zlib
from collections.abc import Generator, Iterator
from contextlib import closing, suppress
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.signal.analysis import CHUNK_N, Analyser, Analysis, as_float
from jaylantern.core.signal.loudness import KWeighting, Loudness
from jaylantern.core.signal.signal_level import level_db, mean_squares
from jaylantern.core.signal.sixth_octaves import SixthOctaves, unpacked
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.tailoring.sketch import Sketch
from jaylantern.errors import MediaError
from jaylantern.library.facts import (
    About,
    read_facts,
    save_voice,
    sound_store,
    write_about,
    write_bands,
    write_character,
    write_sums,
)
from jaylantern.media import picture as pictures
from jaylantern.media.damaged import Unread, in_words
from jaylantern.media.decode import sound_chunks
from jaylantern.media.peaks_file import PeaksFile
from jaylantern.media.probe import LONGEST_N, Picture, Probe, probe
from jaylantern.media.sound import Sound, SoundStore
from jaylantern.pipeline import hear, sketch
from jaylantern.support.atomic_file import unfinished, whole
from jaylantern.support.progress import Progress, silent, within

LOST = "Its {} can't be read: the file may be damaged. The rest was taken."
SHARE_DECODE, SHARE_HEAR = 0.45, 0.85
HEADER_BYTES = 1000  # of an array in a file
SILENT_BELOW = 1e-9  # mean square under −90 dBFS throughout: a sound stream that carries nothing


def take_in(
    source: Path, *, name: str, folder: Path, progress: Progress, heard: bytes | None = None, listen: bool = True
) -> About:
    """Fill a media folder from a file and return what it holds; without `listen`, what is said in it stays unknown.

    `heard` is the facts.npz of another folder: where it is of the same sound, the voice is taken from there and not
    listened for again. Raises MediaError in plain words for a file that can't be used; the caller removes the folder.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with in_words(name):
        found = probe(source, name=name)
    values: dict[str, object] = {"length_n": 0}
    remarks, why = [], ""
    if found.sound is not None:
        unread = Unread()
        try:
            with in_words(name):
                values |= _take_sound(source, name, folder, found, progress, heard, listen, unread)
        except MediaError as error:
            why = str(error)
            remarks.append(LOST.format("sound"))
        if unread.packets and not why:
            remarks.append("A part of its sound can't be read: the file may be damaged or cut short.")
    if found.picture is not None:
        try:
            with in_words(name):
                values |= _take_picture(source, name, folder, found, progress)
        except MediaError as error:
            why = why or str(error)
            found = replace(found, picture=None)
            remarks.append(LOST.format("picture"))
    heard_n = int(values.get("sound_n", 0)) or int(values["length_n"])  # type: ignore[call-overload]
    seen_n = found.duration_n if found.picture and found.duration_n <= LONGEST_N else 0  # what it says may be nonsense
    values["length_n"] = max(seen_n, heard_n)
    if not values["length_n"]:
        nothing = f"{name} holds nothing that can be used: no sound could be decoded and it has no picture."
        raise MediaError(why or nothing)
    about = About(**values, remark=" ".join(remarks))  # type: ignore[arg-type]
    write_sums(folder)
    write_about(folder, about)
    return about


def _take_sound(
    source: Path,
    name: str,
    folder: Path,
    found: Probe,
    progress: Progress,
    heard: bytes | None,
    listen: bool,
    unread: Unread,
) -> dict[str, object]:
    with unfinished(folder / "peaks.bin", sync=True) as path, closing(PeaksFile(path)) as peaks:
        store, analysis = whole(
            folder / "sound.raw", lambda path: _decode(source, name, path, found, peaks, progress, unread), sync=True
        )
        level_counts = peaks.finish()
    if not store.length_n or not analysis.mean_square.max() > SILENT_BELOW:
        (folder / "sound.raw").unlink()
        (folder / "peaks.bin").unlink()
        return {"sound_word": "silent" if store.length_n else "no sound", "length_n": store.length_n}
    store = SoundStore(folder / "sound.raw", store.dtype, store.channels, store.length_n)
    progress(SHARE_DECODE, "listening for speech")
    track = None if heard is None else _known_voice(heard, analysis, store.length_n)
    if track is None and not listen:
        track = VoiceTrack.not_listened(analysis.level_db, store.length_n)
    if track is None:
        track = listened(store, analysis.level_db, within(progress, SHARE_DECODE, SHARE_HEAR))
    save_voice(folder, track, power=analysis.power)
    write_bands(folder, analysis.bands)
    write_character(folder, store)
    sound = found.sound
    assert sound is not None
    return {
        "sound_n": store.length_n,
        "channels": store.channels,
        "dtype": store.dtype,
        "sound_word": f"{sound.codec}, {sound.rate / 1000:g} kHz, {_channels_word(sound.channels)}",
        "level_counts": level_counts,
        "true_peak": analysis.true_peak,
    }


@dataclass(frozen=True)
class Read:
    """What a file holds where only its sound matters: no `store` of a silent one, no `track` where it is silent or was
    not listened to; `levels` (blocks,) dBFS each 10 ms."""

    length_n: int
    store: SoundStore | None
    track: VoiceTrack | None
    levels: np.ndarray


def read(source: Path, *, name: str, folder: Path, listen: bool) -> Read:
    """Decode a file's sound into a folder and, where asked, listen for speech in it; nothing else is worked out.

    Raises MediaError in plain words for a file that can't be read or has no sound.
    """
    squares = [np.zeros(0, np.float32)]

    def measured() -> Generator[np.ndarray, None, None]:
        for chunk in sound_chunks(source, name=name):
            squares.append(mean_squares(as_float(chunk)).astype(np.float32))
            yield chunk

    with in_words(name):
        store = SoundStore.written(folder / "sound.raw", measured())
    mean_square = np.concatenate(squares)
    if not store.length_n:
        raise MediaError(f"{name} has no sound.")
    if not mean_square.max() > SILENT_BELOW:
        return Read(store.length_n, None, None, np.zeros(0, np.float32))
    levels = level_db(mean_square).astype(np.float32)
    return Read(store.length_n, store, listened(store, levels, silent) if listen else None, levels)


def keep_file(source: Path, target: Path) -> None:
    """Keep the file itself under another name: a second link where the disk allows it, else a copy."""
    if source == target:
        return
    with suppress(OSError):
        target.unlink(missing_ok=True)
        os.link(source, target)
        return
    whole(target, lambda part: shutil.copyfile(source, part), sync=True)


def hear_again(folder: Path, about: About, progress: Progress) -> None:
    """Hear the sound of a folder filled before once more; what else is known of it stays."""
    known = read_facts(folder, about)
    assert known.track is not None
    track = listened(sound_store(folder, about), known.track.level_db, progress)
    save_voice(folder, track, power=known.power.products)
    write_sums(folder)


def _known_voice(heard: bytes, analysis: Analysis, length_n: int) -> VoiceTrack | None:
    """The voice as it was heard elsewhere; None unless it is just the figures that this sound would have."""
    try:
        with np.load(io.BytesIO(heard), allow_pickle=False) as saved:
            sizes = dict.fromkeys(("probability", "over_db", "singing", "music"), len(analysis.mean_square))
            if any(saved.zip.getinfo(f"{name}.npy").file_size > 8 * n + HEADER_BYTES for name, n in sizes.items()):
                return None
            voice = {name: saved[name] for name in sizes}
    except (ValueError, OSError, EOFError, KeyError, zipfile.BadZipFile, zlib.error):
        return None
    for name, array in voice.items():
        if array.shape != (sizes[name],) or array.dtype.kind != "f" or not np.isfinite(array).all():
            return None
    whole = {name: array.astype(np.float32) for name, array in voice.items()}
    return VoiceTrack(level_db=analysis.level_db, length_n=length_n, **whole)


def loudness_of(path: Path) -> Loudness:
    """What a file measures; of more than two channels, their stereo mix. Raises MediaError for one without sound."""
    meter = None
    with in_words(path.name):
        for chunk in sound_chunks(path, name=path.name):
            meter = meter or ProgrammeMeter(chunk.shape[1])
            meter.add(as_float(chunk))
    if meter is None:
        raise MediaError(f"{path.name} has no sound.")
    return meter.finish()


def _channels_word(channels: int) -> str:
    return {1: "mono", 2: "stereo"}.get(channels, f"{channels} channels")


def listened(store: Sound, levels: np.ndarray, progress: Progress) -> VoiceTrack:
    """What is heard in a decoded sound whose level each 10 ms is known, (blocks,) dBFS."""
    return hear(_chunks(store, progress, "listening for speech"), levels, length_n=store.length_n)


def weighed(store: Sound) -> tuple[np.ndarray, np.ndarray]:
    """Products of a decoded sound per 100 ms: K-weighted as `KWeighting` gives them, and of sixths of an octave."""
    weighting, octaves, found = KWeighting(store.channels), SixthOctaves(store.channels), []
    for chunk in store.chunks(CHUNK_N):
        found.append(weighting.products(chunk))
        octaves.add(as_float(chunk))
    return np.concatenate(found), unpacked(octaves.finish())


def sketched(store: Sound, levels: np.ndarray, progress: Progress = silent) -> Sketch:
    """What tailoring needs to hear of a decoded sound; as `listened`."""
    return sketch(_chunks(store, progress, "listening for beats"), levels, length_n=store.length_n)


def _chunks(store: Sound, progress: Progress, doing: str) -> Iterator[np.ndarray]:
    for i, chunk in enumerate(store.chunks(CHUNK_N)):
        progress(i * CHUNK_N / store.length_n, doing)
        yield chunk


def _decode(
    source: Path, name: str, target: Path, found: Probe, peaks: PeaksFile, progress: Progress, unread: Unread
) -> tuple[SoundStore, Analysis]:
    """Decode once: samples and peaks to disk, the rest through the analyser."""
    analyser: Analyser | None = None

    def analysed() -> Generator[np.ndarray, None, None]:
        nonlocal analyser
        done_n = 0
        for chunk in sound_chunks(source, name=name, unread=unread):
            rows = np.ascontiguousarray(chunk)
            analyser = analyser or Analyser(rows.shape[1])
            peaks.add(analyser.add(rows))
            yield rows
            done_n += len(rows)
            progress(min(1.0, done_n / max(found.duration_n, 1)) * SHARE_DECODE, "reading the sound")

    store = SoundStore.written(target, analysed())
    return store, (analyser or Analyser(1)).finish()


def _take_picture(source: Path, name: str, folder: Path, found: Probe, progress: Progress) -> dict[str, object]:
    picture = found.picture
    assert picture is not None

    thumbs = whole(folder / "thumbs.jpg", lambda path: pictures.write_thumbs(path, source=source, name=name), sync=True)
    mime: object = ""  # one that has to be encoded anew is made later, while the film is already worked on
    if pictures.container_for(picture) is not None:
        mime = _write_picture(folder, source, name, picture, within(progress, SHARE_HEAR, 1.0))
    return {
        "picture_mime": mime,
        "picture_word": f"{picture.codec}, {picture.width}×{picture.height}, {picture.fps:g} fps",
        "picture_codec": picture.codec,
        "width": picture.width,
        "height": picture.height,
        "fps": picture.fps,
        "thumbs": thumbs,
        "picture_n": found.picture_n if found.picture_n <= LONGEST_N else 0,
    }


def make_proxy(folder: Path, *, name: str, progress: Progress) -> None:
    """Encode the picture of a folder filled before in a form the browser plays."""
    source = folder / "original"
    with in_words(name):
        picture = probe(source, name=name).picture
        assert picture is not None
        _write_picture(folder, source, name, picture, progress)


def _write_picture(folder: Path, source: Path, name: str, picture: Picture, progress: Progress) -> object:
    """Write the picture alone, copied or encoded anew; its MIME type."""
    return whole(
        folder / "picture",
        lambda path: pictures.write_preview(path, source=source, name=name, picture=picture, progress=progress),
        sync=True,
    )
