"""What is in a media file: its sound, its picture, how long they are."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.kinds import LARGEST_N
from jaylantern.core.timeline.timecode import frame_of, rate_of, time_of
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.media.damaged import in_words
from jaylantern.media.upright import PLAIN, Look, first_look

UNEVEN_S = 0.004  # containers round the times of frames to a millisecond; more is a rate that varies
LEAST_FRAMES = 3
LEAST_RATE, LARGEST_RATE = 2_000, 768_000  # samples a second that are believed; speech and music lie well within
LONGEST_N = LARGEST_N  # of a medium, as of the timeline
MOST_PIXELS = 16_384 * 8_640  # of a picture
STILL_CODECS = frozenset({"mjpeg", "png", "bmp", "gif"})  # cover pictures in sound files


@dataclass(frozen=True)
class Sound:
    """The first sound stream of a file."""

    codec: str
    rate: int
    channels: int
    layout: str


@dataclass(frozen=True)
class Picture:
    """The first moving-picture stream of a file. `width` and `height` are as seen: turned, in square pixels."""

    codec: str
    pixel_format: str
    width: int
    height: int
    fps: float
    look: Look = PLAIN


@dataclass(frozen=True)
class Probe:
    """What a file holds. `duration_n` is the container's word in samples at 48 kHz, `picture_n` that of the picture
    alone (0 where nothing is said of it); sound is counted on decoding."""

    sound: Sound | None
    picture: Picture | None
    duration_n: int
    picture_n: int = 0


# what is no UTF-8 in a file's tags is no reason not to read it: PyAV has to be told until 19, and is so by itself since
_TAGS_THAT_ARE_NO_TEXT: dict[str, Any] = (
    {"metadata_errors": "replace"} if int(av.__version__.split(".")[0]) < 19 else {}
)


def open_media(path: Path, name: str) -> av.container.InputContainer:
    """Open for reading. Raises MediaError in words a person can use."""
    if path.stat().st_size == 0:
        raise MediaError(f"{name} is empty (0 bytes). Export it again and bring in the new file.")
    try:
        return av.open(str(path), "r", **_TAGS_THAT_ARE_NO_TEXT)
    except (av.FFmpegError, ValueError) as error:
        raise MediaError(
            f"{name} is not a film or sound file that can be read: it may be damaged or cut short."
        ) from error


def believed_rate(rate: int, *, name: str) -> int:
    """A sample rate as a file says it, in Hz. Raises MediaError for one outside of what is believed."""
    if not LEAST_RATE <= rate <= LARGEST_RATE:
        raise MediaError(
            f"{name} says that its sound has {rate} samples a second; from {LEAST_RATE} to {LARGEST_RATE} can be read."
            " Export it again at a usual rate, such as 48000."
        )
    return rate


def picture_stream(container: av.container.InputContainer) -> av.VideoStream | None:
    """The first stream of moving picture; cover pictures do not count."""
    for stream in container.streams.video:
        attached = stream.disposition & av.stream.Disposition.attached_pic
        if (
            stream.codec_context is not None
            and not attached
            and not (stream.codec_context.name in STILL_CODECS and stream.frames <= 1)
        ):
            return stream
    return None


def timecode_start(path: Path, *, name: str) -> int:
    """Where a file says that its timecode begins, in samples at 48 kHz; 0 where it says nothing.

    Films carry it as a tag, broadcast WAV as samples since midnight (EBU Tech 3285).
    """
    with open_media(path, name) as container:
        tags = [container.metadata, *(stream.metadata for stream in container.streams)]
        stream = picture_stream(container)
        fps = rate_of(float(stream.average_rate or 25)) if stream is not None else Fraction(25)
        for each in tags:
            try:
                if each.get("timecode"):
                    return time_of(frame_of(each["timecode"], fps), fps)
                if each.get("time_reference") and container.streams.audio:
                    return round(
                        int(each["time_reference"]) * RATE / container.streams.audio[0].codec_context.sample_rate
                    )
            except (InvalidValue, ValueError):
                continue
    return 0


def probe(path: Path, *, name: str) -> Probe:
    """Look into a file. Raises MediaError if it can't be read or holds neither sound nor picture."""
    with open_media(path, name) as container:
        sound, picture = None, None
        if container.streams.audio:
            codec = container.streams.audio[0].codec_context
            if codec is not None and codec.sample_rate and codec.channels:
                sound = Sound(
                    codec.name, believed_rate(codec.sample_rate, name=name), codec.channels, codec.layout.name
                )
        stream = picture_stream(container)
        if stream is not None:
            context = stream.codec_context
            fps = float(stream.average_rate or stream.guessed_rate or 25)
            if context.width * context.height > MOST_PIXELS:
                raise MediaError(
                    f"{name} says that its picture has {context.width} × {context.height} pixels; up to"
                    f" {MOST_PIXELS // 1_000_000} million can be read. Export it smaller."
                )
            look = first_look(container, stream)
            picture = Picture(context.name, context.pix_fmt or "", *look.size(context.width, context.height), fps, look)
        if sound is None and picture is None:
            raise MediaError(f"{name} holds neither sound nor picture.")
        duration = container.duration / av.time_base if container.duration else 0.0
        seen = 0.0 if stream is None else picture_length_s(stream)
        return Probe(sound, picture, max(0, round(duration * RATE)), max(0, round(seen * RATE)))


def picture_length_s(stream: av.VideoStream) -> float:
    """How long a stream of picture says it is, in seconds; 0 where it says nothing.

    MP4 and its kin say it of each stream; Matroska in a tag, as hh:mm:ss.fraction (Matroska tag registry, DURATION).
    """
    if stream.duration and stream.time_base:
        return float(stream.duration * stream.time_base)
    parts = stream.metadata.get("DURATION", "").split(":")
    try:
        hours, minutes, seconds = map(float, parts)
    except ValueError:
        return 0.0
    return 3600 * hours + 60 * minutes + seconds


def frame_times(path: Path, *, name: str) -> np.ndarray:
    """When each frame of a picture begins, (n,) seconds from its first, in order; read without decoding."""
    with open_media(path, name) as container:
        stream = picture_stream(container)
        if stream is None:
            return np.zeros(0)
        with in_words(name):
            found = sorted(packet.pts for packet in container.demux(stream) if packet.pts is not None)
        return (np.array(found, np.float64) - (found[0] if found else 0)) * float(stream.time_base or 0)


def varying(path: Path, name: str) -> bool:
    """Does the frame rate vary, so that frames laid out evenly would be seen noticeably early or late?"""
    times = frame_times(path, name=name)
    if len(times) < LEAST_FRAMES:
        return False
    steps = np.diff(times)
    usual = np.median(steps)
    return bool(np.abs(steps - usual).max() > max(UNEVEN_S, usual / 10))
