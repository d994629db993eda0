"""Rendering projects from the command line: the same samples as the page makes, exit codes, nothing written over."""

from __future__ import annotations

import json
import shutil
import sys
from pathlib import Path

import numpy as np
import psutil
import pytest
import soundfile

from jaylantern.cli.main import main
from jaylantern.cli.progress import TerminalProgress
from jaylantern.core.signal.timebase import RATE
from jaylantern.export import from_files


def run(*args) -> int:
    return main([str(arg) for arg in args])


def read(path) -> np.ndarray:
    return soundfile.read(path, dtype="int32", always_2d=True)[0]


@pytest.fixture
def archive(handed, tmp_path):
    return shutil.copyfile(handed("archive"), tmp_path / "film.zip")


def test_a_rendered_archive_holds_the_samples_the_page_makes(handed, archive, tmp_path, capsys):
    assert run("render", archive, "--out", tmp_path / "mix.wav", "--json") == 0
    (made,) = json.loads(capsys.readouterr().out)
    assert (made["failed"], made["missing"], made["files"]) == (None, 0, [str(tmp_path / "mix.wav")])
    assert np.array_equal(read(tmp_path / "mix.wav"), read(handed("mix")))
    assert made["passages"] == 1


def test_a_timeline_is_rendered_with_the_media_of_a_folder(handed, files, tmp_path):
    path = shutil.copyfile(handed("timeline"), tmp_path / "film.otio")
    assert run("render", path, "--out", tmp_path / "mix.wav", "--media", files) == 0
    assert np.array_equal(read(tmp_path / "mix.wav"), read(handed("mix")))


def test_options_are_those_of_the_page(archive, tmp_path, capsys):
    out = tmp_path / "out"
    out.mkdir()
    assert run("render", archive, "--out", tmp_path / "part.flac", "--stretch", "in-out", "--rate", 96000) == 0
    found = soundfile.info(tmp_path / "part.flac")
    assert (found.format, found.samplerate, found.frames) == ("FLAC", 96000, 4 * 96000)
    assert run("render", archive, "--out", out, "--what", "stems", "--pattern", "{what}") == 0
    assert {path.name for path in out.iterdir()} == {"speech.wav", "music.wav", "music plain.wav", "untagged.wav"}
    assert run("render", archive, "--out", tmp_path / "film.mp4", "--what", "film") == 0
    assert run("render", archive, "--out", tmp_path / "flat.wav", "--set", "mode=even", "--set", "even_db=0") == 0
    assert run("render", archive, "--out", tmp_path / "mix.wav") == 0
    assert not np.array_equal(read(tmp_path / "flat.wav"), read(tmp_path / "mix.wav"))


def test_missing_media_are_said_and_told_by_the_exit_code(handed, tmp_path, capsys):
    (tmp_path / "alone").mkdir()
    path = shutil.copyfile(handed("archive-alone"), tmp_path / "alone" / "film.zip")
    assert run("render", path, "--out", tmp_path / "mix.wav") == 1
    assert "3 files are missing" in capsys.readouterr().out
    assert not read(tmp_path / "mix.wav").any()


