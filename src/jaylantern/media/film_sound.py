"""The sound tracks of a film: encoded from blocks, or packets of the original copied."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaylantern.core.signal.timebase import RATE
from jaylantern.media.film_beside import NOTHING, Beside, Texts, loudness_tags, put_chapters, titled
from jaylantern.media.probe import open_media

MP4_SOUNDS = frozenset({"aac", "mp3", "ac3", "eac3", "opus", "flac", "alac"})
MIX, ORIGINAL = "Mix", "Original"


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


def codecs_of(path: Path, name: str) -> list[str]:
    """The codecs of a file's sound tracks."""
    with open_media(path, name) as film:
        return [stream.codec_context.codec.canonical_name for stream in film.streams.audio if stream.codec_context]


class Tracks:
    """The mix as the first track of a film being written, what it carries beside, and, if there is any, the original
    sound as last ones.

    `also` is the original sound as blocks, to be encoded as the mix is; `kept` streams of the source whose packets are
    copied, `origin` (s) being the time of its picture's beginning.
    """

    def __init__(
        self,
        out: Any,
        track: SoundTrack,
        mix: Iterator[np.ndarray],
        *,
        also: Iterator[np.ndarray] | None = None,
        kept: Sequence[Any] = (),
        origin: Fraction = Fraction(0),
        beside: Beside = NOTHING,
    ) -> None:
        self._out, self._origin = out, origin
        self._encoded = [Encoder(out, track, mix, title=MIX, language=beside.language)]
        self._encoded[0].stream.disposition = av.stream.Disposition.default
        if out.format.name == "matroska":
            self._encoded[0].stream.metadata.update(loudness_tags(beside.measured))
        for each in beside.sounds:
            self._encoded.append(Encoder(out, track, each.blocks, title=each.title, language=beside.language))
            self._encoded[-1].stream.disposition = each.kind
        if also is not None:
            self._encoded.append(Encoder(out, track, also, title=ORIGINAL))
            self._encoded[-1].stream.disposition = av.stream.Disposition.original
        self._copied = {}
        for stream in kept:
            self._copied[stream.index] = copied = out.add_stream_from_template(stream)
            copied.metadata.update(titled(ORIGINAL))
            copied.disposition = av.stream.Disposition.original
        self._texts = [
            Texts(out, each, language=beside.language, first=number == 0) for number, each in enumerate(beside.captions)
        ]
        if beside.chapters:
            put_chapters(out, beside)

    def until(self, seconds: float) -> None:
        """Write what sounds before a time, and a little more, and the captions that begin before it."""
        for each in self._encoded:
            each.until(seconds)
        for text in self._texts:
            text.until(seconds)

    def copy(self, packet: Any) -> None:
        """Write a packet of a kept stream, its time counted from the beginning of the picture."""
        shift = round(self._origin / packet.time_base)
        packet.pts = None if packet.pts is None else packet.pts - shift
        packet.dts = None if packet.dts is None else packet.dts - shift
        packet.stream = self._copied[packet.stream_index]
        self._out.mux(packet)

    def finish(self) -> None:
        """Write the rest."""
        for each in self._encoded:
            each.finish()
        for text in self._texts:
            text.finish()


class Encoder:
    """Encodes sound just far enough ahead of the picture."""

    def __init__(
        self, out: Any, track: SoundTrack, blocks: Iterator[np.ndarray], *, title: str, language: str = ""
    ) -> None:
        rate = {"bit_rate": track.bit_rate} if track.bit_rate else {}
        options = {"aac_coder": "fast"} if track.codec == "aac" else {}
        self._stream = out.add_stream(track.codec, rate=RATE, layout="stereo", options=options, **rate)
        self._stream.format = track.form
        self._stream.metadata.update(titled(title, language))
        self._out, self._form, self._blocks, self._done_n = out, track.form, blocks, 0

    @property
    def stream(self) -> Any:
        """Its stream of the container."""
        return self._stream

    def until(self, seconds: float) -> None:
        """Write what sounds before a time, and a little more."""
        while self._done_n < seconds * RATE and self._next():
            pass

    def finish(self) -> None:
        """Write the rest."""
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
