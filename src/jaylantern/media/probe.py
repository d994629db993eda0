"""What is in a media file: its sound, its picture, how long they are."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av

from jaylantern.core.timebase import RATE
from jaylantern.errors import MediaError

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
    """The first moving-picture stream of a file."""

    codec: str
    pixel_format: str
    width: int
    height: int
    fps: float


@dataclass(frozen=True)
class Probe:
    """What a file holds. `duration_n` is the container's word in samples at 48 kHz; sound is counted on decoding."""

    sound: Sound | None
    picture: Picture | None
    duration_n: int


def open_media(path: Path, name: str) -> av.container.InputContainer:
    """Open for reading. Raises MediaError in words a person can use."""
    if path.stat().st_size == 0:
        raise MediaError(f"{name} is empty (0 bytes). Export it again and bring in the new file.")
    try:
        return av.open(str(path), "r", metadata_errors="replace")
    except (av.FFmpegError, ValueError) as error:
        raise MediaError(
            f"{name} is not a film or sound file that can be read: it may be damaged or cut short."
        ) from error


def picture_stream(container: av.container.InputContainer) -> av.VideoStream | None:
    """The first stream of moving picture; cover pictures do not count."""
    for stream in container.streams.video:
        attached = stream.disposition & av.stream.Disposition.attached_pic
        if not attached and not (stream.codec_context.name in STILL_CODECS and stream.frames <= 1):
            return stream
    return None


def probe(path: Path, *, name: str) -> Probe:
    """Look into a file. Raises MediaError if it can't be read or holds neither sound nor picture."""
    with open_media(path, name) as container:
        sound, picture = None, None
        if container.streams.audio:
            codec = container.streams.audio[0].codec_context
            if codec.sample_rate and codec.channels:
                sound = Sound(codec.name, codec.sample_rate, codec.channels, codec.layout.name)
        stream = picture_stream(container)
        if stream is not None:
            context = stream.codec_context
            fps = float(stream.average_rate or stream.guessed_rate or 25)
            picture = Picture(context.name, context.pix_fmt or "", context.width, context.height, fps)
        if sound is None and picture is None:
            raise MediaError(f"{name} holds neither sound nor picture.")
        duration = container.duration / av.time_base if container.duration else 0.0
        return Probe(sound, picture, max(0, round(duration * RATE)))
