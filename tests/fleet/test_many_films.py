"""Folders of films by a recipe: the same as the page makes, nothing twice, nothing half, whatever is killed."""

from __future__ import annotations

import csv
import hashlib
import json
import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import psutil
import pytest
import soundfile

from jaylantern.cli.main import main
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.export import handoff as exporting
from jaylantern.fleet import child, folders, one_film, results
from jaylantern.fleet.child import Job
from jaylantern.fleet.films import films_in
from jaylantern.fleet.outcome import Outcome, State, by_need, table
from jaylantern.interchange.recipe import recipe_of
from jaylantern.media.film_sound import SOUND_TRACKS
from jaylantern.media.sound_files import FORMS
from jaylantern.projectfile import reading
from jaylantern.support.progress import silent
from tests import sounds
from tests.fleet.fleets import hashes, make_all, processes

RECIPE = recipe_of({"talk": "talk*", "music": "music*", "hand_off": ["mix"]})


@pytest.fixture
def root(tmp_path, media) -> Path:
    """A folder of folders."""
    for name in ("one", "two", "more/three"):
        folder = tmp_path / "films" / name
        folder.mkdir(parents=True)
        (folder / "talk.wav").write_bytes((media / "talk.wav").read_bytes())
        soundfile.write(folder / "music.flac", soundfile.read(media / "music.flac", frames=12 * RATE)[0], RATE)
    return tmp_path / "films"


def one(film, recipe, out: Path, progress=silent, *, again: bool = False) -> Outcome:
    """A film made in this process."""
    return child.one(Job(film, recipe, results.results_in(out), "run", again), progress)


def test_every_folder_in_which_files_match_is_a_film(root, tmp_path):
    (root / "notes").mkdir()
    (root / "notes" / "read me.txt").write_text("nothing to hear")
    (root / ".hidden").mkdir()
    (root / ".hidden" / "talk.wav").write_bytes(b"")
    (root / "out").mkdir()
    (root / "out" / "talk.wav").write_bytes(b"")
    found = films_in(root, RECIPE, but=[root / "out"])
    assert [film.name for film in found] == ["more/three", "one", "two"]
    assert [(each.role, each.name) for each in found[0].files] == [("music", "music.flac"), ("talk", "talk.wav")]
    (root / "more" / "talk.wav").write_bytes(b"")
    assert {film.name: film.holds_others for film in films_in(root / "more", RECIPE)} == {"more": True, "three": False}
    with pytest.raises(MediaError, match="No film in"):
        films_in(root / "notes", RECIPE)


def test_two_processes_make_what_one_does_and_a_second_run_makes_nothing(root, tmp_path):
    found = films_in(root, RECIPE)
    out, alone = tmp_path / "out", tmp_path / "alone"
    made = make_all(found, RECIPE, out)
    assert [each.state for each in made] == [State.MADE] * 3
    for film in found:
        assert one(film, RECIPE, alone).state is State.MADE
    assert hashes(out) == hashes(alone) != {}
    before = {path: path.stat().st_mtime_ns for path in out.rglob("*.wav")}
    again = make_all(found, RECIPE, out)
    assert [each.state for each in again] == [State.THERE] * 3
    assert [each.lufs for each in again] == [each.lufs for each in made]
    assert {path: path.stat().st_mtime_ns for path in out.rglob("*.wav")} == before


@pytest.mark.parametrize(
    ("change", "states"),
    [
        ("nothing", [State.THERE, State.THERE]),
        ("bytes", [State.MADE, State.THERE]),
        ("a file more", [State.MADE, State.THERE]),
        ("recipe", [State.MADE, State.MADE]),
        ("words of the recipe", [State.THERE, State.THERE]),
        ("a result gone", [State.MADE, State.THERE]),
        ("a result cut short", [State.MADE, State.THERE]),
        ("its receipt damaged", [State.MADE, State.THERE]),
    ],
)
def test_what_is_made_anew(root, tmp_path, monkeypatch, change, states):
    monkeypatch.setattr(one_film, "make", pretended)
    out, recipe = tmp_path / "out", RECIPE
    for film in films_in(root, recipe)[1:]:
        one(film, recipe, out)
    mix = out / "one" / "mix.wav"
    if change == "bytes":
        (root / "one" / "talk.wav").write_bytes(b"other")
    elif change == "a file more":
        (root / "one" / "talk 2.wav").write_bytes(b"more")
    elif change == "recipe":
        recipe = recipe_of({**RECIPE.plain, "preset": "Hard"})
    elif change == "words of the recipe":
        recipe = recipe_of({**RECIPE.plain, "about": "the same"})
    elif change == "a result gone":
        mix.unlink()
    elif change == "a result cut short":
        mix.write_bytes(b"m")
    elif change == "its receipt damaged":
        (out / "one" / results.RECEIPT).write_text("{")
    assert [one(film, recipe, out).state for film in films_in(root, recipe)[1:]] == states
    assert mix.read_bytes() == b"made"


