"""How processes of ours are begun: never with modules from the folder where the person stands.

Python looks for modules there first when it is started with -m or -c; a file that happens to be called `av.py` would be
taken in place of the library.
"""

from __future__ import annotations

import os
import sys

SAFE = "PYTHONSAFEPATH"  # what Python itself hands on to the processes it starts (Python 3.11, command line, -P)


def command(*arguments: str) -> list[str]:
    """A command that runs our Python with these arguments, -m or -c among them."""
    return [sys.executable, "-P", *arguments]


def guard() -> None:
    """See to it that processes begun by libraries, and theirs, keep to the same."""
    os.environ[SAFE] = "1"
