"""What a media folder holds, on disk: written by `ingest.py`, read here. Each file is whole or not there.

about.json    what the medium is            facts.npz    levels, powers, voice
sound.raw     samples at 48 kHz             peaks.bin    pyramid for drawing, finest level first
character.npz what tags are suggested from   key.npz     level each millisecond, for the compressor
bands.npz     powers of sixths of an octave   voice.npz    noise, hiss and breaths of a voice
care-…        what was treated of it         sums.json    checksums of the large ones
picture.*     picture alone                 thumbs.jpg   small frames side by side
beats.npz     what tailoring heard          tailored.json, piece-*.raw   see tailoring.py
"""

from __future__ import annotations

import json
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.care.heard import Voice, VoiceListener
from jaylantern.core.ducking.key_level import KeyListener, KeyTrack
from jaylantern.core.ducking.media_power import MediaPower, Spectrum
from jaylantern.core.signal.analysis import CHUNK_N, as_float
from jaylantern.core.signal.arrays import mono
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.sixth_octaves import SIXTHS, SixthOctaves, unpacked
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.voice_track import OLDER_FRAME_N, VoiceTrack
from jaylantern.core.tailoring.features import MusicFeatures
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.errors import Damaged, Refused
from jaylantern.media import picture as pictures
from jaylantern.media.sound import Sound, SoundStore
from jaylantern.media.tailored import tailored
from jaylantern.pipeline import MediaFacts
from jaylantern.support.atomic_file import whole

T = TypeVar("T")
DAMAGES = (
    FileNotFoundError, NotADirectoryError, ValueError, TypeError, KeyError, AttributeError, EOFError,
    zipfile.BadZipFile, zlib.error, NotImplementedError,
)  # fmt: skip
SUMMED = ("sound.raw", "peaks.bin", "picture", "thumbs.jpg", "facts.npz")
LEVELS = ("noise_s", "noise_db", "speech_db", "rumble_db", "spread_db")  # of a voice
PROXY_MIME = "video/mp4"


@dataclass(frozen=True)
class About:
    """What a media folder holds."""

    length_n: int
    sound_n: int = 0
    channels: int = 0
    dtype: str = ""
    sound_word: str = ""
    level_counts: tuple[int, ...] = ()
    true_peak: float = 0.0
    picture_mime: str = ""
    picture_word: str = ""
    picture_codec: str = ""
    width: int = 0
    height: int = 0
    fps: float = 0.0
    thumbs: int = 0
    picture_n: int = 0  # of the picture alone; 0: not known
    remark: str = ""

    @property
    def has_sound(self) -> bool:
        """Is there any sound in it?"""
        return self.sound_n > 0

    @property
    def frame_width(self) -> int:
        """How wide one small frame of the strip is, in pixels at a height of 72."""
        return pictures.thumb_width(self.width, self.height) if self.height else 128

    def frame_at(self, number: int) -> int:
        """Where a small frame begins in the strip, in pixels; the last one where there are fewer."""
        return self.frame_width * max(0, min(number, self.thumbs - 1))

    @property
    def has_picture(self) -> bool:
        """Is there a moving picture in it?"""
        return self.fps > 0


def write_about(folder: Path, about: About) -> None:
    """Say what a folder holds: the last file of it to be written."""
    whole(folder / "about.json", lambda path: path.write_text(json.dumps(asdict(about))), sync=True)


def write_sums(folder: Path) -> None:
    """Note the checksums of the large files of a folder, so that damage that leaves their size can be told."""
    sums = {name: _sum(folder / name) for name in SUMMED if (folder / name).is_file()}
    whole(folder / "sums.json", lambda path: path.write_text(json.dumps(sums), encoding="utf-8"))


def spoiled(folder: Path) -> list[str]:
    """Files of a folder whose content is not what it was when they were written; those that nobody noted count as they
    are, and are noted now. Reads all of them."""
    try:
        sums = json.loads((folder / "sums.json").read_text(encoding="utf-8"))
        known = {name: int(sums[name]) for name in SUMMED if name in sums}
    except DAMAGES:
        write_sums(folder)
        return []
    return [name for name, value in known.items() if not (folder / name).is_file() or _sum(folder / name) != value]