def pretended(film, recipe, out, progress) -> Outcome:
    (out / "mix.wav").write_bytes(b"made")
    return Outcome(film.name, length_n=RATE)


def test_a_film_that_fails_leaves_nothing_and_what_stood_there_stays(root, tmp_path, monkeypatch):
    out = tmp_path / "out"
    film = films_in(root, RECIPE)[1]
    monkeypatch.setattr(one_film, "make", pretended)
    one(film, RECIPE, out)

    def breaks_off(film, recipe, out, progress):
        (out / "mix.wav").write_bytes(b"half")
        raise MediaError("It broke off.")

    monkeypatch.setattr(one_film, "make", breaks_off)
    failed = one(film, RECIPE, out, again=True)
    assert (failed.state, failed.failed) == (State.FAILED, "It broke off.")
    assert (out / "one" / "mix.wav").read_bytes() == b"made"
    assert sorted(path.name for path in out.iterdir()) == ["one"]


def test_what_is_the_persons_own_is_not_written_over(root, tmp_path, monkeypatch):
    monkeypatch.setattr(one_film, "make", pretended)
    (tmp_path / "out" / "one").mkdir(parents=True)
    (tmp_path / "out" / "one" / "mine.txt").write_text("mine")
    failed = one(films_in(root, RECIPE)[1], RECIPE, tmp_path / "out")
    assert "is no result of ours" in failed.failed
    assert [path.name for path in (tmp_path / "out" / "one").iterdir()] == ["mine.txt"]


def test_results_of_a_film_within_a_film_s_folder_live_beside_its_own(root, tmp_path, monkeypatch):
    monkeypatch.setattr(one_film, "make", pretended)
    (root / "more" / "talk.wav").write_bytes(b"x")
    found = [film for film in films_in(root, RECIPE) if film.name.startswith("more")]
    for again in (False, True):
        for film in (*found, *reversed(found)):
            one(film, RECIPE, tmp_path / "out", again=again)
    assert {path.relative_to(tmp_path / "out").as_posix() for path in (tmp_path / "out").rglob("*.wav")} == {
        "more/mix.wav", "more/three/mix.wav",
    }  # fmt: skip


def test_a_killed_film_is_made_by_another_process_and_the_result_is_the_same(root, tmp_path):
    found = films_in(root, RECIPE)[1:]
    killed = []

    def kill_once(i: int, share: float, doing: str) -> None:
        if share > 0.05 and not killed:
            killed.extend(each.pid for each in processes())
            psutil.Process(killed[0]).kill()

    made = make_all(found, RECIPE, tmp_path / "out", kill_once, workers=1)
    assert killed
    assert [each.state for each in made] == [State.MADE] * 2
    for film in found:
        one(film, RECIPE, tmp_path / "alone")
    assert hashes(tmp_path / "out") == hashes(tmp_path / "alone")
    assert not list((tmp_path / "out").glob(f"{folders.MAKING}*"))


def test_a_film_that_kills_its_process_is_set_aside_and_the_others_are_made(root, tmp_path):
    found = films_in(root, RECIPE)[1:]
    begun = []

    def kill_the_first(i: int, share: float, doing: str) -> None:
        if i == 0 and share > 0 and doing != child.BROKE_OFF and processes():
            process = psutil.Process(processes()[0].pid)
            begun.append((process.pid, process.create_time()))  # a number alone may come again
            process.kill()

    made = make_all(found, RECIPE, tmp_path / "out", kill_the_first, workers=1)
    assert [each.state for each in made] == [State.SET_ASIDE, State.MADE]
    assert len(set(begun)) == child.MOST_KILLS
    assert "broke off 3 times; last time its process was ended from outside" in made[0].failed
    assert not (tmp_path / "out" / "one").exists()
    later = make_all(found, RECIPE, tmp_path / "out", workers=1)
    assert [each.state for each in later] == [State.SET_ASIDE, State.THERE]
    assert one(found[0], RECIPE, tmp_path / "out", again=True).state is State.MADE
    assert results.results_in(tmp_path / "out").set_aside(found[0]) is None


