"""Media files for tests, made on the spot in the formats people bring."""

from __future__ import annotations

from fractions import Fraction
from hashlib import sha256
from pathlib import Path

import av
import numpy as np

from jaylantern.core.signal.timebase import RATE

FPS = 25
FORMATS = {"prores_ks": "yuv422p10le"}


_films: dict[tuple[object, ...], bytes] = {}


def write_film(path: Path, *, seconds: float, sound: np.ndarray | None = None, codec: str = "libx264",
               sound_codec: str = "aac", flash_s: float | None = None) -> Path:  # fmt: skip
    """A small film: a grey picture that brightens, white from `flash_s` on for one frame; container by the ending. The
    same is encoded once."""
    heard = None if sound is None else (sound.shape, sha256(np.ascontiguousarray(sound)).digest())
    key = path.suffix, seconds, heard, codec, sound_codec, flash_s
    if key not in _films:
        _encode(path, seconds, sound, codec, sound_codec, flash_s)
        _films[key] = path.read_bytes()
    path.write_bytes(_films[key])
    return path


def _encode(
    path: Path, seconds: float, sound: np.ndarray | None, codec: str, sound_codec: str, flash_s: float | None
) -> None:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(codec, rate=FPS, options={"g": "25", "sc_threshold": "0"} if codec == "libx264" else {})
        stream.width, stream.height, stream.pix_fmt = 160, 96, FORMATS.get(codec, "yuv420p")
        voice = None
        if sound is not None:
            voice = out.add_stream(sound_codec, rate=RATE, layout="mono" if sound.shape[1] == 1 else "stereo")
        for i in range(round(seconds * FPS)):
            grey = 255 if flash_s is not None and i == round(flash_s * FPS) else 40 + i % 120
            image = np.full((96, 160, 3), grey, np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(image, format="rgb24")))
        out.mux(stream.encode(None))
        if voice is not None:
            write_sound(out, voice, sound)


def write_sound(out, stream, samples: np.ndarray) -> None:
    """Encode (n, channels) float32 at 48 kHz into a stream of an open container."""
    layout = stream.codec_context.layout.name
    resampler = av.AudioResampler(
        format=stream.codec_context.format, layout=layout, rate=stream.codec_context.sample_rate
    )
    for at in range(0, len(samples), 1024):
        part = np.ascontiguousarray(samples[at : at + 1024].T)
        frame = av.AudioFrame.from_ndarray(part, format="fltp", layout=layout)
        frame.sample_rate, frame.pts, frame.time_base = RATE, at, Fraction(1, RATE)
        for ready in resampler.resample(frame):
            out.mux(stream.encode(ready))
    for ready in resampler.resample(None):
        out.mux(stream.encode(ready))
    out.mux(stream.encode(None))


def write_encoded(path: Path, samples: np.ndarray, *, codec: str, rate: int = RATE, layout: str = "") -> Path:
    """Sound in the container of the file's ending. `samples` is (n, channels) float32 at 48 kHz."""
    with av.open(str(path), "w") as out:
        layout = layout or {1: "mono", 2: "stereo", 6: "5.1"}[samples.shape[1]]
        write_sound(out, out.add_stream(codec, rate=rate, layout=layout), samples)
    return path


def write_marked(
    path: Path, *, matrix: list[int] | None = None, pixel: Fraction | None = None, seconds: float = 2
) -> Path:
    """A film of 160×96, white in its upper left quarter as it is stored, with a display matrix and a pixel's shape."""
    image = np.zeros((96, 160, 3), np.uint8)
    image[:48, :80] = 255
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=FPS, options={"g": "25"})
        stream.width, stream.height, stream.pix_fmt = 160, 96, "yuv420p"
        if pixel is not None:
            stream.codec_context.sample_aspect_ratio = pixel
        if matrix is not None:
            stream.set_display_matrix(matrix)
        for _ in range(round(seconds * FPS)):
            out.mux(stream.encode(av.VideoFrame.from_ndarray(image, format="rgb24")))
        out.mux(stream.encode(None))
    return path


def write_varying(path: Path, times_s: list[float], *, flashes: frozenset[int] | set[int] = frozenset()) -> Path:
    """A film whose frames begin at these seconds, white where their number is in `flashes`, grey elsewhere."""
    base = Fraction(1, 90_000)
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30, options={"g": "15", "bf": "0"})
        stream.width, stream.height, stream.pix_fmt = 160, 96, "yuv420p"
        stream.codec_context.time_base = base
        for i, time_s in enumerate(times_s):
            grey = np.full((96, 160, 3), 255 if i in flashes else 60, np.uint8)
            frame = av.VideoFrame.from_ndarray(grey, format="rgb24")
            frame.pts, frame.time_base = round(time_s / base), base
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return path
