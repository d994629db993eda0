"""The yardstick: ffmpeg's own filters, run through PyAV from file to file without a detour through Python."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import av
from av.filter import Graph

FRAME_N = 48_000


def _escaped(path: Path) -> str:
    return str(path).replace("\\", "\\\\").replace(":", "\\:").replace("'", "\\'")


def _pull(graph: Graph, sink) -> Iterator[av.AudioFrame]:
    while True:
        try:
            yield sink.pull()
        except (av.EOFError, av.BlockingIOError):
            return


def _source(graph: Graph, path: Path):
    return graph.add("amovie", f"filename='{_escaped(path)}'")


def _end(graph: Graph, last, *, form: str = "flt"):
    shaped = graph.add("aformat", f"sample_fmts={form}:channel_layouts=stereo")
    large = graph.add("asetnsamples", f"n={FRAME_N}:p=0")
    sink = graph.add("abuffersink")
    last.link_to(shaped)
    shaped.link_to(large)
    large.link_to(sink)
    graph.configure()
    return sink


def loudness_with_true_peak(path: Path) -> int:
    """ffmpeg's loudness filter with true peak over a file; returns the frames that came out."""
    graph = Graph()
    source = _source(graph, path)
    meter = graph.add("ebur128", "peak=true:framelog=quiet")
    source.link_to(meter)
    return sum(1 for _ in _pull(graph, _end(graph, meter)))


def loudness(path: Path) -> int:
    """ffmpeg's loudness filter without peaks: momentary, short-term, integrated, range."""
    graph = Graph()
    source = _source(graph, path)
    meter = graph.add("ebur128", "framelog=quiet")
    source.link_to(meter)
    return sum(1 for _ in _pull(graph, _end(graph, meter)))


def remux_picture(path: Path, out: Path) -> None:
    """ffmpeg's own remux of the picture and the sound, packet by packet."""
    with av.open(str(path)) as film, av.open(str(out), "w", format="mp4") as made:
        streams = {
            stream.index: made.add_stream_from_template(stream)
            for stream in (film.streams.video[0], film.streams.audio[0])
        }
        for packet in film.demux(film.streams.video[0], film.streams.audio[0]):
            if packet.dts is not None:
                packet.stream = streams[packet.stream_index]
                made.mux(packet)


def sidechain_mix_limit(speech: Path, music: Path, out: Path) -> None:
    """Music through a compressor keyed by the speech, mixed with it, limited, written as 24-bit WAV."""
    graph = Graph()
    split, lowered = graph.add("asplit"), graph.add("sidechaincompress", "threshold=0.03:ratio=8:attack=50:release=800")
    mixed = graph.add("amix", "inputs=2:normalize=0:duration=longest")
    limited = graph.add("alimiter", "limit=0.89:level=0:latency=1")
    _source(graph, speech).link_to(split)
    _source(graph, music).link_to(lowered, 0, 0)
    split.link_to(lowered, 0, 1)
    lowered.link_to(mixed, 0, 0)
    split.link_to(mixed, 1, 1)
    mixed.link_to(limited)
    _write(_end(graph, limited, form="s32"), graph, out)


def volume_mix_limit(speech: Path, music: Path, out: Path, *, oversampled: bool = False) -> None:
    """Music at −14 dB, mixed with speech, limited (on request at four times the rate), written as 24-bit WAV."""
    graph = Graph()
    lowered = graph.add("volume", "volume=-14dB")
    mixed = graph.add("amix", "inputs=2:normalize=0:duration=longest")
    limited = graph.add("alimiter", "limit=0.89:level=0:latency=1")
    _source(graph, music).link_to(lowered)
    lowered.link_to(mixed, 0, 0)
    _source(graph, speech).link_to(mixed, 0, 1)
    last = limited
    if oversampled:
        up, down = graph.add("aresample", "192000"), graph.add("aresample", "48000")
        mixed.link_to(up)
        up.link_to(limited)
        limited.link_to(down)
        last = down
    else:
        mixed.link_to(limited)
    _write(_end(graph, last, form="s32"), graph, out)


def _write(sink, graph: Graph, out: Path) -> None:
    with av.open(str(out), "w", format="wav") as file:
        stream = file.add_stream("pcm_s24le", rate=48_000, layout="stereo")
        for frame in _pull(graph, sink):
            frame.pts = None
            file.mux(stream.encode(frame))
        file.mux(stream.encode(None))
