"""Sound files in the forms people need, each written block by block."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, Protocol

import av
import numpy as np
import soundfile
import soxr

from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.media.wav import Bext, Sample, WavWriter

RATES = (44_100, 48_000, 96_000)


@dataclass(frozen=True)
class Form:
    """A form of sound file: what it is called, its ending, bytes a second of stereo at 48 kHz, rates it can have."""

    name: str
    label: str
    suffix: str
    bytes_per_s: int
    rates: tuple[int, ...] = RATES
    sample: Sample | None = None  # of WAV
    codec: str = ""  # of those an encoder makes
    bit_rate: int = 0

    @property
    def bits(self) -> int:
        """Of whole-number samples; 0 for all others."""
        return 16 if self.sample == "16" else 24 if self.sample == "24" or self.name == "flac" else 0


FORMS = {
    form.name: form
    for form in (
        Form("wav24", "WAV 24 bit", ".wav", 288_000, sample="24"),
        Form("wav16", "WAV 16 bit, dithered", ".wav", 192_000, sample="16"),
        Form("wav32f", "WAV 32 bit float", ".wav", 384_000, sample="32f"),
        Form("bwf", "Broadcast WAV 24 bit", ".wav", 288_000, sample="24"),
        Form("flac", "FLAC 24 bit", ".flac", 200_000),
        Form("mp3", "MP3 320 kbit/s", ".mp3", 40_000, (44_100, 48_000), None, "libmp3lame", 320_000),
        Form("m4a", "AAC 256 kbit/s", ".m4a", 32_000, RATES, None, "aac", 256_000),
        Form("opus", "Opus 160 kbit/s", ".opus", 20_000, (48_000,), None, "libopus", 160_000),
    )
}
FULL = 1 << 23
OPTIONS = {"fflags": "+bitexact"}  # of containers: no number of theirs is drawn at random
CONTAINERS = {".mp3": "mp3", ".m4a": "mp4", ".opus": "ogg"}


def form_by_ending(path: Path) -> Form | None:
    """The first form of sound file whose files end as this one does; None where there is none."""
    return next((form for form in FORMS.values() if form.suffix == path.suffix.lower()), None)


def form_of(name: object, rate: object) -> tuple[Form, int]:
    """A form and a rate that it can have. Raises InvalidValue."""
    form = FORMS.get(str(name))
    if form is None:
        raise InvalidValue(f"A form of sound file is one of {', '.join(FORMS)}; {str(name)[:40]!r} is not.")
    if isinstance(rate, bool) or not isinstance(rate, int) or rate not in form.rates:
        rates = " or ".join(f"{each / 1000:g} kHz" for each in form.rates)
        raise InvalidValue(f"{form.label} can have {rates}; {str(rate)[:40]!r} is none of that.")
    return form, rate


class Writer(Protocol):
    """Takes blocks (n, 2) of float32 samples; `over_n` counts those held at full scale."""

    over_n: int

    def write(self, samples: np.ndarray) -> None:
        """Append."""

    def close(self, loudness: Loudness | None = None) -> None:
        """End the file."""


def open_writer(path: Path, form: Form, rate: int, bext: Bext, *, dither: bool = True) -> Writer:
    """A writer of a form; `bext` is written where the form has a place for it. `dither` is for 16 bit alone."""
    if form.sample is not None:
        return WavWriter(path, rate=rate, sample=form.sample, bext=bext_of(form, bext), dither=dither)
    return _Encoded(path, form, rate) if form.codec else _Flac(path, rate)


def bext_of(form: Form, bext: Bext) -> Bext | None:
    """What is written of it in a form."""
    return bext if form.name == "bwf" else None


# at their bit rates the slower ways of these encoders are not told apart by ear, and take three to six times as long
QUICK = {"aac": {"aac_coder": "fast"}, "libmp3lame": {"compression_level": "7"}}


class Resampler:
    """A stereo stream at another rate; at 48 kHz untouched."""

    def __init__(self, rate: int) -> None:
        self._stream = None if rate == RATE else soxr.ResampleStream(RATE, rate, 2, dtype="float32", quality="VHQ")

    def add(self, block: np.ndarray) -> np.ndarray:
        """What is ready after a block (n, 2)."""
        return block if self._stream is None else self._stream.resample_chunk(np.ascontiguousarray(block))

    def finish(self) -> np.ndarray:
        """The rest."""
        nothing = np.zeros((0, 2), np.float32)
        return nothing if self._stream is None else self._stream.resample_chunk(nothing, last=True)


def resampled(blocks: Iterator[np.ndarray], rate: int) -> Iterator[np.ndarray]:
    """The same sound at another rate."""
    stream = Resampler(rate)
    for block in blocks:
        yield stream.add(block)
    yield stream.finish()


class _Flac:
    def __init__(self, path: Path, rate: int) -> None:
        self._file = soundfile.SoundFile(str(path), "w", rate, 2, "PCM_24", format="FLAC")
        self.over_n = 0

    def write(self, samples: np.ndarray) -> None:
        steps = np.rint(samples * np.float32(FULL))
        held = np.clip(steps, -FULL, FULL - 1)
        self.over_n += int((held != steps).sum())
        self._file.write(held.astype(np.int32) << 8)  # whole numbers: of floats it takes 2^23 − 1 for full scale

    def close(self, loudness: Loudness | None = None) -> None:
        self._file.close()


class _Encoded:
    """What an encoder makes: MP3, AAC, Opus. Where the file can say how much to leave out at both ends, it does."""

    def __init__(self, path: Path, form: Form, rate: int) -> None:
        self._rate, self._done_n, self.over_n, self._form = rate, 0, 0, form
        try:
            self._out = av.open(str(path), "w", format=CONTAINERS[form.suffix], options=OPTIONS)
            options = QUICK.get(form.codec, {})
            self._stream: Any = self._out.add_stream(
                form.codec, rate=rate, layout="stereo", bit_rate=form.bit_rate, options=options
            )
            self._format = "flt" if form.codec == "libopus" else "fltp"
            stream: Any = self._stream
            stream.format = self._format
        except (av.FFmpegError, ValueError) as error:
            raise MediaError(f"{form.label} can't be written here: {error}.") from error

    def write(self, samples: np.ndarray) -> None:
        if not len(samples):
            return
        planar = self._format.endswith("p")
        wanted = np.ascontiguousarray(samples.T if planar else samples.reshape(1, -1), np.float32)
        frame = av.AudioFrame.from_ndarray(wanted, format=self._format, layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = self._rate, self._done_n, Fraction(1, self._rate)
        self._out.mux(self._stream.encode(frame))
        self._done_n += len(samples)

    def close(self, loudness: Loudness | None = None) -> None:
        if self._done_n:
            self._out.mux(self._stream.encode(None))
        self._out.close()
