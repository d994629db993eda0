"""A data folder: where things lie.

FOLDER/jaylantern.sqlite3    projects, media, jobs      FOLDER/queue.sqlite3   work waiting
FOLDER/media/ab/abcdef…/     one medium (library/)      FOLDER/incoming/       uploads on their way
FOLDER/exports/12/           files made by job 12       FOLDER/takes/          voice takes in hand
FOLDER/secret                key for sessions          FOLDER/lock            held by the server that has it
FOLDER/runs/                 what is seen of recipes that run, written by those
"""

from __future__ import annotations

import secrets
import shutil
import sqlite3
import time
from contextlib import closing
from pathlib import Path

import platformdirs

from jaylantern.errors import InvalidValue, Refused
from jaylantern.store import connection, jobs, media, projects, takes
from jaylantern.store.connection import Line
from jaylantern.support.atomic_file import whole
from jaylantern.support.one_at_a_time import Lock

DATABASE = "jaylantern.sqlite3"
OLD_UPLOAD_S = 24 * 3600
SECRET_BYTES = 32
SPARED_BYTES = 200 * 1024 * 1024  # kept back so that the database can always write


def default_folder() -> Path:
    """The data folder of the person's own account."""
    return Path(platformdirs.user_data_dir("jaylantern", appauthor=False))


def _half_done(folder: Path) -> bool:
    """Was a media folder that no row speaks of never finished, or can it be made again at any time?"""
    return not (folder / "original").exists() or (folder / "tailored.json").exists()


class DataFolder:
    """One data folder on disk."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def must_be_there(self) -> None:
        """Raises InvalidValue where this is no data folder."""
        if not (self.path / DATABASE).is_file():
            raise InvalidValue(f"{self.path} is no data folder: there is no {DATABASE} in it.")

    def prepare(self) -> None:
        """Make the folders, nobody else's to read, and bring the database up to date. Raises Refused, and touches
        nothing, where a newer version made it, or its database has gone."""
        self._check()
        self._begin()
        self._complete()

    def prepare_alone(self) -> Lock:
        """The same, held for this process before anything in it is brought up to date, and cleared of what a kill left
        half done. Raises Refused where another process holds it."""
        self._check()
        self._begin()
        lock = self.hold()
        try:
            self._check()  # nobody has done anything to it meanwhile
            self._complete()
            self._clear()
        except BaseException:
            lock.release()
            raise
        return lock

    def _begin(self) -> None:
        self.path.mkdir(parents=True, exist_ok=True)
        self.path.chmod(0o700)

    def _complete(self) -> None:
        for name in ("media", "incoming", "exports", "takes"):
            (self.path / name).mkdir(exist_ok=True)
        with closing(self.connect()) as db:
            connection.migrate(db)
            projects.complete(db)
            self._forget_old_uploads(db)

    def _check(self) -> None:
        """Is what is there this version's to open?"""
        database, media = self.path / DATABASE, self.path / "media"
        if database.exists() and database.stat().st_size:
            newer = connection.newer(database)
            if newer:
                raise Refused(
                    f"The data folder {self.path} was made by a newer version of Jay Lantern (it has {newer[0]})."
                    " Open it with that version, or choose another folder with --data. Nothing in it was changed."
                )
        elif media.is_dir() and any(media.iterdir()):
            raise Refused(
                f"The database of {self.path} is gone or empty, though its media are there. Put {DATABASE} back, or"
                " restore a backup into another folder. Nothing in it was changed."
            )

    def hold(self) -> Lock:
        """Hold the folder for this process. Raises Refused where another one does."""
        return Lock(
            self.path / "lock",
            lambda holder: (
                f"The data folder {self.path} is in use by another Jay Lantern ({holder or 'it is just starting'}). Use"
                " that one, end it first, or choose another folder with --data."
            ),
        )

    def _clear(self) -> None:
        """Take away what a kill left half done, and nothing speaks of any more. Only for who holds the folder."""
        with closing(self.connect()) as db:
            sent = {upload.token for upload in jobs.uploads(db)}
            sent |= {job.payload["token"] for job in jobs.unfinished(db) if job.kind == "import"}
            spoken, made = takes.tokens_in_hand(db), jobs.with_files(db)
            kept = media.hashes(db)
        left = [
            *self.path.rglob("part-*"),
            *self.path.glob("made-*"),
            *(path for path in (self.path / "incoming").iterdir() if path.name not in sent),
            *(path for path in (self.path / "takes").iterdir() if path.stem not in spoken),
            *(path for path in (self.path / "exports").iterdir() if path.name not in made),
            *(path for path in (self.path / "media").glob("*/*") if path.name not in kept and _half_done(path)),
        ]
        for path in left:
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)

    def _forget_old_uploads(self, db: sqlite3.Connection) -> None:
        """Give up files whose parts stopped coming a day ago."""
        for upload in jobs.uploads(db):
            path = self.incoming(upload.token)
            if not path.exists() or time.time() - path.stat().st_mtime > OLD_UPLOAD_S:
                jobs.drop_upload(db, upload.token)
                path.unlink(missing_ok=True)

    def connect(self, *, patience_s: float = connection.PATIENCE_S, line: Line | None = None) -> sqlite3.Connection:
        """A new connection to the database, as `store/connection.py` has it; the caller closes it."""
        return connection.connect(self.path / DATABASE, patience_s=patience_s, line=line)

    def secret(self) -> bytes:
        """The key that signs sessions, made on first use, readable by its owner only."""
        path = self.path / "secret"
        known = path.read_bytes() if path.exists() else b""
        if len(known) == SECRET_BYTES:
            return known
        fresh = secrets.token_bytes(SECRET_BYTES)  # one that was not written whole signs nothing

        def write(part: Path) -> None:
            part.touch(mode=0o600)
            part.write_bytes(fresh)

        whole(path, write, sync=True, shared=True)
        return path.read_bytes()

    def incoming(self, token: str) -> Path:
        """Where an upload's bytes are collected."""
        return self._named(token, "incoming")

    def take(self, token: str) -> Path:
        """Where a take's samples are collected; its WAV file lies beside it."""
        return self._named(token, "takes")

    def _named(self, token: str, folder: str) -> Path:
        """A file called by a token; tokens are ours, never a person's file name."""
        if not token.isalnum():
            raise ValueError("tokens are hexadecimal")
        return self.path / folder / token

    def media(self, sha256: str) -> Path:
        """Where a medium lies."""
        return self.path / "media" / sha256[:2] / sha256

    def exports(self, job_id: int) -> Path:
        """Where a job's files lie."""
        return self.path / "exports" / str(job_id)

    def room_bytes(self) -> int:
        """Room that is left at all."""
        return shutil.disk_usage(self.path).free

    def free_bytes(self) -> int:
        """Room left for files."""
        return max(0, self.room_bytes() - SPARED_BYTES)
