"""Processes of ours that do one thing after another, kept while they are not at work. What kills one touches nothing
that another one does."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from jaylantern.support import child_process, own_python
from jaylantern.support.child_process import Child, Nothing
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.progress import Progress, sparing

MOST = 50  # things one process does: what libraries keep is let go with it
LOOK_S = 0.5
ENDS_S = 5.0
Task = TypeVar("Task")
Result = TypeVar("Result")


class BrokeOff(Exception):
    """A process ended without a word of what came of its task; `code` says how it ended."""

    def __init__(self, code: int) -> None:
        super().__init__(code)
        self.code = code


@dataclass(frozen=True)
class _Done(Generic[Result]):
    """The last that a process says of a task."""

    result: Result


class KeptProcesses(Generic[Task, Result]):
    """As many processes as there are threads that ask; each runs `code`, which calls `serve`."""

    def __init__(self, code: str) -> None:
        self._code, self._idle = code, list[_Process]()

    def do(self, task: Task, progress: Progress) -> Result:
        """What came of a task. What progress raises ends its process. Raises BrokeOff where that ended by itself."""
        try:
            process = self._idle.pop()
        except IndexError:
            process = _Process(self._code)
        try:
            result: Result = process.do(task, progress)
        except BaseException:
            process.child.end()
            raise
        if process.tasks < MOST:
            self._idle.append(process)
        else:
            process.child.end()
        return result

    def close(self) -> None:
        """End those that are not at work."""
        while self._idle:
            self._idle.pop().child.end()


class _Process:
    """One of these processes, seen from here."""

    def __init__(self, code: str) -> None:
        self.child, self.tasks = Child(code, environment=own_python.one_of_many()), 0

    def do(self, task: object, progress: Progress) -> Any:
        """What came of a task."""
        self.tasks += 1
        said: tuple[float, str] | _Done[Any] = (0.0, "beginning")
        try:
            self.child.tell(task)
            while not isinstance(said, _Done):
                progress(*said)  # now and then the same again: it may raise
                with suppress(Nothing):
                    said = self.child.heard(LOOK_S)
        except (EOFError, BrokenPipeError):
            raise BrokeOff(self.child.code(ENDS_S)) from None
        return said.result


def serve(do: Callable[[Any, Progress], object]) -> None:
    """What such a process does: one task after another. It says of each how far it is, and what came of it."""
    line = child_process.line()
    keep_freed_memory()
    with suppress(EOFError, OSError):  # nobody wants anything, or listens, any more
        while True:
            line.tell(_Done(do(line.heard(), sparing(lambda share, doing: line.tell((share, doing))))))