def test_by_a_full_recipe_it_is_tailored_cleared_and_as_loud_as_wished(tmp_path, media, capsys):
    """Loudness by pyebur128, an independent meter of ITU-R BS.1770."""
    folder = tmp_path / "films" / "Lesson"
    folder.mkdir(parents=True)
    for path in media.iterdir():
        (folder / path.name).write_bytes(path.read_bytes())
    (folder / "film.srt").write_text("1\n00:00:01,000 --> 00:00:07,000\nWelcome\n")
    recipe = {"talk": "talk*", "music": "*.flac", "picture": "*.mp4", "captions": "*.srt", "clearance": {"lu": 14},
              "tailor": {"exact": True}, "target": {"lufs": -18},
              "hand_off": ["mix", "film", {"what": "passages-csv"}, "captions-srt"]}  # fmt: skip
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    args = ["batch", tmp_path / "films", "--recipe", tmp_path / "r.json", "--out", tmp_path / "out", "--json",
            "--data", tmp_path / "data"]  # fmt: skip
    assert main([str(each) for each in args]) == 0
    (row,) = json.loads(capsys.readouterr().out)
    assert (row["film"], row["state"], row["length_s"], row["look"]) == ("Lesson", "made", 12.0, [])
    assert row["least_clear_lu"] == pytest.approx(14, abs=0.1)
    out = tmp_path / "out" / "Lesson"
    mix, rate = soundfile.read(out / "Lesson - mix.wav", always_2d=True)
    assert (len(mix), rate) == (12 * RATE, RATE)
    pyebur128 = pytest.importorskip("pyebur128", reason="no wheel for this system")
    meter = pyebur128.R128State(2, RATE, pyebur128.MeasurementMode.MODE_I)
    meter.add_frames(np.ascontiguousarray(mix).ravel(), len(mix))
    assert pyebur128.get_loudness_global(meter) == pytest.approx(-18, abs=0.1)
    assert row["lufs"] == pytest.approx(-18, abs=0.1)
    names = {path.name for path in out.iterdir()}
    assert names == {
        "Lesson - mix.wav",
        "Lesson - film.mp4",
        "Lesson - passages.csv",
        "Lesson - captions.srt",
        "made.json",
    }
    with (tmp_path / "out" / "films.csv").open(newline="") as text:
        (line,) = csv.DictReader(text)
    assert (line["film"], line["state"], line["lufs"]) == ("Lesson", "made", str(row["lufs"]))


@pytest.mark.parametrize(
    ("said", "wanted"),
    [
        ({"preset": "Hard"}, {"amount_db": -24, "attack_ms": 150, "ceiling_dbtp": -1}),
        ({"preset": "Hard", "settings": {"attack_ms": 200}}, {"amount_db": -24, "attack_ms": 200}),
        ({"clearance": {"sii": 0.6}}, {"duck_by": "clearance", "clear_in": "intelligibility", "wish_sii": 0.6}),
        ({"target": {"lufs": -20, "dbtp": -3}}, {"target_lufs": -20, "ceiling_dbtp": -3, "amount_db": -14}),
        ({"target": "Television, North America"}, {"target_lufs": -24, "ceiling_dbtp": -2}),
    ],
)
def test_settings_are_those_of_the_recipe(root, tmp_path, said, wanted):
    recipe = recipe_of({**RECIPE.plain, **said, "hand_off": ["timeline"]})
    (tmp_path / "made").mkdir()
    one_film.make(films_in(root, recipe)[1], recipe, tmp_path / "made", silent)
    (path,) = (tmp_path / "made").iterdir()
    found = reading.read(path, path.name).project.settings
    assert {name: getattr(found, name) for name in wanted} == wanted


def test_files_are_taken_by_what_they_sound_like(tmp_path, media):
    folder = tmp_path / "films" / "One"
    folder.mkdir(parents=True)
    (folder / "a.wav").write_bytes((media / "talk.wav").read_bytes())
    soundfile.write(folder / "b.wav", sounds.music()[: 20 * RATE], RATE)
    (film,) = films_in(tmp_path / "films", recipe_of({"others": "by sound"}))
    (tmp_path / "made").mkdir()
    made = one_film.make(film, recipe_of({"others": "by sound"}), tmp_path / "made", silent)
    assert "a.wav is taken for dialogue by its sound." in made.said
    assert "b.wav is taken for music by its sound." in made.said
    assert made.passages == 1


def test_a_silent_file_is_untagged_and_said(tmp_path, media):
    folder = tmp_path / "films" / "One"
    folder.mkdir(parents=True)
    (folder / "talk.wav").write_bytes((media / "talk.wav").read_bytes())
    soundfile.write(folder / "hum.wav", np.zeros((RATE, 1)), RATE)
    recipe = recipe_of({"talk": "talk*", "others": "by sound"})
    (film,) = films_in(tmp_path / "films", recipe)
    (tmp_path / "made").mkdir()
    assert "hum.wav is silent, so it is untagged." in one_film.make(film, recipe, tmp_path / "made", silent).said


