"""The film with its new sound: the picture's packets copied, or, where it is cut, its frames encoded anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaylantern.core.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media.film_sound import MP4_SOUNDS, SOUND_TRACKS, SoundTrack, Tracks
from jaylantern.media.probe import open_media, picture_stream

MP4_CODECS = frozenset({"h264", "hevc", "mpeg4", "av1", "vp9"})


QUALITIES = {"high": ("high", 17), "medium": ("medium", 21), "small": ("small file", 26)}  # constant rate factors


def suffix_for(picture_codec: str, track: SoundTrack = SOUND_TRACKS["aac"], kept: Sequence[str] = ()) -> str:
    """File ending of a film that can hold this picture, this sound and kept sounds of these codecs: .mp4, else .mkv."""
    fits = picture_codec in MP4_CODECS and track.in_mp4 and set(kept) <= MP4_SOUNDS
    return ".mp4" if fits else ".mkv"


@contextmanager
def opened(path: Path, name: str) -> Iterator[Any]:
    """A container for writing, MP4 or Matroska by the ending of `path`."""
    form = "mp4" if path.suffix == ".mp4" else "matroska"
    try:
        with av.open(str(path), "w", format=form, options={"movflags": "+faststart"} if form == "mp4" else {}) as out:
            yield out
    except av.FFmpegError as error:
        raise MediaError(f"The picture of {name} can't be put into a {form} file: {error.strerror}.") from error


def write_film(
    path: Path,
    *,
    source: Path,
    name: str,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
    keep: bool = False,
) -> None:
    """Mux the picture of `source` with `sound` (blocks of (n, 2) float32 at 48 kHz).

    The container is MP4 or Matroska by the ending of `path`. Packets are written in order of time as all streams
    advance, so memory stays flat. With `keep` the sound tracks of the source follow, their packets copied. Raises
    MediaError if the container refuses the picture.
    """
    with open_media(source, name) as film:
        picture = picture_stream(film)
        if picture is None:
            raise MediaError(f"{name} has no picture.")
        with opened(path, name) as out:
            _mux(out, film, picture, sound, track, [*film.streams.audio] if keep else [])


def _mux(out: Any, film: Any, picture: Any, sound: Iterator[np.ndarray], track: SoundTrack, kept: list[Any]) -> None:
    copied = out.add_stream_from_template(picture)
    origin = picture.start_time or 0
    written = Tracks(out, track, sound, kept=kept, origin=origin * picture.time_base)
    for packet in film.demux(picture, *kept):
        if packet.dts is None and packet.pts is None:
            continue
        if packet.stream_index != picture.index:
            written.copy(packet)
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
    also: Iterator[np.ndarray] | None = None,
) -> None:
    """Encode shots one after another as H.264 of a size (width, height, both even) and rate, and mux them with `sound`
    and, as a second track, with `also`.

    A shot that has another shape stands in black bars. Each frame shows what its source shows in the middle of it.
    Raises MediaError for a source that can't be read.
    """
    with opened(path, "the film") as out:
        picture = out.add_stream("libx264", rate=fps, options={"preset": "veryfast", "crf": str(crf)})
        picture.width, picture.height, picture.pix_fmt = *size, "yuv420p"
        written = Tracks(out, track, sound, also=also)
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