@pytest.mark.parametrize(
    ("args", "word"),
    [
        (("nowhere.zip", "--out", "mix.wav"), "is not there"),
        (("song.wav", "--out", "mix.wav"), "is no project"),
        (("film.zip", "--out", "nowhere/mix.wav"), "make it first"),
        (("film.zip", "--out", "song.wav"), "is there already"),
        (("film.zip", "--out", "one.wav", "--what", "stems"), "Name a folder"),
        (("film.zip", "--out", "mix.wav", "--set", "amount_db=99"), "must be between"),
        (("film.zip", "--out", "mix.wav", "--set", "sparkle"), "NAME=VALUE"),
        (("film.zip", "--out", "mix.wav", "--media", "nowhere"), "is no folder"),
        (("film.zip", "--out", "mix.wav", "--form", "mp3", "--rate", "96000"), "96"),
        (("broken.zip", "--out", "mix.wav"), "no project archive"),
        (("film.zip", "--out", "mix.wav", "--fps", "fast"), "number"),
    ],
)
def test_bad_input_gets_one_clear_line_and_leaves_nothing(archive, tmp_path, monkeypatch, capsys, args, word):
    monkeypatch.chdir(tmp_path)
    soundfile.write("song.wav", np.zeros((10, 2)), RATE)
    (tmp_path / "broken.zip").write_bytes(b"PK\x03\x04 and then nothing")
    before = sorted(path.name for path in tmp_path.iterdir())
    assert run("render", *args) == 2
    said = [line for line in capsys.readouterr().err.splitlines() if line.startswith("jaylantern: ")]
    assert len(said) == 1
    assert word in said[0]
    assert sorted(path.name for path in tmp_path.iterdir()) == before


def test_a_killed_process_takes_one_project_with_it_and_all_end_when_it_is_stopped(archive, tmp_path):
    folder = tmp_path / "several"
    folder.mkdir()
    paths = [Path(shutil.copyfile(archive, folder / f"{name}.zip")) for name in ("a", "A", "b")]
    order, killed = from_files.Order({"what": "mix", "pattern": "{project}"}), []

    def ours() -> list[psutil.Process]:
        return [each for each in psutil.Process().children() if "from_files" in " ".join(each.cmdline())]

    def kill_one(i: int, share: float, doing: str) -> None:
        if not killed and share > 0.1:
            killed.append(ours()[0])
            killed[0].kill()

    made = from_files.batch(paths, tmp_path / "out", order, kill_one)
    assert sorted(bool(each.failed) for each in made) == [False, False, True]
    assert "from outside" in next(each.failed for each in made if each.failed)
    left = {each.files[0].name for each in made if not each.failed}
    assert {path.name for path in (tmp_path / "out").iterdir()} == left
    assert left < {"a mix.wav", "A (2) mix.wav", "b mix.wav"}  # told apart where case does not count
    assert not ours()

    def stop(i: int, share: float, doing: str) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        from_files.batch(paths, tmp_path / "stopped", order, stop)
    assert not ours()
    assert not list((tmp_path / "stopped").iterdir())


def test_a_batch_makes_what_it_can_and_says_what_not(archive, handed, tmp_path, capsys):
    folder, out = tmp_path / "many", tmp_path / "out"
    folder.mkdir()
    shutil.copyfile(archive, folder / "one.zip")
    shutil.copyfile(archive, folder / "two.zip")
    (folder / "three.otio").write_text("{}")
    (folder / "notes.txt").write_text("no project")
    assert run("batch", folder, "--out", out) == 2
    printed = capsys.readouterr()
    assert {path.name for path in out.iterdir()} == {"one - mix.wav", "two - mix.wav"}
    assert np.array_equal(read(out / "one - mix.wav"), read(handed("mix")))
    lines = printed.out.splitlines()
    assert lines[0].split() == ["Project", "Length", "Passages", "Took", "Result"]
    assert [line.split()[0] for line in lines[1:]] == ["one", "three", "two"]
    assert "not made: three.otio" in lines[2]
    assert "LUFS" in lines[1]
    assert "one.zip: 100% done" in printed.err  # a log gets plain lines
    assert "\r" not in printed.err


def test_an_empty_folder_is_said_to_be_one(tmp_path, capsys):
    assert run("batch", tmp_path, "--out", tmp_path / "out") == 2
    assert "There is no project" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


def test_on_a_terminal_there_is_a_bar_on_one_line(monkeypatch, capsys):
    monkeypatch.setattr(sys.stderr, "isatty", lambda: True)
    with TerminalProgress(["one", "two"]) as shown:
        shown(0, 0.5, "rendering")
        shown(1, 1.0, "done")
    said = capsys.readouterr().err
    assert "75%" in said
    assert "two: done" in said
    assert said.count("\n") == 0
