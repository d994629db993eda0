"""Many machines, as a real scheduler and real workers on loopback: the same bytes, whatever is killed."""

from __future__ import annotations

import json
import os
import socket
import weakref
from contextlib import closing

import psutil
import pytest

from jaylantern.cli.main import main
from jaylantern.errors import InvalidValue
from jaylantern.fleet import child, folders, results, running
from jaylantern.fleet.child import Job
from jaylantern.fleet.cluster import Cluster, _met
from jaylantern.fleet.films import Film, films_in
from jaylantern.fleet.outcome import State
from jaylantern.interchange.recipe import recipe_of
from jaylantern.support.progress import silent
from tests.fleet.fleets import HeardBoard, at_work, hashes, make_all

RECIPE = recipe_of({"talk": "talk*", "music": "music*", "hand_off": ["mix"]})
HOSTILE, LOCKED = "film 03", "film 05"


@pytest.fixture
def six(tmp_path, lay, monkeypatch) -> list[Film]:
    """Six films: one is noise with the ending of a sound file, the folder of one can't be read."""
    root = tmp_path / "films"
    for k in range(6):
        lay(root / f"film {k:02}", k * 100)
    (root / HOSTILE / "talk.wav").write_bytes(b"RIFF\xff\xff\xff\xffWAVEfmt \xff\xff\xff\x7f" + os.urandom(5000))
    scandir = os.scandir

    def locked(path=".", *rest):
        if isinstance(path, str) and path.endswith(LOCKED):  # who runs as root can read all there is
            raise PermissionError(13, "Permission denied", path)
        return scandir(path, *rest)

    with monkeypatch.context() as patch:
        patch.setattr(os, "scandir", locked)
        return films_in(root, RECIPE)


def test_six_films_on_two_workers_one_killed_are_those_of_one_process(six, crew, tmp_path):
    """A hostile file and a folder that can't be read fail alone, the killed worker's film is made by the other, and a
    second run makes nothing."""
    workers = [crew.worker(), crew.worker()]
    killed = []

    def kill_one(i: int, share: float, doing: str) -> None:
        if share > 0.1 and i >= 2 and not killed and (busy := [each for each in workers if at_work(each.pid)]):
            killed.append(busy[0].pid)
            busy[0].kill()

    with closing(crew.meet(2)) as cluster:
        made = make_all(six, RECIPE, tmp_path / "out", kill_one, engine=cluster)
        assert killed
        states = {each.film: each.state for each in made}
        there = {film for film, state in states.items() if state is State.THERE}
        assert len(there) <= 1, "the killed worker's last film may stand whole before the worker could say so"
        bad = {film for film, state in states.items() if state is not State.MADE} - there
        assert bad == {HOSTILE, LOCKED}, [each.failed for each in made if each.film in bad]
        assert {states[film] for film in bad} == {State.FAILED}
        assert "can't be read: Permission denied" in next(each.failed for each in made if each.film == LOCKED)
        for film in six:
            if not film.wrong:
                child.one(Job(film, RECIPE, results.results_in(tmp_path / "alone"), "run"), silent)
        assert hashes(tmp_path / "out") == hashes(tmp_path / "alone")
        assert len(hashes(tmp_path / "out")) == 4
        assert not [path.name for path in (tmp_path / "out").iterdir() if path.name.startswith(".")]

        before = {path: path.stat().st_mtime_ns for path in (tmp_path / "out").rglob("*.wav")}
        again = make_all(six, RECIPE, tmp_path / "out", engine=cluster)
        assert [each.state for each in again if each.film not in bad] == [State.THERE] * 4
        assert {path: path.stat().st_mtime_ns for path in (tmp_path / "out").rglob("*.wav")} == before


def test_a_film_that_kills_its_workers_is_set_aside_and_the_others_are_made(six, crew, tmp_path):
    """Counted by ourselves: the scheduler would go on to a fourth worker."""
    films, lost = six[:2], []
    crew.worker()

    def kill_its_worker(i: int, share: float, doing: str) -> None:
        if i == 0 and 0 < share < 1 and doing != child.BROKE_OFF:
            for each in crew.workers():
                if at_work(each.pid) and each.pid not in lost:
                    lost.append(each.pid)
                    crew.worker()  # one takes its place
                    each.kill()
                    return

    with closing(crew.meet(1)) as cluster:
        made = make_all(films, RECIPE, tmp_path / "out", kill_its_worker, engine=cluster)
    assert [each.state for each in made] == [State.SET_ASIDE, State.MADE]
    assert len(lost) == child.MOST_KILLS
    out = results.results_in(tmp_path / "out")
    assert out.set_aside(films[0]) == films[0].key(RECIPE, silent)


