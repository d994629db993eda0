"""Sound files in every form, read back by independent readers."""

from __future__ import annotations

import struct

import av
import numpy as np
import pytest
import soundfile
import soxr

from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue
from jaylantern.export.sound_output import write_sound
from jaylantern.media.sound_files import FORMS, form_of
from jaylantern.media.wav import Bext, WavWriter
from tests import sounds

ABOUT = Bext("The Clock at Alder Quay: mix", "2026-11-25", "14:03:54", 90 * RATE)
MUSIC = sounds.music()[: 4 * RATE]
SOUND = (0.5 * np.stack((MUSIC, np.roll(MUSIC, 100)), axis=1) / np.abs(MUSIC).max()).astype(np.float32)


def blocks(sound: np.ndarray = SOUND):
    return iter([sound[at : at + RATE] for at in range(0, len(sound), RATE)])


def read_back(path) -> tuple[np.ndarray, int]:
    """By FFmpeg, as float64 (n, 2)."""
    with av.open(str(path)) as file:
        stream = file.streams.audio[0]
        resampler = av.AudioResampler(format="dbl", layout="stereo")
        parts = [
            made.to_ndarray().reshape(-1, 2) for frame in file.decode(stream) for made in resampler.resample(frame)
        ]
        return np.concatenate(parts), stream.rate


@pytest.mark.parametrize("name", FORMS)
@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_every_form_is_read_back_at_its_rate(tmp_path, name, rate):
    if rate not in FORMS[name].rates:
        with pytest.raises(InvalidValue, match="kHz"):
            form_of(name, rate)
        return
    form, _ = form_of(name, rate)
    path = tmp_path / f"out{form.suffix}"
    written = write_sound(path, blocks(), form=form, rate=rate, bext=ABOUT)
    back, found_rate = read_back(path)
    wanted = soxr.resample(SOUND.astype(np.float64), RATE, rate, quality="VHQ")
    assert found_rate == rate
    assert abs(len(back) - len(wanted)) <= (2400 if form.codec else 0)  # an encoder fills its last frame
    size = min(len(back), len(wanted))
    off = back[:size] - wanted[:size]
    loud, noise = np.sqrt(np.mean(wanted**2)), np.sqrt(np.mean(off**2))
    assert noise < loud * 10 ** ((-12 if form.codec else -70) / 20)  # and is in step: shifted it would be as large
    assert written.over_n == 0
    assert written.loudness.true_peak_dbtp > -12


def test_24_bit_and_float_are_the_samples_themselves(tmp_path):
    for name, step in (("wav24", 2**-24), ("flac", 2**-24), ("bwf", 2**-24), ("wav32f", 0.0)):
        form = FORMS[name]
        path = tmp_path / f"{name}{form.suffix}"
        write_sound(path, blocks(), form=form, rate=RATE, bext=ABOUT)
        back, _ = soundfile.read(path, dtype="float64")
        assert np.abs(back - SOUND).max() <= step * 1.0001


def test_dither_has_triangular_density_and_keeps_what_is_under_a_step(tmp_path):
    """Lipshitz, Wannamaker, Vanderkooy, "Quantization and Dither", JAES 40(5), 1992: with TPDF dither of two steps the
    error has the variance of a quarter step squared whatever the signal, and a tone of a third of a step survives."""
    n = np.arange(10 * RATE)
    tone = (np.sin(2 * np.pi * 1000 * n / RATE) / 3 / 32768).astype(np.float32)
    path = tmp_path / "soft.wav"
    write_sound(path, blocks(np.repeat(tone[:, None], 2, axis=1)), form=FORMS["wav16"], rate=RATE, bext=ABOUT)
    back, _ = soundfile.read(path, dtype="int16")
    error = back[:, 0] - tone * 32768
    assert np.var(error) == pytest.approx(0.25, rel=0.03)
    at_tone = 2 * np.abs(np.mean(back[:, 0] * np.exp(-2j * np.pi * 1000 * n / RATE)))
    assert at_tone == pytest.approx(1 / 3, rel=0.05)
    assert abs(np.mean(error**3)) < 0.02  # no distortion: the third moment is not of the signal


def test_a_broadcast_wav_says_when_it_begins_and_what_it_measures(tmp_path):
    """EBU Tech 3285 version 2: read here by its offsets, and by FFmpeg."""
    path = tmp_path / "out.wav"
    written = write_sound(path, blocks(), form=FORMS["bwf"], rate=96_000, bext=ABOUT)
    raw = path.read_bytes()
    at = raw.index(b"bext")
    body = raw[at + 8 : at + 8 + struct.unpack("<I", raw[at + 4 : at + 8])[0]]
    assert body[:256].rstrip(b"\0") == b"The Clock at Alder Quay: mix"
    assert (body[320:330], body[330:338]) == (b"2026-11-25", b"14:03:54")
    assert struct.unpack("<Q", body[338:346])[0] == 90 * 96_000
    assert struct.unpack("<H", body[346:348])[0] == 2
    loudness, _, peak, _, _ = struct.unpack("<5h", body[412:422])
    assert loudness == round(100 * written.loudness.integrated_lufs)
    assert peak == round(100 * written.loudness.true_peak_dbtp)
    with av.open(str(path)) as file:
        assert int(file.metadata["time_reference"]) == 90 * 96_000
        assert file.metadata["encoded_by"] == "Jay Lantern"


def test_an_unknown_loudness_is_said_to_be_unknown(tmp_path):
    writer = WavWriter(tmp_path / "out.wav", bext=ABOUT)
    writer.write(np.zeros((100, 2), np.float32))
    writer.close(Loudness(float("-inf"), 0.0, float("-inf"), float("-inf")))
    raw = (tmp_path / "out.wav").read_bytes()
    figures = struct.unpack("<5h", raw[raw.index(b"bext") + 8 + 412 :][:10])
    assert figures == (0x7FFF, 0, 0x7FFF, 0x7FFF, 0x7FFF)
    assert soundfile.info(tmp_path / "out.wav").frames == 100


@pytest.mark.parametrize("name", ["wav16", "wav24", "flac"])
def test_what_is_over_full_scale_is_held_and_counted(tmp_path, name):
    sound = np.array([[1.5, -1.5], [0.2, 0.1]], np.float32)
    path = tmp_path / f"out{FORMS[name].suffix}"
    assert write_sound(path, iter([sound]), form=FORMS[name], rate=RATE, bext=ABOUT).over_n == 2
    back, _ = soundfile.read(path)
    assert back[0] == pytest.approx([1, -1], abs=1e-4)


def test_a_file_that_breaks_off_is_not_there(tmp_path):
    def breaking():
        yield SOUND[:RATE]
        raise OSError(28, "No space left on device")

    for name, form in FORMS.items():
        with pytest.raises(OSError, match="No space"):
            write_sound(tmp_path / f"{name}{form.suffix}", breaking(), form=form, rate=form.rates[-1], bext=ABOUT)
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize(("name", "rate"), [("wav8", 48_000), ("opus", 44_100), ("wav24", "48000"), ("wav24", True)])
def test_a_form_that_is_not_there_is_refused(name, rate):
    with pytest.raises(InvalidValue):
        form_of(name, rate)
