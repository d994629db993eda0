"""What is seen of a run while it goes: every film, how far it is, how many an hour; kept for the page where asked."""

from __future__ import annotations

import json
import re
import time
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from threading import Event, RLock, Thread
from typing import Any

from jaylantern.fleet.outcome import Outcome, State, outcome_of
from jaylantern.support.atomic_file import whole_text

WRITTEN_EVERY_S, SIGN_OF_LIFE_S, GONE_S = 1.0, 10.0, 60.0
FOLDER = "runs"  # of a data folder
BOARD = re.compile(r"\d{8}-\d{6}-\d{6}\.json")  # what ours are called there
MOST_KEPT = 30
MOST_ROWS = 1000  # of a folder that is watched for months
MOST_BYTES = 50_000_000
HOUR_S = 3600.0


class Going(StrEnum):
    """How far a film is."""

    WAITING = "waiting"
    MAKING = "making"
    DONE = "done"


@dataclass
class Row:
    """A film of a run."""

    film: str
    going: Going = Going.WAITING
    share: float = 0.0
    doing: str = ""
    outcome: Outcome | None = None


@dataclass(frozen=True)
class Figures:
    """How a run stands: films by how far they are, films made an hour so far, seconds that are left at that rate."""

    films: int
    waiting: int
    making: int
    made: int
    there: int
    failed: int
    per_hour: float | None
    left_s: float | None

    @property
    def done(self) -> int:
        """Films of which it is known what became of them."""
        return self.films - self.waiting - self.making


def figures(rows: Sequence[Row], ran_s: float) -> Figures:
    """How rows stand after so many seconds."""
    going = [row.going for row in rows]
    done = [row.outcome for row in rows if row.outcome is not None]
    there = sum(each.state is State.THERE for each in done)
    failed = sum(each.bad for each in done)
    worked = len(done) - there
    per_hour = worked / ran_s * HOUR_S if worked and ran_s > 0 else None
    left = going.count(Going.WAITING) + sum(1 - row.share for row in rows if row.going is Going.MAKING)
    left_s = left / per_hour * HOUR_S if per_hour is not None else None
    return Figures(
        len(rows),
        going.count(Going.WAITING),
        going.count(Going.MAKING),
        worked - failed,
        there,
        failed,
        per_hour,
        left_s,
    )


Shown = Callable[["Board", int], None]  # the board has changed, at the row of that number


class Board:
    """All films of a run as they stand. Told from several threads."""

    def __init__(self, films: Sequence[str], about: Mapping[str, str], *, shown: Sequence[Shown] = ()) -> None:
        self.rows = [Row(name) for name in films]
        self.about, self._shown = dict(about), shown
        self.begun_at, self._begun = datetime.now(UTC), time.monotonic()
        self.ended, self.changes = False, 0
        self.lock = RLock()
        self._done: deque[int] = deque()  # in that order

    def add(self, film: str) -> int:
        """One more film; answers its number. Where there are very many it takes the place of what was done first."""
        with self.lock:
            self.changes += 1
            if len(self.rows) >= MOST_ROWS and self._done:
                number = self._done.popleft()
                self.rows[number] = Row(film)
                return number
            self.rows.append(Row(film))
            return len(self.rows) - 1

    def doing(self, i: int, share: float, doing: str) -> None:
        """Film number `i` is so far, 0 to 1, and this is being done to it."""
        with self.lock:
            row = self.rows[i]
            if row.going is not Going.DONE:
                row.going, row.share, row.doing = Going.MAKING, min(max(share, 0.0), 1.0), doing
                self._show(i)

    def done(self, i: int, outcome: Outcome) -> None:
        """What became of film number `i`."""
        with self.lock:
            row = self.rows[i]
            row.going, row.share, row.doing, row.outcome = Going.DONE, 1.0, "", outcome
            self._done.append(i)
            self._show(i)

    def _show(self, i: int) -> None:
        self.changes += 1
        for shown in self._shown:
            shown(self, i)

    def figures(self) -> Figures:
        """How it stands."""
        with self.lock:
            return figures(self.rows, time.monotonic() - self._begun)

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON."""
        with self.lock:
            return {
                "about": self.about,
                "begun": self.begun_at.isoformat(timespec="seconds"),
                "seen": datetime.now(UTC).isoformat(timespec="seconds"),
                "ended": self.ended,
                "figures": asdict(self.figures()),
                "rows": [
                    {**asdict(row), "outcome": None if row.outcome is None else row.outcome.plain} for row in self.rows
                ],
            }


class Kept:
    """A board written into a folder while it changes, for the page: now and then, and when the run ends."""

    def __init__(self, board: Board, folder: Path) -> None:
        with suppress(OSError):
            folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._board, self._ending = board, Event()
        self._path = folder / f"{board.begun_at:%Y%m%d-%H%M%S-%f}.json"
        boards = [path for path in folder.glob("*.json") if BOARD.fullmatch(path.name)]
        for old in sorted(boards)[: -MOST_KEPT + 1]:
            old.unlink(missing_ok=True)
        self._thread = Thread(target=self._keep, daemon=True)

    def __enter__(self) -> Kept:
        self._write()
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ending.set()
        self._thread.join()
        self._board.ended = True
        self._write()

    def _keep(self) -> None:
        last, written = 0, 0.0
        while not self._ending.wait(WRITTEN_EVERY_S):
            now, changes = time.monotonic(), self._board.changes
            if changes != last or now - written > SIGN_OF_LIFE_S:
                last, written = changes, now
                self._write()

    def _write(self) -> None:
        with suppress(OSError):  # the run is worth more than its picture
            whole_text(self._path, lambda out: json.dump(self._board.plain, out))


@dataclass(frozen=True)
class Seen:
    """A run as it was written down: `begun` and `seen` in UTC. One that has not `ended` and was not seen for a minute
    has broken off."""

    name: str
    about: Mapping[str, str]
    begun: datetime
    seen: datetime
    ended: bool
    figures: Figures
    rows: Sequence[Row] = field(default_factory=list)

    @property
    def runs(self) -> bool:
        """Does it still run?"""
        return not self.ended and (datetime.now(UTC) - self.seen).total_seconds() < GONE_S


def seen_in(folder: Path) -> list[Seen]:
    """The runs written into a folder, the newest first; what can't be read is passed over."""
    paths = sorted(folder.glob("*.json"), reverse=True) if folder.is_dir() else []
    return [found for path in paths[:MOST_KEPT] if (found := _read(path)) is not None]


def seen(folder: Path, name: str) -> Seen | None:
    """One run written into a folder, by its name; None where there is none of it."""
    return _read(folder / f"{name}.json") if Path(name).name == name else None


def _read(path: Path) -> Seen | None:
    try:
        if path.stat().st_size > MOST_BYTES:
            return None
        kept = json.loads(path.read_text(encoding="utf-8"))
        rows = [
            Row(
                str(each["film"]),
                Going(each["going"]),
                float(each["share"]),
                str(each["doing"]),
                None if each["outcome"] is None else outcome_of(each["outcome"]),
            )
            for each in kept["rows"]
        ]
        begun, seen = (datetime.fromisoformat(kept[name]) for name in ("begun", "seen"))
        about = {str(name): str(value) for name, value in kept["about"].items()}
        return Seen(path.stem, about, begun, seen, kept["ended"] is True, Figures(**kept["figures"]), rows)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return None
