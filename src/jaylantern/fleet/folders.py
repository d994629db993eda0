"""Where results are put: small texts by name, and folders of finished files, whole or not there.

A shelf is a folder here; `store.py` has one in an object store.
"""

from __future__ import annotations

import os
import shutil
import socket
from collections.abc import Iterator, Sequence
from contextlib import AbstractContextManager, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Protocol
from uuid import uuid4

from jaylantern.errors import Refused
from jaylantern.support import file_names, system
from jaylantern.support.atomic_file import put_text

MAKING, GONE, TRIES = ".making-", ".gone-", ".tries-"


def of_this_process() -> str:
    """A name that nobody else has, by which what is left of it is known when this process is gone."""
    return f"{socket.gethostname()}-{os.getpid()}-{uuid4().hex[:8]}"


class Shelf(Protocol):
    """Where results are put."""

    def text(self, name: str) -> str | None:
        """A text by its path; None where there is none."""

    def write(self, name: str, text: str) -> None:
        """Write a text, whole or not at all."""

    def remove(self, name: str) -> None:
        """Remove a text, or a folder of them, if it is there."""

    def texts(self, folder: str) -> list[str]:
        """The names in a folder, in order."""

    def sizes(self, folder: str) -> dict[str, int]:
        """Files of a folder and their sizes in bytes."""

    def unfinished(self) -> AbstractContextManager[Path]:
        """A folder to make files in; it is gone afterwards unless it was put in its place."""

    def put(self, folder: Path, name: str, receipt: str, *, before: Sequence[str], beside: bool) -> None:
        """Put a finished folder in the place of that name, its receipt last, instead of the files that stood there
        `before`; `beside` others' folders where those lie in it, too."""

    def clear(self) -> None:
        """Remove what processes of this machine left behind that are gone."""


@dataclass(frozen=True)
class FolderShelf:
    """A shelf that is a folder, of this machine or shared."""

    folder: Path

    def text(self, name: str) -> str | None:
        """A text by its path; None where there is none or it can't be read."""
        try:
            return (self.folder / name).read_text(encoding="utf-8")
        except (OSError, ValueError):
            return None

    def write(self, name: str, text: str) -> None:
        """Write a text, whole or not at all."""
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        put_text(path, text)

    def remove(self, name: str) -> None:
        """Remove a text, or a folder of them, if it is there."""
        path = self.folder / name
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)

    def texts(self, folder: str) -> list[str]:
        """The names in a folder, in order."""
        try:
            return sorted(os.listdir(self.folder / folder))
        except OSError:
            return []

    def sizes(self, folder: str) -> dict[str, int]:
        """Files of a folder and their sizes in bytes."""
        try:
            return {path.name: path.stat().st_size for path in (self.folder / folder).iterdir() if path.is_file()}
        except OSError:
            return {}

    @contextmanager
    def unfinished(self) -> Iterator[Path]:
        """A folder to make files in; it is gone afterwards unless it was put in its place."""
        folder = self.folder / f"{MAKING}{of_this_process()}"
        folder.mkdir(parents=True)
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def put(self, folder: Path, name: str, receipt: str, *, before: Sequence[str], beside: bool) -> None:
        """Put a finished folder in the place of that name."""
        target = self.folder / name
        self._must_be_spelled_so(name)
        target.parent.mkdir(parents=True, exist_ok=True)
        ours = {*(Path(each).name for each in before), receipt}
        if beside or (target.is_dir() and any(path.name not in ours for path in target.iterdir())):
            _put_beside(target, folder, receipt, before)
            return
        gone = self.folder / f"{GONE}{of_this_process()}"
        with suppress(FileNotFoundError):
            target.rename(gone)
        folder.rename(target)
        shutil.rmtree(gone, ignore_errors=True)

    def _must_be_spelled_so(self, name: str) -> None:
        """Raises Refused where the disk takes another film's folder for this one."""
        at = self.folder
        for part in PurePosixPath(name).parts:
            there = self.texts(str(at.relative_to(self.folder)))
            other = part not in there and (at / part).exists() and file_names.spelled_otherwise(part, there)
            if other:
                raise Refused(f"{at / other} is there, and this disk does not tell it from {part}. Rename one of them.")
            at /= part

    def clear(self) -> None:
        """Remove what processes of this machine left behind that are gone."""
        for kind in (MAKING, GONE, TRIES):
            for path in self.folder.glob(f"{kind}{socket.gethostname()}-*"):
                number = path.name.rsplit("-", 2)[1]
                if number.isdigit() and not system.lives(int(number)):
                    shutil.rmtree(path, ignore_errors=True)


def _put_beside(target: Path, folder: Path, receipt: str, before: Sequence[str]) -> None:
    """Into a folder that holds other films' results, or files of the person's own, too: file by file, the receipt last,
    so that it stands when all of them do. Raises Refused where one of those is in the way."""
    target.mkdir(exist_ok=True)
    ours = {*(Path(name).name for name in before), receipt}
    for path in folder.iterdir():
        there = target / path.name
        if there.is_dir():
            raise Refused(f"{there} is the folder of another film. Give the file another pattern.")
        if there.exists() and path.name not in ours:
            raise Refused(
                f"{there} is there already and is no result of ours. Take it elsewhere, or change the pattern."
            )
    (target / receipt).unlink(missing_ok=True)
    for name in before:
        (target / Path(name).name).unlink(missing_ok=True)
    for path in sorted(folder.iterdir(), key=lambda path: path.name == receipt):
        path.replace(target / path.name)
