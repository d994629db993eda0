"""Many machines: films as tasks of Dask's distributed scheduler. Files never pass through it, only their names.

A film is one task. Its worker makes it in a process of its own, so a film that is killed leaves the worker standing;
where the worker itself goes, the scheduler gives its films to another one.
"""

from __future__ import annotations

import gc
import socket
from concurrent.futures import Future
from contextlib import suppress
from pathlib import Path
from typing import Any
from uuid import uuid4

from jaylantern import __version__
from jaylantern.errors import InvalidValue, MediaError, Stopped
from jaylantern.fleet import child
from jaylantern.fleet.child import Job
from jaylantern.fleet.films import MADE_LIKE
from jaylantern.fleet.outcome import Outcome
from jaylantern.support.progress import Progress

FILM_PROCESSES = child.FilmProcesses()  # of a worker
WITHIN_S = 10.0  # so long a scheduler may take to answer
MEET_TRIES = 3


class Cluster:
    """A scheduler that runs, and its workers."""

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client
        except ImportError:
            raise InvalidValue(
                "--cluster needs packages that are not installed: pip install 'jay-lantern[cluster]'."
            ) from None
        try:
            self._client = _met(Client, address)
        except (OSError, ValueError) as error:
            raise InvalidValue(f"No scheduler answers at {address}: {str(error)[:200]}.") from error
        try:
            theirs = self._client.run_on_scheduler(_version)
        except Exception:  # it can't even take in what it is asked: it has none
            theirs = ""
        if theirs != _version():
            self._client.close()
            raise InvalidValue(
                f"The scheduler at {address} has {f'version {theirs}' if theirs else 'no version'} of Jay Lantern, not"
                f" {_version()}: install the same on all machines, that of the scheduler, too."
            )
        self._told: dict[str, Progress] = {}
        self._topic = f"jaylantern-{uuid4().hex}"
        self._client.subscribe_topic(self._topic, self._listen)

    @property
    def dashboard(self) -> str:
        """The scheduler's own page."""
        return str(self._client.dashboard_link or "")

    @property
    def workers(self) -> int:
        """How many workers there are."""
        return len(self._client.scheduler_info(n_workers=-1)["workers"])

    def submit(self, job: Job, progress: Progress) -> Future[Outcome]:
        """Have a film made by any worker."""
        name, answer = f"film-{uuid4().hex}", Future[Outcome]()
        self._told[name] = progress
        task = self._client.submit(_task, job, self._topic, name, _version(), key=name, pure=False)
        answer.set_running_or_notify_cancel()
        task.add_done_callback(lambda task: self._answer(job, task, answer))
        return answer

    def _answer(self, job: Job, task: Any, answer: Future[Outcome]) -> None:
        """Hand on what became of a task."""
        from distributed import KilledWorker

        try:
            if task.cancelled():
                raise Stopped("Stopped.")
            error = task.exception()
            if isinstance(error, KilledWorker):
                answer.set_result(child.aside(job, lambda share, doing: None))
            elif error is not None:
                raise error
            else:
                answer.set_result(task.result())
        except Exception as error:
            answer.set_exception(error)
        finally:
            self._told.pop(task.key, None)
            task.release()

    def _listen(self, event: tuple[float, Any]) -> None:
        _, (name, share, doing) = event
        if name in self._told:
            with suppress(Stopped):
                self._told[name](share, doing)

    def close(self) -> None:
        """Let go: what waits is not begun, what is being made stops."""
        self._client.close()


def _met(client: Any, address: str) -> Any:
    """A client of a scheduler. Where a worker joins in that very moment, its news comes along with the scheduler's
    greeting, and the client takes that for an error: it is tried again."""
    for left in reversed(range(MEET_TRIES)):
        gc.collect()  # one that came to nothing ends now; while the next begins it would wait for ever, and that for it
        try:
            return client(address, timeout=WITHIN_S, set_as_default=False)
        except AssertionError:
            if not left:
                raise
    raise AssertionError("it was tried at least once")


def _version() -> str:
    """Which films are made here: two of the same make the same of the same."""
    return f"{__version__}/{MADE_LIKE}"


def _task(job: Job, topic: str, name: str, wanted: str) -> Outcome:
    """What a worker does."""
    from distributed import get_worker

    if _version() != wanted:
        raise MediaError(f"{socket.gethostname()} has version {_version()} of Jay Lantern, not {wanted}.")

    worker = get_worker()
    film = job.film
    if not film.url and not Path(film.folder).is_dir():
        raise MediaError(
            f"{film.folder} is not there on {socket.gethostname()}: it must be shared, at the same path everywhere."
        )
    last = (0.0, "")

    def progress(share: float, doing: str) -> None:
        nonlocal last
        task = worker.state.tasks.get(name)
        if task is None or task.state in ("cancelled", "released", "forgotten"):
            raise Stopped("Stopped.")
        if (share, doing) != last:
            last = share, doing
            worker.log_event(topic, (name, share, doing))

    return FILM_PROCESSES.attended(job, progress)
