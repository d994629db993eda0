"""From a file to a media folder, in steps: decoded sound, analysis, voice, picture. `facts.py` says what it then holds,
which is told in a last file: a folder that was left half way has none."""

from __future__ import annotations

import io
import os
import shutil
import zipfile
import zlib
from collections.abc import Callable, Generator, Iterator, Sequence
from contextlib import closing, suppress
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np

from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.signal.analysis import CHUNK_N, Analyser, Analysis, as_float
from jaylantern.core.signal.loudness import KWeighting, Loudness
from jaylantern.core.signal.signal_level import level_db, mean_squares
from jaylantern.core.signal.sixth_octaves import SixthOctaves, unpacked
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.tailoring.features import MusicFeatures
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
from jaylantern.pipeline import hear, music_features
from jaylantern.support.atomic_file import unfinished, whole
from jaylantern.support.progress import Progress, silent, within

LOST = "Its {} can't be read: the file may be damaged. The rest was taken."
SHARE_DECODE, SHARE_HEAR = 0.45, 0.85
HEADER_BYTES = 1000  # of an array in a file
SILENT_BELOW = 1e-9  # mean square under −90 dBFS throughout: a sound stream that carries nothing


@dataclass
class Taking:
    """A file on its way in: what is known of it by now. `heard` is the facts.npz of another folder: where it is of the
    same sound, the voice is taken from there. `values` are those of the `About` it comes to."""

    source: Path
    name: str
    folder: Path
    found: Probe
    heard: bytes | None
    listen: bool
    unread: Unread = field(default_factory=Unread)
    store: SoundStore | None = None  # None before it is decoded, and where there is nothing to hear in it
    analysis: Analysis | None = None
    track: VoiceTrack | None = None
    values: dict[str, object] = field(default_factory=lambda: {"length_n": 0})
    remarks: list[str] = field(default_factory=list)
    why: str = ""  # the first thing that went wrong


@dataclass(frozen=True)
class Step:
    """One step of taking a file in. `reads` and `writes` are names in the media folder; each file that is written is
    whole or not there. `to`: how much of the whole is done afterwards."""

    name: str
    run: Callable[[Taking, Progress], None]
    to: float
    reads: tuple[str, ...] = ()
    writes: tuple[str, ...] = ()


