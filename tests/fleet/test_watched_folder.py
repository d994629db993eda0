"""A watched folder: who writes slowly, renames, deletes, fills the disk, or pulls the plug."""

from __future__ import annotations

import errno
import json
import os
import shutil
import signal
import subprocess
import sys
import time
from concurrent.futures import Future
from pathlib import Path

import pytest

from jaylantern.errors import MediaError, Refused
from jaylantern.fleet import child, one_film, results
from jaylantern.fleet.board import Board
from jaylantern.fleet.outcome import Outcome
from jaylantern.fleet.watching import AGAIN_S, Watch, still_coming
from jaylantern.interchange.recipe import recipe_of
from jaylantern.support.progress import silent

RECIPE = recipe_of({"talk": "talk*", "hand_off": ["mix"]})
SETTLE_S = 10.0


class Hand:
    """An engine that makes a film when the test says so."""

    dashboard = ""

    def __init__(self) -> None:
        self.waiting = []

    def submit(self, job, progress):
        self.waiting.append((job, Future()))
        return self.waiting[-1][1]

    def make(self) -> None:
        """Make what waits."""
        for job, future in self.waiting:
            job.results.begun(job.run, job.film)
            future.set_result(child.one(job, silent))
        self.waiting.clear()


class Watched:
    """A watched folder whose clock the test turns."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.hand, self.said, self.time = folder, Hand(), [], 0.0
        self.board = Board([], {})
        self.watch = self.begin()

    def begin(self) -> Watch:
        """Watch, or again after the plug was pulled."""
        self.watch = Watch(self.folder, RECIPE, results.results_in(self.folder / "made"), self.hand, self.board,
                           self.said.append, settle_s=SETTLE_S, now=lambda: self.time)  # fmt: skip
        return self.watch

    def after(self, seconds: float) -> None:
        """Look, so many seconds later."""
        self.time += seconds
        self.watch.look()

    def files(self, *where: str) -> list[str]:
        folder = self.folder.joinpath(*where)
        return sorted(path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file())


def pretended(film, recipe, out, progress) -> Outcome:
    for each in film.files:
        if (film.folder / each.name).read_bytes() == b"bad":
            raise MediaError(f"{each.name} is not a media file that can be read.")
    (out / "mix.wav").write_bytes(b"".join((film.folder / each.name).read_bytes() for each in film.files))
    return Outcome(film.name, said=("As it came.",))


@pytest.fixture
def watched(tmp_path, monkeypatch):
    """One that is being watched."""
    monkeypatch.setattr(one_film, "make", pretended)
    (tmp_path / "in").mkdir()
    made = Watched(tmp_path / "in")
    yield made
    made.watch.close()


def lay(watched: Watched, name: str, **files: bytes) -> Path:
    folder = watched.folder / name
    folder.mkdir(parents=True, exist_ok=True)
    for file, content in files.items():
        (folder / f"{file}.wav").write_bytes(content)
    return folder


def test_what_arrives_is_made_and_put_into_done_with_a_report_beside_it(watched):
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    assert watched.files("done") == ["one.json", "one.txt", "one/talk.wav"]
    assert watched.files("made") == ["one/made.json", "one/mix.wav"]
    assert not (watched.folder / "one").exists()
    assert "one: As it came." in (watched.folder / "done" / "one.txt").read_text()
    assert [each["state"] for each in json.loads((watched.folder / "done" / "one.json").read_text())] == ["made"]
    assert watched.said == ["one: has come", "one: taken, 1 film", "one: done"]
    assert watched.watch.look() is False


@pytest.mark.parametrize(
    ("waits_s", "files", "taken"),
    [
        ([10.0], {"talk": b"t"}, True),
        ([9.9], {"talk": b"t"}, False),
        ([5.0, 5.0], {"talk": b"t"}, True),
        ([30.0], {"talk.part": b"t"}, False),
        ([30.0], {"talk": b"t", "other.wav.crdownload": b"t"}, False),
        ([30.0], {}, False),
    ],
)
def test_when_a_folder_is_taken(watched, waits_s, files, taken):
    (watched.folder / "one").mkdir()
    for name, content in files.items():
        (watched.folder / "one" / (name if "." in name else f"{name}.wav")).write_bytes(content)
    watched.after(0)
    for wait_s in waits_s:
        watched.after(wait_s)
    assert bool(watched.hand.waiting) is taken


def test_a_slow_writer_is_waited_for(watched):
    folder = lay(watched, "one", talk=b"")
    watched.after(0)
    for _ in range(5):
        with (folder / "talk.wav").open("ab") as file:
            file.write(b"more ")
        watched.after(SETTLE_S - 1)
        assert not watched.hand.waiting
    lay(watched, "one", talk2=b"another file")
    watched.after(SETTLE_S - 1)
    watched.after(SETTLE_S - 1)
    assert not watched.hand.waiting
    watched.after(2)
    watched.hand.make()
    watched.after(1)
    assert (watched.folder / "made" / "one" / "mix.wav").read_bytes() == b"more " * 5 + b"another file"


def test_what_still_grows_while_it_is_made_is_made_again(watched):
    folder = lay(watched, "one", talk=b"half")
    watched.after(0)
    watched.after(SETTLE_S)
    (folder / "talk.wav").write_bytes(b"all of it")
    watched.hand.make()
    watched.after(1)
    assert watched.said[-1] == "one: was changed while it was made, so it waits again"
    watched.after(1)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    assert (watched.folder / "made" / "one" / "mix.wav").read_bytes() == b"all of it"
    assert watched.files("done") == ["one.json", "one.txt", "one/talk.wav"]


@pytest.mark.parametrize("when", ["while it waits", "while it is made"])
def test_a_rename_is_made_under_its_new_name_alone(watched, when):
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    if when == "while it is made":
        watched.after(SETTLE_S)
    (watched.folder / "one").rename(watched.folder / "two")
    watched.hand.make()
    watched.after(1)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    assert watched.files("done") == ["two.json", "two.txt", "two/talk.wav"]
    assert not (watched.folder / "failed").exists()
    assert [name for name in watched.files("made") if not name.startswith(".")] == ["two/made.json", "two/mix.wav"]


@pytest.mark.parametrize("when", ["while it waits", "while it is made"])
def test_a_file_that_is_deleted_is_not_made_from(watched, when):
    folder = lay(watched, "one", talk=b"talk", talk2=b" two")
    watched.after(0)
    if when == "while it is made":
        watched.after(SETTLE_S)
    (folder / "talk2.wav").unlink()
    watched.hand.make()
    for wait_s in (1, 1, SETTLE_S):
        watched.after(wait_s)
    watched.hand.make()
    watched.after(1)
    assert (watched.folder / "made" / "one" / "mix.wav").read_bytes() == b"talk"
    assert not (watched.folder / "failed").exists()


def test_a_folder_that_is_deleted_is_forgotten(watched):
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    watched.after(SETTLE_S)
    shutil.rmtree(watched.folder / "one")
    watched.hand.make()
    watched.after(1)
    assert watched.said[-1] == "one: has gone while it was made, so it waits again"
    assert watched.watch.look() is False
    assert watched.files() == [".watched"]


def test_a_share_that_goes_and_comes_back_is_waited_for(watched, tmp_path):
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    watched.folder.rename(tmp_path / "away")
    watched.after(SETTLE_S)
    watched.after(1)
    (tmp_path / "away").rename(watched.folder)
    watched.after(1)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    said = [line.replace(str(watched.folder), "in") for line in watched.said]
    assert said[1:3] == ["in can't be read, waiting: No such file or directory", "in is back"]
    assert said[-1] == "one: done"


def test_a_full_disk_is_no_fault_of_the_film(watched, monkeypatch):
    def no_room(film, recipe, out, progress):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(one_film, "make", no_room)
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    for _ in range(5):  # more often than it takes to be set aside
        watched.after(AGAIN_S)
        assert watched.hand.waiting
        watched.hand.make()
        watched.after(1)
        assert watched.said[-1] == "one: the disk is full; tried again in 60 s"
        watched.after(AGAIN_S - 2)
        assert not watched.hand.waiting
    assert watched.files("one") == ["talk.wav"]
    assert not (watched.folder / "failed").exists()
    monkeypatch.setattr(one_film, "make", pretended)
    watched.after(AGAIN_S)
    watched.hand.make()
    watched.after(1)
    assert watched.said[-1] == "one: done"


@pytest.mark.skipif(getattr(os, "geteuid", lambda: 1)() != 0, reason="only root may mount a small disk")
def test_on_a_disk_that_is_really_full(tmp_path, monkeypatch):
    """The results' disk holds one megabyte; the film takes two until something else is removed."""
    disk = tmp_path / "disk"
    disk.mkdir()
    if subprocess.run(["mount", "-t", "tmpfs", "-o", "size=3m", "none", disk], capture_output=True).returncode:
        pytest.skip("no disk can be mounted here")
    try:
        monkeypatch.setattr(one_film, "make", pretended)
        watched = Watched(disk)
        (disk / ".ballast").write_bytes(bytes(1_500_000))
        lay(watched, "one", talk=bytes(1_200_000))
        watched.after(0)
        watched.after(SETTLE_S)
        watched.hand.make()
        watched.after(1)
        assert watched.said[-1] == "one: the disk is full; tried again in 60 s"
        assert [name for name in watched.files() if "making" in name] == []
        (disk / ".ballast").unlink()
        watched.after(AGAIN_S)
        watched.hand.make()
        watched.after(1)
        assert watched.said[-1] == "one: done"
        assert watched.files("done") == ["one.json", "one.txt", "one/talk.wav"]
        watched.watch.close()
    finally:
        subprocess.run(["umount", disk], check=True)


