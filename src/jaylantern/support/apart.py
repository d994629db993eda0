"""Work done in a process of its own, within limits: what crashes, never ends or takes all memory does no harm here.

For documents that anybody may have written. What is given and answered is packed on the way: pickle, between two
processes of ours.
"""

from __future__ import annotations

import copyreg
import logging
import os
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from importlib import import_module
from types import MappingProxyType
from typing import TypeVar

from jaylantern.errors import JayError, MediaError
from jaylantern.support import child_process, system
from jaylantern.support.child_process import Child, Nothing

T = TypeVar("T")
PATIENCE = 3  # times the seconds of work that may pass on a busy machine
LOOK_S = 0.05  # so often it is looked at what the process has taken
READY_S = 60.0  # so long it may take to begin
ENDS_S = 5.0
ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # threads reserve memory that counts
READY = "ready"


@dataclass(frozen=True)
class Limits:
    """How long it may work, and how much memory it may take beside what it begins with."""

    seconds: int = 20
    memory_bytes: int = 1 << 30


def call(function: Callable[..., T], *arguments: object, what: str, limits: Limits = Limits()) -> T:
    """What a function of a module answers, worked out in another process.

    Raises what it raises of JayError; MediaError, which speaks of `what`, where the process breaks off, takes longer
    or more memory than it may, or raises anything else.
    """
    child = Child("from jaylantern.support.apart import answer; answer()", environment={**os.environ, **ONE_THREAD})
    try:
        kind, value = _answered(child, (function.__module__, function.__name__, arguments, limits), limits)
    finally:
        child.end()
    if kind == "long":
        raise MediaError(f"{what} can't be read: that takes longer than {limits.seconds} seconds.")
    if kind == "broken":
        raise MediaError(f"{what} can't be read: it breaks what reads it.")
    if kind == "raised":
        assert isinstance(value, JayError)
        raise value
    if kind == "memory":
        raise MediaError(f"{what} can't be read: it takes more than {limits.memory_bytes >> 20} MiB of memory.")
    if kind == "unforeseen":
        logging.getLogger(__name__).warning("reading %s: %s", what, value)
        raise MediaError(f"{what} can't be read: it holds what nobody expects there ({str(value).split(':')[0]}).")
    found: T = value  # type: ignore[assignment]
    return found


def _answered(child: Child, order: object, limits: Limits) -> tuple[str, object]:
    """What becomes of an order, in a word and what there is to it. The system limits the process as far as it can; who
    asked watches it besides."""
    number = child.process.pid
    try:
        child.tell(order)
        child.heard(READY_S)
    except (OSError, EOFError, Nothing):
        return "broken", None
    worked_s, had_bytes = system.taken_by(number)
    until = time.monotonic() + PATIENCE * limits.seconds
    while True:
        try:
            kind, value = child.heard(LOOK_S)
            return kind, value
        except EOFError:
            return "long" if system.ran_out_of_time(child.code(ENDS_S)) else "broken", None
        except Nothing:
            now_s, now_bytes = system.taken_by(number)
            if now_s - worked_s > limits.seconds + 1 or time.monotonic() > until:
                return "long", None
            if now_bytes - had_bytes > limits.memory_bytes:
                return "memory", None


def _view(of: dict[object, object]) -> MappingProxyType[object, object]:
    return MappingProxyType(of)


copyreg.pickle(MappingProxyType, lambda view: (_view, (dict(view),)))  # frozen nouns hold such views


def _done(module: str, name: str, arguments: tuple[object, ...]) -> tuple[str, object]:
    try:
        return "done", getattr(import_module(module), name)(*arguments)
    except JayError as error:
        return "raised", error.with_traceback(None)
    except MemoryError:
        return "memory", None
    except Exception as error:
        return "unforeseen", f"{type(error).__name__}: {error}"[:300]


def answer() -> None:
    """What the process does: what it is told, once."""
    line = child_process.line()
    module, name, arguments, limits = line.heard()
    import_module(module)
    system.limit(limits.seconds, limits.memory_bytes)
    line.tell(READY)
    answered = _done(module, name, arguments)
    with suppress(OSError):  # who asked may have been killed
        line.tell(answered)