def _sum(path: Path) -> int:
    found = 0
    with path.open("rb") as file:
        while block := file.read(1 << 20):
            found = zlib.crc32(block, found)
    return found


def read_about(folder: Path) -> About:
    """What a folder filled before holds. Raises Damaged where that can't be read."""
    with _damage_of(folder):
        values = json.loads((folder / "about.json").read_text(encoding="utf-8"))
        return About(**{**values, "level_counts": tuple(values["level_counts"])})


@contextmanager
def _damage_of(folder: Path) -> Iterator[None]:
    """What can't be read in here is damage of this folder."""
    try:
        yield
    except DAMAGES as error:
        raise Damaged(folder.name) from error


def _kept(path: Path, read: Callable[[Any], T]) -> T | None:
    """What is read from a file of arrays; None where it is not there or damaged, so that it is made anew."""
    try:
        with np.load(path) as saved:
            return read(saved)
    except DAMAGES:
        return None


def described_ns(folder: Path) -> int:
    """When it was told what a folder holds, in nanoseconds of the file system's clock. Raises Damaged."""
    with _damage_of(folder):
        return (folder / "about.json").stat().st_mtime_ns


def written(folder: Path) -> int:
    """When the facts of a folder were written, in nanoseconds of the file system's clock."""
    with _damage_of(folder):
        return (folder / "facts.npz").stat().st_mtime_ns


def read_facts(folder: Path, about: About) -> MediaFacts:
    """Levels, powers and voice of a folder filled before. Raises Damaged where they can't be read."""
    with _damage_of(folder), np.load(folder / "facts.npz") as saved:
        over_db, singing, music = (saved.get(name) for name in ("over_db", "singing", "music"))
        there = len(saved["probability"])  # older data folders: the one network, or the level alone
        frame_n = OLDER_FRAME_N if singing is None and there else HOP_N
        track = VoiceTrack(
            saved["probability"], saved["level_db"], about.sound_n, over_db, singing, music, frame_n=frame_n
        )
        power = saved["power"]
        if power.ndim == 1:  # of an older data folder: the sum of both channels, taken as alike on both
            both = np.stack((power / 2, power / 2, np.zeros(len(power))), axis=1)
            power = power[:, None] if about.channels == 1 else both
        return MediaFacts(track, MediaPower(power), about.true_peak)


def read_power(path: Path) -> MediaPower | None:
    """The powers of a sound that was treated; None, so that it is treated again, where they can't be read."""
    found = _kept(path, lambda saved: MediaPower(saved["power"]))
    if found is None:
        path.unlink(missing_ok=True)
    return found


def read_bands(folder: Path, about: About) -> Spectrum:
    """The powers of sixths of an octave of a folder filled before; listened for on first use."""
    found = bands_kept(folder)
    if found is None:
        sound = sound_store(folder, about)
        octaves = SixthOctaves(sound.channels)
        for chunk in sound.chunks(CHUNK_N):
            octaves.add(as_float(chunk))
        kept = octaves.finish()
        write_bands(folder, kept)
        found = Spectrum(unpacked(kept))
    return found


def bands_kept(folder: Path) -> Spectrum | None:
    """Those of a sound, or of one that was treated; None where they are not known, or are others than these."""
    bands = _kept(folder / "bands.npz", lambda saved: saved["bands"])
    return Spectrum(unpacked(bands)) if bands is not None and bands.shape[1:2] == (SIXTHS,) else None


def write_bands(folder: Path, bands: NDArray[np.float16]) -> None:
    """Keep the powers of sixths of an octave, as `SixthOctaves` gives them."""
    save(folder / "bands.npz", bands=bands)


def read_key(folder: Path, about: About) -> KeyTrack:
    """The level of a folder filled before, as the compressor's key; listened for on first use."""
    found = _kept(folder / "key.npz", lambda saved: KeyTrack(saved["rms"], saved["peak"]))
    if found is None:
        listener = KeyListener()
        for chunk in sound_store(folder, about).chunks(CHUNK_N):
            listener.add(chunk)
        found = listener.finish()
        save(folder / "key.npz", **vars(found))
    return found


