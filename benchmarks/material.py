"""Sound to measure with: made once per run from music on hold where it is installed, else from noise in bursts."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile

from jaylantern.core.signal.timebase import RATE

MUSIC = Path("/usr/share/asterisk/moh")
PROMPTS = Path("/usr/share/asterisk/sounds/en_US_f_Allison")


def minute(seed: int) -> np.ndarray:
    """A minute of stereo sound, (2880000, 2) float32, peaks at −6 dBFS: a bed as it is mixed under talk."""
    random = np.random.default_rng(seed)
    if MUSIC.is_dir():
        from tests.sounds import music

        piece = music(sorted(path.stem for path in MUSIC.glob("*.g722"))[seed % 5])
        piece = np.resize(piece, 60 * RATE)
        left, right = piece, np.roll(piece, 17 + seed)
        sound = np.stack((left, right), axis=1)
    else:
        t = np.arange(60 * RATE)[:, None] / RATE
        sound = random.standard_normal((60 * RATE, 2)) * (0.5 + 0.5 * np.sin(2 * np.pi * t / 3.7)) * 0.2
    return (sound / np.abs(sound).max() * 0.5).astype(np.float32)


def talk_minute(seed: int) -> np.ndarray:
    """A minute of talk with pauses, (2880000, 2) float32, peaks at −3 dBFS; the minute of another piece elsewhere."""
    if not PROMPTS.is_dir():
        return minute(seed + 7)
    from tests.sounds import prompt

    spoken = np.concatenate(
        [np.pad(prompt(name), (0, 2 * RATE)) for name in ("demo-congrats", "vm-options", "vm-opts")]
    )
    spoken = np.roll(np.resize(spoken, 60 * RATE), seed * RATE)
    return np.repeat((spoken / np.abs(spoken).max() * 0.7)[:, None], 2, axis=1).astype(np.float32)


def write_programme(path: Path, *, minutes: int, make: Callable[[int], np.ndarray] = minute, gain: float = 1.0) -> Path:
    """A 16-bit WAV of so many minutes at 48 kHz; kept if it is there already."""
    if not path.exists():
        with soundfile.SoundFile(path, "w", RATE, 2, "PCM_16") as out:
            for k in range(minutes):
                out.write(make(k % 5) * gain)
    return path


def write_film(path: Path, *, minutes: int) -> Path:
    """A film of so many minutes, 1280×720 at 25 frames a second, with AAC sound; kept if it is there already.

    A minute is encoded and its packets repeated, as the picture is only copied.
    """
    if path.exists():
        return path
    one = path.with_name("minute.mp4")
    if not one.exists():
        with av.open(str(one), "w") as out:
            picture = out.add_stream("libx264", rate=25, options={"preset": "ultrafast", "g": "50", "bf": "0"})
            picture.width, picture.height, picture.pix_fmt = 1280, 720, "yuv420p"
            sound = out.add_stream("aac", rate=RATE, layout="stereo")
            noise = np.random.default_rng(1).integers(0, 60, (720, 1280, 3), np.uint8)
            for i in range(60 * 25):
                out.mux(picture.encode(av.VideoFrame.from_ndarray(np.roll(noise, 7 * i, axis=1), format="rgb24")))
            out.mux(picture.encode(None))
            for i, block in enumerate(np.split(minute(1), 60)):
                frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T), format="fltp", layout="stereo")
                frame.sample_rate, frame.pts, frame.time_base = RATE, i * RATE, Fraction(1, RATE)
                out.mux(sound.encode(frame))
            out.mux(sound.encode(None))
    with av.open(str(path), "w") as out:
        streams = None
        for k in range(minutes):
            with av.open(str(one)) as film:
                if streams is None:
                    streams = {stream.index: out.add_stream_from_template(stream) for stream in film.streams}
                for packet in film.demux():
                    if packet.dts is None or packet.pts < 0 or packet.pts * packet.time_base >= 60:
                        continue
                    shift = round(60 * k / packet.time_base)
                    packet.pts, packet.dts = packet.pts + shift, packet.dts + shift
                    packet.stream = streams[packet.stream_index]
                    out.mux(packet)
    return path
