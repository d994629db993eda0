"""The sound of tailored music, pieces whose speed is changed included."""

import numpy as np
import pytest

from jaylantern.core.tailoring.cut import Cut, Piece, Speed
from jaylantern.core.tailoring.tailor import stretched
from jaylantern.media.sound import Reading, SoundStore, mapped
from jaylantern.media.tailored import tailored, write_sped
from tests import sounds
from tests.tunes import RATE


def store(tmp_path, sound):
    return SoundStore.written(tmp_path / "sound.raw", (each for each in [np.ascontiguousarray(sound)]))


def made(tmp_path, sound, cut):
    source = store(tmp_path, sound)
    write_sped(source, cut, tmp_path)
    return tailored(source, cut, tmp_path)


def pitch_hz(sound):
    windowed = sound[:, 0] * np.hanning(len(sound))
    spectrum = np.abs(np.fft.rfft(windowed, 8 * len(sound)))
    return spectrum.argmax() * RATE / (8 * len(sound))


CUT = Cut((Piece(0, 2 * RATE, 2 * RATE), Piece(5 * RATE, 8 * RATE, 3 * RATE + 900, Speed.SPEED)), (0.4,))


@pytest.mark.parametrize("channels", [1, 2])
def test_windows_are_parts_of_the_whole_and_files_read_without_a_copy_are_the_same(tmp_path, channels):
    sound = made(tmp_path, sounds.noise(seconds=9, channels=channels), CUT)
    whole = sound.read(0, sound.length_n)
    assert whole.shape == (CUT.length_n, channels)
    assert np.array_equal(np.concatenate(list(sound.chunks(7777))), whole)
    assert np.array_equal(sound.read(2 * RATE - 100, 2 * RATE + 100), whole[2 * RATE - 100 : 2 * RATE + 100])
    read = mapped(Reading({3: sound}))
    assert np.array_equal(read(3, 1000, 150_000), whole[1000:150_000])


def test_past_its_end_it_is_silent(tmp_path):
    sound = made(tmp_path, sounds.noise(seconds=9), CUT)
    found = sound.read(CUT.length_n - 10, CUT.length_n + 20)
    assert found[:10].any()
    assert not found[10:].any()


@pytest.mark.parametrize("more_n", [-1200, 900])
def test_a_piece_of_another_speed_plays_the_same_music_higher_or_lower(tmp_path, more_n):
    """Frequency is inverse to duration: 440 Hz played 1 % faster is 444.4 Hz."""
    cut = Cut((Piece(RATE, 4 * RATE, 3 * RATE + more_n, Speed.SPEED),))
    sound = made(tmp_path, sounds.sine(hz=440, seconds=5), cut)
    assert pitch_hz(sound.read(4800, cut.length_n - 4800)) == pytest.approx(440 * cut.pieces[0].rate, abs=0.05)


def test_a_piece_of_another_speed_begins_and_ends_where_it_should(tmp_path):
    """A click in the recording lies where the rate says."""
    clicks = np.zeros((9 * RATE, 1), np.float32)
    for at_s in (5.5, 7.5):
        clicks[round(at_s * RATE)] = 1.0
    sound = made(tmp_path, clicks, CUT).read(0, CUT.length_n)[:, 0]
    for at_s in (0.5, 2.5):
        at_n = 2 * RATE + at_s * RATE / CUT.pieces[1].rate
        near = sound[round(at_n) - 50 : round(at_n) + 50]
        assert abs(int(near.argmax()) - 50) <= 1


@pytest.mark.parametrize("share", [0.8, 0.95, 1.25])
def test_stretching_keeps_the_pitch_and_gives_the_length(tmp_path, share):
    cut = stretched(6 * RATE, round(6 * share * RATE))
    sound = made(tmp_path, sounds.sine(hz=440, seconds=6, channels=2), cut).read(0, cut.length_n)
    assert sound.shape == (round(6 * share * RATE), 2)
    assert pitch_hz(sound[RATE : RATE * 3]) == pytest.approx(440, abs=1.0)


def test_tailored_sounds_are_told_apart_by_how_they_are_cut(tmp_path):
    source = store(tmp_path, sounds.noise(seconds=9))
    one, other = (tailored(source, Cut((Piece(0, n, n),)), tmp_path) for n in (RATE, 2 * RATE))
    assert one.key != other.key
    assert one.key == tailored(source, Cut((Piece(0, RATE, RATE),)), tmp_path).key
