"""Files that are whole or not there: written under another name, and given their own when they are done."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TextIO, TypeVar
from uuid import uuid4

T = TypeVar("T")


@contextmanager
def unfinished(path: Path, *, sync: bool = False, shared: bool = False) -> Iterator[Path]:
    """The name to write a file under. It gets its own name when the block ends well, and is gone when it does not; with
    `sync` it is on the disk before it has its name. A `shared` file may be written by several at once, each under a
    name nobody else has: the last that ends gives it its content."""
    part = path.with_name(f"part-{uuid4().hex if shared else ''}{path.name}")
    try:
        yield part
        if sync:
            with part.open("rb") as file:
                os.fsync(file.fileno())
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def whole(path: Path, write: Callable[[Path], T], *, sync: bool = False, shared: bool = False) -> T:
    """Have a file written, and answer what writing it answers."""
    with unfinished(path, sync=sync, shared=shared) as part:
        return write(part)


def whole_text(path: Path, write: Callable[[TextIO], None]) -> None:
    """Write a text file by what is given to write into it."""
    with unfinished(path) as part, part.open("w", encoding="utf-8", newline="") as out:
        write(out)


def put_text(path: Path, text: str) -> None:
    """Write a text file that holds this."""
    with unfinished(path) as part:
        part.write_text(text, encoding="utf-8", newline="")
