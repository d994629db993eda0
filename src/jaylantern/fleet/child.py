"""Films in processes of their own: what kills one of those touches no other film."""

from __future__ import annotations

import logging
import time
from dataclasses import dataclass, replace

from jaylantern.errors import JayError
from jaylantern.fleet import one_film, places
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.fleet.results import Results
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import disk, kept_processes, system
from jaylantern.support.kept_processes import BrokeOff, KeptProcesses
from jaylantern.support.progress import Progress

MOST_KILLS = 3  # of what makes a film in one run, then it is set aside
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


class FilmProcesses:
    """Processes that make one film after another, kept while they are not at work."""

    def __init__(self) -> None:
        self._kept = KeptProcesses[Job, Outcome]("from jaylantern.fleet.child import serve; serve()")

    def attended(self, job: Job, progress: Progress) -> Outcome:
        """Make a film; what is killed is begun again, three times in a run, whoever begins it. What progress raises
        ends its process."""
        how = None
        while (tries := job.results.begun(job.run, job.film)) <= MOST_KILLS:
            if tries > 1:
                job.results.clear()
                progress(0.0, BROKE_OFF)
            try:
                return self._kept.do(job, progress)
            except BrokeOff as error:
                how = error.code
        return aside(job, progress, how)

    def close(self) -> None:
        """End those that are not at work."""
        self._kept.close()


def aside(job: Job, progress: Progress, code: int | None = None) -> Outcome:
    """Set a film aside; `code` says how what made it ended last, where that is known."""
    job.results.keep_aside(job.film, job.film.key(job.recipe, progress))
    why = f"What made it broke off {MOST_KILLS} times; last time {system.in_words(code)}."
    return Outcome(job.film.name, State.SET_ASIDE, failed=f"{why} {WHY_ASIDE}")


def serve() -> None:
    """What such a process does."""
    kept_processes.serve(one)


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
