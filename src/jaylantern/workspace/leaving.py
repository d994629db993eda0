"""Taking the program's data off a machine: what we made, and nothing that lies beside it."""

from __future__ import annotations

import re
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path

from jaylantern.errors import Refused
from jaylantern.store import made, media, ours, projects
from jaylantern.store.connection import damages
from jaylantern.support import scratch
from jaylantern.support.paths import take_away
from jaylantern.workspace.folder import DATABASE, KEY, LOCK, MARK, OF_THE_SYSTEM, SECRET, DataFolder
from jaylantern.workspace.inspecting import size

PLACES = ("exports", "incoming", "media", "runs", "takes")
_FILES = re.compile(
    "|".join(
        (
            rf"(?:{re.escape(DATABASE)}|queue\.sqlite3)(?:-journal|-wal|-shm)?",
            rf"part-[0-9a-f]{{32}}-(?:{SECRET}|{KEY})",
            re.escape(SECRET),
            re.escape(KEY),
        )
    )
)
_RUNS = re.compile(r"(?:part-[0-9a-f]{32}-)?[^/]+\.json")


@dataclass(frozen=True)
class There:
    """What a data folder holds: how many projects (those in the bin, too) and media, and its size."""

    projects: int
    media: int
    size_bytes: int


def what_is_there(folder: DataFolder) -> There:
    """What would be gone. Raises InvalidValue where this is no data folder."""
    folder.must_be_there()
    with closing(folder.connect()) as db:
        shown = len(projects.cards(db)) + len(projects.cards(db, removed=True))
        return There(shown, len(media.everything(db)), size(folder.path))


def take_data_away(folder: DataFolder) -> list[Path]:
    """Remove what we made, and the folder where nothing else lies in it; answers what is left for it isn't ours.

    Raises Refused where the folder is in use or its database can't be read: then nobody knows what is ours.
    """
    lock = folder.prepare_alone()
    try:
        with closing(folder.connect()) as db:
            if damages(db):
                raise Refused(f"The database of {folder.path} is damaged, so that nobody knows what of it is ours.")
            names = {
                *ours.paths(db),
                *(ours.of_media(each) for each in media.hashes(db)),
                *(f"exports/{each.job_id}" for each in made.everything(db)),
            }
        for name in sorted(names):
            take_away(folder.path / name)
        for within, of_ours in ((folder.path / "runs", _RUNS), (folder.path, _FILES)):
            for path in [*within.iterdir()] if within.is_dir() else []:
                if of_ours.fullmatch(path.name):
                    take_away(path)
        for name in PLACES:
            _remove_empty(folder.path / name)
    finally:
        lock.release()
    left = [
        path
        for path in sorted(folder.path.iterdir())
        if path.name not in (MARK, LOCK) and path.name not in OF_THE_SYSTEM
    ]
    for name in (LOCK, *(() if left else OF_THE_SYSTEM), MARK):  # the mark last: until then it is a folder of ours
        with suppress(OSError):
            (folder.path / name).unlink(missing_ok=True)
    with suppress(OSError):
        folder.path.rmdir()
    return left


def take_caches_away() -> None:
    """Remove what work that is done, or was killed, left in the cache of the account."""
    root = scratch.root()
    scratch.clear(root)
    for folder in (root, root.parent):
        if folder == root or folder.name == "jaylantern":  # on Windows data lie beside it
            with suppress(OSError):
                folder.rmdir()


def _remove_empty(folder: Path) -> None:
    """Remove a folder and those in it that hold nothing."""
    if folder.is_dir() and not folder.is_symlink():
        for path in folder.iterdir():
            _remove_empty(path)
        with suppress(OSError):
            folder.rmdir()