def read_voice(folder: Path, sound: Sound, speech: Intervals, heard: str) -> Voice:
    """What care needs to know of the sound of a folder; listened for on first use, and when it was `heard` anew."""

    def of_saved(saved: Any) -> Voice | None:
        if str(saved["heard"]) != heard:
            return None
        noise_s, noise_db, speech_db, rumble_db, spread_db = (float(saved[name]) for name in LEVELS)
        spans = saved["hisses"], saved["breaths"]
        return Voice(saved["noise"], noise_s, noise_db, speech_db, rumble_db, spread_db, *spans)

    kept = _kept(folder / "voice.npz", of_saved)
    if kept is not None:
        return kept
    listener = VoiceListener(speech)
    for chunk in sound.chunks(CHUNK_N):
        listener.add(chunk)
    found = listener.finish()
    save(
        folder / "voice.npz",
        heard=np.array(heard),
        **{name: np.asarray(value) for name, value in vars(found).items()},
    )
    return found


def save_voice(folder: Path, track: VoiceTrack, *, power: np.ndarray) -> None:
    """Write what was heard, and the K-weighted powers."""
    more = {"over_db": track.over_db, "singing": _half(track.singing), "music": _half(track.music)}
    there: dict[str, Any] = {name: array for name, array in more.items() if array is not None}
    save(folder / "facts.npz", probability=track.probability, level_db=track.level_db, power=power, **there)


def _half(array: np.ndarray | None) -> np.ndarray | None:
    """In half precision, which is plenty for a probability."""
    return None if array is None else array.astype(np.float16)


def save(path: Path, **arrays: np.ndarray) -> None:
    """Write arrays to a file that is whole or not there; several may write it at once."""

    def write(part: Path) -> None:
        with part.open("wb") as file:
            np.savez(file, allow_pickle=False, **arrays)

    whole(path, write, sync=True)


def read_character(folder: Path, about: About) -> tag_suggestions.Character:
    """What suggestions need of a folder filled before; listened for on first use."""
    kept = _kept(folder / "character.npz", lambda saved: tag_suggestions.Character(saved["time_n"], saved["lines"]))
    return write_character(folder, sound_store(folder, about)) if kept is None else kept


def write_character(folder: Path, store: Sound) -> tag_suggestions.Character:
    """Listen for what suggestions need, and keep it."""
    found = tag_suggestions.listen(lambda start_n, stop_n: mono(store.read(start_n, stop_n)), store.length_n)
    save(folder / "character.npz", time_n=found.time_n, lines=found.lines)
    return found


def sound_store(folder: Path, about: About) -> Sound:
    """The sound of a folder filled before: decoded, or tailored from that of another folder."""
    path = folder / "tailored.json"
    if not path.exists():
        return SoundStore(folder / "sound.raw", about.dtype, about.channels, about.sound_n)
    with _damage_of(folder):
        tailoring = Tailoring.of(json.loads(path.read_text(encoding="utf-8")))
    source = folder.parent.parent / tailoring.source[:2] / tailoring.source
    return tailored(sound_store(source, read_about(source)), tailoring.cut, folder)


def save_tailoring(folder: Path, tailoring: Tailoring) -> None:
    """Say what a folder is tailored from."""
    whole(folder / "tailored.json", lambda path: path.write_text(tailoring.text, encoding="utf-8"), sync=True)


def has_features(folder: Path) -> bool:
    """Has tailoring heard the sound of a folder?"""
    return zipfile.is_zipfile(folder / "beats.npz")


def save_features(folder: Path, features: MusicFeatures) -> None:
    """Write what tailoring heard."""
    save(folder / "beats.npz", **{**vars(features), "length_n": np.array(features.length_n)})


def read_features(folder: Path) -> MusicFeatures:
    """What tailoring heard of the sound of a folder. Where that is damaged it is thrown away, to be heard again, and
    Refused is raised."""

    def of_saved(saved: Any) -> MusicFeatures:
        rows = {name: saved[name] for name in ("onset", "low_onset", "colour", "harmony")}
        return MusicFeatures(**rows, length_n=int(saved["length_n"]))

    found = _kept(folder / "beats.npz", of_saved)
    if found is None:
        (folder / "beats.npz").unlink(missing_ok=True)
        raise Refused("What was heard of the beats is damaged; they are listened for again.")
    return found
