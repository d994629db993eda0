"""What is written: 24-bit WAV read back by another library, film with sound and picture in step."""

from __future__ import annotations

import struct
from fractions import Fraction

import av
import numpy as np
import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media import cuts
from jaylantern.media import wav as wavs
from jaylantern.media.film import QUALITIES, Cut, Shot, suffix_for, write_cut_film, write_film
from jaylantern.media.film_sound import SOUND_TRACKS, codecs_of
from jaylantern.media.wav import WavWriter
from tests import films, sounds


def test_what_is_written_is_read_back_to_half_a_step(tmp_path):
    sound = sounds.noise(seconds=1.7, amplitude=0.2, channels=2)
    writer = WavWriter(tmp_path / "out.wav")
    for at in range(0, len(sound), 7001):
        writer.write(sound[at : at + 7001])
    writer.close()
    back, rate = soundfile.read(tmp_path / "out.wav", dtype="float64", always_2d=True)
    assert rate == RATE
    assert np.abs(back - sound).max() <= 0.5 / 2**23
    assert writer.over_n == 0


def test_samples_beyond_full_scale_are_held_there_and_counted(tmp_path):
    writer = WavWriter(tmp_path / "out.wav", channels=1)
    writer.write(np.array([[1.5], [-1.5], [0.25]], np.float32))
    writer.close()
    back, _ = soundfile.read(tmp_path / "out.wav")
    assert back == pytest.approx([1.0, -1.0, 0.25], abs=2e-7)
    assert writer.over_n == 2


def test_beyond_4_gib_the_header_is_rf64(tmp_path, monkeypatch):
    """EBU Tech 3306:2009: RF64, ds64 with the true sizes. The limit is lowered instead of writing 4 GiB."""
    monkeypatch.setattr(wavs, "LARGEST_RIFF", 1000)
    writer = WavWriter(tmp_path / "long.wav")
    writer.write(sounds.noise(seconds=0.1, channels=2))
    writer.close()
    head = (tmp_path / "long.wav").read_bytes()[:40]
    assert (head[:4], head[12:16]) == (b"RF64", b"ds64")
    assert struct.unpack("<Q", head[28:36])[0] == 4800 * 6


def test_flash_and_beep_stay_together_in_the_finished_film(tmp_path):
    """A frame flashes white at 2.0 s; the new sound beeps at 2.0 s. Both are found again within one AAC frame."""
    source = films.write_film(tmp_path / "flash.mp4", seconds=4, flash_s=2.0)
    sound = np.zeros((4 * RATE, 2), np.float32)
    sound[2 * RATE : 2 * RATE + 4800] = 0.5 * sounds.sine(hz=2000, seconds=0.1, channels=2)
    write_film(tmp_path / "out.mp4", source=source, name="flash.mp4", sound=iter([sound[:RATE], sound[RATE:]]))
    flash_s, beep_s = None, None
    with av.open(str(tmp_path / "out.mp4")) as film:
        for frame in film.decode(video=0):
            if flash_s is None and frame.to_ndarray(format="gray").mean() > 200:
                flash_s = frame.time
    with av.open(str(tmp_path / "out.mp4")) as film:
        for frame in film.decode(audio=0):
            loud = np.flatnonzero(np.abs(frame.to_ndarray()[0]) > 0.1)
            if beep_s is None and len(loud):
                beep_s = frame.time + loud[0] / RATE
    assert flash_s == pytest.approx(2.0, abs=0.001)
    assert beep_s == pytest.approx(2.0, abs=1024 / RATE)


def test_a_webm_picture_goes_into_mp4_where_it_fits_else_matroska(tmp_path):
    assert [suffix_for(codec) for codec in ("h264", "vp9", "vp8", "mjpeg")] == [".mp4", ".mp4", ".mkv", ".mkv"]
    source = films.write_film(tmp_path / "film.webm", seconds=2, codec="libvpx")
    write_film(tmp_path / "out.mkv", source=source, name="film.webm", sound=iter([sounds.noise(seconds=2, channels=2)]))
    with av.open(str(tmp_path / "out.mkv")) as film:
        assert film.streams.video[0].codec_context.name == "vp8"
        assert film.streams.audio[0].codec_context.name == "aac"


def test_a_sound_file_is_no_film(tmp_path):
    song = films.write_encoded(tmp_path / "song.mp3", sounds.noise(seconds=1, channels=1), codec="libmp3lame")
    with pytest.raises(MediaError, match=r"song\.mp3 has no picture"):
        write_film(tmp_path / "out.mp4", source=song, name="song.mp3", sound=iter([]))


