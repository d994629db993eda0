"""A project's way as a recipe: what a recipe made, and the recipe of that project makes again, is the same."""

from __future__ import annotations

import json
from pathlib import Path, PurePosixPath

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.fleet import one_film
from jaylantern.fleet.films import films_in
from jaylantern.interchange.recipe import recipe_of
from jaylantern.interchange.recipe_out import _patterns
from jaylantern.support.progress import silent
from tests.fleet.fleets import hashes

WHO = {"talk": "talk*", "music": "music*"}


@pytest.mark.parametrize(
    ("said", "wanted"),
    [
        ({}, {}),
        ({"preset": "Hard", "target": "Web video"}, {"settings": True, "target": "Web video"}),
        ({"clearance": {"lu": 14}, "captions": "*.srt"}, {"clearance": {"lu": 14}, "captions": ["*.srt"]}),
        ({"clearance": {"sii": 0.6}, "target": {"lufs": -20, "dbtp": -3}},
         {"clearance": {"sii": 0.6}, "target": {"lufs": -20.0, "dbtp": -3.0}}),
        ({"picture": "*.mp4"}, {"picture": ["*.mp4"], "hand_off": ["film"]}),
        ({"tailor": {"exact": True, "pieces": 80, "fade_out": True}, "picture": "*.mp4"},
         {"tailor": {"until": "picture", "exact": True, "pieces": 80.0, "fade_out": True}}),
        ({"in_a_row": ["talk"]}, {"in_a_row": ["talk"]}),
    ],
)  # fmt: skip
def test_what_it_makes_again_is_the_same(tmp_path, media, said, wanted):
    folder = tmp_path / "films" / "one"
    folder.mkdir(parents=True)
    for name in ("talk.wav", "music.flac", "film.mp4"):
        (folder / name).write_bytes((media / name).read_bytes())
    soundfile.write(folder / "talk 2.wav", soundfile.read(media / "talk.wav")[0][500:], RATE)
    (folder / "words.srt").write_text("1\n00:00:01,000 --> 00:00:07,000\nWelcome\n")
    first = recipe_of({**WHO, **said, "hand_off": ["recipe", {"what": "mix"}]})
    values = json.loads(made(tmp_path / "first", first, folder)["one - recipe.json"].read_text())
    assert values["about"] == "As one was made."
    assert {name: bool(value) if wanted[name] is True else value for name, value in values.items() if name in wanted} \
        == wanted  # fmt: skip
    assert {"talk": ["talk*"], "music": ["music*"]}.items() <= values.items()
    again = recipe_of({**values, "hand_off": ["recipe", {"what": "mix"}]})
    files = made(tmp_path / "again", again, folder)
    assert hashes(tmp_path / "again") == hashes(tmp_path / "first") != {}
    assert json.loads(files["one - recipe.json"].read_text()) == values


def made(out: Path, recipe, folder: Path) -> dict[str, Path]:
    out.mkdir()
    one_film.make(films_in(folder.parent, recipe)[0], recipe, out, silent)
    return {path.name: path for path in out.iterdir()}


@pytest.mark.parametrize(
    ("files", "wanted"),
    [
        ({"talk 1.wav": "talk", "talk 2.wav": "talk"}, {"talk": ["talk*"]}),
        ({"talk-01.wav": "talk", "bed.opus": "music"}, {"talk": ["talk*"], "music": ["bed*"]}),
        ({"a1.wav": "talk", "a2.wav": "music"}, {"talk": ["a1.wav"], "music": ["a2.wav"]}),
        ({"film.mp4": "picture", "film.wav": "talk"}, {"picture": ["*.mp4"], "talk": ["film.wav"]}),
        ({"Alder Quay.mp4": "picture", "b.mp4": "picture"}, {"picture": ["*.mp4"]}),
        ({"a.mp4": "picture", "a.mp3": "music", "a.srt": "captions"},
         {"picture": ["*.mp4"], "music": ["a.mp3"], "captions": ["*.srt"]}),
        ({"2024.wav": "talk"}, {"talk": ["2024.wav"]}),
        ({"what [1].wav": "talk"}, {"talk": ["what [[]1]*"]}),
    ],
)  # fmt: skip
def test_patterns(files, wanted):
    found = _patterns(files)
    assert found == wanted
    recipe = recipe_of({**found, "hand_off": []})
    for name, role in files.items():
        assert recipe.role_of(PurePosixPath(name)) == role


def test_what_is_by_sound_or_untagged_is_left_out(tmp_path, media):
    folder = tmp_path / "films" / "one"
    folder.mkdir(parents=True)
    (folder / "talk.wav").write_bytes((media / "talk.wav").read_bytes())
    soundfile.write(folder / "hum.wav", [[0.0]] * RATE, RATE)
    recipe = recipe_of({"talk": "talk*", "others": "by sound", "hand_off": ["recipe"]})
    values = json.loads(made(tmp_path / "out", recipe, folder)["one - recipe.json"].read_text())
    assert set(values) == {"about", "talk", "hand_off"}
