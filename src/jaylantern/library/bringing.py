"""Bringing a file in: its content hashed, taken in once, recorded."""

from __future__ import annotations

import hashlib
import shutil
import sqlite3
from contextlib import AbstractContextManager
from pathlib import Path

from jaylantern.core.timeline.media import Media
from jaylantern.library import ingest
from jaylantern.library.facts import About
from jaylantern.library.library import Library
from jaylantern.store import media, ours
from jaylantern.support.progress import Progress, within
from jaylantern.support.turns import Turns

HASH_BYTES = 1 << 20
_turns = Turns()


def taking_in(sha256: str) -> AbstractContextManager[None]:
    """Held while a content is worked on: the same file twice waits."""
    return _turns.of(sha256)


def bring_in(
    library: Library,
    db: sqlite3.Connection,
    source: Path,
    name: str,
    progress: Progress,
    *,
    sha256: str = "",
    heard: bytes | None = None,
    listen: bool = True,
) -> Media:
    """The medium of a file's content, taken in and recorded unless it is there already. `source` stays. Without
    `listen` nobody listens for speech in it yet.

    `sha256` is its hash where that was reckoned before, `heard` what was heard in it elsewhere (see intake.py).
    """
    sha256 = sha256 or hash_of(source, progress)
    with taking_in(sha256):
        known = media.find(db, sha256)
        if known is not None:
            return known
        about = _take_in(library, db, source, name, sha256, progress, heard, listen)
        return media.insert(
            db,
            sha256=sha256,
            name=name,
            size_bytes=source.stat().st_size,
            length_n=about.length_n,
            has_sound=about.has_sound,
            has_picture=about.has_picture,
        )


def hash_of(path: Path, progress: Progress) -> str:
    """SHA-256 of a file's content, hexadecimal."""
    digest, done, size = hashlib.sha256(), 0, max(path.stat().st_size, 1)
    with path.open("rb") as file:
        while block := file.read(HASH_BYTES):
            digest.update(block)
            done += len(block)
            progress(0.05 * done / size, "checking the file")
    return digest.hexdigest()


def _take_in(
    library: Library,
    db: sqlite3.Connection,
    source: Path,
    name: str,
    sha256: str,
    progress: Progress,
    heard: bytes | None,
    listen: bool,
) -> About:
    folder = library.folder_of(sha256)
    ours.begin(db, ours.of_media(sha256))  # settled when it is recorded
    shutil.rmtree(folder, ignore_errors=True)  # what a kill left behind
    try:
        about = ingest.take_in(
            source,
            name=name,
            folder=folder,
            progress=within(progress, 0.05, 1.0),
            heard=heard,
            listen=listen,
        )
        ingest.keep_file(source, folder / "original")
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        ours.settle(db, ours.of_media(sha256))
        raise
    return about
