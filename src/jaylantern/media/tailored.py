"""The sound of tailored music: read from the recording it was cut from, so that nothing is written twice.

Only pieces whose speed is changed lie in files of their own: made faster or slower by resampling, or stretched in time.
"""

from __future__ import annotations

from collections.abc import Generator, Hashable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soxr

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.tailoring.cut import HALF_N, Cut, Piece, Speed, assembled, of_recording
from jaylantern.media.sound import Sound, SoundStore, spans

MARGIN_N = 4 * HALF_N  # of the recording, played before and after a piece whose speed is changed
FEED_N = RATE  # samples worked on at once


@dataclass(frozen=True)
class Sped:
    """A piece in a file of its own, which begins `before_n` ahead of it."""

    store: Sound
    before_n: int


@dataclass(frozen=True)
class TailoredSound:
    """As a `SoundStore`: the sound of a cut through a recording."""

    source: Sound
    cut: Cut
    sped: Mapping[int, Sped]

    @property
    def channels(self) -> int:
        """As the recording."""
        return self.source.channels

    @property
    def length_n(self) -> int:
        """How long it is."""
        return self.cut.length_n

    @property
    def key(self) -> Hashable:
        """What it is cut from, and how."""
        return self.source.key, self.cut

    def read(self, start_n: int, stop_n: int) -> np.ndarray:
        """float32 samples [start_n, stop_n), shape (n, channels); silence past the end."""
        there = max(start_n, min(stop_n, self.length_n))
        sound = assembled(self.cut, self._piece, start_n, there, self.channels)
        return np.pad(sound, ((0, stop_n - there), (0, 0))) if there < stop_n else sound

    def chunks(self, size_n: int) -> Iterator[np.ndarray]:
        """The whole sound in blocks of `size_n` samples, the last as short as it must be."""
        return (self.read(*span) for span in spans(self.length_n, size_n))

    def mapped(self) -> TailoredSound:
        """The same, its files read without a copy."""
        sped = {k: Sped(each.store.mapped(), each.before_n) for k, each in self.sped.items()}
        return TailoredSound(self.source.mapped(), self.cut, sped)

    def must_be_whole(self) -> None:
        """Raises Damaged where the recording, or a piece with a file of its own, is not whole."""
        self.source.must_be_whole()
        for each in self.sped.values():
            each.store.must_be_whole()

    def _piece(self, k: int, first_n: int, last_n: int) -> np.ndarray:
        if k not in self.sped:
            return of_recording(self.cut, self.source.read)(k, first_n, last_n)
        shift = self.sped[k].before_n - self.cut.starts_n[k]
        begin = max(0, first_n + shift)
        sound = self.sped[k].store.read(begin, last_n + shift)
        missing = last_n - first_n - len(sound)
        return np.pad(sound, ((missing, 0), (0, 0))) if missing else sound


def tailored(source: Sound, cut: Cut, folder: Path) -> TailoredSound:
    """The sound of a cut whose sped pieces were written into a folder before."""
    sped = {
        k: Sped(SoundStore(_path(folder, k), "float32", source.channels, _written_n(piece)), _before_n(piece))
        for k, piece in enumerate(cut.pieces)
        if piece.speed is not Speed.NONE
    }
    return TailoredSound(source, cut, sped)


def write_sped(source: Sound, cut: Cut, folder: Path) -> None:
    """Write the pieces of a cut whose speed is changed into a folder."""
    for k, piece in enumerate(cut.pieces):
        if piece.speed is not Speed.NONE:
            made = _faster(source, piece) if piece.speed is Speed.SPEED else _stretched(source, piece)
            SoundStore.written(_path(folder, k), _just(made, _written_n(piece), source.channels))


def _path(folder: Path, k: int) -> Path:
    return folder / f"piece-{k}.raw"


def _before_n(piece: Piece) -> int:
    """How much of its file lies ahead of a piece: nothing of one that is stretched."""
    return round(min(MARGIN_N, piece.from_n) / piece.rate) if piece.speed is Speed.SPEED else 0


def _written_n(piece: Piece) -> int:
    return piece.length_n + (_before_n(piece) + MARGIN_N if piece.speed is Speed.SPEED else 0)


def _just(chunks: Iterator[np.ndarray], length_n: int, channels: int) -> Generator[np.ndarray, None, None]:
    """A stream that is just so long: cut, or silent at its end."""
    left_n = length_n
    for chunk in chunks:
        if len(chunk) and left_n:
            yield chunk[:left_n]
        left_n -= min(len(chunk), left_n)
    if left_n:
        yield np.zeros((left_n, channels), np.float32)


def _faster(source: Sound, piece: Piece) -> Iterator[np.ndarray]:
    """A piece with MARGIN_N of the recording around it, resampled to another speed."""
    stream = soxr.ResampleStream(RATE * piece.rate, RATE, source.channels, dtype="float32", quality="VHQ")
    first_n, last_n = max(0, piece.from_n - MARGIN_N), piece.to_n + 2 * MARGIN_N
    for start_n, stop_n in spans(last_n - first_n, FEED_N):
        yield stream.resample_chunk(source.read(first_n + start_n, first_n + stop_n), last=stop_n == last_n - first_n)


def _stretched(source: Sound, piece: Piece) -> Iterator[np.ndarray]:
    """A piece stretched in time, its pitch kept, by FFmpeg's tempo filter."""
    layout = {1: "mono", 2: "stereo"}[source.channels]
    graph = av.filter.Graph()
    entry = graph.add_abuffer(sample_rate=RATE, format="fltp", layout=layout, time_base=Fraction(1, RATE))
    graph.link_nodes(entry, graph.add("atempo", f"{piece.rate:.9f}"), graph.add("abuffersink")).configure()
    for start_n, stop_n in spans(piece.to_n - piece.from_n, FEED_N):
        sound = source.read(piece.from_n + start_n, piece.from_n + stop_n)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound.T), format="fltp", layout=layout)
        frame.sample_rate, frame.pts, frame.time_base = RATE, start_n, Fraction(1, RATE)
        graph.push(frame)
        yield from _pulled(graph)
    graph.push(None)
    yield from _pulled(graph)


def _pulled(graph: av.filter.Graph) -> Iterator[np.ndarray]:
    while True:
        try:
            frame = graph.pull()
        except (av.BlockingIOError, av.EOFError):
            return
        assert isinstance(frame, av.AudioFrame)
        found = frame.to_ndarray()
        planar = frame.format.is_planar
        yield np.ascontiguousarray(found.T if planar else found.reshape(-1, frame.layout.nb_channels), np.float32)
