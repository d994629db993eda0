"""Many films on the cores of this machine, each in a process of its own: what kills one does not touch the others."""

from __future__ import annotations

import multiprocessing
import os
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from queue import Empty
from typing import Any

from jaylantern.errors import JayError
from jaylantern.fleet import making, results
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import own_python
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.progress import Progress, silent, sparing

MOST_KILLS = 3  # of what makes a film, then it is set aside
LOOK_S = 0.1
WHY_ASIDE = (
    f"What made it was killed {MOST_KILLS} times, so it is set aside: a file may be damaged, or memory too small."
    " It is tried again with --again, or when its files or the recipe change."
)
Told = Callable[[int, float, str], None]  # number of the film, share, what is being done


def run(
    films: Sequence[Film],
    recipe: Recipe,
    out: Path,
    told: Told,
    *,
    workers: int | None = None,
    again: bool = False,
) -> list[Outcome]:
    """Make films, as many at once as there are cores; what fails does not keep the others from being made. A film that
    stands there, made of the same bytes by the same recipe, is passed over, unless it is to be made `again`."""
    out.mkdir(parents=True, exist_ok=True)
    results.clear(out)
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    context = multiprocessing.get_context("spawn")
    found: dict[int, Outcome] = {}
    waiting = []
    for i, film in enumerate(films):
        if film.wrong:
            found[i] = Outcome(film.name, State.FAILED, failed=film.wrong)
            told(i, 1.0, film.wrong)
        else:
            waiting.append(i)
    kills = dict.fromkeys(waiting, 0)
    at_once = max(1, workers or os.cpu_count() or 1)
    running: dict[int, Any] = {}
    with context.Manager() as manager:
        reports = manager.Queue()
        try:
            while waiting or running:
                while waiting and len(running) < at_once:
                    i = waiting.pop(0)
                    job = _Job(i, films[i], recipe, out, again and not kills[i], os.getpid())
                    running[i] = context.Process(target=_work, args=(job, reports), daemon=True)
                    running[i].start()
                _listen(reports, told, found)
                for i, process in list(running.items()):
                    if process.is_alive():
                        continue
                    process.join()
                    _listen(reports, told, found)  # what it said last
                    del running[i]
                    if i in found:
                        continue
                    results.clear(out)
                    kills[i] += 1
                    if kills[i] < MOST_KILLS:
                        told(i, 0.0, "broke off, begun again")
                        waiting.insert(0, i)
                    else:
                        found[i] = _aside(films[i], recipe, out)
                        told(i, 1.0, str(State.SET_ASIDE))
                time.sleep(LOOK_S)
        finally:
            for process in running.values():
                process.terminate()
                process.join()
    made = [found[i] for i in range(len(films))]
    results.write_table(out, made)
    return made


def _aside(film: Film, recipe: Recipe, out: Path) -> Outcome:
    results.keep_aside(out, film, film.key(recipe, silent))
    return Outcome(film.name, State.SET_ASIDE, failed=WHY_ASIDE)


def _listen(reports: Any, told: Told, found: dict[int, Outcome]) -> None:
    while True:
        try:
            i, share, doing, outcome = reports.get_nowait()
        except Empty:
            return
        told(i, share, doing)
        if outcome is not None:
            found[i] = outcome


@dataclass(frozen=True)
class _Job:
    """What one process is to do."""

    number: int
    film: Film
    recipe: Recipe
    out: Path
    again: bool
    parent: int


def _work(job: _Job, reports: Any) -> None:
    """One film, in a process of its own."""
    keep_freed_memory()
    own_python.end_with(job.parent)
    progress = sparing(lambda share, doing: reports.put((job.number, share, doing, None)))
    outcome = one(job.film, job.recipe, job.out, progress, again=job.again)
    reports.put((job.number, 1.0, outcome.failed or str(outcome.state), outcome))


def one(film: Film, recipe: Recipe, out: Path, progress: Progress, *, again: bool = False) -> Outcome:
    """Make a film whole, or pass over one that stands; what went wrong is in the answer."""
    begun = time.monotonic()
    try:
        key = film.key(recipe, progress)
        there = None if again else results.standing(out, film, key)
        if there is not None:
            return there
        if not again and results.set_aside(out).get(film.name) == key:
            return Outcome(film.name, State.SET_ASIDE, failed=WHY_ASIDE)
        with results.unfinished(out) as folder:
            outcome = making.make(film, recipe, folder, progress)
            results.put(out, film, folder, key, outcome)
        results.keep_aside(out, film, None)
        return outcome
    except (JayError, OSError, MemoryError) as error:
        said = str(error) or "There is not enough memory for this."
        return replace(Outcome(film.name, State.FAILED, failed=said), took_s=round(time.monotonic() - begun, 1))