def flash_and_beep(path) -> tuple[float, float, list[float]]:
    """When the picture flashes and the sound beeps, and the mean grey of every frame."""
    greys, flash_s, beep_s = [], None, None
    with av.open(str(path)) as film:
        for frame in film.decode(video=0):
            greys.append(float(frame.to_ndarray(format="gray").mean()))
            if flash_s is None and greys[-1] > 200:
                flash_s = frame.time
    with av.open(str(path)) as film:
        resampler = av.AudioResampler(format="fltp", layout="stereo")
        for frame in film.decode(audio=0):
            for part in resampler.resample(frame):
                loud = np.flatnonzero(np.abs(part.to_ndarray()[0]) > 0.1)
                if beep_s is None and len(loud):
                    beep_s = part.time + loud[0] / RATE
    return flash_s, beep_s, greys


@pytest.mark.parametrize("track", SOUND_TRACKS)
def test_flash_and_beep_stay_together_in_a_film_of_pieces(tmp_path, track):
    """A second of black, then the film from 1.6 s on: its flash at 2.0 s is seen at 1.4 s, where the sound beeps."""
    source = films.write_film(tmp_path / "flash.mp4", seconds=4, flash_s=2.0)
    sound = np.zeros((4 * RATE, 2), np.float32)
    sound[round(1.4 * RATE) : round(1.5 * RATE)] = 0.5 * sounds.sine(hz=2000, seconds=0.1, channels=2)
    form = SOUND_TRACKS[track]
    out = tmp_path / f"out{suffix_for('h264', form)}"
    write_cut_film(
        out,
        shots=iter([Shot(RATE), Shot(2 * RATE, source, "flash.mp4", round(1.6 * RATE)), Shot(RATE)]),
        how=Cut((160, 96), Fraction(25), QUALITIES["high"][1]), sound=iter([sound]), track=form,
    )  # fmt: skip
    flash_s, beep_s, greys = flash_and_beep(out)
    assert len(greys) == 100
    assert flash_s == pytest.approx(1.4, abs=0.001)
    assert beep_s == pytest.approx(1.4, abs=1024 / RATE)
    assert max(greys[:25]) < 20
    assert max(greys[75:]) < 20
    assert greys[25] > 40
    with av.open(str(out)) as film:
        assert film.streams.audio[0].codec_context.name == {"aac": "aac", "opus": "opus", "pcm": "pcm_s24le"}[track]


def test_another_shape_stands_in_black_bars_and_another_rate_keeps_time(tmp_path):
    source = films.write_film(tmp_path / "film.mp4", seconds=2)
    out = tmp_path / "out.mp4"
    write_cut_film(
        out, shots=iter([Shot(2 * RATE, source, "film.mp4")]), how=Cut((160, 160), Fraction(50), 17),
        sound=iter([np.zeros((2 * RATE, 2), np.float32)]),
    )  # fmt: skip
    with av.open(str(out)) as film:
        frames = [frame.to_ndarray(format="gray") for frame in film.decode(video=0)]
    assert len(frames) == 100
    assert frames[10].shape == (160, 160)
    assert frames[10][:24].mean() < 20 < frames[10][40:120].mean()
    assert np.abs(frames[10].astype(int) - frames[11].astype(int)).mean() < 3  # one frame of the source, shown twice


def test_a_source_that_ends_early_holds_its_last_frame(tmp_path):
    source = films.write_film(tmp_path / "film.mp4", seconds=1)
    out = tmp_path / "out.mp4"
    write_cut_film(
        out, shots=iter([Shot(2 * RATE, source, "film.mp4")]), how=Cut((160, 96), Fraction(25), 21),
        sound=iter([np.zeros((2 * RATE, 2), np.float32)]),
    )  # fmt: skip
    _, _, greys = flash_and_beep(out)
    assert len(greys) == 50
    assert greys[49] == pytest.approx(greys[24], abs=2)


# — cut films whose picture is copied —


def frames_of(path) -> list[np.ndarray]:
    with av.open(str(path)) as film:
        return [frame.to_ndarray(format="gray") for frame in film.decode(video=0)]


def silence(seconds: float):
    return iter([np.zeros((round(seconds * RATE), 2), np.float32)])


def piece(source, start_s: float, seconds: float) -> Shot:
    return Shot(round(seconds * RATE), source, source.name, round(start_s * RATE))


def test_pieces_that_begin_and_end_at_key_frames_are_copied_frame_for_frame(tmp_path):
    """Groups of 25 frames (`films.write_film`), with frames that are coded out of order within them."""
    source = films.write_film(tmp_path / "film.mp4", seconds=6, flash_s=2.0)
    shots = [piece(source, 4, 2), piece(source, 2, 1), piece(source, 0, 1)]
    sound = np.zeros((4 * RATE, 2), np.float32)
    sound[2 * RATE : 2 * RATE + 4800] = 0.5 * sounds.sine(hz=2000, seconds=0.1, channels=2)
    plan = cuts.plan(shots, Fraction(25))
    assert plan.ahead > 0  # there is something out of order, else the test is worth little
    for ending in (".mp4", ".mkv"):
        out = tmp_path / f"out{ending}"
        cuts.write(out, plan, sound=iter([sound]))
        whole = frames_of(source)
        copied = frames_of(out)
        wanted = [*whole[100:150], *whole[50:75], *whole[0:25]]
        assert len(copied) == len(wanted)
        assert all(np.array_equal(one, other) for one, other in zip(copied, wanted, strict=True))
        flash_s, beep_s, _ = flash_and_beep(out)
        assert flash_s == pytest.approx(2.0, abs=0.001)
        assert beep_s == pytest.approx(2.0, abs=1024 / RATE)


