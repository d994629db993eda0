"""Many films at once: given to an engine, watched until all are there, written down."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import Future, ThreadPoolExecutor, wait
from functools import partial
from threading import Event
from typing import Protocol

from jaylantern.errors import Stopped
from jaylantern.fleet import child
from jaylantern.fleet.board import Board
from jaylantern.fleet.child import Job
from jaylantern.fleet.films import Film
from jaylantern.fleet.folders import TRIES, of_this_process
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.fleet.results import Results
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import system
from jaylantern.support.progress import Progress

LOOK_S = 0.5  # so often a key that was pressed is noticed


class Engine(Protocol):
    """What makes films: the cores of this machine, or many machines."""

    @property
    def dashboard(self) -> str:
        """Where it has a page of its own, "" where it has none."""

    def submit(self, job: Job, progress: Progress) -> Future[Outcome]:
        """Have a film made; progress is told from a thread of its own."""

    def close(self) -> None:
        """End what is being made, and let go."""


class Cores:
    """The cores of this machine: as many films at once, each in a process of its own."""

    def __init__(self, workers: int | None = None) -> None:
        self._threads = ThreadPoolExecutor(max(1, workers or system.cores()))
        self._ending, self._processes = Event(), child.FilmProcesses()

    @property
    def dashboard(self) -> str:
        """None of its own."""
        return ""

    def submit(self, job: Job, progress: Progress) -> Future[Outcome]:
        """Have a film made."""

        def tell(share: float, doing: str) -> None:
            if self._ending.is_set():
                raise Stopped("Stopped.")
            progress(share, doing)

        return self._threads.submit(self._processes.attended, job, tell)

    def close(self) -> None:
        """End what is being made."""
        self._ending.set()
        self._threads.shutdown(cancel_futures=True)
        self._processes.close()


def new_run() -> str:
    """A name for a run that nobody else has."""
    return f"{TRIES}{of_this_process()}"


def run(
    films: Sequence[Film], recipe: Recipe, results: Results, board: Board, *, engine: Engine, again: bool = False
) -> list[Outcome]:
    """Make films, the rows of a board; what fails does not keep the others from being made. A film that stands there,
    made of the same bytes by the same recipe, is passed over, unless it is to be made `again`."""
    results.clear()
    name = new_run()
    waiting: dict[Future[Outcome], int] = {}
    try:
        for i, film in enumerate(films):
            if film.wrong:
                board.done(i, Outcome(film.name, State.FAILED, failed=film.wrong))
            else:
                job = Job(film, recipe, results, name, again)
                waiting[engine.submit(job, partial(board.doing, i))] = i
        while waiting:
            for future in wait(waiting, timeout=LOOK_S, return_when="FIRST_COMPLETED").done:
                i = waiting.pop(future)
                board.done(i, outcome_of(future, films[i]))
    finally:
        for future in waiting:
            future.cancel()
        results.ended(name)
        results.clear()
    made = [row.outcome for row in board.rows if row.outcome is not None]
    results.write_table(made)
    return made


def outcome_of(future: Future[Outcome], film: Film) -> Outcome:
    """What became of a film, also where the engine itself could not do it."""
    error = future.exception()
    if error is None:
        return future.result()
    return Outcome(film.name, State.FAILED, failed=str(error) or type(error).__name__)
