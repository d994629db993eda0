"""The film with its new sound: the picture's packets copied, or, where it is cut, its frames encoded anew."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator, Sequence
from contextlib import closing, contextmanager
from dataclasses import dataclass
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media import mp4_loudness
from jaylantern.media.damaged import frames
from jaylantern.media.film_beside import NOTHING, Beside
from jaylantern.media.film_sound import MP4_SOUNDS, SOUND_TRACKS, SoundTrack, Tracks
from jaylantern.media.probe import open_media, picture_stream
from jaylantern.media.upright import Upright, look_of
from jaylantern.support.disk import OF_THE_DISK

OPTIONS = {  # of containers: what is needed first stands first; no number is drawn at random
    "mp4": {"movflags": "+faststart"},
    "matroska": {"fflags": "+bitexact"},
}
MP4_CODECS = frozenset({"h264", "hevc", "mpeg4", "av1", "vp9"})


QUALITIES = {"high": ("high", 17), "medium": ("medium", 21), "small": ("small file", 26)}  # constant rate factors


def suffix_for(picture_codec: str, track: SoundTrack = SOUND_TRACKS["aac"], kept: Sequence[str] = ()) -> str:
    """File ending of a film that can hold this picture, this sound and kept sounds of these codecs: .mp4, else .mkv."""
    fits = picture_codec in MP4_CODECS and track.in_mp4 and set(kept) <= MP4_SOUNDS
    return ".mp4" if fits else ".mkv"


@contextmanager
def opened(path: Path, name: str, beside: Beside = NOTHING) -> Iterator[Any]:
    """A container for writing, MP4 or Matroska by the ending of `path`. What `beside` says that the mix measures is put
    into an MP4 when it is written; Matroska has it as tags."""
    form = "mp4" if path.suffix == ".mp4" else "matroska"
    try:
        with av.open(str(path), "w", format=form, options=OPTIONS[form]) as out:
            yield out
    except av.FFmpegError as error:
        if error.errno in OF_THE_DISK:
            raise OSError(error.errno, error.strerror) from error
        raise MediaError(f"The picture of {name} can't be put into a {form} file: {error.strerror}.") from error
    if form == "mp4":
        mp4_loudness.put(path, beside.measured)


def write_film(
    path: Path,
    *,
    source: Path,
    name: str,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
    keep: bool = False,
    hold_n: int = 0,
    beside: Beside = NOTHING,
) -> None:
    """Mux the picture of `source` with `sound` (blocks of (n, 2) float32 at 48 kHz), its last frame held for so many
    samples more.

    The container is MP4 or Matroska by the ending of `path`. Packets are written in order of time as all streams
    advance, so memory stays flat. `beside` is what it carries beside both. With `keep` the sound tracks of the source
    follow, their packets copied. Raises MediaError if the container refuses the picture.
    """
    with open_media(source, name) as film:
        picture = picture_stream(film)
        if picture is None:
            raise MediaError(f"{name} has no picture.")
        with opened(path, name, beside) as out:
            _mux(out, film, picture, sound, track, [*film.streams.audio] if keep else [], hold_n, beside)


def _mux(
    out: Any,
    film: Any,
    picture: Any,
    sound: Iterator[np.ndarray],
    track: SoundTrack,
    kept: list[Any],
    hold_n: int,
    beside: Beside,
) -> None:
    copied = out.add_stream_from_template(picture)
    origin = picture.start_time or 0
    written = Tracks(out, track, sound, kept=kept, origin=origin * picture.time_base, beside=beside)
    last = None  # of the picture: it waits for the next one, as only the very last is held
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
        if last is not None:
            out.mux(last)
        last = packet
    if last is not None:
        last.duration += round(hold_n / RATE / last.time_base)
        out.mux(last)
    written.finish()


@dataclass(frozen=True)
class Shot:
    """A stretch of a film to be made: so long in samples, of this source from `offset_n` on; black without one. One
    that is `held` shows the last frame of the shot before it."""

    length_n: int
    source: Path | None = None
    name: str = ""
    offset_n: int = 0
    held: bool = False


@dataclass(frozen=True)
class Cut:
    """How a cut film is encoded: `size` (width, height, both even), `fps` for black and held frames, quality as a
    constant rate factor. With `even` every frame lasts as long as the next, at `fps`; else those of the sources keep
    their times.
    """

    size: tuple[int, int]
    fps: Fraction
    crf: int
    even: bool = True


FINE = Fraction(1, 90_000)  # time base of a film whose frames keep their times


def write_cut_film(
    path: Path,
    *,
    shots: Iterator[Shot],
    how: Cut,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
    also: Iterator[np.ndarray] | None = None,
    beside: Beside = NOTHING,
) -> None:
    """Encode shots one after another as H.264, and mux them with `sound` and, as a second track, with `also`.

    A shot is turned as its file says; one that has another shape stands in black bars. At an even rate each frame shows
    what its source shows in the middle of it. Raises MediaError for a source that can't be read.
    """
    with opened(path, "the film", beside) as out:
        picture = out.add_stream("libx264", rate=how.fps, options={"preset": "veryfast", "crf": str(how.crf)})
        picture.width, picture.height, picture.pix_fmt = *how.size, "yuv420p"
        base = 1 / how.fps if how.even else FINE
        picture.time_base = picture.codec_context.time_base = base
        written = Tracks(out, track, sound, also=also, beside=beside)
        last = -1
        for time, frame in _frames(shots, how):
            last = max(round(time / base), last + 1)
            frame.pts, frame.time_base, frame.pict_type = last, base, 0
            written.until(float(time))
            out.mux(picture.encode(frame))
        out.mux(picture.encode(None))
        written.finish()


Timed = Iterator[tuple[Fraction, av.VideoFrame]]  # frames with when they begin to be seen, in seconds


def _frames(shots: Iterator[Shot], how: Cut) -> Timed:
    """Every frame of the film, in order."""
    shown = black = av.VideoFrame.from_ndarray(np.zeros((how.size[1], how.size[0], 3), np.uint8), format="rgb24")
    number, begin_n = 0, 0
    for shot in shots:
        end_n = begin_n + shot.length_n
        ticks = []
        while (middle := (number + Fraction(1, 2)) / how.fps * RATE) < end_n:
            ticks.append((Fraction(number) / how.fps, Fraction(shot.offset_n + middle - begin_n) / RATE))
            number += 1
        if shot.source is None:
            still = shown if shot.held else black
            for tick, _ in ticks:
                yield tick, still.reformat(format="yuv420p")
        elif ticks:
            found = _resampled(shot, ticks, how.size) if how.even else _kept(shot, Fraction(begin_n, RATE), how.size)
            for time, frame in found:
                shown = frame  # it may be held
                yield time, frame
        begin_n = end_n


def _resampled(shot: Shot, ticks: list[tuple[Fraction, Fraction]], size: tuple[int, int]) -> Timed:
    """At each tick of the film what the source shows at its time; its last frame where it ends before."""
    with closing(_decoded(shot, ticks[0][1], size)) as frames:
        shown, coming = None, next(frames, None)
        for tick, time in ticks:
            while coming is not None and (shown is None or coming[0] <= time):
                shown, coming = coming[1], next(frames, None)
            if shown is None:
                raise MediaError(f"{shot.name} has no picture at {float(time):.2f} s.")
            yield tick, shown()


def _kept(shot: Shot, begin: Fraction, size: tuple[int, int]) -> Timed:
    """The frames of a shot at their own times, the shot beginning at a time of the film."""
    start, stop = (Fraction(n, RATE) for n in (shot.offset_n, shot.offset_n + shot.length_n))
    before = None  # what is shown as the shot begins
    with closing(_decoded(shot, start, size)) as frames:
        for time, frame in frames:
            if time >= stop:
                break
            if time <= start:
                before = frame
                continue
            if before is not None:
                yield begin, before()
                before = None
            yield begin + time - start, frame()
    if before is not None:
        yield begin, before()


def _decoded(
    shot: Shot, start: Fraction, size: tuple[int, int]
) -> Generator[tuple[Fraction, Callable[[], Any]], None, None]:
    """Frames of a source from one shown at or before a time on: when each begins, and how to get it as it is seen."""
    assert shot.source is not None
    with open_media(shot.source, shot.name) as film:
        stream = picture_stream(film)
        if stream is None:
            raise MediaError(f"{shot.name} has no picture.")
        stream.thread_type = "AUTO"
        base = stream.time_base or Fraction(1, 90_000)
        origin = (stream.start_time or 0) * base
        film.seek(int((start + origin) / base), stream=stream)
        upright = None
        for frame in frames(film, stream):
            upright = upright or Upright(look_of(stream, frame), size)
            if frame.pts is not None:
                yield Fraction(frame.pts * base - origin), partial(upright.frame, frame)
