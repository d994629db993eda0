"""A data folder looked through from end to end: what of it is sound, what can be mended, what nothing uses any more."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from jaylantern.core.timeline.media import Media
from jaylantern.errors import JayError
from jaylantern.library import facts, repair
from jaylantern.library.bringing import hash_of
from jaylantern.store import connection, edits, made, media, ours, projects
from jaylantern.support.progress import Progress, silent, within
from jaylantern.workspace.workspace import Workspace

OLD_DAYS = 30


@dataclass(frozen=True)
class Unused:
    """Something that could be freed: what it is, in words, and how large; a medium, a made file, or a folder alone."""

    what: str
    size_bytes: int
    paths: Sequence[Path]
    media_id: int | None = None
    job_id: int | None = None


@dataclass
class Found:
    """What was found. `troubles` is all that is not sound, a line each; `damaged` those media that can be mended."""

    projects: int = 0
    media: int = 0
    troubles: list[str] = field(default_factory=list)
    damaged: list[Media] = field(default_factory=list)
    unused: list[Unused] = field(default_factory=list)


def inspect(
    workspace: Workspace, db: sqlite3.Connection, *, older_days: float = OLD_DAYS, progress: Progress = silent
) -> Found:
    """Look through a data folder; changes nothing but that checksums are noted where nobody had noted any."""
    found = Found(troubles=connection.damages(db))
    for card in (*projects.cards(db), *projects.cards(db, removed=True)):
        found.projects += 1
        try:
            projects.load(db, card.id)
        except JayError as error:
            found.troubles.append(f"Project “{card.name}”: {error}")
    everything = media.everything(db)
    for i, each in enumerate(everything):
        _look_at(workspace, db, each, found, within(progress, i / len(everything), (i + 1) / len(everything)))
    found.unused = [*_media(workspace, db), *_made(workspace, db, older_days), *_alone(workspace, db)]
    return found


def _look_at(workspace: Workspace, db: sqlite3.Connection, each: Media, found: Found, progress: Progress) -> None:
    found.media += 1
    library = workspace.library
    if each.missing and not media.is_lost(db, each.id):
        return  # a stand-in for what was never here
    folder = library.folder_of(each.sha256)
    bad = ["what is known of it"] if each.missing or not repair.sound(library, each) else facts.spoiled(folder)
    if each.tailored is None:
        progress(0.0, each.name)
        original = library.original(each)
        if not original.is_file() and not bad:
            found.troubles.append(f"{each.name}: the file itself is gone; it is still heard, and not handed off.")
        elif original.is_file() and hash_of(original, progress) != each.sha256:
            found.troubles.append(f"{each.name}: the file itself is damaged. Bring it in again.")
    if bad:
        can = repair.can_be_mended(library, db, each)
        found.troubles.append(
            f"{each.name}: {', '.join(bad)} {'can be made again' if can else 'is lost; bring the file in again'}."
        )
        if can:
            found.damaged.append(each)


def _media(workspace: Workspace, db: sqlite3.Connection) -> Iterator[Unused]:
    for each in media.unused(db):
        folder = workspace.library.folder_of(each.sha256)
        yield Unused(f"{each.name}, which no clip shows and no step of a history", size(folder), [folder], each.id)


def _made(workspace: Workspace, db: sqlite3.Connection, older_days: float) -> Iterator[Unused]:
    for each in made.everything(db):
        folder = workspace.folder.exports(each.job_id)
        old = folder.is_dir() and time.time() - folder.stat().st_mtime > older_days * 24 * 3600
        if old or (each.removed_at and folder.is_dir()):
            what = "removed before" if each.removed_at else "handed off before"
            yield Unused(f"{each.title}, {what}", size(folder), [folder], job_id=each.job_id)


def _alone(workspace: Workspace, db: sqlite3.Connection) -> Iterator[Unused]:
    known, named = media.hashes(db), {Path(path).name for path in ours.paths(db)}
    for folder in sorted((workspace.folder.path / "media").glob("*/*")):
        called_as_ours = folder.name in named or ours.SHA256.fullmatch(folder.name)
        if folder.is_dir() and folder.name not in known and called_as_ours and folder.parent.name == folder.name[:2]:
            yield Unused(f"a media folder that no project knows ({folder.name[:12]}…)", size(folder), [folder])


def size(folder: Path) -> int:
    """How many bytes lie in a folder."""
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file())


def mend(workspace: Workspace, db: sqlite3.Connection, found: Found, progress: Progress = silent) -> list[str]:
    """Make again what can be; a line for each that was mended or could not be."""
    said = []
    for i, each in enumerate(found.damaged):
        media.lose(db, each.id)
        edits.news(db, [each.id])
        try:
            part = within(progress, i / len(found.damaged), (i + 1) / len(found.damaged))
            repair.mend(workspace.library, db, media.get(db, each.id), part)
            said.append(f"{each.name} was made again.")
        except (JayError, OSError) as error:
            said.append(f"{each.name} can't be made again: {error}")
    return said


def free(workspace: Workspace, db: sqlite3.Connection, unused: Sequence[Unused]) -> int:
    """Take away what nothing uses; how many bytes that makes free. What is recorded of it goes first, and the ledger
    has it until it is gone."""
    freed = 0
    for each in unused:
        if each.media_id is not None:
            media.remove(db, each.media_id)
        if each.job_id is not None:
            made.give_up(db, each.job_id)
        names = [path.relative_to(workspace.folder.path).as_posix() for path in each.paths]
        ours.begin(db, *names)  # it was shown, and the person said so
        workspace.folder.remove(db, *names)
        freed += each.size_bytes
    return freed
