"""What was lost in a media folder: found out, and made again from the file that was brought in."""

from __future__ import annotations

import sqlite3
import zipfile
from pathlib import Path

from jaylantern.core.timeline.media import Media
from jaylantern.errors import Damaged, MediaError
from jaylantern.library import facts, ingest, tailored_media
from jaylantern.library.bringing import hash_of, taking_in
from jaylantern.library.facts import About
from jaylantern.library.library import Library
from jaylantern.media.peaks_file import PAIR_BYTES
from jaylantern.store import edits, media
from jaylantern.store.connection import atomic
from jaylantern.support.progress import Progress, within


def sound(library: Library, found: Media) -> bool:
    """Is what decisions, pages and renders need of a medium there, and as large as it must be? Looks at sizes and heads
    only: a look at a medium takes less than a millisecond."""
    folder = library.folder_of(found.sha256)
    try:
        about = facts.read_about(folder)
        return _lengths(about) and _heard(folder, about) and _seen(folder, about)
    except (Damaged, OSError, zipfile.BadZipFile):
        return False


def as_brought(library: Library, found: Media, progress: Progress) -> bool:
    """Is all of a medium as it was brought in: what is known of it, and the file itself? Reads all of it."""
    original = library.original(found)
    return (
        sound(library, found)
        and not facts.spoiled(library.folder_of(found.sha256))
        and original.is_file()
        and hash_of(original, progress) == found.sha256
    )


def _lengths(about: About) -> bool:
    return about.length_n > 0 and 0 <= about.sound_n <= about.length_n


def _heard(folder: Path, about: About) -> bool:
    if not about.has_sound:
        return True
    facts.sound_store(folder, about).must_be_whole()
    with zipfile.ZipFile(folder / "facts.npz") as saved:
        there = "level_db.npy" in saved.namelist()
    return there and (folder / "peaks.bin").stat().st_size == PAIR_BYTES * sum(about.level_counts)


def _seen(folder: Path, about: About) -> bool:
    if not about.has_picture:
        return True
    shown = not about.picture_mime or (folder / "picture").stat().st_size > 0
    return shown and (not about.thumbs or (folder / "thumbs.jpg").stat().st_size > 0)


def can_be_mended(library: Library, db: sqlite3.Connection, found: Media) -> bool:
    """Is there something to make it of: the file itself, or the recording of tailored music?"""
    if found.tailored is not None:
        source = media.recording(db, found)
        return source is not None and (not source.missing or can_be_mended(library, db, source))
    original = library.original(found)
    return original.is_file() and original.stat().st_size > 0


def mend(library: Library, db: sqlite3.Connection, found: Media, progress: Progress) -> Media:
    """Make everything again that is known of a medium, and with a recording what is tailored from it. What was heard in
    it stays as it was, where that can still be read. Raises MediaError where the file itself is damaged or gone."""
    if found.tailored is not None:
        source = media.recording(db, found)
        if source is None:
            raise MediaError(f"The recording that {found.name} is made of is not here.")
        if source.missing or not sound(library, source):
            mend(library, db, source, progress)
            return media.get(db, found.id)
        return _tailored(library, db, source, found)
    original = library.original(found)
    if not original.is_file() or hash_of(original, within(progress, 0.0, 0.2)) != found.sha256:
        raise MediaError(f"The file {found.name} itself is damaged or gone from the data folder. Bring it in again.")
    return taken_in_again(library, db, found, original, within(progress, 0.2, 1.0))


def taken_in_again(
    library: Library, db: sqlite3.Connection, found: Media, source: Path, progress: Progress, *, listen: bool = True
) -> Media:
    """Fill the folder of a medium that was lost from its file, wherever that is; it is missing no more."""
    folder = library.folder_of(found.sha256)
    with taking_in(found.sha256):
        try:
            heard: bytes | None = (folder / "facts.npz").read_bytes()
        except OSError:
            heard = None
        (folder / "about.json").unlink(missing_ok=True)  # until the last file of it is there again
        about = ingest.take_in(source, name=found.name, folder=folder, progress=progress, heard=heard, listen=listen)
        ingest.keep_file(source, folder / "original")
        again = _here_again(db, found, about)
    for number in media.made_of(db, found.sha256):
        made = media.get(db, number)
        if made.missing and media.is_lost(db, number):
            _tailored(library, db, again, made)
    return again


def _tailored(library: Library, db: sqlite3.Connection, source: Media, found: Media) -> Media:
    with taking_in(found.sha256):
        return _here_again(db, found, tailored_media.filled(library, source, found))


def _here_again(db: sqlite3.Connection, found: Media, about: About) -> Media:
    with atomic(db):
        media.here_again(db, found.id, about.length_n, has_sound=about.has_sound, has_picture=about.has_picture)
        edits.news(db, [found.id])
    return media.get(db, found.id)
