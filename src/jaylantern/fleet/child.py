"""Films in processes of their own: what kills one of those touches no other film."""

from __future__ import annotations

import logging
import time
from contextlib import suppress
from dataclasses import dataclass, replace

from jaylantern.errors import JayError
from jaylantern.fleet import one_film, places
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.fleet.results import Results
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import child_process, disk, own_python, system
from jaylantern.support.child_process import Child, Nothing
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.progress import Progress, sparing

MOST_KILLS = 3  # of what makes a film in one run, then it is set aside
MOST_FILMS = 50  # of one process: what libraries keep is let go with it
LOOK_S = 0.5
ENDS_S = 5.0
BROKE_OFF = "broke off, begun again"
WHY_ASIDE = "It is set aside, and tried again with --again, or when its files or the recipe change."


@dataclass(frozen=True)
class Job:
    """A film to be made, in a run of that name."""

    film: Film
    recipe: Recipe
    results: Results
    run: str
    again: bool = False


@dataclass(frozen=True)
class BrokeOff:
    """A film whose process ended without a word of it: its exit code, None where that is not known."""

    code: int | None


class FilmProcesses:
    """Processes that make one film after another, kept while they are not at work. What kills one touches no other
    film."""

    def __init__(self) -> None:
        self._idle: list[_FilmProcess] = []

    def attended(self, job: Job, progress: Progress) -> Outcome:
        """Make a film; what is killed is begun again, three times in a run, whoever begins it. What progress raises
        ends its process."""
        how = None
        while (tries := job.results.begun(job.run, job.film)) <= MOST_KILLS:
            if tries > 1:
                job.results.clear()
                progress(0.0, BROKE_OFF)
            outcome = self._made(job, progress)
            if isinstance(outcome, Outcome):
                return outcome
            how = outcome.code
        return aside(job, progress, how)

    def _made(self, job: Job, progress: Progress) -> Outcome | BrokeOff:
        """What became of it."""
        try:
            process = self._idle.pop()
        except IndexError:
            process = _FilmProcess()
        try:
            outcome = process.made(job, progress)
        except BaseException:
            process.end()
            raise
        if isinstance(outcome, Outcome) and process.films < MOST_FILMS:
            self._idle.append(process)
        else:
            process.end()
        return outcome

    def close(self) -> None:
        """End those that are not at work."""
        while self._idle:
            self._idle.pop().end()


class _FilmProcess:
    """One of these processes, seen from here."""

    def __init__(self) -> None:
        self._child = Child("from jaylantern.fleet.child import serve; serve()", environment=own_python.one_of_many())
        self.films = 0

    def made(self, job: Job, progress: Progress) -> Outcome | BrokeOff:
        """What became of a film."""
        self.films += 1
        said: tuple[float, str] | Outcome = (0.0, "beginning")
        try:
            self._child.tell(job)
            while not isinstance(said, Outcome):
                progress(*said)  # now and then the same again: it may raise
                with suppress(Nothing):
                    said = self._child.heard(LOOK_S)
        except (EOFError, BrokenPipeError):
            return BrokeOff(self._child.code(ENDS_S))
        return said

    def end(self) -> None:
        """End it, whatever it is doing."""
        self._child.end()


def aside(job: Job, progress: Progress, code: int | None = None) -> Outcome:
    """Set a film aside; `code` says how what made it ended last, where that is known."""
    job.results.keep_aside(job.film, job.film.key(job.recipe, progress))
    why = f"What made it broke off {MOST_KILLS} times; last time {system.in_words(code)}."
    return Outcome(job.film.name, State.SET_ASIDE, failed=f"{why} {WHY_ASIDE}")


def serve() -> None:
    """What such a process does: one film after another. It says of each how far it is, and what became of it."""
    line = child_process.line()
    keep_freed_memory()
    with suppress(EOFError, OSError):  # nobody wants films, or listens, any more
        while True:
            job: Job = line.heard()
            line.tell(one(job, sparing(lambda share, doing: line.tell((share, doing)))))


def one(job: Job, progress: Progress) -> Outcome:
    """Make a film whole, or pass over one that stands; what went wrong is in the answer."""
    begun, film = time.monotonic(), job.film
    try:
        key = film.key(job.recipe, progress)
        there = None if job.again else job.results.standing(film, key)
        if there is not None:
            return there
        if not job.again and job.results.set_aside(film) == key:
            return Outcome(film.name, State.SET_ASIDE, failed=WHY_ASIDE)
        with places.at_hand(film, progress) as here, job.results.unfinished() as folder:
            outcome = one_film.make(here, job.recipe, folder, progress)
            job.results.put(film, folder, key, outcome)
        job.results.keep_aside(film, None)
        return outcome
    except Exception as error:
        state = State.NO_ROOM if disk.full(error) else State.FAILED
        said = str(error) or "There is not enough memory for this."
        if not isinstance(error, (JayError, OSError, MemoryError)):
            logging.getLogger(__name__).exception("%s", film.name)
            said = f"Something unforeseen went wrong ({type(error).__name__})."
        return replace(Outcome(film.name, state, failed=said), took_s=round(time.monotonic() - begun, 1))
