"""The film with its new sound: the picture's packets copied, or, where it is cut, its frames encoded anew."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from jaylantern.core.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media.probe import open_media, picture_stream

MP4_CODECS = frozenset({"h264", "hevc", "mpeg4", "av1", "vp9"})


@dataclass(frozen=True)
class SoundTrack:
    """How the sound of a film is written: encoder, its sample format, bit rate, and whether MP4 can hold it."""

    name: str
    label: str
    codec: str
    form: str
    bit_rate: int = 0
    in_mp4: bool = True


SOUND_TRACKS = {
    each.name: each
    for each in (
        SoundTrack("aac", "AAC 192 kbit/s", "aac", "fltp", 192_000),
        SoundTrack("opus", "Opus 160 kbit/s", "libopus", "flt", 160_000, in_mp4=False),
        SoundTrack("pcm", "PCM 24 bit", "pcm_s24le", "s32", in_mp4=False),
    )
}
QUALITIES = {"high": ("high", 17), "medium": ("medium", 21), "small": ("small file", 26)}  # constant rate factors


def suffix_for(picture_codec: str, track: SoundTrack = SOUND_TRACKS["aac"]) -> str:
    """File ending of a film that can hold this picture and sound: .mp4 where it can, else .mkv."""
    return ".mp4" if picture_codec in MP4_CODECS and track.in_mp4 else ".mkv"


def write_film(
    path: Path,
    *,
    source: Path,
    name: str,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
) -> None:
    """Mux the picture of `source` with `sound` (blocks of (n, 2) float32 at 48 kHz).

    The container is MP4 or Matroska by the ending of `path`. Packets are written in order of time as both
    streams advance, so memory stays flat. Raises MediaError if the container refuses the picture.
    """
    with open_media(source, name) as film:
        picture = picture_stream(film)
        if picture is None:
            raise MediaError(f"{name} has no picture.")
        form = "mp4" if path.suffix == ".mp4" else "matroska"
        options = {"movflags": "+faststart"} if form == "mp4" else {}
        try:
            with av.open(str(path), "w", format=form, options=options) as out:
                _mux(out, film, picture, sound, track)
        except av.FFmpegError as error:
            raise MediaError(f"The picture of {name} can't be put into a {form} file: {error.strerror}.") from error


def _mux(out, film, picture, sound: Iterator[np.ndarray], track: SoundTrack) -> None:
    copied = out.add_stream_from_template(picture)
    origin = picture.start_time or 0
    written = _Encoder(out, track, sound)
    for packet in film.demux(picture):
        if packet.dts is None and packet.pts is None:
            continue
        packet.pts = None if packet.pts is None else packet.pts - origin
        packet.dts = None if packet.dts is None else packet.dts - origin
        at = packet.dts if packet.dts is not None else packet.pts
        written.until(float(at * packet.time_base))
        packet.stream = copied
        out.mux(packet)
    written.finish()


@dataclass(frozen=True)
class Shot:
    """A stretch of a film to be made: so long in samples, of this source from `offset_n` on; black without one."""

    length_n: int
    source: Path | None = None
    name: str = ""
    offset_n: int = 0


def write_cut_film(
    path: Path,
    *,
    shots: Iterator[Shot],
    size: tuple[int, int],
    fps: Fraction,
    crf: int,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
) -> None:
    """Encode shots one after another as H.264 of a size (width, height, both even) and rate, and mux them with `sound`.

    A shot that has another shape stands in black bars. Each frame shows what its source shows in the middle of it.
    Raises MediaError for a source that can't be read.
    """
    form = "mp4" if path.suffix == ".mp4" else "matroska"
    options = {"movflags": "+faststart"} if form == "mp4" else {}
    with av.open(str(path), "w", format=form, options=options) as out:
        picture = out.add_stream("libx264", rate=fps, options={"preset": "veryfast", "crf": str(crf)})
        picture.width, picture.height, picture.pix_fmt = *size, "yuv420p"
        written = _Encoder(out, track, sound)
        for number, frame in enumerate(_frames(shots, size, fps)):
            frame.pts, frame.time_base, frame.pict_type = number, 1 / fps, 0
            written.until(float(number / fps))
            out.mux(picture.encode(frame))
        out.mux(picture.encode(None))
        written.finish()


def _frames(shots: Iterator[Shot], size: tuple[int, int], fps: Fraction) -> Iterator[av.VideoFrame]:
    """Every frame of the film, in order."""
    black = np.zeros((size[1], size[0], 3), np.uint8)
    number, begin_n = 0, 0
    for shot in shots:
        end_n = begin_n + shot.length_n
        times = []
        while (middle := (number + Fraction(1, 2)) / fps * RATE) < end_n:
            times.append(Fraction(shot.offset_n + middle - begin_n) / RATE)
            number += 1
        if shot.source is None:
            for _ in times:
                yield av.VideoFrame.from_ndarray(black, format="rgb24").reformat(format="yuv420p")
        elif times:
            yield from _shown(shot, times, size)
        begin_n = end_n


def _shown(shot: Shot, times: list[Fraction], size: tuple[int, int]) -> Iterator[av.VideoFrame]:
    """What a source shows at these times, in order; its last frame where it ends before them."""
    assert shot.source is not None
    with open_media(shot.source, shot.name) as film:
        stream = picture_stream(film)
        if stream is None:
            raise MediaError(f"{shot.name} has no picture.")
        stream.thread_type = "AUTO"
        origin = (stream.start_time or 0) * stream.time_base
        film.seek(int((times[0] + origin) / stream.time_base), stream=stream)
        frames = film.decode(stream)
        shown, coming = None, next(frames, None)
        fitted = _Fitted(size)
        for time in times:
            while coming is not None and (shown is None or coming.pts * stream.time_base - origin <= time):
                shown, coming = coming, next(frames, None)
            if shown is None:
                raise MediaError(f"{shot.name} has no picture at {float(time):.2f} s.")
            yield fitted.frame(shown)


class _Fitted:
    """Frames brought to one size, in black bars where their shape is another."""

    def __init__(self, size: tuple[int, int]) -> None:
        self._size = size

    def frame(self, frame: av.VideoFrame) -> av.VideoFrame:
        width, height = self._size
        scale = min(width / frame.width, height / frame.height)
        inner = [
            max(2, min(side, round(old * scale / 2) * 2))
            for side, old in ((width, frame.width), (height, frame.height))
        ]
        if inner == [width, height]:
            return frame.reformat(width, height, "yuv420p")
        small = frame.reformat(*inner, "rgb24").to_ndarray()
        whole = np.zeros((height, width, 3), np.uint8)
        top, left = (height - inner[1]) // 2, (width - inner[0]) // 2
        whole[top : top + inner[1], left : left + inner[0]] = small
        return av.VideoFrame.from_ndarray(whole, format="rgb24").reformat(format="yuv420p")


class _Encoder:
    """Encodes the sound just far enough ahead of the picture."""

    def __init__(self, out, track: SoundTrack, blocks: Iterator[np.ndarray]) -> None:
        rate = {"bit_rate": track.bit_rate} if track.bit_rate else {}
        options = {"aac_coder": "fast"} if track.codec == "aac" else {}
        self._stream = out.add_stream(track.codec, rate=RATE, layout="stereo", options=options, **rate)
        self._stream.format = track.form
        self._out, self._form, self._blocks, self._done_n = out, track.form, blocks, 0

    def until(self, seconds: float) -> None:
        while self._done_n < seconds * RATE and self._next():
            pass

    def finish(self) -> None:
        while self._next():
            pass
        self._out.mux(self._stream.encode(None))

    def _next(self) -> bool:
        block = next(self._blocks, None)
        if block is None or not len(block):
            return False
        frame = av.AudioFrame.from_ndarray(_laid_out(block, self._form), format=self._form, layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._done_n, Fraction(1, RATE)
        self._out.mux(self._stream.encode(frame))
        self._done_n += len(block)
        return True


def _laid_out(block: np.ndarray, form: str) -> np.ndarray:
    """Samples (n, 2) as an encoder wants them: planar, packed, or packed whole numbers of 24 bit in 32."""
    if form == "fltp":
        return np.ascontiguousarray(block.T)
    if form == "flt":
        return np.ascontiguousarray(block).reshape(1, -1)
    steps = np.clip(np.rint(block.astype(np.float64) * (1 << 23)), -(1 << 23), (1 << 23) - 1)
    return (steps.astype(np.int32) << 8).reshape(1, -1)
