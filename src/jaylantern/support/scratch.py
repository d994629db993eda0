"""Folders to work in that go when the work is done, and when it was killed with the next work that is begun.

Each lies in a folder of ours and holds a file that its process keeps locked while it lives: what nobody holds, and says
that we made it, is cleared.

    ROOT/jaylantern-3f…c1/held     locked by whoever works there
    ROOT/jaylantern-3f…c1/files/   what it works with
"""

from __future__ import annotations

import os
import re
import shutil
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from uuid import uuid4

import platformdirs

from jaylantern.errors import Refused
from jaylantern.support.one_at_a_time import Lock

HELD, FILES = "held", "files"
_NAME = re.compile("jaylantern-[0-9a-f]{32}")
_MOST_TRIES = 5
_EMPTY_S = 3600.0  # so long an empty one may have just been begun


def root() -> Path:
    """Where they lie unless it is said: where what is temporary is wanted (TMPDIR), else a cache of the account."""
    wanted = os.environ.get("TMPDIR")
    return Path(wanted) / "jaylantern" if wanted else platformdirs.user_cache_path("jaylantern", appauthor=False)


@contextmanager
def scratch(within: Path | None = None) -> Iterator[Path]:
    """A folder to work in, nobody else's to read, gone afterwards. What killed work left beside it goes first."""
    place = within or root()
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    clear(place)
    folder, lock = _begun(place)
    try:
        yield folder / FILES
    finally:
        lock.release()
        shutil.rmtree(folder, ignore_errors=True)


def _begun(place: Path) -> tuple[Path, Lock]:
    for _ in range(_MOST_TRIES):  # whoever clears may come between making one and holding it
        folder = place / f"jaylantern-{uuid4().hex}"
        folder.mkdir(mode=0o700)
        try:
            lock = Lock(folder / HELD, str)
            (folder / FILES).mkdir(mode=0o700)
            return folder, lock
        except (OSError, Refused):
            shutil.rmtree(folder, ignore_errors=True)
    raise Refused(f"No folder to work in could be made in {place}.")


def clear(place: Path) -> None:
    """Take away the folders of ours in a place whose processes are gone."""
    with suppress(OSError):
        for folder in place.iterdir():
            if _NAME.fullmatch(folder.name) and folder.is_dir() and not folder.is_symlink():
                _clear_one(folder)


def _clear_one(folder: Path) -> None:
    if not (folder / HELD).is_file():
        with suppress(OSError):
            if time.time() - folder.stat().st_mtime > _EMPTY_S:
                folder.rmdir()  # begun, and killed before anything was in it
        return
    try:
        lock = Lock(folder / HELD, str)
    except (Refused, OSError):
        return  # somebody is at work in it
    shutil.rmtree(folder / FILES, ignore_errors=True)
    lock.release()  # Windows removes nothing that is open
    shutil.rmtree(folder, ignore_errors=True)
