"""How processes of ours are begun: never with modules from the folder where the person stands.

Python looks for modules there first when it is started with -m or -c; a file that happens to be called `av.py` would be
taken in place of the library.
"""

from __future__ import annotations

import multiprocessing
import os
import sys

LAST_END = "JAYLANTERN_LAST_END"  # how the one before ended, for one that is begun again
ONE_OF_MANY = "JAYLANTERN_ONE_OF_MANY"
CALLED = "JAYLANTERN_CALLED"  # how the person calls the program, where not by its own name
SAFE = "PYTHONSAFEPATH"  # what Python itself hands on to the processes it starts (Python 3.11, command line, -P)


def command(*arguments: str) -> list[str]:
    """A command that runs our Python with these arguments, -m or -c among them."""
    return [sys.executable, "-P", *arguments]


def guard() -> None:
    """See to it that processes begun by libraries, and theirs, keep to the same."""
    os.environ[SAFE] = "1"


def called() -> str:
    """How the person calls the program: by its name, or by the door of a checkout."""
    return os.environ.get(CALLED, "jaylantern")


def one_of_many() -> dict[str, str]:
    """The environment of a process that works beside others of its kind, on one core each."""
    return {**os.environ, ONE_OF_MANY: "1", "OPENBLAS_NUM_THREADS": "1"}


def alone() -> bool:
    """May this process use all cores? Not where it is one of several that do the same."""
    return multiprocessing.parent_process() is None and ONE_OF_MANY not in os.environ
