"""Folders that lie deep: on Windows a path of more than 259 letters needs its extended form; elsewhere this just holds.

Source: Microsoft, "Maximum Path Length Limitation"."""

from __future__ import annotations

import os
from contextlib import closing
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jaylantern.cli.main import main
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import Refused
from jaylantern.store import projects
from jaylantern.support import file_names, system
from jaylantern.workspace.folder import DataFolder
from tests import sounds
from tests.watched_files import unwatched

DEEP = "/".join(f"a folder that is called {i:03}" for i in range(10))


@pytest.fixture
def deep(tmp_path) -> Path:
    """A folder whose path alone is longer than Windows takes in the plain form."""
    folder = tmp_path / DEEP
    assert len(str(folder)) > file_names.MOST_OF_WINDOWS
    system.with_room(folder).mkdir(parents=True)
    return folder


def test_a_data_folder(deep):
    folder = DataFolder(deep / "data")
    lock = folder.prepare_alone()
    with closing(folder.connect()) as db:
        number = projects.create(db, "Quay")
        path = folder.claim(db, "exports/1")
        with unwatched():
            path.mkdir()
            (path / f"{'n' * 100}.wav").write_bytes(b"x")
        folder.remove(db, "exports/1")
        assert not path.exists()
        assert projects.load(db, number).name == "Quay"
    with pytest.raises(Refused):
        DataFolder(deep / "data").hold()
    lock.release()
    folder.prepare()  # what is there is looked at by an address of its own


def test_films_and_their_results(deep, capsys):
    film = system.with_room(deep / "films" / "Lesson 1" / ("n" * 60))
    film.mkdir(parents=True)
    soundfile.write(film / "talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=4), RATE)
    soundfile.write(film / "music.wav", np.tile(sounds.noise(seconds=5), 2), RATE)
    recipe = system.with_room(deep / "r.json")
    recipe.write_text('{"talk": "talk*", "music": "music*", "hand_off": ["mix"]}')
    command = ["batch", deep / "films", "--recipe", recipe, "--out", deep / "out", "--data", deep / "data"]
    assert main([str(each) for each in command]) == 0, capsys.readouterr().err
    [mix] = system.with_room(deep / "out").rglob("*.wav")
    assert mix.parent.name == "n" * 60
    assert soundfile.info(mix).frames > 4 * RATE


def test_a_path_that_has_room_is_left_as_it_is(tmp_path):
    assert system.with_room(Path("films")) == Path("films")
    long = tmp_path / ("x" * 250)
    assert str(system.with_room(long)).startswith("\\\\?\\" if os.name == "nt" else str(tmp_path))