def test_a_bad_one_fails_with_a_report_and_can_be_brought_again(watched):
    for number, content in enumerate((b"bad", b"bad", b"good"), 1):
        lay(watched, "one", talk=content)
        watched.after(0)
        watched.after(SETTLE_S)
        watched.hand.make()
        watched.after(1)
        if content == b"bad":
            name = "one" if number == 1 else f"one ({number})"
            assert "not made: talk.wav is not a media file" in (watched.folder / "failed" / f"{name}.txt").read_text()
            assert watched.files("failed", name) == ["talk.wav"]
    assert watched.files("done", "one") == ["talk.wav"]
    assert len(watched.files("failed")) == 6


def test_without_a_matching_file_it_fails_and_loose_files_are_left(watched):
    (watched.folder / "loose.wav").write_bytes(b"x")
    lay(watched, "one", other=b"x")
    watched.after(0)
    watched.after(SETTLE_S)
    watched.after(1)
    assert "in no folder does a file match" in (watched.folder / "failed" / "one.txt").read_text()
    assert watched.said.count("loose.wav: left alone, a film comes as a folder") == 1
    assert (watched.folder / "loose.wav").exists()


def test_a_folder_with_several_films_is_put_away_when_all_are_made(watched):
    lay(watched, "series/a", talk=b"a")
    lay(watched, "series/b", talk=b"bad")
    watched.after(0)
    watched.after(SETTLE_S)
    assert [job.film.name for job, _ in watched.hand.waiting] == ["series/a", "series/b"]
    watched.hand.make()
    watched.after(1)
    assert watched.files("failed", "series") == ["a/talk.wav", "b/talk.wav"]
    assert (watched.folder / "made" / "series" / "a" / "mix.wav").exists()


