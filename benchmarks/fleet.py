"""Many films: one process, its cores, workers of a scheduler; what each film costs beyond its making."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from benchmarks import material
from jaylantern.fleet import child, results, running
from jaylantern.fleet.board import Board
from jaylantern.fleet.child import Job
from jaylantern.fleet.cluster import Cluster
from jaylantern.fleet.films import Film, films_in
from jaylantern.interchange.recipe import Recipe, recipe_of
from jaylantern.support.progress import silent

FILMS = 12
RECIPE = recipe_of({"talk": "talk*", "music": "music*", "target": "Web video", "hand_off": ["mix"]})
NOTHING = 1000  # tasks that do nothing


def films(folder: Path, minutes: int) -> list[Film]:
    """Films of so many minutes, talk and music."""
    for k in range(FILMS):
        film = folder / f"film {k:02}"
        film.mkdir(parents=True)
        material.write_programme(film / "talk.wav", minutes=minutes, make=material.talk_minute)
        material.write_programme(film / "music.wav", minutes=minutes)
    return films_in(folder, RECIPE)


@contextmanager
def crew(folder: Path, workers: int) -> Iterator[Cluster]:
    """A scheduler and so many workers on this machine, when they are there."""
    folder.mkdir()
    file = folder / "scheduler.json"
    base = [sys.executable, "-m"]
    shared = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "cwd": folder}
    begun = [subprocess.Popen([*base, "distributed.cli.dask_scheduler", "--host", "127.0.0.1", "--port", "0",
                               "--scheduler-file", str(file), "--no-dashboard"], **shared)]  # fmt: skip
    begun += [subprocess.Popen([*base, "distributed.cli.dask_worker", "--scheduler-file", str(file), "--nthreads", "1",
                                "--no-dashboard"], **shared) for _ in range(workers)]  # fmt: skip
    try:
        while not file.exists():
            time.sleep(0.1)
        with closing(Cluster(json.loads(file.read_text())["address"])) as cluster:
            while cluster.workers < workers:
                time.sleep(0.1)
            yield cluster
    finally:
        for process in reversed(begun):
            process.terminate()
            process.wait()


def by(engine: running.Engine, found: list[Film], out: Path) -> Callable[[], object]:
    """Make films by an engine."""
    return lambda: running.run(
        found, RECIPE, results.results_in(out), Board([f.name for f in found], {}), engine=engine
    )


def alone(found: list[Film], out: Path, recipe: Recipe = RECIPE) -> Callable[[], object]:
    """Make films one after another in this process."""
    return lambda: [child.one(Job(film, recipe, results.results_in(out), ".tries-bench"), silent) for film in found]


def scheduling(cluster: Cluster) -> tuple[float, float]:
    """Seconds that a task which does nothing takes of the scheduler, given one by one, and given all at once."""
    client = cluster._client
    begun = time.perf_counter()
    for k in range(50):
        client.submit(abs, k, pure=False).result()
    one = (time.perf_counter() - begun) / 50
    begun = time.perf_counter()
    client.gather([client.submit(abs, k, pure=False) for k in range(NOTHING)])
    return one, (time.perf_counter() - begun) / NOTHING
