"""Zip files from anybody: every entry is looked at before anything is unpacked, and none goes where it says itself."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path, PurePosixPath

from jaylantern.errors import MediaError

SYMLINK = 0xA  # in the upper bits of a Unix mode
MOST_ENTRIES = 100_000
MOST_TIMES = 100  # what unpacks to more than so many times its size is a bomb, sound and film do not
SMALL_BYTES = 64 << 20
FEW_BYTES = 4 << 20
BLOCK_BYTES = 1 << 20
DAMAGES = (zipfile.BadZipFile, EOFError, zlib.error, NotImplementedError, RuntimeError, ValueError)


def opened(path: Path, *, name: str, what: str) -> zipfile.ZipFile:
    """A zip file open for reading. Raises MediaError, which says it is no `what`, for anything else."""
    try:
        return zipfile.ZipFile(path)
    except (OSError, *DAMAGES) as error:
        raise MediaError(f"{name} is no {what}: {error}.") from error


def checked(
    archive: zipfile.ZipFile, *, name: str, what: str, belongs: Callable[[PurePosixPath], bool]
) -> list[zipfile.ZipInfo]:
    """The files in it. Raises MediaError where one leads out, is a link, does not belong, or would unpack to far more
    than there is."""
    entries = [entry for entry in archive.infolist() if not entry.is_dir()]
    if len(entries) > MOST_ENTRIES:
        raise MediaError(f"{name} is no {what} of Jay Lantern: it holds {len(entries)} files.")
    for entry in entries:
        path = PurePosixPath(entry.filename)
        leads_out = path.is_absolute() or ".." in path.parts or "\\" in entry.filename or "\0" in entry.filename
        if leads_out or entry.external_attr >> 28 == SYMLINK or not belongs(path):
            raise MediaError(f"{name} is no {what} of Jay Lantern: {entry.filename[:80]!r} does not belong in one.")
    whole, packed = sum(entry.file_size for entry in entries), sum(entry.compress_size for entry in entries)
    if archive.filename:
        packed = min(packed, Path(archive.filename).stat().st_size)  # entries that share their bytes say more
    if whole > SMALL_BYTES and whole > MOST_TIMES * max(1, packed):
        raise MediaError(f"{name} would unpack to {whole // max(1, packed)} times its size; that is no {what}.")
    return entries


def unpack(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, target: Path, *, name: str) -> None:
    """Unpack an entry to a file, and not a byte more than it says it has. Raises MediaError where it is damaged."""
    left = entry.file_size
    try:
        with archive.open(entry) as packed, target.open("wb") as out:
            while block := packed.read(BLOCK_BYTES):
                left -= len(block)
                if left < 0:
                    raise MediaError(f"{name} is damaged: {entry.filename} holds more than it says.")
                out.write(block)
    except DAMAGES as error:
        raise MediaError(f"{name} is damaged at {entry.filename}: {error}.") from error
    if left:
        raise MediaError(f"{name} is damaged: {entry.filename} breaks off.")


def text(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, *, name: str, most_bytes: int = SMALL_BYTES) -> bytes:
    """What a small entry holds. Raises MediaError where it is damaged, or has more bytes, or was packed tighter, than
    any text of ours."""
    if entry.file_size > most_bytes:
        raise MediaError(f"{name}: {entry.filename} has {entry.file_size >> 20} MiB; that is no text.")
    if entry.file_size > FEW_BYTES and entry.file_size > MOST_TIMES * max(1, entry.compress_size):
        raise MediaError(f"{name}: {entry.filename} would unpack to many times its size; that is no text.")
    try:
        with archive.open(entry) as packed:
            return packed.read(SMALL_BYTES)
    except (OSError, *DAMAGES) as error:
        raise MediaError(f"{name} is damaged at {entry.filename}: {error}.") from error