def test_a_new_start_goes_on_where_it_was(watched):
    """What was made but not put away is put away without being made again; a plug pulled three times sets it aside."""
    lay(watched, "one", talk=b"talk")
    watched.after(0)
    watched.after(SETTLE_S)
    watched.hand.make()
    made = (watched.folder / "made" / "one" / "mix.wav").stat().st_mtime_ns
    watched.watch._lock.release()  # the plug
    watched.begin()
    watched.after(0)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    assert watched.files("done") == ["one.json", "one.txt", "one/talk.wav"]
    assert (watched.folder / "made" / "one" / "mix.wav").stat().st_mtime_ns == made
    assert json.loads((watched.folder / "done" / "one.json").read_text())[0]["state"] == "there already"


def test_a_film_that_pulls_the_plug_three_times_is_set_aside_and_tried_again_when_it_is_brought_again(watched):
    lay(watched, "one", talk=b"talk")
    for _ in range(child.MOST_KILLS):
        watched.after(0)
        watched.after(SETTLE_S)
        (job, _) = watched.hand.waiting.pop()
        assert job.results.begun(job.run, job.film) <= child.MOST_KILLS
        watched.watch._lock.release()  # the plug
        watched.begin()
    watched.after(0)
    watched.after(SETTLE_S)
    ((job, future),) = watched.hand.waiting
    future.set_result(child.FilmProcesses().attended(job, silent))
    watched.hand.waiting.clear()
    watched.after(1)
    assert "broke off 3 times" in (watched.folder / "failed" / "one.txt").read_text()
    (watched.folder / "failed" / "one").rename(watched.folder / "one")
    watched.after(0)
    watched.after(SETTLE_S)
    watched.hand.make()
    watched.after(1)
    assert watched.said[-1] == "one: done"


