"""`python -m jaylantern.demo.making`: needs Debian's `flite` and the package `pyworld` for the voices; some minutes."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import soundfile
import soxr

from jaylantern.core.signal.timebase import RATE
from jaylantern.demo.making import drawing, sound
from jaylantern.demo.making.story import FPS, LENGTH_S

VOICE_RATE = 16_000  # what the synthesiser speaks at
FILES = Path(__file__).parent.parent / "files"
STAND_IN = Path(__file__).parents[2] / "web/static/stand-in/take.flac"


def encode(path: Path, samples: np.ndarray, codec: str, bit_rate: int) -> None:
    """Write samples (n, 1 or 2) in the format of the file's ending."""
    with av.open(str(path), "w") as out:
        _sound(out, samples, codec, bit_rate)


def _sound(out: Any, samples: np.ndarray, codec: str, bit_rate: int) -> None:
    layout = "mono" if samples.shape[1] == 1 else "stereo"
    stream = out.add_stream(codec, rate=RATE, layout=layout, bit_rate=bit_rate)
    for frame in _frames(samples, stream.codec_context.format.name, layout):
        out.mux(stream.encode(frame))
    out.mux(stream.encode(None))


def _frames(samples: np.ndarray, form: str, layout: str) -> Iterator[av.AudioFrame]:
    if form == "s16":
        samples = np.rint(samples * 32767).astype(np.int16)
    for at in range(0, len(samples), RATE):
        part = samples[at : at + RATE]
        block = part.T if form.endswith("p") else part.reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format=form, layout=layout)
        frame.sample_rate, frame.pts = RATE, at
        yield frame


def film(path: Path, camera: np.ndarray) -> None:
    """Draw every frame; what the camera heard goes with it."""
    with av.open(str(path), "w", options={"movflags": "+faststart"}) as out:
        stream = out.add_stream("libx264", rate=FPS, options={"preset": "slow", "crf": "33", "g": "100"})
        stream.width, stream.height, stream.pix_fmt = drawing.WIDTH, drawing.HEIGHT, "yuv420p"
        voice = out.add_stream("aac", rate=RATE, layout="stereo", bit_rate=80_000)
        sounds = list(_frames(camera, "fltp", "stereo"))
        for i in range(round(LENGTH_S * FPS)):
            if i % FPS == 0:
                out.mux(voice.encode(sounds[i // FPS]))
                print(f"\r{i // FPS} s drawn", end="", flush=True)
            frame: Any = av.VideoFrame
            out.mux(stream.encode(frame.from_image(drawing.frame(i / FPS))))
        out.mux(stream.encode(None))
        out.mux(voice.encode(None))
    print()


def main() -> None:
    """Write every file of the demo, and what the stand-in microphone speaks."""
    FILES.mkdir(exist_ok=True)
    narrator = soxr.resample(sound.voice("narrator"), RATE, VOICE_RATE)
    soundfile.write(FILES / "Narrator.flac", narrator, VOICE_RATE, subtype="PCM_16")
    STAND_IN.parent.mkdir(exist_ok=True)
    soundfile.write(STAND_IN, soxr.resample(sound.take(), RATE, VOICE_RATE), VOICE_RATE, subtype="PCM_16")
    encode(FILES / "Clock-mender.m4a", sound.voice("mender"), "aac", 64_000)
    encode(FILES / "Bed 1.opus", sound.bed(), "libopus", 128_000)
    film(FILES / "The Clock at Alder Quay.mp4", sound.workshop())


if __name__ == "__main__":
    main()
