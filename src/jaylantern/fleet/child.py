"""One film in a process of its own: what kills that one touches nothing else."""

from __future__ import annotations

import multiprocessing
import os
import subprocess
import time
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection

from jaylantern.errors import JayError
from jaylantern.fleet import making, places
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.fleet.results import Results
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import disk, own_python
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.progress import Progress, sparing

MOST_KILLS = 3  # of what makes a film in one run, then it is set aside
LOOK_S = 0.5
BROKE_OFF = "broke off, begun again"
WHY_ASIDE = (
    f"What made it was killed {MOST_KILLS} times, so it is set aside: a file may be damaged, or memory too small."
    " It is tried again with --again, or when its files or the recipe change."
)


@dataclass(frozen=True)
class Job:
    """A film to be made, in a run of that name."""

    film: Film
    recipe: Recipe
    results: Results
    run: str
    again: bool = False


def attended(job: Job, progress: Progress) -> Outcome:
    """Make a film in a process of its own; what is killed is begun again, three times in a run, whoever begins it. What
    progress raises ends the process."""
    while (tries := job.results.begun(job.run, job.film)) <= MOST_KILLS:
        if tries > 1:
            job.results.clear()
            progress(0.0, BROKE_OFF)
        outcome = _made(job, progress)
        if outcome is not None:
            return outcome
    return aside(job, progress)


def aside(job: Job, progress: Progress) -> Outcome:
    """Set a film aside."""
    job.results.keep_aside(job.film, job.film.key(job.recipe, progress))
    return Outcome(job.film.name, State.SET_ASIDE, failed=WHY_ASIDE)


def _made(job: Job, progress: Progress) -> Outcome | None:
    """What became of it; None where the process was killed."""
    ours, its = multiprocessing.Pipe()
    code = f"from jaylantern.fleet import child; child.work({its.fileno()}, {os.getpid()})"
    process = subprocess.Popen(  # noqa: S603 – our own
        own_python.command("-c", code),
        pass_fds=(its.fileno(),),
        stdin=subprocess.DEVNULL,
        env=own_python.one_of_many(),
    )
    its.close()
    try:
        ours.send(job)
        told: tuple[float, str] | Outcome = (0.0, "beginning")
        while not isinstance(told, Outcome):
            progress(*told)  # now and then the same again: it may raise
            if ours.poll(LOOK_S):
                told = ours.recv()
        return told
    except (EOFError, OSError):
        return None
    finally:
        ours.close()
        process.kill()
        process.wait()


def work(line: int, parent: int) -> None:
    """What the process does: one film, told over its line."""
    keep_freed_memory()
    own_python.end_with(parent)
    with Connection(line) as ours:
        job: Job = ours.recv()
        ours.send(one(job, sparing(lambda share, doing: ours.send((share, doing)))))


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
            outcome = making.make(here, job.recipe, folder, progress)
            job.results.put(film, folder, key, outcome)
        job.results.keep_aside(film, None)
        return outcome
    except (JayError, OSError, MemoryError) as error:
        state = State.NO_ROOM if disk.full(error) else State.FAILED
        said = str(error) or "There is not enough memory for this."
        return replace(Outcome(film.name, state, failed=said), took_s=round(time.monotonic() - begun, 1))
