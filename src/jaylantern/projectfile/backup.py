"""Backup of a data folder as one zip file, and restoring it elsewhere.

A backup may be made while the application runs: the database is copied by SQLite itself in one consistent state, and
media never change once they are there. What is still being brought in, recorded or made is not in it.

backup.zip:  jaylantern.sqlite3    media/ab/abcdef…/…    exports/12/…
"""

from __future__ import annotations

import shutil
import zipfile
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

from jaylantern.errors import MediaError, Refused
from jaylantern.store import snapshot
from jaylantern.support import safe_zip
from jaylantern.support.atomic_file import unfinished
from jaylantern.support.progress import Progress, silent
from jaylantern.support.scratch import scratch
from jaylantern.workspace.folder import DATABASE, DataFolder
from jaylantern.workspace.workspace import Workspace

FOLDERS = ("media", "exports")
ROOM_BYTES = 64 * 1024 * 1024  # kept free beside what is restored


def backup(data: Path, target: Path, *, progress: Progress = silent) -> int:
    """Write a backup of a data folder; returns how many files are in it. The file is whole or not there.

    Raises InvalidValue where there is no data folder, Refused where the target is there already.
    """
    DataFolder(data).must_be_there()
    if target.exists():
        raise Refused(f"{target} is there already. Choose another name, or take it away first.")
    with unfinished(target) as part, scratch() as folder:
        copy = folder / DATABASE
        wanted = list(_files(Workspace(data), snapshot.take(data / DATABASE, copy)))
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as archive:
            archive.write(copy, DATABASE, zipfile.ZIP_DEFLATED)
            for i, path in enumerate(wanted, 1):
                archive.write(path, path.relative_to(data).as_posix())
                progress(i / len(wanted), "backing up")
    return len(wanted) + 1


def _files(workspace: Workspace, known: snapshot.Known) -> Iterator[Path]:
    """The files of what the database knows, in order."""
    folders = [workspace.folder.media(sha256) for sha256 in sorted(known.media)]
    folders += [workspace.folder.exports(number) for number in sorted(known.exports)]
    for folder in folders:
        yield from (path for path in sorted(folder.rglob("*")) if path.is_file() and not path.is_symlink())


def restore(source: Path, data: Path, *, progress: Progress = silent) -> int:
    """Unpack a backup into a data folder that is not there yet, or is empty; returns how many files were in it.

    Nothing is there until all of it is. Raises MediaError for a file that is no backup, Refused where the folder holds
    something or the disk has no room.
    """
    if data.exists() and any(data.iterdir()):
        raise Refused(f"{data} is not empty. Restore into a new folder and start with --data.")
    with safe_zip.opened(source, name=source.name, what="backup") as archive:
        entries = safe_zip.checked(archive, name=source.name, what="backup", belongs=_belongs)
        if DATABASE not in {entry.filename for entry in entries}:
            raise MediaError(f"{source.name} is no backup: there is no {DATABASE} in it.")
        data.parent.mkdir(parents=True, exist_ok=True)
        if sum(entry.file_size for entry in entries) + ROOM_BYTES > shutil.disk_usage(data.parent).free:
            raise Refused(f"There is not enough room for what is in {source.name}.")
        with scratch(data.parent) as part:
            for i, entry in enumerate(entries, 1):
                target = part / entry.filename
                target.parent.mkdir(parents=True, exist_ok=True)
                safe_zip.unpack(archive, entry, target, name=source.name)
                progress(i / len(entries), "restoring")
            if data.exists():
                data.rmdir()
            part.replace(data)
    return len(entries)


def _belongs(path: PurePosixPath) -> bool:
    return str(path) == DATABASE or (len(path.parts) > 1 and path.parts[0] in FOLDERS)