def take_in(
    source: Path, *, name: str, folder: Path, progress: Progress, heard: bytes | None = None, listen: bool = True
) -> About:
    """Fill a media folder from a file, step by step, and return what it holds; without `listen`, what is said in it
    stays unknown.

    `heard` is the facts.npz of another folder: where it is of the same sound, the voice is taken from there and not
    listened for again. Raises MediaError in plain words for a file that can't be used; the caller removes the folder.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with in_words(name):
        taking = Taking(source, name, folder, probe(source, name=name), heard, listen)
    if taking.found.sound is not None:
        _through(SOUND_STEPS, taking, progress, "sound", 0.0)
        if taking.unread.packets and not taking.why:
            taking.remarks.append("A part of its sound can't be read: the file may be damaged or cut short.")
    if taking.found.picture is not None and not _through(PICTURE_STEPS, taking, progress, "picture", SHARE_HEAR):
        taking.found = replace(taking.found, picture=None)
    return _finished(taking)


def _through(steps: Sequence[Step], taking: Taking, progress: Progress, part: str, done: float) -> bool:
    """Take a part of a file through its steps; where one fails, the part is lost, and False."""
    try:
        with in_words(taking.name):
            for step in steps:
                step.run(taking, within(progress, done, step.to))
                done = step.to
    except MediaError as error:
        taking.why = taking.why or str(error)
        taking.remarks.append(LOST.format(part))
        return False
    return True


def _finished(taking: Taking) -> About:
    """What a folder holds, told last of all. Raises MediaError where that is nothing."""
    found, values = taking.found, taking.values
    heard_n = int(values.get("sound_n", 0)) or int(values["length_n"])  # type: ignore[call-overload]
    seen_n = found.duration_n if found.picture and found.duration_n <= LONGEST_N else 0  # what it says may be nonsense
    values["length_n"] = max(seen_n, heard_n)
    if not values["length_n"]:
        nothing = f"{taking.name} holds nothing that can be used: no sound could be decoded and it has no picture."
        raise MediaError(taking.why or nothing)
    about = About(**values, remark=" ".join(taking.remarks))  # type: ignore[arg-type]
    write_sums(taking.folder)
    write_about(taking.folder, about)
    return about


# — the steps of sound —


class _Analysed:
    """Chunks of sound on their way to disk: measured, and their peaks written."""

    def __init__(self, chunks: Iterator[np.ndarray], peaks: PeaksFile, length_n: int, progress: Progress) -> None:
        self._chunks, self._peaks, self._length_n, self._progress = chunks, peaks, length_n, progress
        self._analyser: Analyser | None = None

    def __iter__(self) -> Generator[np.ndarray, None, None]:
        done_n = 0
        for chunk in self._chunks:
            rows = np.ascontiguousarray(chunk)
            self._analyser = self._analyser or Analyser(rows.shape[1])
            self._peaks.add(self._analyser.add(rows))
            yield rows
            done_n += len(rows)
            self._progress(min(1.0, done_n / max(self._length_n, 1)), "reading the sound")

    def finish(self) -> Analysis:
        """What was measured."""
        return (self._analyser or Analyser(1)).finish()


def _decode(taking: Taking, progress: Progress) -> None:
    """Once: samples and peaks to disk, the rest through the analyser. Of what is silent nothing is kept."""
    folder = taking.folder
    chunks = sound_chunks(taking.source, name=taking.name, unread=taking.unread)
    with (
        unfinished(folder / "peaks.bin", sync=True) as peaks_part,
        closing(PeaksFile(peaks_part)) as peaks,
        unfinished(folder / "sound.raw", sync=True) as sound_part,
    ):
        analysed = _Analysed(chunks, peaks, taking.found.duration_n, progress)
        written, analysis = SoundStore.written(sound_part, iter(analysed)), analysed.finish()
        taking.values["level_counts"] = peaks.finish()
    if not written.length_n or not analysis.mean_square.max() > SILENT_BELOW:
        (folder / "sound.raw").unlink()
        (folder / "peaks.bin").unlink()
        del taking.values["level_counts"]
        taking.values |= {"sound_word": "silent" if written.length_n else "no sound", "length_n": written.length_n}
        return
    sound = taking.found.sound
    assert sound is not None
    taking.store = SoundStore(folder / "sound.raw", written.dtype, written.channels, written.length_n)
    taking.analysis = analysis
    taking.values |= {
        "sound_n": written.length_n,
        "channels": written.channels,
        "dtype": written.dtype,
        "sound_word": f"{sound.codec}, {sound.rate / 1000:g} kHz, {_channels_word(sound.channels)}",
        "true_peak": analysis.true_peak,
    }


def _listen(taking: Taking, progress: Progress) -> None:
    """What is said in it: as it was heard elsewhere, not at all, or listened for."""
    store, analysis = taking.store, taking.analysis
    if store is None or analysis is None:
        return
    progress(0.0, "listening for speech")
    track = None if taking.heard is None else _known_voice(taking.heard, analysis, store.length_n)
    if track is None and not taking.listen:
        track = VoiceTrack.not_listened(analysis.level_db, store.length_n)
    track = track or listened(store, analysis.level_db, progress)
    save_voice(taking.folder, track, power=analysis.power)


def _weigh(taking: Taking, progress: Progress) -> None:
    """The powers of its bands."""
    if taking.analysis is not None:
        write_bands(taking.folder, taking.analysis.bands)


def _characterise(taking: Taking, progress: Progress) -> None:
    """What tags are suggested by."""
    if taking.store is not None:
        write_character(taking.folder, taking.store)


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


def features_of(store: Sound, levels: np.ndarray, progress: Progress = silent) -> MusicFeatures:
    """What tailoring needs to hear of a decoded sound; as `listened`."""
    return music_features(_chunks(store, progress, "listening for beats"), levels, length_n=store.length_n)


def _chunks(store: Sound, progress: Progress, doing: str) -> Iterator[np.ndarray]:
    for i, chunk in enumerate(store.chunks(CHUNK_N)):
        progress(i * CHUNK_N / store.length_n, doing)
        yield chunk


# — the steps of a picture —


def _thumbs(taking: Taking, progress: Progress) -> None:
    """Small pictures along it."""
    picture = taking.found.picture
    assert picture is not None
    with unfinished(taking.folder / "thumbs.jpg", sync=True) as part:
        thumbs = pictures.write_thumbs(part, source=taking.source, name=taking.name)
    taking.values |= {
        "picture_word": f"{picture.codec}, {picture.width}×{picture.height}, {picture.fps:g} fps",
        "picture_codec": picture.codec,
        "width": picture.width,
        "height": picture.height,
        "fps": picture.fps,
        "thumbs": thumbs,
        "picture_n": taking.found.picture_n if taking.found.picture_n <= LONGEST_N else 0,
    }


def _copy_picture(taking: Taking, progress: Progress) -> None:
    """The picture alone. One that has to be encoded anew is made later, while the film is already worked on."""
    picture = taking.found.picture
    assert picture is not None
    there = pictures.container_for(picture) is not None
    taking.values["picture_mime"] = (
        _write_picture(taking.folder, taking.source, taking.name, picture, progress) if there else ""
    )


SOUND_STEPS = (
    Step("decode", _decode, SHARE_DECODE, (), ("sound.raw", "peaks.bin")),
    Step("listen", _listen, SHARE_HEAR, ("sound.raw",), ("facts.npz",)),
    Step("weigh", _weigh, SHARE_HEAR, (), ("bands.npz",)),
    Step("characterise", _characterise, SHARE_HEAR, ("sound.raw",), ("character.npz",)),
)
PICTURE_STEPS = (
    Step("thumbs", _thumbs, SHARE_HEAR, (), ("thumbs.jpg",)),
    Step("copy the picture", _copy_picture, 1.0, (), ("picture",)),
)


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
