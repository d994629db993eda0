"""What tests of many films share: a board that is listened to, processes that can be killed, folders of films."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable, Sequence
from contextlib import closing, suppress
from pathlib import Path

import psutil

from jaylantern.fleet import results, running
from jaylantern.fleet.board import Board
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome
from jaylantern.interchange.recipe import Recipe

Heard = Callable[[int, float, str], None]


class HeardBoard(Board):
    """A board that tells a test how far films are, before it notes it."""

    def __init__(self, films: Sequence[str], heard: Heard | None = None) -> None:
        super().__init__(films, {})
        self._heard = heard

    def doing(self, i: int, share: float, doing: str) -> None:
        """Tell the test first."""
        if self._heard is not None:
            self._heard(i, share, doing)
        super().doing(i, share, doing)


def make_all(
    films: Sequence[Film], recipe: Recipe, out: Path, heard: Heard | None = None, *, workers: int = 2, engine=None
) -> list[Outcome]:
    """Make films on the cores of this machine, or by an engine that is there."""
    board = HeardBoard([film.name for film in films], heard)
    if engine is not None:
        return running.run(films, recipe, results.results_in(out), board, engine=engine)
    with closing(running.Cores(workers)) as cores:
        return running.run(films, recipe, results.results_in(out), board, engine=cores)


def processes(of: int | None = None) -> list[psutil.Process]:
    """Processes of this process, or of another, that make films."""
    found = []
    for each in psutil.Process(of).children(recursive=True):
        try:
            if any("jaylantern.fleet.child" in word for word in each.cmdline()):
                found.append(each)
        except psutil.Error:
            pass
    return found


def at_work(of: int | None = None) -> list[int]:
    """Those that are making one now: they take time of the processor."""
    before = {each: sum(each.cpu_times()[:2]) for each in processes(of)}
    time.sleep(0.1)
    found = []
    for each, then_s in before.items():
        with suppress(psutil.Error):
            if sum(each.cpu_times()[:2]) > then_s:
                found.append(each.pid)
    return found


def hashes(out: Path) -> dict[str, str]:
    """What was made, by its content."""
    found = (path for path in sorted(out.rglob("*")) if path.is_file() and path.suffix in (".wav", ".mp4"))
    return {str(path.relative_to(out)): hashlib.sha256(path.read_bytes()).hexdigest() for path in found}
