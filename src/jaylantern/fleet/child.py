"""One film in a process of its own: what kills that one touches nothing else."""

from __future__ import annotations

import logging
import multiprocessing
import os
import signal
import subprocess
import time
from contextlib import suppress
from dataclasses import dataclass, replace
from multiprocessing.connection import Connection
from typing import NoReturn

from jaylantern.errors import JayError
from jaylantern.fleet import one_film, places
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


class ForkServers:
    """Processes that have taken in all modules once and make each film in a fork of their own, kept while they are not
    at work. What kills a film touches nothing else."""

    def __init__(self) -> None:
        self._idle: list[_ForkServer] = []

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
            fork_server = self._idle.pop()
        except IndexError:
            fork_server = _ForkServer()
        try:
            outcome = fork_server.made(job, progress)
        except BaseException:
            fork_server.close()
            raise
        if fork_server.lives:
            self._idle.append(fork_server)
        else:
            fork_server.close()
        return outcome

    def close(self) -> None:
        """End those that are not at work."""
        while self._idle:
            self._idle.pop().close()


class _ForkServer:
    """One of these processes, seen from here."""

    def __init__(self) -> None:
        self._line, its = multiprocessing.Pipe()
        code = f"from jaylantern.fleet import child; child.serve({its.fileno()}, {os.getpid()})"
        self._process = subprocess.Popen(  # noqa: S603 – our own
            own_python.command("-c", code),
            pass_fds=(its.fileno(),),
            stdin=subprocess.DEVNULL,
            env=own_python.one_of_many(),
            start_new_session=True,  # so that it ends together with its children
        )
        its.close()
        self.lives = True

    def made(self, job: Job, progress: Progress) -> Outcome | BrokeOff:
        """What became of a film."""
        outcome: Outcome | None = None
        told = (0.0, "beginning")
        try:
            self._line.send(job)
            while True:
                progress(*told)  # now and then the same again: it may raise
                if not self._line.poll(LOOK_S):
                    continue
                said = self._line.recv()
                if isinstance(said, BrokeOff):
                    return outcome or said
                if isinstance(said, Outcome):
                    outcome = said
                else:
                    told = said
        except (EOFError, OSError):
            self.lives = False
            return outcome or BrokeOff(None)

    def close(self) -> None:
        """End it, whatever it is doing."""
        self._line.close()
        with suppress(OSError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()


def aside(job: Job, progress: Progress, code: int | None = None) -> Outcome:
    """Set a film aside; `code` says how what made it ended last, where that is known."""
    job.results.keep_aside(job.film, job.film.key(job.recipe, progress))
    why = f"What made it broke off {MOST_KILLS} times; last time {own_python.how_it_ended(code)}."
    return Outcome(job.film.name, State.SET_ASIDE, failed=f"{why} {WHY_ASIDE}")


def serve(line: int, parent: int) -> None:
    """What such a process does: it hands on what each of its children says, whole messages alone, and how that ended
    when it has."""
    keep_freed_memory()
    with Connection(line) as ours:
        while True:
            while not ours.poll(LOOK_S):
                if os.getppid() != parent:
                    return
            try:
                job: Job = ours.recv()
            except EOFError:
                return
            hears, tells = multiprocessing.Pipe(duplex=False)
            child = os.fork()
            if not child:
                hears.close()
                _born(job, tells, ours)
            tells.close()
            try:
                _hand_on(hears, ours, parent)
            except OSError:  # nobody listens any more
                os.kill(child, signal.SIGKILL)
                return
            finally:
                hears.close()
                _, status = os.waitpid(child, 0)
            ours.send(BrokeOff(os.waitstatus_to_exitcode(status)))


def _hand_on(hears: Connection, ours: Connection, parent: int) -> None:
    while True:
        if hears.poll(LOOK_S):
            try:
                said = hears.recv_bytes()
            except (EOFError, OSError):  # it has ended, perhaps in the middle of a word
                return
            ours.send_bytes(said)
        elif os.getppid() != parent:
            raise OSError("The process that began this has ended.")


def _born(job: Job, tells: Connection, ours: Connection) -> NoReturn:
    """A child: one film, then it is gone, whatever happens. One that ends by itself has said what became of it."""
    try:
        ours.close()
        own_python.end_with(os.getppid())
        tells.send(one(job, sparing(lambda share, doing: tells.send((share, doing)))))
    finally:
        os._exit(0)


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
