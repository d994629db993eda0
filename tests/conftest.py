"""Fixtures for all tests: a prepared data folder, an application over it, a worker that can be run to the end."""

from __future__ import annotations

import os
import shutil
import sqlite3
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from hashlib import sha256
from pathlib import Path
from typing import IO

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import pytest

from jaylantern.jobs import work
from jaylantern.library import ingest
from jaylantern.store import jobs, projects
from jaylantern.support import system
from jaylantern.workspace.workspace import Workspace
from tests import watched_files
from tests.whole_project import elsewhere, files, film, handed, talk_over_music  # noqa: F401 - fixtures


def pytest_configure(config: pytest.Config) -> None:
    """Watch the files of the machine in all processes of the run; caches of the program lie among the tests' own."""
    if not hasattr(config, "workerinput"):
        folder = Path(tempfile.mkdtemp(prefix="jay-tests-"))
        os.environ |= {f"XDG_{name}_HOME": str(folder / name.lower()) for name in ("CACHE", "DATA")}
        if sys.platform == "win32":  # which has no such names for its caches
            os.environ["TMPDIR"] = str(folder / "cache")
        os.environ |= watched_files.environment(folder, folder, Path(tempfile.gettempdir()) / "pytest-of-")
        config.add_cleanup(lambda: shutil.rmtree(folder, ignore_errors=True))
    else:
        watched_files.own_faults(config.workerinput["workerid"])
    watched_files.begin()


QUICK = 1200  # so many tests take as long as the demo takes to make


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """While one process makes the demo for its first test, the others do what needs nothing."""
    in_browser = [each for each in items if each.nodeid.startswith("tests/browser/")]
    quick = [each for each in items if each.nodeid.startswith("tests/core/")][:QUICK]
    first = [*in_browser[:1], *quick, *in_browser[1:]]
    rest = set(items) - set(first)
    items[:] = [*first, *(each for each in items if each in rest)]


@pytest.fixture(autouse=True)
def _nothing_that_is_not_ours():
    """Fails where the program has taken away, renamed or written over what a test laid there, or anything outside."""
    yield
    if faults := watched_files.faults():
        pytest.fail("The program touched what is not its own:\n" + "\n".join(faults))


@pytest.fixture(scope="session")
def empty_folder(tmp_path_factory) -> Path:
    """A data folder as it is prepared for the first time."""
    folder = tmp_path_factory.mktemp("empty") / "data"
    Workspace(folder).folder.prepare()
    return folder


@pytest.fixture
def workspace(tmp_path: Path, empty_folder: Path) -> Workspace:
    """An empty data folder: preparing one anew takes nine times as long as copying it."""
    with watched_files.unwatched():  # as the program has made it
        shutil.copytree(empty_folder, tmp_path / "data")
    return Workspace(tmp_path / "data")


@pytest.fixture
def db(workspace: Workspace):
    """A connection to its database."""
    connection = workspace.folder.connect()
    yield connection
    connection.close()


@pytest.fixture
def project_id(db) -> int:
    """A new project."""
    return projects.create(db, "Test film")


@pytest.fixture
def bring(workspace: Workspace, db, project_id: int):
    """A function that brings a file into the project as the worker would; returns the finished job."""

    def bring(path: Path, *, at_n: int = 0, name: str | None = None, **how) -> jobs.Job:
        token = jobs.create_upload(db, project_id, name=path.name, size_bytes=path.stat().st_size, at_n=at_n)
        workspace.folder.incoming(token).write_bytes(path.read_bytes())
        payload = {"token": token, "name": name or path.name, "at_n": at_n, **how}
        job_id = jobs.create(db, project_id, kind="import", title=path.name, payload=payload)
        jobs.drop_upload(db, token)
        work.run(workspace, job_id)
        return jobs.get(db, job_id)

    return bring


@pytest.fixture(scope="session")
def made_once(tmp_path_factory):
    """A function that answers a folder which the first of the test processes fills; the others find it filled."""
    base, worker_id = tmp_path_factory.getbasetemp(), os.environ.get("PYTEST_XDIST_WORKER", "master")

    def folder(name: str, make: Callable[[Path], None]) -> Path:
        found = (base if worker_id == "master" else base.parent) / name
        with found.with_suffix(".lock").open("w") as lock:
            wait_for(lock)
            if not found.exists():
                half = tmp_path_factory.mktemp("half")
                make(half)
                half.rename(found)
        return found

    return folder


def wait_for(lock: IO[str]) -> None:
    """Hold a lock file as soon as nobody else does."""
    while True:
        try:
            return system.hold(lock)
        except OSError:
            time.sleep(0.1)


OPEN = shutil.ignore_patterns("*.sqlite3*", "lock")


@pytest.fixture
def laid_out(workspace: Workspace, db, project_id: int, tmp_path: Path, made_once):
    """A function that has a project laid out. It is done once in a run for each name; of what was laid out before, the
    data folder and the files beside it are copied."""

    def laid_out(name: str, make: Callable[[], int]) -> int:
        mine = []

        def keep(folder: Path) -> None:
            mine.append(make())
            shutil.copytree(tmp_path, folder, ignore=OPEN, dirs_exist_ok=True)
            with closing(sqlite3.connect(folder / "database")) as copy:
                db.backup(copy)
            (folder / "number").write_text(str(mine[0]))

        name = f"laid out {sha256(name.encode()).hexdigest()[:16]}"
        made = made_once(name, keep)
        if mine:
            return mine[0]
        with watched_files.unwatched():  # as the program has made it
            shutil.copytree(made, tmp_path, ignore=shutil.ignore_patterns("database*", "number"), dirs_exist_ok=True)
        with closing(sqlite3.connect(made / "database")) as copy:
            copy.backup(db)
        return int((made / "number").read_text())

    return laid_out


@pytest.fixture(scope="session")
def taken_in(tmp_path_factory):
    """Stands in for `ingest.take_in`: of a file that was taken in before, the folder that came of it is copied."""
    kept, take_in = {}, ingest.take_in

    def again(source: Path, *, name: str, folder: Path, **how):
        key = sha256(source.read_bytes()).hexdigest(), name, how.get("listen", True)
        if how.get("heard") is not None:
            return take_in(source, name=name, folder=folder, **how)
        if key not in kept:
            made = tmp_path_factory.mktemp("taken in") / "folder"
            kept[key] = made, take_in(source, name=name, folder=made, **how)
        shutil.copytree(kept[key][0], folder, dirs_exist_ok=True)
        return kept[key][1]

    return again


@pytest.fixture
def bring_known(bring, taken_in):
    """As `bring`, for a project that a test begins with: the same file is decoded and listened to once in a run."""

    def bring_known(path: Path, **how) -> jobs.Job:
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(ingest, "take_in", taken_in)
            return bring(path, **how)

    return bring_known
