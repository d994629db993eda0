"""A data folder: where things lie.

FOLDER/jaylantern.sqlite3    projects, media, jobs      FOLDER/queue.sqlite3   work waiting
FOLDER/media/ab/abcdef…/     one medium (library/)      FOLDER/incoming/       uploads on their way
FOLDER/exports/12/           files made by job 12       FOLDER/takes/          voice takes in hand
FOLDER/secret                key for sessions          FOLDER/lock            held by the server that has it
FOLDER/runs/                 what is seen of recipes that run, written by those
FOLDER/key                   lets a browser in, once
FOLDER/jay-lantern-data      says that the folder is ours; written before anything else

A folder that holds something and is not ours is refused. What is cleared in ours is what the database or its ledger
(`store/ours.py`) says that we made, and nobody wants any more.
"""

from __future__ import annotations

import hashlib
import secrets
import shutil
import sqlite3
import time
from collections.abc import Collection
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path

import platformdirs

from jaylantern.errors import InvalidValue, Refused
from jaylantern.store import connection, jobs, made, media, ours, projects, takes
from jaylantern.store.connection import Line, atomic
from jaylantern.support import scratch, system
from jaylantern.support.atomic_file import unfinished_of, whole
from jaylantern.support.one_at_a_time import Lock

DATABASE = "jaylantern.sqlite3"
MARK, LOCK, SECRET = "jay-lantern-data", "lock", "secret"
MARK_WORDS = (
    "This folder holds the projects, media and finished files of Jay Lantern, which looks after what lies in it.\n"
    "Keep files of your own elsewhere.\n"
)
OF_THE_SYSTEM = frozenset({"lost+found", ".DS_Store", "Thumbs.db", "desktop.ini"})  # lie in folders that are empty
NAMED = 3  # so many of the files in a foreign folder are named
OLD_UPLOAD_S = 24 * 3600
SECRET_BYTES = 32
KEY, KEY_BYTES = "key", 24
SPARED_BYTES = 200 * 1024 * 1024  # kept back so that the database can always write


def default_folder() -> Path:
    """The data folder of the person's own account."""
    return platformdirs.user_data_path("jaylantern", appauthor=False) / system.DATA_WITHIN


def _put_private(path: Path, content: bytes, *, sync: bool = False) -> None:
    """Write a small file that its owner alone can read, whole or not at all."""

    def write(part: Path) -> None:
        part.touch(mode=0o600)
        part.write_bytes(content)

    whole(path, write, sync=sync)


def _only_runs(path: Path) -> bool:
    """Is it what recipes told of their runs, before the folder was used for anything else?"""
    return path.name == "runs" and path.is_dir() and all(each.suffix == ".json" for each in path.iterdir())