def test_where_every_frame_stands_alone_any_frame_can_be_cut_at(tmp_path):
    source = films.write_film(tmp_path / "film.mov", seconds=2, codec="prores_ks")
    shots = [piece(source, 1.2, 0.36), piece(source, 0.04, 0.8)]
    cuts.write(tmp_path / "out.mkv", cuts.plan(shots, Fraction(25)), sound=silence(1.16))
    whole, copied = frames_of(source), frames_of(tmp_path / "out.mkv")
    wanted = [*whole[30:39], *whole[1:21]]
    assert all(np.array_equal(one, other) for one, other in zip(copied, wanted, strict=True))


def test_cuts_that_do_not_allow_it_are_named(tmp_path):
    source = films.write_film(tmp_path / "film.mp4", seconds=4)
    other = films.write_film(tmp_path / "film.mkv", seconds=2, codec="libvpx")
    for shots, word in (
        ([piece(source, 0.4, 1)], r"00:00\.00 lies within a group"),
        ([piece(source, 0, 1), piece(source, 1, 0.6)], r"00:01\.60 lies within a group"),
        ([piece(source, 0, 1), Shot(RATE)], r"no picture at 00:01\.0"),
        ([piece(source, 0, 1), piece(other, 0, 1)], "different kinds"),
        ([piece(source, 0, 1), piece(source, 0, 0.005)], "shorter than a frame"),
    ):
        with pytest.raises(cuts.CantCopy, match=word):
            cuts.plan(shots, Fraction(25))


# — the original sound as a second track —


def onset(path, track: int) -> float:
    """When a track of sound begins to be heard, in seconds of the film's picture."""
    with av.open(str(path)) as film:
        zero = (film.streams.video[0].start_time or 0) * film.streams.video[0].time_base
    with av.open(str(path)) as film:
        for frame in film.decode(audio=track):
            loud = np.flatnonzero(np.abs(frame.to_ndarray().reshape(-1)[: frame.samples].astype(float)) > 0.05)
            if len(loud):
                return float(frame.time + loud[0] / frame.sample_rate - zero)
    return float("inf")


@pytest.mark.parametrize(("sound_codec", "ending"), [("aac", ".mp4"), ("pcm_s16le", ".mkv")])
def test_the_original_sound_is_kept_packet_for_packet_and_in_step(tmp_path, sound_codec, ending):
    original = np.zeros((4 * RATE, 2), np.float32)
    original[round(1.5 * RATE) :] = sounds.sine(hz=700, seconds=2.5, channels=2)
    name = "film.mp4" if sound_codec == "aac" else "film.mov"
    source = films.write_film(tmp_path / name, seconds=4, sound=original, sound_codec=sound_codec)
    kept = codecs_of(source, name)
    out = tmp_path / f"out{suffix_for('h264', kept=kept)}"
    assert out.suffix == ending
    write_film(out, source=source, name=name, sound=iter([np.zeros((4 * RATE, 2), np.float32)]), keep=True)
    with av.open(str(out)) as film:
        assert [stream.codec_context.name for stream in film.streams.audio] == ["aac", kept[0]]
        titles = [stream.metadata.get("title") or stream.metadata.get("handler_name") for stream in film.streams.audio]
        assert titles == ["Mix", "Original"]
    assert onset(out, 0) == float("inf")
    if sound_codec == "aac":
        assert onset(out, 1) == pytest.approx(onset(source, 0), abs=0.002)
    assert onset(out, 1) == pytest.approx(1.5, abs=1024 / RATE)


def test_of_a_cut_film_the_original_is_a_second_track_as_it_is_given(tmp_path):
    source = films.write_film(tmp_path / "film.mp4", seconds=2)
    also = np.zeros((2 * RATE, 2), np.float32)
    also[RATE:] = sounds.sine(hz=700, seconds=1, channels=2)
    write_cut_film(
        tmp_path / "out.mp4", shots=iter([piece(source, 0.2, 1), piece(source, 0, 1)]),
        how=Cut((160, 96), Fraction(25), 21),
        sound=silence(2), also=iter([also]),
    )  # fmt: skip
    assert onset(tmp_path / "out.mp4", 0) == float("inf")
    assert onset(tmp_path / "out.mp4", 1) == pytest.approx(1.0, abs=1024 / RATE)
