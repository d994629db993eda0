"""A job hears "stop" whatever it is doing: most of what it does looks now and then by itself; what does not is
interrupted in its own thread a little later."""

from __future__ import annotations

import ctypes
import sqlite3
import threading
from collections.abc import Callable
from contextlib import closing, suppress
from types import TracebackType

from jaylantern.errors import JayError, Stopped
from jaylantern.store import jobs

LOOK_S = 0.4
GRACE_S = 0.6  # so long a job that was asked to stop may take to hear it by itself


class Interrupted:
    """Around the work of a job: raises Stopped in it, between two steps of Python, when it was asked to stop and has
    not heard it by itself; again and again, since what calls back from a library may swallow it. Work that has ended
    is left alone."""

    def __init__(self, connect: Callable[[], sqlite3.Connection], job_id: int) -> None:
        self._connect, self._job_id = connect, job_id
        self._thread = threading.get_ident()
        self._over, self._guard = threading.Event(), threading.Lock()

    def __enter__(self) -> Interrupted:
        threading.Thread(target=self._watch, daemon=True).start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        with self._guard:
            self._over.set()
            ctypes.pythonapi.PyThreadState_SetAsyncExc(
                ctypes.c_ulong(self._thread), None
            )  # one on its way is called off

    def _watch(self) -> None:
        with closing(self._connect()) as db:
            while not self._over.wait(LOOK_S):
                if self._asked(db):
                    break
            while not self._over.wait(GRACE_S):
                with self._guard:
                    if not self._over.is_set():
                        ctypes.pythonapi.PyThreadState_SetAsyncExc(
                            ctypes.c_ulong(self._thread), ctypes.py_object(Stopped)
                        )

    def _asked(self, db: sqlite3.Connection) -> bool:
        with suppress(sqlite3.Error, JayError):
            return jobs.get(db, self._job_id).stop_asked
        return False