def test_a_killed_film_leaves_its_worker_standing(six, crew, tmp_path):
    worker = crew.worker()
    killed = []

    def kill_once(i: int, share: float, doing: str) -> None:
        if share > 0.05 and not killed and (found := at_work(worker.pid)):
            killed.extend(found)
            psutil.Process(found[0]).kill()

    with closing(crew.meet(1)) as cluster:
        (made,) = make_all(six[:1], RECIPE, tmp_path / "out", kill_once, engine=cluster)
        assert killed
        assert made.state is State.MADE
        assert cluster.workers == 1


def test_who_stops_leaves_nothing_going_and_a_new_start_goes_on(six, crew, tmp_path):
    worker = crew.worker()
    films = six[:3]

    class Enough(Exception):
        pass

    class Stopping(HeardBoard):
        def done(self, i, outcome):
            super().done(i, outcome)
            raise Enough

    where, board = results.results_in(tmp_path / "out"), Stopping([film.name for film in films])
    with closing(crew.meet(1)) as cluster, pytest.raises(Enough):
        running.run(films, RECIPE, where, board, engine=cluster)
    crew.until(lambda: not at_work(worker.pid))
    with closing(crew.meet(1)) as cluster:
        made = make_all(films, RECIPE, tmp_path / "out", engine=cluster)
    assert made[0].state is State.THERE
    assert {each.state for each in made} <= {State.THERE, State.MADE}
    assert not list((tmp_path / "out").glob(f"{folders.MAKING}*"))


def test_a_worker_that_does_not_see_the_folder_says_so(crew, tmp_path):
    crew.worker()
    film = Film("one", tmp_path / "elsewhere" / "one")
    with closing(crew.meet(1)) as cluster:
        (made,) = make_all([film], RECIPE, tmp_path / "out", engine=cluster)
    assert made.state is State.FAILED
    assert f"is not there on {socket.gethostname()}: it must be shared" in made.failed


def test_by_the_command_with_the_engines_page(six, crew, tmp_path, capsys):
    crew.worker()
    with closing(crew.meet(1)) as cluster:
        assert cluster.dashboard.startswith("http://127.0.0.1:")
    (tmp_path / "r.json").write_text(json.dumps(dict(RECIPE.plain)))
    for film in six[1:]:
        os.rename(film.folder, tmp_path / film.name)
    address = json.loads(crew.file.read_text())["address"]
    args = ["batch", tmp_path / "films", "--recipe", tmp_path / "r.json", "--out", tmp_path / "out"]
    args += ["--cluster", address, "--data", tmp_path / "data", "--json"]
    assert main([str(each) for each in args]) == 0
    said = capsys.readouterr()
    assert [each["state"] for each in json.loads(said.out)] == ["made"]
    assert "1 workers; the scheduler's own page: http://127.0.0.1:" in said.err
    assert "1 of 1" in said.err.splitlines()[-1]


@pytest.mark.parametrize("address", ["tcp://127.0.0.1:1", "nonsense", "tcp://"])
def test_a_scheduler_that_does_not_answer_is_told_in_one_line(address, monkeypatch):
    monkeypatch.setattr("jaylantern.fleet.cluster.WITHIN_S", 0.5)
    with pytest.raises(InvalidValue, match="No scheduler answers at"):
        Cluster(address)


@pytest.mark.parametrize(("fails", "meets"), [(0, True), (1, True), (2, True), (3, False)])
def test_a_worker_that_joins_while_a_client_is_greeted_is_no_reason_to_fail(fails, meets):
    tries = []

    def client(address, **options):
        tries.append(address)
        if len(tries) <= fails:
            raise AssertionError  # as distributed does where the greeting and a worker's news come together
        return address

    if meets:
        assert _met(client, "tcp://one:1") == "tcp://one:1"
    else:
        with pytest.raises(AssertionError):
            _met(client, "tcp://one:1")
    assert len(tries) == min(fails + 1, 3)


def test_a_client_that_came_to_nothing_has_ended_before_the_next_one_begins():
    """It ends when it is collected, and would wait for the lock that the next one holds while it begins."""
    before = []

    class Half:
        def __init__(self, address, **how):
            assert not [each for each in before if each() is not None], "one of them is still there"
            before.append(weakref.ref(self))
            self.itself = self
            raise AssertionError("a worker's news came first")

    with pytest.raises(AssertionError, match="a worker's news came first"):
        _met(Half, "tcp://one:1")
    assert len(before) == 3


def test_another_version_is_told_before_anything_is_made(crew, six, tmp_path, monkeypatch):
    crew.worker()
    with closing(crew.meet(1)) as cluster:
        monkeypatch.setattr("jaylantern.fleet.cluster.__version__", "9.9")
        with pytest.raises(InvalidValue, match=r"has version 0\.1\.0/1 of Jay Lantern, not 9\.9/1: install the same"):
            Cluster(json.loads(crew.file.read_text())["address"])
        (made,) = make_all(six[:1], RECIPE, tmp_path / "out", engine=cluster)
    assert made.failed.endswith("has version 0.1.0/1 of Jay Lantern, not 9.9/1.")