class DataFolder:
    """One data folder on disk; what is read of its projects may be kept in a memo."""

    def __init__(self, path: Path, memo: connection.Lately | None = None) -> None:
        self.path, self._memo = system.with_room(path), memo

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
        system.the_owners_alone(self.path)
        if not (self.path / MARK).exists():
            (self.path / MARK).write_text(MARK_WORDS, encoding="utf-8")

    def _complete(self) -> None:
        for name in ("media", "incoming", "exports", "takes"):
            (self.path / name).mkdir(exist_ok=True)
        with closing(self.connect()) as db:
            connection.migrate(db)
            projects.complete(db)
            self._forget_old_uploads(db)

    def _check(self) -> None:
        """Is what is there this version's to open? Changes nothing."""
        database, media = self.path / DATABASE, self.path / "media"
        if database.exists() and database.stat().st_size:
            newer = connection.newer(database)
            if newer:
                raise Refused(
                    f"The data folder {self.path} was made by a newer version of Jay Lantern (it has {newer[0]})."
                    " Open it with that version, or choose another folder with --data. Nothing in it was changed."
                )
        elif not (self.path / MARK).is_file():
            self._must_be_free()
        elif media.is_dir() and any(media.iterdir()):
            raise Refused(
                f"The database of {self.path} is gone or empty, though its media are there. Put {DATABASE} back, or"
                " restore a backup into another folder. Nothing in it was changed."
            )

    def _must_be_free(self) -> None:
        """Raises Refused where this is something of the person's own."""
        if not self.path.exists():
            return
        if not self.path.is_dir():
            raise Refused(f"{self.path} is a file, not a folder. Choose a new or an empty folder with --data.")
        there = sorted(
            path.name
            for path in self.path.iterdir()
            if path.name not in OF_THE_SYSTEM
            and not (path.name in (DATABASE, LOCK) and path.is_file() and not path.stat().st_size)
            and not _only_runs(path)
        )
        if there:
            more = f" and {len(there) - NAMED} more" if len(there) > NAMED else ""
            raise Refused(
                f"{self.path} is not empty, and Jay Lantern did not make it: there is {', '.join(there[:NAMED])}{more}."
                " Choose a new or an empty folder with --data. Nothing in it was changed."
            )

    def hold(self) -> Lock:
        """Hold the folder for this process. Raises Refused where another one does."""
        return Lock(
            self.path / LOCK,
            lambda holder: (
                f"The data folder {self.path} is in use by another Jay Lantern ({holder or 'it is just starting'}). Use"
                " that one, end it first, or choose another folder with --data."
            ),
        )

    def holder(self) -> str:
        """What the server that has the folder says of itself."""
        return Lock.holder(self.path / LOCK)

    def _clear(self) -> None:
        """Take away what a kill left half done, and nothing speaks of any more. Only for who holds the folder."""
        with closing(self.connect()) as db:
            jobs.begin_afresh(db)
            self.clear_removed(db)
            wanted = {f"incoming/{upload.token}" for upload in jobs.uploads(db)}
            wanted |= {f"incoming/{job.payload['token']}" for job in jobs.unfinished(db) if job.kind == "import"}
            wanted |= {f"takes/{token}{end}" for token in takes.tokens_in_hand(db) for end in ("", ".wav")}
            known = media.hashes(db)
            entries = ours.paths(db)
            for path in entries:
                if path.startswith("media/") and Path(path).name in known:
                    ours.settle(db, path)
                elif path not in wanted:
                    self.remove(db, path)
        self._clear_unfinished({*entries, SECRET, KEY}, known)
        scratch.clear(self.path)

    def _clear_unfinished(self, names: Collection[str], hashes: Collection[str]) -> None:
        """Take away unfinished files: those of what is ours by name, and those in the folders of media."""
        folders = [self.path, *(self.path / name for name in ("incoming", "takes"))]
        of_ours = [
            path
            for folder in folders
            for path in folder.iterdir()
            if (name := unfinished_of(path.name)) and (folder / name).relative_to(self.path).as_posix() in names
        ]
        runs = self.path / "runs"
        of_runs = [path for path in runs.glob("part-*.json") if unfinished_of(path.name)] if runs.is_dir() else []
        of_media = [
            path
            for sha256 in hashes
            for folder in (self.media(sha256), *self.media(sha256).glob("care-*"))
            for path in folder.glob("part-*")
        ]
        for path in (*of_ours, *of_runs, *of_media):
            path.unlink(missing_ok=True)

    def clear_removed(self, db: sqlite3.Connection, *, at: datetime | None = None) -> int:
        """Take away for good what was removed so long ago that it is not brought back; how many bytes that frees."""
        freed = 0
        for each in made.over(db, at=at):
            folder = self.exports(each.job_id)
            freed += sum(path.stat().st_size for path in folder.glob("*"))
            made.give_up(db, each.job_id)
            self.remove(db, f"exports/{each.job_id}")
        return freed

    def remove(self, db: sqlite3.Connection, *paths: str) -> None:
        """Take away something that the ledger has, if it is there; then the ledger has it no more."""
        for name in paths:
            if ours.is_ours(db, name):
                path = self.path / name
                if path.is_dir() and not path.is_symlink():
                    shutil.rmtree(path, ignore_errors=True)
                else:
                    with suppress(OSError):  # then the next start does it
                        system.remove(path)
                if not path.exists():
                    ours.settle(db, name)

    def claim(self, db: sqlite3.Connection, name: str) -> Path:
        """A path that is ours from now on, with nothing in it: what work of ours left there is gone. Raises Refused
        where something lies there that we did not make."""
        path = self.path / name
        self.remove(db, name)
        if path.exists():
            raise Refused(f"{path} is in the way, and Jay Lantern did not make it. Take it elsewhere, then try again.")
        ours.begin(db, name)
        return path

    def _forget_old_uploads(self, db: sqlite3.Connection) -> None:
        """Give up files whose parts stopped coming a day ago."""
        for upload in jobs.uploads(db):
            path = self.incoming(upload.token)
            if not path.exists() or time.time() - path.stat().st_mtime > OLD_UPLOAD_S:
                with atomic(db):
                    jobs.drop_upload(db, upload.token)
                self.remove(db, f"incoming/{upload.token}")

    def connect(self, *, patience_s: float = connection.PATIENCE_S, line: Line | None = None) -> sqlite3.Connection:
        """A new connection to the database, as `store/connection.py` has it; the caller closes it."""
        return connection.connect(self.path / DATABASE, patience_s=patience_s, line=line, memo=self._memo)

    def secret(self) -> bytes:
        """The key that signs sessions, made on first use, readable by its owner only."""
        path = self.path / SECRET
        known = path.read_bytes() if path.exists() else b""
        if len(known) == SECRET_BYTES:
            return known
        fresh = secrets.token_bytes(SECRET_BYTES)  # one that was not written whole signs nothing
        _put_private(path, fresh, sync=True)
        return path.read_bytes()

    @property
    def name(self) -> str:
        """What tells this folder from others on the machine, without saying where it lies."""
        return hashlib.sha256(b"name" + self.secret()).hexdigest()[:12]

    def key(self) -> str:
        """The key that lets a browser in, once; readable by its owner only."""
        try:
            known = (self.path / KEY).read_text(encoding="ascii").strip()
        except (OSError, ValueError):
            known = ""
        return known if len(known) >= KEY_BYTES else self.new_key()

    def new_key(self) -> str:
        """Another key in the place of the one that was used, or printed by an earlier start."""
        fresh = secrets.token_urlsafe(KEY_BYTES)
        _put_private(self.path / KEY, f"{fresh}\n".encode("ascii"))
        return fresh

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
