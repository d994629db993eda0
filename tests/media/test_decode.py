"""Every format people bring: the sound arrives at 48 kHz, in its place, at its level."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
import soxr

from jaylantern.core.signal.analysis import CHUNK_N, as_float
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media import decode
from jaylantern.media.decode import rechunked, sound_chunks
from jaylantern.media.probe import probe
from tests import films, sounds

BEEP_S = 1.0


def beep(channels: int = 1) -> np.ndarray:
    """Three seconds of silence with half a second of tone from 1.0 s on."""
    sound = np.zeros((3 * RATE, channels), np.float32)
    sound[RATE : RATE + RATE // 2] = sounds.sine(hz=1000, seconds=0.5, amplitude=0.5, channels=channels)
    return sound


def decoded(path: Path) -> np.ndarray:
    return np.concatenate([as_float(chunk) for chunk in sound_chunks(path, name=path.name)])


def onset_s(sound: np.ndarray) -> float:
    return int(np.flatnonzero(np.abs(sound[:, 0]) > 0.1)[0]) / RATE


def wav(path: Path, *, subtype: str, rate: int = RATE, channels: int = 2) -> Path:
    sound = beep(channels)
    soundfile.write(path, sound if rate == RATE else soxr.resample(sound, RATE, rate), rate, subtype=subtype)
    return path


@pytest.mark.parametrize("subtype", ["PCM_16", "PCM_24", "FLOAT", "PCM_U8"])
@pytest.mark.parametrize("rate", [8000, 22_050, 44_100, 48_000, 96_000])
def test_wav_of_any_depth_and_rate(tmp_path, subtype, rate):
    sound = decoded(wav(tmp_path / "beep.wav", subtype=subtype, rate=rate))
    assert len(sound) == pytest.approx(3 * RATE, abs=8)
    assert onset_s(sound) == pytest.approx(BEEP_S, abs=0.0015)
    assert sounds.rms_db(sound[RATE + 2400 : RATE + 21_600]) == pytest.approx(-9.03, abs=0.1)


@pytest.mark.parametrize(
    ("ending", "codec", "rate"),
    [
        (".mp3", "libmp3lame", 44_100),
        (".m4a", "aac", 48_000),
        (".m4a", "aac", 44_100),
        (".opus", "libopus", 48_000),
        (".mka", "flac", 44_100),
        (".mov", "pcm_s24le", 48_000),
        (".webm", "libopus", 48_000),
    ],
)
@pytest.mark.parametrize("channels", [1, 2])
def test_compressed_sound_keeps_its_place_and_level(tmp_path, ending, codec, rate, channels):
    path = films.write_encoded(tmp_path / f"beep{ending}", beep(channels), codec=codec, rate=rate)
    sound = decoded(path)
    assert sound.shape[1] == channels
    assert onset_s(sound) == pytest.approx(BEEP_S, abs=0.005)
    softer_db = 0.45 if codec == "libmp3lame" else 0.0  # this encoder scales by 0.95
    assert sounds.rms_db(sound[RATE + 2400 : RATE + 21_600]) == pytest.approx(-9.03 - softer_db, abs=0.3)


@pytest.mark.parametrize(("ending", "subtype"), [(".flac", "PCM_24"), (".ogg", "VORBIS"), (".aiff", "PCM_16")])
def test_formats_written_by_another_library(tmp_path, ending, subtype):
    soundfile.write(tmp_path / f"beep{ending}", beep(2), RATE, subtype=subtype)
    sound = decoded(tmp_path / f"beep{ending}")
    assert onset_s(sound) == pytest.approx(BEEP_S, abs=0.002)
    assert sounds.rms_db(sound[RATE + 2400 : RATE + 21_600]) == pytest.approx(-9.03, abs=0.2)


@pytest.mark.parametrize(
    ("ending", "codec", "sound_codec"),
    [
        (".mp4", "libx264", "aac"),
        (".mov", "libx264", "aac"),
        (".mkv", "libx264", "libopus"),
        (".webm", "libvpx-vp9", "libopus"),
    ],
)
def test_films_give_picture_and_sound(tmp_path, ending, codec, sound_codec):
    path = films.write_film(tmp_path / f"film{ending}", seconds=3, sound=beep(2), codec=codec, sound_codec=sound_codec)
    found = probe(path, name=path.name)
    assert (found.picture.width, found.picture.height, found.picture.fps) == (160, 96, 25)
    assert found.duration_n == pytest.approx(3 * RATE, abs=0.1 * RATE)
    assert onset_s(decoded(path)) == pytest.approx(BEEP_S, abs=0.005)


def test_sixteen_bits_at_48_khz_stay_as_they_are(tmp_path):
    path = wav(tmp_path / "beep.wav", subtype="PCM_16")
    [*_, chunk] = sound_chunks(path, name=path.name)
    assert chunk.dtype == np.int16


def test_surround_is_mixed_down_by_the_standard(tmp_path):
    """ITU-R BS.775-4 Annex 4 table 2: L' = L + 0.7071·C + 0.7071·Ls; the file's order is FL FR FC LFE BL BR."""
    sound = np.zeros((RATE, 6), np.float32)
    amplitudes = (0.1, 0.2, 0.3, 0.9, 0.05, 0.02)
    for c, amplitude in enumerate(amplitudes):
        sound[:, c] = sounds.sine(hz=1000, seconds=1, amplitude=amplitude)[:, 0]
    path = films.write_encoded(tmp_path / "surround.mka", sound, codec="flac")
    peak = np.abs(decoded(path)[4800:-4800]).max(axis=0)
    assert peak == pytest.approx([0.1 + 0.7071 * (0.3 + 0.05), 0.2 + 0.7071 * (0.3 + 0.02)], rel=0.01)


def test_every_chunk_but_the_last_is_whole():
    blocks = [np.arange(n)[:, None] for n in (3, 5, 1, 10, 2)]
    assert [len(c) for c in rechunked(iter(blocks), 4)] == [4, 4, 4, 4, 4, 1]
    assert CHUNK_N % 4800 == 0


@pytest.mark.parametrize("content", [b"", b"just words, no film" * 50, b"RIFF\x24\0\0\0WAVEfmt "])
def test_what_is_no_media_is_refused_in_words(tmp_path, content):
    path = tmp_path / "odd.wav"
    path.write_bytes(content)
    with pytest.raises(MediaError, match=r"odd\.wav"):
        probe(path, name="odd.wav")


def test_a_file_cut_short_gives_what_came_before(tmp_path):
    whole = films.write_encoded(tmp_path / "whole.mp3", beep(1), codec="libmp3lame")
    cut = tmp_path / "cut.mp3"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size * 2 // 3])
    assert RATE < len(decoded(cut)) < 3 * RATE


@pytest.mark.parametrize(
    ("times_s", "length_s"),
    [([0, 1], 2), ([0, 3], 4), ([0, 9], 10), ([0, 9.5, 10.5], 11.5), ([0, 36_000], 2), ([0, 36_000, 2], 3)],
)
def test_times_beyond_what_a_file_can_last_are_not_believed(times_s, length_s):
    frames = []
    for time_s in times_s:
        frame = av.AudioFrame.from_ndarray(np.ones((1, RATE), np.float32), format="flt", layout="mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, round(time_s * RATE), Fraction(1, RATE)
        frames.append(frame)
    blocks = list(decode._frames(iter(frames), RATE, 1, None, longest_n=10 * RATE))
    assert sum(len(block) for block in blocks) == round(length_s * RATE)
