"""How long the picture of a film is, which its sound may outlast."""

from __future__ import annotations

import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.media.probe import probe
from tests import films, sounds


@pytest.mark.parametrize("name", ["Film.mp4", "Film.mov", "Film.mkv"])
def test_the_picture_is_as_long_as_its_frames_though_the_sound_goes_on(tmp_path, name):
    path = films.write_film(tmp_path / name, seconds=4, sound=sounds.noise(seconds=6, amplitude=0.01))
    found = probe(path, name=name)
    assert found.picture_n == pytest.approx(4 * RATE, abs=RATE // 20)
    assert found.duration_n > 5.5 * RATE


def test_sound_alone_has_none(tmp_path):
    path = films.write_encoded(tmp_path / "Song.mp3", sounds.sine(hz=440, seconds=1, channels=2), codec="libmp3lame")
    assert probe(path, name="Song.mp3").picture_n == 0
