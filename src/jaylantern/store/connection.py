"""Opening the database, transactions, and the numbered migrations."""

from __future__ import annotations

import os
import sqlite3
import threading
from collections.abc import Hashable, Iterator
from contextlib import closing, contextmanager, nullcontext
from datetime import UTC, datetime
from importlib.resources import files
from pathlib import Path
from typing import Any, Protocol
from urllib.parse import quote

from jaylantern.errors import Refused

PATIENCE_S = 30.0


class Line:
    """Where those wait who want to write: at most so many at once, so that whoever reads is not kept by them."""

    def __init__(self, most: int) -> None:
        self._places = threading.Semaphore(most)

    @contextmanager
    def place(self) -> Iterator[None]:
        """A place in the line. Raises Refused at once where there is none."""
        if not self._places.acquire(blocking=False):
            raise Refused("Several changes wait to be written to the data folder already. Try again in a moment.")
        try:
            yield
        finally:
            self._places.release()


class Lately(Protocol):
    """What was read lately, by key."""

    def peek(self, key: tuple[Hashable, ...]) -> Any | None:
        """The thing of a key, None where there is none."""

    def keep(self, key: tuple[Hashable, ...], made: object) -> None:
        """Hold a thing."""


class Connection(sqlite3.Connection):
    """A connection to the database that may have to stand in line before it changes anything, and may be told what was
    read through others like it lately."""

    line: Line | None = None
    memo: Lately | None = None


def connect(
    path: Path, *, patience_s: float = PATIENCE_S, line: Line | None = None, memo: Lately | None = None
) -> sqlite3.Connection:
    """A connection in autocommit mode: write-ahead log, foreign keys, every commit synced; so long it waits for
    whoever else is writing to the database, in a line with others like it. Projects are read once with a `memo`."""
    connection = sqlite3.connect(
        path, isolation_level=None, timeout=patience_s, check_same_thread=False, factory=Connection
    )
    connection.line, connection.memo = line, memo
    connection.row_factory = sqlite3.Row
    try:
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
    except sqlite3.Error:  # a file that is kept open here can't be replaced or removed by whoever mends it
        connection.close()
        raise
    return connection


@contextmanager
def atomic(connection: sqlite3.Connection) -> Iterator[None]:
    """All or nothing. Inside another `atomic` it joins that one."""
    if connection.in_transaction:
        yield
        return
    line = getattr(connection, "line", None)
    with line.place() if line is not None else nullcontext():
        connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def now() -> str:
    """The present moment as ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="seconds")


DISK_WORDS = {
    "SQLITE_FULL": "no space is left on the disk",
    "SQLITE_READONLY": "it can't be written to",
    "SQLITE_CANTOPEN": "it can't be opened",
    "SQLITE_IOERR": "the disk does not answer as it should",
    "SQLITE_CORRUPT": "its database is damaged; restore a backup",
    "SQLITE_NOTADB": "its database is damaged; restore a backup",
    "SQLITE_BUSY": "something else is writing to it just now, another window's work or another program; try again",
}


NOT_OURS = "its database is not as this version knows it: a newer one may have changed it, or it is damaged"


def disk_trouble(error: sqlite3.Error) -> str | None:
    """In words, what of the disk or the data folder keeps the database from working; None for any other error."""
    name = getattr(error, "sqlite_errorname", "") or ""
    if name == "SQLITE_ERROR" and str(error).startswith(("no such column", "no such table")):
        return NOT_OURS
    return next((words for begin, words in DISK_WORDS.items() if name.startswith(begin)), None)


def damages(connection: sqlite3.Connection) -> list[str]:
    """What is wrong with a database, a line each; none of a sound one."""
    found = [row[0] for row in connection.execute("PRAGMA integrity_check(20)") if row[0] != "ok"]
    loose = {row["table"] for row in connection.execute("PRAGMA foreign_key_check")}
    return [*(f"The database: {each}" for each in found),
            *(f"The database: rows of {table} speak of what is not there." for table in sorted(loose))]  # fmt: skip


def newer(path: Path) -> list[str]:
    """Migrations that a database has and this version does not know; looks only, and changes nothing."""
    log = path.with_name(f"{path.name}-wal")
    whole = not log.exists() or not log.stat().st_size  # then not even SQLite has to put anything beside it
    how = "mode=ro&immutable=1" if whole else "mode=ro"
    with closing(sqlite3.connect(f"file:{quote(os.fsencode(path.absolute()))}?{how}", uri=True)) as connection:
        known = {each.name for each in (files("jaylantern.store") / "migrations").iterdir()}
        there = connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'migration'").fetchone()
        done = connection.execute("SELECT name FROM migration ORDER BY name").fetchall() if there else []
        return [name for (name,) in done if name not in known]


def migrate(connection: sqlite3.Connection) -> list[str]:
    """Apply the migrations not yet applied, each in one transaction with its record; returns their names."""
    connection.execute(
        "CREATE TABLE IF NOT EXISTS migration (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT, WITHOUT ROWID"
    )
    done = {row["name"] for row in connection.execute("SELECT name FROM migration")}
    folder = files("jaylantern.store") / "migrations"
    fresh = sorted(f.name for f in folder.iterdir() if f.name.endswith(".sql") and f.name not in done)
    for name in fresh:
        with atomic(connection):
            for statement in _statements((folder / name).read_text(encoding="utf-8")):
                connection.execute(statement)
            connection.execute("INSERT INTO migration (name, applied_at) VALUES (?, ?)", (name, now()))
    return fresh


def _statements(script: str) -> Iterator[str]:
    """The statements of a script one by one; `executescript` would commit behind our back."""
    waiting = ""
    for line in script.splitlines(keepends=True):
        waiting += line
        if sqlite3.complete_statement(waiting):
            yield waiting
            waiting = ""
    if waiting.strip():
        raise ValueError(f"A migration ends in the middle of a statement: {waiting.strip()[:60]}")


def next_id(connection: sqlite3.Connection, *, count: int = 1) -> int:
    """A number never given out before, so that undoing and redoing an addition can keep it; the first of `count`."""
    row = connection.execute("UPDATE serial SET next = next + ?1 RETURNING next - ?1 AS id", (count,)).fetchone()
    return int(row["id"])


def free_id(connection: sqlite3.Connection) -> int:
    """The first number that was never given out. It is not taken by that."""
    return int(connection.execute("SELECT next FROM serial").fetchone()["next"])


def take_ids(connection: sqlite3.Connection, first: int, *, count: int) -> bool:
    """Take so many numbers from the first that was free; False, and none is taken, where it is not any more."""
    taken = connection.execute("UPDATE serial SET next = next + ? WHERE next = ?", (count, first))
    return taken.rowcount == 1


def fact(connection: sqlite3.Connection, name: str) -> str | None:
    """A fact about the whole data folder, or None."""
    row = connection.execute("SELECT value FROM app_fact WHERE name = ?", (name,)).fetchone()
    return row["value"] if row else None


def set_fact(connection: sqlite3.Connection, name: str, value: str) -> None:
    """Remember a fact about the whole data folder."""
    connection.execute(
        "INSERT INTO app_fact (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (name, value),
    )