def test_two_do_not_watch_one_folder(watched):
    with pytest.raises(Refused, match="is watched already"):
        Watched(watched.folder)


@pytest.mark.parametrize(
    ("look", "coming"),
    [
        ((), True),
        ((("talk.wav", 1, 1),), False),
        ((("talk.wav", 1, 1), ("b.PART", 1, 1)), True),
        ((("x/film.mp4.tmp", 1, 1),), True),
        ((("tmp.wav", 1, 1),), False),
    ],
)
def test_what_is_still_coming(look, coming):
    assert still_coming(look) is coming


def test_the_command_makes_what_a_slow_writer_lays_and_goes_on_after_a_kill(tmp_path, media):
    """The real thing: a process of its own, killed in the middle, begun again."""
    (tmp_path / "in").mkdir()
    (tmp_path / "r.json").write_text(json.dumps({"talk": "talk*", "music": "music*"}))
    args = ["watch", tmp_path / "in", "--recipe", tmp_path / "r.json", "--settle-s", "1.5", "--data", tmp_path / "data"]
    command = [sys.executable, "-m", "jaylantern.cli.main", *map(str, args)]

    def begin() -> subprocess.Popen[str]:
        return subprocess.Popen(command, stderr=subprocess.PIPE, text=True)

    def until(process: subprocess.Popen[str], words: str) -> None:
        for line in process.stderr:
            if words in line:
                return
        raise AssertionError(f"it ended before it said {words}")

    with begin() as process:
        until(process, "watching")
        folder = tmp_path / "in" / "one"
        folder.mkdir()
        whole = (media / "talk.wav").read_bytes()
        with (folder / "talk.wav").open("wb") as file:
            for at in range(0, len(whole), len(whole) // 4):
                file.write(whole[at : at + len(whole) // 4])
                file.flush()
                time.sleep(0.7)
        shutil.copy(media / "music.flac", folder / "music.flac")
        until(process, "one: taken")
        process.kill()
    with begin() as process:
        until(process, "one: done")
        process.send_signal(signal.SIGTERM)
        until(process, "a new start goes on")
        assert process.wait() == 0
    assert (tmp_path / "in" / "made" / "one" / "one - mix.wav").exists()
    assert (tmp_path / "in" / "done" / "one" / "talk.wav").read_bytes() == whole
    assert not [path for path in (tmp_path / "in" / "made").iterdir() if path.name.startswith(".making")]
