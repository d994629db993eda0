"""What the disk says, in words."""

from __future__ import annotations

import errno
import sqlite3

FULL = frozenset({errno.ENOSPC, errno.EDQUOT})
_WORDS = {
    **dict.fromkeys(FULL, "no space is left on the disk; free some"),
    errno.EFBIG: "a file has become larger than the disk takes",
    errno.EROFS: "it can't be written to; check that its disk is not read-only",
    errno.EACCES: "it can't be written to; check its rights",
    errno.EPERM: "it can't be written to; check its rights",
    errno.EIO: "the disk does not answer as it should",
    errno.EMFILE: "too many files are open at once; start Jay Lantern again",
    errno.ENFILE: "too many files are open at once; start Jay Lantern again",
}
OF_THE_DISK = frozenset({*FULL, errno.EFBIG, errno.EROFS, errno.EIO, errno.EMFILE, errno.ENFILE})


def full(error: BaseException) -> bool:
    """Is it that there is no room on the disk?"""
    if isinstance(error, sqlite3.Error):
        return getattr(error, "sqlite_errorname", "") == "SQLITE_FULL"
    return isinstance(error, OSError) and error.errno in FULL


def trouble(error: OSError) -> str:
    """In words, what keeps the data folder from being used."""
    words = _WORDS.get(error.errno or 0)
    if words is None:
        what = f"{error.strerror or error}".lower()
        words = f"{what}: {error.filename}" if isinstance(error.filename, str) else what
    return f"The data folder can't be used: {words}."
