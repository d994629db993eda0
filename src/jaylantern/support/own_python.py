"""How processes of ours are begun and end: never with modules from the folder where the person stands.

Python looks for modules there first when it is started with -m or -c; a file that happens to be called `av.py` would be
taken in place of the library.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
import threading
import time

LOOK_S = 0.1
LAST_END = "JAYLANTERN_LAST_END"  # how the one before ended, for one that is begun again
ONE_OF_MANY = "JAYLANTERN_ONE_OF_MANY"
SAFE = "PYTHONSAFEPATH"  # what Python itself hands on to the processes it starts (Python 3.11, command line, -P)


def command(*arguments: str) -> list[str]:
    """A command that runs our Python with these arguments, -m or -c among them."""
    return [sys.executable, "-P", *arguments]


def guard() -> None:
    """See to it that processes begun by libraries, and theirs, keep to the same."""
    os.environ[SAFE] = "1"


def one_of_many() -> dict[str, str]:
    """The environment of a process that works beside others of its kind, on one core each."""
    return {**os.environ, ONE_OF_MANY: "1", "OPENBLAS_NUM_THREADS": "1"}


def alone() -> bool:
    """May this process use all cores? Not where it is one of several that do the same."""
    return multiprocessing.parent_process() is None and ONE_OF_MANY not in os.environ


def end_with(parent: int) -> None:
    """Have this process end when the one of this number, which began it, has ended, however that was; also when that
    was gone before this had begun."""

    def look() -> None:
        while os.getppid() == parent:
            time.sleep(LOOK_S)
        os._exit(0)

    threading.Thread(target=look, daemon=True).start()


def how_it_ended(code: int | None) -> str:
    """In words, how a process ended whose work broke off, by its exit code (−N: by signal N; None: not known)."""
    if code is None:
        return "the program ended while it was at it"
    if code == -signal.SIGKILL:
        return "its process was ended from outside, or because memory ran out"
    if code < 0:
        return f"its process crashed ({signal.Signals(-code).name}): something in it breaks what reads it"
    return f"its process ended by itself (code {code})"


def lives(number: int) -> bool:
    """Is there a process of that number that has not ended? One that has, and that nobody has asked for, is none."""
    try:
        if os.path.exists("/proc/self"):
            with open(f"/proc/{number}/stat", encoding="utf-8", errors="replace") as file:
                return file.read().rpartition(")")[2].split()[0] not in ("Z", "X")
        os.kill(number, 0)
    except PermissionError:
        return True
    except OSError:
        return False
    return True
