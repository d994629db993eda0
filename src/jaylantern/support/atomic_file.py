"""Files that are whole or not there: written under another name, and given their own when they are done."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TextIO, TypeVar
from uuid import uuid4

from jaylantern.support import system

T = TypeVar("T")
LONGEST_NAME = 120  # of the file itself, in its unfinished name; file systems take 255 bytes
_PART = re.compile(r"part-[0-9a-f]{32}-(.*)", re.DOTALL)


def unfinished_name(name: str) -> str:
    """A name nobody else has to write a file under, whatever lies beside it; it ends as the file's own does."""
    return f"part-{uuid4().hex}-{name.encode()[-LONGEST_NAME:].decode(errors='ignore')}"


def unfinished_of(name: str) -> str | None:
    """Of which file this is the unfinished name; None for any other name."""
    found = _PART.fullmatch(name)
    return found and found[1]


@contextmanager
def unfinished(path: Path, *, sync: bool = False) -> Iterator[Path]:
    """The name to write a file under. It gets its own name when the block ends well, and is gone when it does not; with
    `sync` it is on the disk before it has its name. Several may write the same file at once: the last that ends gives
    it its content."""
    part = path.with_name(unfinished_name(path.name))
    try:
        yield part
        if sync:
            system.to_disk(part)
        system.replace(part, path)
    finally:
        system.remove(part)


def whole(path: Path, write: Callable[[Path], T], *, sync: bool = False) -> T:
    """Have a file written, and answer what writing it answers."""
    with unfinished(path, sync=sync) as part:
        return write(part)


def whole_text(path: Path, write: Callable[[TextIO], None]) -> None:
    """Write a text file by what is given to write into it."""
    with unfinished(path) as part, part.open("w", encoding="utf-8", newline="") as out:
        write(out)


def put_text(path: Path, text: str) -> None:
    """Write a text file that holds this."""
    with unfinished(path) as part:
        part.write_text(text, encoding="utf-8", newline="")
