"""Files that are whole or not there: written under another name, and given their own when they are done."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

T = TypeVar("T")


def whole(path: Path, write: Callable[[Path], T], *, sync: bool = False) -> T:
    """Have a file written, and answer what writing it answers; with `sync` it is on the disk before it has its name."""
    part = path.with_name("part-" + path.name)
    try:
        found = write(part)
        if sync:
            with part.open("rb") as file:
                os.fsync(file.fileno())
        part.replace(path)
        return found
    finally:
        part.unlink(missing_ok=True)
