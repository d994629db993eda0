"""The queue between page and worker: huey on its own SQLite file. The job table is the truth; the queue only wakes."""

from __future__ import annotations

import logging
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing, suppress
from pathlib import Path

from huey import SqliteHuey
from huey.consumer import Consumer

from jaylantern.jobs import work
from jaylantern.store import jobs
from jaylantern.store.connection import damages
from jaylantern.support import system
from jaylantern.workspace.workspace import Workspace

WORKERS = 2
MORE_ROOM_BYTES = 1 << 20
CLEAR_EVERY_S = 600.0


class Queue:
    """Hands job numbers to a worker process."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.huey = _huey(workspace.folder.path / "queue.sqlite3")
        self._waiting: dict[int, int] = {}  # jobs for which there was no room, and how much there was
        self._at_work: set[int] = set()
        self._clears_at = 0.0
        self._asleep: set[int] = set()  # jobs that nobody had woken at the last look
        self._task: Callable[[int], object] = self.huey.task(name="run_job")(self._run)

    def _run(self, job_id: int) -> None:
        self._at_work.add(job_id)
        try:
            ended = work.run(self.workspace, job_id)
        except (OSError, sqlite3.Error):  # not even its end could be recorded
            logging.getLogger(__name__).exception("job %d", job_id)
            ended = False
        finally:
            self._at_work.discard(job_id)
        if ended:
            self._wake_new(job_id)
        else:
            self._waiting[job_id] = self.workspace.folder.room_bytes()

    def look(self) -> None:
        """Wake what should be awake: jobs for which there is room by now, and those that whoever recorded them was
        killed before waking."""
        self.look_for_room()
        self._clear_removed()
        with suppress(OSError, sqlite3.Error):
            known = {task.args[0] for task in self.huey.pending()} | self._at_work | set(self._waiting)
            asleep = {job.id for job in self._unfinished() if job.id not in known}
            for job_id in sorted(asleep & self._asleep):  # at two looks: it was not just about to be woken, or begun
                self.wake(job_id)
            self._asleep = asleep - self._asleep

    def _clear_removed(self) -> None:
        """Now and then take away for good what a person removed a day ago."""
        if time.monotonic() >= self._clears_at:
            self._clears_at = time.monotonic() + CLEAR_EVERY_S
            with suppress(OSError, sqlite3.Error), closing(self.workspace.folder.connect()) as db:
                self.workspace.folder.clear_removed(db)

    def look_for_room(self) -> None:
        """Have jobs done again that the disk had no room for, where there is more by now; and stopped ones end."""
        for job_id, room_bytes in list(self._waiting.items()):
            with suppress(OSError, sqlite3.Error):
                if self.workspace.folder.room_bytes() > room_bytes + MORE_ROOM_BYTES or self._to_stop(job_id):
                    self._waiting.pop(job_id)
                    self.wake(job_id)

    def _to_stop(self, job_id: int) -> bool:
        with closing(self.workspace.folder.connect()) as db:
            return jobs.get(db, job_id).stop_asked

    def _wake_new(self, job_id: int) -> None:
        """Queue what a job left to be done in the background: jobs made after it that nobody has woken."""
        for job in self._unfinished():
            if job.kind in work.BEHIND and job.id > job_id:
                self.wake(job.id)

    def _unfinished(self) -> list[jobs.Job]:
        with closing(self.workspace.folder.connect()) as db:
            return jobs.unfinished(db)

    def close(self) -> None:
        """Let go of the file, as far as this thread has it."""
        self.huey.storage.close()

    def wake(self, job_id: int) -> None:
        """Have a recorded job done."""
        self._task(job_id)

    def begin_again(self, *, how: str = "") -> int:
        """Queue everything a stop of the program left undone; returns how many jobs that is. `how` says in words how
        the worker ended that was at it."""
        self.huey.flush()
        if how:
            with closing(self.workspace.folder.connect()) as db:
                jobs.broke_off(db, how=how)
        left = self._unfinished()
        for job in left:
            self.wake(job.id)
        return len(left)


def _huey(path: Path) -> SqliteHuey:
    """The queue in a file; one that is damaged is made anew, for the job table says all that stands in it."""
    if not _sound(path):
        for end in ("", "-wal", "-shm", "-journal"):
            system.remove(path.with_name(f"{path.name}{end}"))
    return SqliteHuey("jaylantern", filename=str(path), results=False)


def _sound(path: Path) -> bool:
    """Is it a database, and whole? Looked at by a connection of its own: Windows removes nothing that is open."""
    try:
        with closing(sqlite3.connect(path)) as db:
            return not damages(db)
    except sqlite3.DatabaseError:
        return False


class QuietConsumer(Consumer):  # type: ignore[misc]  # huey has no types
    """A consumer that leaves signals to the process it is in."""

    def _set_signal_handlers(self) -> None:
        pass


def consumer(queue: Queue) -> Consumer:
    """The consumer of a queue: two jobs at a time, looking for work ten times a second."""
    logging.getLogger("huey").setLevel(logging.WARNING)
    return QuietConsumer(
        queue.huey, workers=WORKERS, periodic=False, initial_delay=0.05, max_delay=0.1, check_worker_health=False
    )
