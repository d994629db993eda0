"""From a file to a media folder: decoded sound, analysis, picture. Each file of the folder is whole or not there.

about.json    what the medium is            facts.npz    levels, powers, voice
sound.raw     samples at 48 kHz             peaks.bin    pyramid for drawing, finest level first
character.npz what tags are suggested from   key.npz     level each millisecond, for the compressor
picture.*     picture alone                 thumbs.jpg   small frames side by side
"""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path

import numpy as np

from jaylantern.core.ducking.clearance import MediaPower
from jaylantern.core.ducking.sidechain import KeyListener, KeyTrack
from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.signal.analysis import CHUNK_N, Analyser, Analysis, as_float
from jaylantern.core.signal.arrays import mono
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.signal_level import level_db
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.voice_track import FRAME_N, VoiceTrack
from jaylantern.errors import MediaError
from jaylantern.media import picture as pictures
from jaylantern.media.decode import sound_chunks
from jaylantern.media.peaks_file import PeaksFile
from jaylantern.media.probe import Picture, Probe, probe
from jaylantern.media.sound import SoundStore
from jaylantern.pipeline import MediaFacts, hear
from jaylantern.support.atomic_file import whole

Progress = Callable[[float, str], None]  # share done 0–1 and what is being done; may raise Stopped
SHARE_DECODE, SHARE_HEAR = 0.45, 0.85
HEADER_BYTES = 1000  # of an array in a file
PROXY_MIME = "video/mp4"
SILENT_BELOW = 1e-9  # mean square under −90 dBFS throughout: a sound stream that carries nothing


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


def take_in(source: Path, *, name: str, folder: Path, progress: Progress, heard: bytes | None = None) -> About:
    """Fill a media folder from a file and return what it holds.

    `heard` is the facts.npz of another folder: where it is of the same sound, the voice is taken from there and not
    listened for again. Raises MediaError in plain words for a file that can't be used; the caller removes the folder.
    """
    folder.mkdir(parents=True, exist_ok=True)
    found = probe(source, name=name)
    values: dict[str, object] = {"length_n": 0}
    if found.sound is not None:
        values |= _take_sound(source, name, folder, found, progress, heard)
    if found.picture is not None:
        values |= _take_picture(source, name, folder, found, progress)
    heard_n = int(values.get("sound_n", 0)) or int(values["length_n"])  # type: ignore[call-overload]
    values["length_n"] = max(found.duration_n, heard_n) if found.picture else heard_n
    if not values["length_n"]:
        raise MediaError(f"{name} holds nothing that can be used: no sound could be decoded and it has no picture.")
    about = About(**values)  # type: ignore[arg-type]
    whole(folder / "about.json", lambda path: path.write_text(json.dumps(asdict(about))), sync=True)
    return about


def _take_sound(
    source: Path, name: str, folder: Path, found: Probe, progress: Progress, heard: bytes | None
) -> dict[str, object]:
    peaks = PeaksFile(folder / "peaks.bin")
    try:
        store, analysis = whole(
            folder / "sound.raw", lambda path: _decode(source, name, path, found, peaks, progress), sync=True
        )
        level_counts = peaks.finish()
    finally:
        peaks.close()
    if not store.length_n or not analysis.mean_square.max() > SILENT_BELOW:
        (folder / "sound.raw").unlink()
        (folder / "peaks.bin").unlink()
        return {"sound_word": "silent" if store.length_n else "no sound", "length_n": store.length_n}
    store = SoundStore(folder / "sound.raw", store.dtype, store.channels, store.length_n)
    progress(SHARE_DECODE, "listening for speech")
    total = store.length_n
    track = None if heard is None else _known_voice(heard, analysis, total)
    if track is None:
        chunks = (_said(c, i * CHUNK_N / total, progress) for i, c in enumerate(store.chunks(CHUNK_N)))
        track = hear(chunks, analysis, length_n=total)
    voice = {"probability": track.probability, "level_db": track.level_db, "over_db": track.over_db}
    _save(folder / "facts.npz", **voice, power=analysis.power)
    _write_character(folder, store)
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


