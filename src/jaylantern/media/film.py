"""The film with its new sound: the picture's packets are copied, never re-encoded."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from jaylantern.core.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media.probe import open_media, picture_stream

AAC_BITRATE = 192_000
MP4_CODECS = frozenset({"h264", "hevc", "mpeg4", "av1", "vp9"})


def suffix_for(picture_codec: str) -> str:
    """File ending of a film that can hold this picture: .mp4 where it can, else .mkv."""
    return ".mp4" if picture_codec in MP4_CODECS else ".mkv"


def write_film(path: Path, *, source: Path, name: str, sound: Iterator[np.ndarray]) -> None:
    """Mux the picture of `source` with `sound` (blocks of (n, 2) float32 at 48 kHz) as AAC.

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
                _mux(out, film, picture, sound)
        except av.FFmpegError as error:
            raise MediaError(f"The picture of {name} can't be put into a {form} file: {error.strerror}.") from error


def _mux(out, film, picture, sound: Iterator[np.ndarray]) -> None:
    copied = out.add_stream_from_template(picture)
    voice = out.add_stream("aac", rate=RATE, layout="stereo", bit_rate=AAC_BITRATE, options={"aac_coder": "fast"})
    origin = picture.start_time or 0
    written = _Encoder(out, voice, sound)
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


class _Encoder:
    """Encodes the sound just far enough ahead of the picture."""

    def __init__(self, out, stream, blocks: Iterator[np.ndarray]) -> None:
        self._out, self._stream, self._blocks, self._done_n = out, stream, blocks, 0

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
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._done_n, Fraction(1, RATE)
        self._out.mux(self._stream.encode(frame))
        self._done_n += len(block)
        return True
