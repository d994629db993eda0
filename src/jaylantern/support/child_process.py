"""Processes of ours that are begun and spoken to: whole messages, over the pipes every system gives a process.

    who began it                          what was begun
    Child.tell(x)  ── standard input ──>  Line.heard()
    Child.heard()  <── standard output ── Line.tell(y)

The pipe to its standard input closes when whoever began it is gone, however that was: then it ends by itself, in the
midst of anything. What it prints goes beside, to where errors are written.
"""

from __future__ import annotations

import os
import pickle
import queue
import socket
import struct
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping
from contextlib import suppress
from typing import IO, Any

from jaylantern.support import own_python, system

_LENGTH = struct.Struct("<Q")
ENDED = object()
JOINED_S = 2.0


class Nothing(Exception):
    """Nothing was said within the time given."""


class _Ear:
    """Hears messages from a pipe, in a thread of its own, until it closes."""

    def __init__(self, pipe: IO[bytes], closed: Callable[[], None]) -> None:
        self._pipe, self._closed = pipe, closed
        self._said: queue.SimpleQueue[Any] = queue.SimpleQueue()
        self._thread = threading.Thread(target=self._hear, daemon=True)
        self._thread.start()

    def _hear(self) -> None:
        with suppress(OSError, ValueError):
            while len(head := self._pipe.read(_LENGTH.size)) == _LENGTH.size:
                (length,) = _LENGTH.unpack(head)
                said = self._pipe.read(length)
                if len(said) < length:
                    break  # it ended in the middle of a word
                self._said.put(said)
        self._said.put(ENDED)
        self._pipe.close()
        self._closed()

    def join(self) -> None:
        """Wait until nothing more can come."""
        self._thread.join(JOINED_S)

    def heard(self, timeout_s: float | None) -> Any:
        """The next message. Raises Nothing after so many seconds without one, EOFError when none will come any more."""
        try:
            said = self._said.get(timeout=timeout_s)
        except queue.Empty:
            raise Nothing from None
        if said is ENDED:
            self._said.put(ENDED)
            raise EOFError
        return pickle.loads(said)  # noqa: S301 – between two processes of ours


def _tell(pipe: IO[bytes], message: object) -> None:
    said = pickle.dumps(message)
    pipe.write(_LENGTH.pack(len(said)) + said)
    pipe.flush()


class Child:
    """A process of ours, seen from the one that began it."""

    def __init__(
        self,
        code: str,
        *arguments: str,
        environment: Mapping[str, str] | None = None,
        listening: socket.socket | None = None,
    ) -> None:
        """Begin `code`, which calls `line()` first, with these arguments; it is told of a socket that listens."""
        self.process = subprocess.Popen(  # noqa: S603 – our own
            own_python.command("-c", code, *arguments),
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            env=environment,
            **system.handing_over(listening),
        )
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self._to, self._guard = self.process.stdin, threading.Lock()
        self._ear = _Ear(self.process.stdout, lambda: None)
        if listening is not None:
            with suppress(OSError):
                self.tell(system.socket_for(listening, self.process.pid))

    def tell(self, message: object) -> None:
        """Say something. Raises OSError where it has ended."""
        with self._guard:
            try:
                _tell(self._to, message)
            except ValueError:  # closed here
                raise BrokenPipeError("It has ended.") from None

    def heard(self, timeout_s: float | None = None) -> Any:
        """What it says next. Raises Nothing after so many seconds, EOFError where it has ended."""
        return self._ear.heard(timeout_s)

    def end(self, patience_s: float = 0.0) -> int:
        """Have it end by itself within so many seconds, else end it and all it has begun; its exit code."""
        if patience_s:
            with suppress(OSError):
                self._to.close()
            with suppress(subprocess.TimeoutExpired):
                self.process.wait(patience_s)
        if self.process.poll() is None:
            system.end(self.process)
        with suppress(OSError):
            self._to.close()
        self._ear.join()
        return self.process.returncode

    def code(self, patience_s: float) -> int:
        """How it ended, when it has said its last; it is ended where it has not within so many seconds."""
        with suppress(subprocess.TimeoutExpired):
            self.process.wait(patience_s)
        return self.end()


class Line:
    """To the process that began this one."""

    def __init__(self, ending: Callable[[], None]) -> None:
        self._out = os.fdopen(os.dup(1), "wb")
        os.dup2(2, 1)  # what is printed by whatever it does is no message
        self._ear, self._guard = _Ear(os.fdopen(os.dup(0), "rb"), ending), threading.Lock()
        nothing = os.open(os.devnull, os.O_RDONLY)
        os.dup2(nothing, 0)
        os.close(nothing)

    def tell(self, message: object) -> None:
        """Say something. Raises OSError where nobody listens any more."""
        with self._guard:
            _tell(self._out, message)

    def heard(self, timeout_s: float | None = None) -> Any:
        """What is said next. Raises Nothing after so many seconds, EOFError where nobody says anything any more."""
        return self._ear.heard(timeout_s)

    def socket(self) -> socket.socket:
        """The socket that it was told of."""
        return system.socket_of(self.heard())


def _gone() -> None:
    os._exit(0)


def line(ending: Callable[[], None] = _gone) -> Line:
    """To the process that began this one, which ends with it; or does what `ending` says. Call it once, first."""
    system.deaf_to_ctrl_c()
    sys.stdin = None
    return Line(ending)