def _known_voice(heard: bytes, analysis: Analysis, length_n: int) -> VoiceTrack | None:
    """The voice as it was heard elsewhere; None unless it is just the figures that this sound would have."""
    try:
        with np.load(io.BytesIO(heard), allow_pickle=False) as saved:
            sizes = {"probability": -(-length_n // FRAME_N), "over_db": len(analysis.mean_square)}
            if any(saved.zip.getinfo(f"{name}.npy").file_size > 8 * n + HEADER_BYTES for name, n in sizes.items()):
                return None
            voice = {name: saved[name] for name in sizes}
    except (ValueError, OSError, EOFError, KeyError, zipfile.BadZipFile, zlib.error):
        return None
    for name, array in voice.items():
        if array.shape != (sizes[name],) or array.dtype.kind != "f" or not np.isfinite(array).all():
            return None
    level = level_db(analysis.mean_square).astype(np.float32)
    return VoiceTrack(voice["probability"].astype(np.float32), level, length_n, voice["over_db"].astype(np.float32))


def loudness_of(path: Path) -> Loudness:
    """What a file measures; of more than two channels, their stereo mix. Raises MediaError for one without sound."""
    meter = None
    for chunk in sound_chunks(path, name=path.name):
        meter = meter or ProgrammeMeter(chunk.shape[1])
        meter.add(as_float(chunk))
    if meter is None:
        raise MediaError(f"{path.name} has no sound.")
    return meter.finish()


def _channels_word(channels: int) -> str:
    return {1: "mono", 2: "stereo"}.get(channels, f"{channels} channels")


def _said(chunk: np.ndarray, share: float, progress: Progress) -> np.ndarray:
    progress(SHARE_DECODE + (SHARE_HEAR - SHARE_DECODE) * share, "listening for speech")
    return chunk


def _decode(
    source: Path, name: str, target: Path, found: Probe, peaks: PeaksFile, progress: Progress
) -> tuple[SoundStore, Analysis]:
    """Decode once: samples and peaks to disk, the rest through the analyser."""
    analyser, dtype, channels, done_n = None, "float32", 0, 0
    with target.open("wb") as file:
        for chunk in sound_chunks(source, name=name):
            if analyser is None:
                channels, dtype = chunk.shape[1], chunk.dtype.name
                analyser = Analyser(channels)
            rows = np.ascontiguousarray(chunk)
            file.write(rows.data)
            peaks.add(analyser.add(rows))
            done_n += len(rows)
            progress(min(1.0, done_n / max(found.duration_n, 1)) * SHARE_DECODE, "reading the sound")
    return SoundStore(target, dtype, channels, done_n), (analyser or Analyser(1)).finish()


def _take_picture(source: Path, name: str, folder: Path, found: Probe, progress: Progress) -> dict[str, object]:
    picture = found.picture
    assert picture is not None

    def report(share: float) -> None:
        progress(SHARE_HEAR + (1 - SHARE_HEAR) * share, "preparing the picture")

    mime = ""  # one that has to be encoded anew is made later, while the film is already worked on
    if pictures.container_for(picture) is not None:
        mime = _write_picture(folder, source, name, picture, report)
    thumbs = whole(folder / "thumbs.jpg", lambda path: pictures.write_thumbs(path, source=source, name=name), sync=True)
    return {
        "picture_mime": mime,
        "picture_word": f"{picture.codec}, {picture.width}×{picture.height}, {picture.fps:g} fps",
        "picture_codec": picture.codec,
        "width": picture.width,
        "height": picture.height,
        "fps": picture.fps,
        "thumbs": thumbs,
    }


def make_proxy(folder: Path, *, name: str, progress: Progress) -> None:
    """Encode the picture of a folder filled before in a form the browser plays."""
    source = folder / "original"
    picture = probe(source, name=name).picture
    assert picture is not None

    def report(share: float) -> None:
        progress(share, "making the picture")

    _write_picture(folder, source, name, picture, report)


def _write_picture(folder: Path, source: Path, name: str, picture: Picture, report: Callable[[float], None]) -> object:
    """Write the picture alone, copied or encoded anew; its MIME type."""
    return whole(
        folder / "picture",
        lambda path: pictures.write_preview(path, source=source, name=name, picture=picture, progress=report),
        sync=True,
    )


def read_about(folder: Path) -> About:
    """What a folder filled before holds."""
    values = json.loads((folder / "about.json").read_text())
    return About(**{**values, "level_counts": tuple(values["level_counts"])})


def read_facts(folder: Path, about: About) -> MediaFacts:
    """Levels, powers and voice of a folder filled before."""
    with np.load(folder / "facts.npz") as saved:
        over_db = saved.get("over_db")  # an older data folder knows the level alone
        track = VoiceTrack(saved["probability"], saved["level_db"], about.sound_n, over_db)
        power = saved["power"]
        if power.ndim == 1:  # of an older data folder: the sum of both channels, taken as alike on both
            mono = about.channels == 1
            power = power[:, None] if mono else np.stack((power / 2, power / 2, np.zeros(len(power))), axis=1)
        return MediaFacts(track, MediaPower(power), about.true_peak, cache(lambda: read_key(folder, about)))


def read_key(folder: Path, about: About) -> KeyTrack:
    """The level of a folder filled before, as the compressor's key; listened for on first use."""
    path = folder / "key.npz"
    if not path.exists():
        listener = KeyListener()
        for chunk in sound_store(folder, about).chunks(CHUNK_N):
            listener.add(chunk)
        _save(path, **vars(listener.finish()))
    with np.load(path) as saved:
        return KeyTrack(saved["rms"], saved["peak"])


def _save(path: Path, **arrays: np.ndarray) -> None:
    """Write arrays to a file that is whole or not there."""

    def write(part: Path) -> None:
        with part.open("wb") as file:
            np.savez(file, **arrays)

    whole(path, write, sync=True)


def read_character(folder: Path, about: About) -> tag_suggestions.Character:
    """What suggestions need of a folder filled before; listened for on first use."""
    path = folder / "character.npz"
    if not path.exists():
        _write_character(folder, sound_store(folder, about))
    with np.load(path) as saved:
        return tag_suggestions.Character(saved["time_n"], saved["lines"])


def _write_character(folder: Path, store: SoundStore) -> None:
    found = tag_suggestions.listen(lambda start_n, stop_n: mono(store.read(start_n, stop_n)), store.length_n)
    _save(folder / "character.npz", time_n=found.time_n, lines=found.lines)


def sound_store(folder: Path, about: About) -> SoundStore:
    """The decoded sound of a folder filled before."""
    return SoundStore(folder / "sound.raw", about.dtype, about.channels, about.sound_n)
