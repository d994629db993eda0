"""Work done in a process of its own, within limits: what crashes, never ends or takes all memory does no harm here.

For documents that anybody may have written. What is given and answered is packed on the way: pickle, between two
processes of ours.
"""

from __future__ import annotations

import copyreg
import logging
import os
import pickle
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from importlib import import_module
from types import MappingProxyType
from typing import TypeVar

from jaylantern.errors import JayError, MediaError
from jaylantern.support import own_python

try:
    import resource
except ImportError:  # of systems without it time alone is limited
    resource = None  # type: ignore[assignment]

T = TypeVar("T")
PAGE_BYTES = 4096
PATIENCE = 3  # times the seconds of work that may pass on a busy machine
ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # threads reserve memory that counts


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
    order = pickle.dumps((function.__module__, function.__name__, arguments, limits))
    with subprocess.Popen(  # noqa: S603 – our own module
        own_python.command("-m", "jaylantern.support.apart"),
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        env={**os.environ, **ONE_THREAD},
    ) as process:
        try:
            answer, _ = process.communicate(order, timeout=PATIENCE * limits.seconds)
        except subprocess.TimeoutExpired:
            process.kill()
            raise MediaError(_long(what, limits)) from None
    if process.returncode:
        cpu = resource is not None and -process.returncode in (9, 24)  # SIGKILL, SIGXCPU: the time was over
        raise MediaError(_long(what, limits) if cpu else f"{what} can't be read: it breaks what reads it.")
    kind, value = pickle.loads(answer)  # noqa: S301 – from our own process
    if kind == "raised":
        raise value
    if kind == "memory":
        raise MediaError(f"{what} can't be read: it takes more than {limits.memory_bytes >> 20} MiB of memory.")
    if kind == "unforeseen":
        logging.getLogger(__name__).warning("reading %s: %s", what, value)
        raise MediaError(f"{what} can't be read: it holds what nobody expects there ({value.split(':')[0]}).")
    found: T = value
    return found


def _view(of: dict[object, object]) -> MappingProxyType[object, object]:
    return MappingProxyType(of)


copyreg.pickle(MappingProxyType, lambda view: (_view, (dict(view),)))  # frozen nouns hold such views


def _long(what: str, limits: Limits) -> str:
    return f"{what} can't be read: that takes longer than {limits.seconds} seconds."


def _limit(limits: Limits) -> None:
    """Keep this process within its limits, as far as the system can."""
    if resource is None:
        return
    with suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
        resource.setrlimit(resource.RLIMIT_CPU, (limits.seconds, limits.seconds + 1))
        with open("/proc/self/statm", encoding="ascii") as file:
            taken = int(file.read().split()[0]) * PAGE_BYTES
        resource.setrlimit(resource.RLIMIT_AS, (taken + limits.memory_bytes,) * 2)


def _answer() -> tuple[str, object]:
    module, name, arguments, limits = pickle.load(sys.stdin.buffer)  # noqa: S301 – from the process that began this one
    function = getattr(import_module(module), name)
    _limit(limits)
    try:
        return "done", function(*arguments)
    except JayError as error:
        return "raised", error.with_traceback(None)
    except MemoryError:
        return "memory", None
    except Exception as error:
        return "unforeseen", f"{type(error).__name__}: {error}"[:300]


def main() -> None:
    """Do what is asked for on standard input, and answer on standard output, which nothing else writes to."""
    out = os.dup(1)
    os.dup2(2, 1)
    answer = pickle.dumps(_answer())
    with suppress(BrokenPipeError), os.fdopen(out, "wb") as file:  # who asked may have been killed
        file.write(answer)


if __name__ == "__main__":
    import_module("jaylantern.support.apart").main()  # as itself, so that both sides name things alike
