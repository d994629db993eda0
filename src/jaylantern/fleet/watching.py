"""A watched folder: what arrives and has stopped growing is made, then put into done or failed with a report.

FOLDER/NAME/            what arrived: one folder, a film or several below it
FOLDER/made/NAME/       its results, whole or not there
FOLDER/done/NAME/       the same folder afterwards, NAME.txt and NAME.json beside it; or failed/ where one is not made
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path

from jaylantern.errors import JayError, MediaError
from jaylantern.fleet.board import Board
from jaylantern.fleet.child import Job
from jaylantern.fleet.films import DEEP, Film, films_in
from jaylantern.fleet.folders import TRIES
from jaylantern.fleet.outcome import Outcome, State, as_text, by_need, table, write_json
from jaylantern.fleet.results import Results
from jaylantern.fleet.running import Engine, outcome_of
from jaylantern.interchange.recipe import Recipe
from jaylantern.support import system
from jaylantern.support.atomic_file import put_text
from jaylantern.support.disk import full
from jaylantern.support.one_at_a_time import Lock

MADE, DONE, FAILED = "made", "done", "failed"
ON_ITS_WAY = {".part", ".partial", ".tmp", ".temp", ".crdownload", ".download", ".filepart"}
AGAIN_S = 60.0  # after a full disk
RUN = f"{TRIES}watch"  # what was begun when everything was killed is still known after a new start
Look = tuple[tuple[str, int, int], ...]  # path, size, time of every file


def look_at(folder: Path) -> Look | None:
    """Every file of a folder as it is now; None where it is gone or goes while it is looked at."""
    found = []

    def gone(error: OSError) -> None:
        raise error

    try:
        for at, folders, names in os.walk(folder, onerror=gone):
            folders.sort()
            for name in sorted(names):
                facts = (Path(at) / name).stat()
                found.append(((Path(at) / name).relative_to(folder).as_posix(), facts.st_size, facts.st_mtime_ns))
    except OSError:
        return None
    return tuple(found)


def still_coming(look: Look) -> bool:
    """Is a file of it named as those are that are still being sent, or is nothing there yet?"""
    return not look or any(Path(path).suffix.lower() in ON_ITS_WAY for path, _, _ in look)


@dataclass
class Arrival:
    """A folder that has come: how it looks, since when; once it is taken what is made of it."""

    look: Look
    since: float
    films: Sequence[Film] = ()
    going: list[Future[Outcome]] | None = None
    wrong: str = ""
    not_before: float = 0.0
    told: set[str] = field(default_factory=set)


class Watch:
    """A watched folder. `look` is called again and again; it takes what has settled and puts away what is made.

    `say` is told in one line what happens. `now` gives seconds; `but` is passed over, where results
    go into the folder itself. Raises Refused where another process watches it.
    """

    def __init__(
        self,
        folder: Path,
        recipe: Recipe,
        results: Results,
        engine: Engine,
        board: Board,
        say: Callable[[str], None],
        *,
        settle_s: float = 10.0,
        now: Callable[[], float] = time.monotonic,
        but: Path | None = None,
    ) -> None:
        if not folder.is_dir():
            raise MediaError(f"{folder} is not there, or is no folder.")
        self._named, folder = folder, system.with_room(folder, DEEP)
        self._lock = Lock(
            folder / ".watched", lambda holder: f"{self._named} is watched already ({holder or 'just now'})."
        )
        self._folder, self._recipe, self._results = folder, recipe, results
        self._engine, self._board, self._say = engine, board, say
        self._settle_s, self._now = settle_s, now
        self._here: dict[str, Arrival] = {}
        self._loose: set[str] = set()
        self._lost = False
        self._ours = {MADE, DONE, FAILED} | (
            {but.name} if but and system.real(system.with_room(but, DEEP)).parent == system.real(folder) else set()
        )
        results.clear()

    def close(self) -> None:
        """Watch no more. What was not put away is looked at again by the next who watches."""
        for arrival in self._here.values():
            self._forget(arrival)
        self._lock.release()

    def _forget(self, arrival: Arrival) -> None:
        for film in arrival.films:
            self._results.forget(RUN, film)

    def look(self) -> bool:
        """Look once; answers whether something is waiting or being made."""
        there = self._there()
        for name in [*self._here]:
            if name not in there and self._here[name].going is None:
                del self._here[name]
        for name in there:
            self._wait_for(name)
        for name, arrival in [*self._here.items()]:
            if arrival.going is not None and all(future.done() for future in arrival.going):
                self._finish(name, arrival)
        return bool(self._here)

    def _there(self) -> list[str]:
        """The folders that have come."""
        names = []
        try:
            paths = sorted(self._folder.iterdir())
        except OSError as error:  # a share that comes and goes
            if not self._lost:
                self._say(f"{self._named} can't be read, waiting: {error.strerror or error}")
            self._lost = True
            return [*self._here]
        if self._lost:
            self._lost = False
            self._say(f"{self._named} is back")
        for path in paths:
            if path.name.startswith(".") or path.name in self._ours:
                continue
            if path.is_dir():
                names.append(path.name)
            elif path.name not in self._loose:
                self._loose.add(path.name)
                self._say(f"{path.name}: left alone, a film comes as a folder")
        return names

    def _wait_for(self, name: str) -> None:
        """Take a folder once it has looked the same for long enough."""
        look, now = look_at(self._folder / name), self._now()
        arrival = self._here.get(name)
        if look is None or (arrival is not None and arrival.going is not None):
            return
        if arrival is None or arrival.look != look:
            if arrival is None:
                self._say(f"{name}: has come")
            self._here[name] = Arrival(look, now)
        elif now - arrival.since >= self._settle_s and now >= arrival.not_before and not still_coming(look):
            self._take(name, arrival)

    def _take(self, name: str, arrival: Arrival) -> None:
        at = self._folder / name
        arrival.going = []
        try:
            found = films_in(at, self._recipe)
        except JayError as error:
            arrival.wrong = str(error).replace(str(at), name)
            return
        films = [replace(film, name=name if film.folder == at else f"{name}/{film.name}") for film in found]
        arrival.films = films
        for film in films:
            number = self._board.add(film.name)
            if film.wrong:
                future = _known(Outcome(film.name, State.FAILED, failed=film.wrong))
            else:
                job = Job(film, self._recipe, self._results, RUN)
                future = self._engine.submit(job, partial(self._board.doing, number))
            future.add_done_callback(partial(self._done, number, film))
            arrival.going.append(future)
        self._say(f"{name}: taken, {len(films)} film{'' if len(films) == 1 else 's'}")

    def _done(self, number: int, film: Film, future: Future[Outcome]) -> None:
        self._board.done(number, outcome_of(future, film))

    def _finish(self, name: str, arrival: Arrival) -> None:
        """Put away what is made, or wait again where it changed meanwhile or the disk was full."""
        assert arrival.going is not None
        outcomes = [outcome_of(future, film) for future, film in zip(arrival.going, arrival.films, strict=True)]
        self._forget(arrival)
        look = look_at(self._folder / name)
        if look != arrival.look:
            self._say(f"{name}: {'has gone' if look is None else 'was changed'} while it was made, so it waits again")
            del self._here[name]
            return
        if any(each.state is State.NO_ROOM for each in outcomes):
            self._wait_for_room(name, arrival)
            return
        if arrival.wrong:
            outcomes = [Outcome(name, State.FAILED, failed=arrival.wrong)]
        where = FAILED if any(each.bad for each in outcomes) else DONE
        try:
            target = self._put_away(name, where, by_need(outcomes))
        except OSError as error:
            if full(error):
                self._wait_for_room(name, arrival)
            elif str(error) not in arrival.told:  # it is tried again at each look
                arrival.told.add(str(error))
                self._say(f"{name}: can't be put into {where}: {error}")
            return
        del self._here[name]
        for film in arrival.films:
            self._results.keep_aside(film, None)  # who brings it again wants it tried again
        said = next((each.failed for each in by_need(outcomes) if each.failed), "")
        self._say(f"{name}: {where}{f' as {target.name}' if target.name != name else ''}{f': {said}' if said else ''}")

    def _wait_for_room(self, name: str, arrival: Arrival) -> None:
        self._say(f"{name}: the disk is full; tried again in {AGAIN_S:.0f} s")
        self._here[name] = Arrival(arrival.look, arrival.since, not_before=self._now() + AGAIN_S)

    def _put_away(self, name: str, where: str, outcomes: Sequence[Outcome]) -> Path:
        """Move the folder, its report beside it first."""
        away = self._folder / where
        away.mkdir(exist_ok=True)
        number, target = 1, away / name
        while any(away.joinpath(f"{target.name}{end}").exists() for end in ("", ".json", ".txt")):
            number += 1
            target = away / f"{name} ({number})"
        lines = [*table(outcomes), ""]
        for each in outcomes:
            lines += [f"{each.film}: {said}" for said in each.said]
        put_text(away / f"{target.name}.json", as_text(write_json, outcomes))
        put_text(away / f"{target.name}.txt", "\n".join(lines).rstrip() + "\n")
        (self._folder / name).rename(target)
        return target


def _known(outcome: Outcome) -> Future[Outcome]:
    future: Future[Outcome] = Future()
    future.set_result(outcome)
    return future