def test_files_in_a_row_follow_one_another_on_one_lane(tmp_path, media):
    folder = tmp_path / "films" / "One"
    folder.mkdir(parents=True)
    for name in ("talk 1.wav", "talk 2.wav"):
        (folder / name).write_bytes((media / "talk.wav").read_bytes())
    recipe = recipe_of({"talk": "talk*", "in_a_row": ["talk"]})
    (film,) = films_in(tmp_path / "films", recipe)
    (tmp_path / "made").mkdir()
    assert one_film.make(film, recipe, tmp_path / "made", silent).length_n == 16 * RATE


def test_what_needs_a_look_stands_first():
    fine, odd, failed = Outcome("a"), Outcome("b", look=("It rises often.",)), Outcome("c", State.FAILED, failed="No.")
    assert [each.film for each in by_need([fine, odd, failed])] == ["c", "b", "a"]
    lines = table(by_need([fine, odd, failed]))
    assert lines[1].endswith("not made: No.")
    assert lines[2].endswith("made It rises often.")


@pytest.mark.parametrize(
    ("text", "word"),
    [('{"talk": "t*", "hand_off": ["moon"]}', "What is handed off"), ('{"talk": "t*", "hand_off": [{"what": "mix", '
     '"form": "mp9"}]}', "mp9"), ("{", "is not a recipe that can be read"), (None, "is not there")],
)  # fmt: skip
def test_a_wrong_recipe_is_told_in_one_line_and_makes_nothing(root, tmp_path, capsys, text, word):
    path = tmp_path / "r.json"
    if text is not None:
        path.write_text(text)
    for args in (["recipe", "check", path], ["batch", root, "--recipe", path, "--out", tmp_path / "out"]):
        assert main([str(each) for each in args]) == 2
        (line,) = capsys.readouterr().err.splitlines()
        assert word in line
    assert not (tmp_path / "out").exists()


def test_check_says_which_films_there_are(root, tmp_path, capsys):
    (tmp_path / "r.json").write_text(json.dumps({"talk": "t*", "music": ["m*", "talk*"]}))
    assert main(["recipe", "check", str(tmp_path / "r.json"), "--on", str(root)]) == 2
    said = capsys.readouterr().out.splitlines()
    assert said[0] == "Talk: t*."
    assert said[-1] == "two: talk.wav is both talk and music by the recipe. Make one pattern narrower."


def test_what_is_left_of_processes_that_are_gone_is_cleared(tmp_path):
    gone = subprocess.Popen([sys.executable, "-c", ""])
    ours = f"{folders.MAKING}{socket.gethostname()}"
    names = {f"{ours}-{os.getpid()}-abc": True, f"{ours}-{gone.pid}-abc": False}
    names |= {f"{folders.MAKING}elsewhere-1-abc": True, ".tries-watch": True, "film": True}
    gone.wait()
    for name in names:
        (tmp_path / name).mkdir()
    results.results_in(tmp_path).clear()
    assert {name: (tmp_path / name).exists() for name in names} == names


def test_whatever_is_handed_off_has_the_same_bytes_each_time(tmp_path, media):
    """Films, sound files, archives: none holds the time of day, or a number drawn at random."""
    folder = tmp_path / "films" / "one"
    folder.mkdir(parents=True)
    for path in media.iterdir():
        (folder / path.name).write_bytes(path.read_bytes())
    soundfile.write(folder / "music.flac", soundfile.read(folder / "music.flac", frames=9 * RATE)[0], RATE)
    (folder / "words.srt").write_text("1\n00:00:01,000 --> 00:00:07,000\nWelcome\n")
    forms = [{"what": "mix", "form": form, "pattern": f"{form} {{what}}"} for form in FORMS]
    tracks = [
        {"what": "film", "track": track, "parts": i == 0, "pattern": f"{track} {{what}}"}
        for i, track in enumerate(SOUND_TRACKS)
    ]
    others = [
        {"what": what, "pattern": f"{what} {{what}}"}
        for what in exporting.FORMS
        if what not in ("mix", "film", "tailored")
    ]
    who = {"talk": "talk*", "music": "music*", "picture": "*.mp4", "captions": "*.srt"}
    recipe = recipe_of({**who, "hand_off": [*forms, *tracks, *others]})
    (film,) = films_in(tmp_path / "films", recipe)
    made = []
    for at in ("first", "second"):
        (tmp_path / at).mkdir()
        one_film.make(film, recipe, tmp_path / at, silent)
        made.append({path.name: hashlib.sha256(path.read_bytes()).hexdigest() for path in (tmp_path / at).iterdir()})
        time.sleep(1.1)
    assert len(made[0]) > len(forms) + len(tracks) + len(others)
    assert {name for name in made[0] if made[0][name] != made[1][name]} == set()
