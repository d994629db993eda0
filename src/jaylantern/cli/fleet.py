"""The commands that make many films by a recipe: batch with --recipe, watch."""

from __future__ import annotations

import argparse
import signal
import sys
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import datetime
from pathlib import Path
from types import FrameType
from typing import Any

from tqdm import tqdm

from jaylantern.cli import recipe as recipes
from jaylantern.errors import InvalidValue
from jaylantern.fleet import board as boards
from jaylantern.fleet import places, results, running
from jaylantern.fleet.board import Board, Figures, Going, Row
from jaylantern.fleet.cluster import Cluster
from jaylantern.fleet.outcome import by_need, table, write_json
from jaylantern.fleet.running import Cores, Engine
from jaylantern.fleet.watching import MADE, Watch
from jaylantern.workspace.folder import default_folder

LOOK_S = 1.0


def add_engine(parser: argparse.ArgumentParser) -> None:
    """What makes the films."""
    parser.add_argument(
        "--cluster",
        metavar="ADDRESS",
        help="a scheduler of Dask's that runs, such as tcp://HOST:8786; default: the cores of this machine",
    )


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What watch takes."""
    parser.epilog = "It runs until it is stopped; a new start goes on where it was."
    parser.add_argument("folder", metavar="FOLDER", help="where films arrive, each as a folder")
    parser.add_argument("--recipe", type=Path, required=True, metavar="FILE", help="what is to be done with them")
    parser.add_argument("--out", type=Path, metavar="FOLDER", help="where results go, default: FOLDER/made")
    parser.add_argument(
        "--settle-s",
        type=float,
        default=10.0,
        metavar="N",
        help="a folder is taken when nothing in it has changed for so long, default: 10",
    )
    parser.add_argument("--data", type=Path, metavar="FOLDER", help="where the pages look for what runs")
    add_engine(parser)
    parser.set_defaults(run=_watch)


class Shown:
    """A board on a terminal: a bar for all, one for each film being made; where a file is written, a line for each film
    that is done."""

    def __init__(self) -> None:
        self._bars: dict[int, Any] = {}
        self._all: Any = None
        self._tty = sys.stderr.isatty()

    def __call__(self, board: Board, i: int) -> None:
        """Row `i` has changed."""
        row = board.rows[i]
        if not self._tty:
            if row.going is Going.DONE:
                print(line(board, row), file=sys.stderr, flush=True)
            return
        if self._all is None:
            self._all = tqdm(total=len(board.rows), unit=" films", position=0, leave=False)
        if row.going is Going.MAKING:
            bar = self._bars.get(i)
            if bar is None:
                taken = {-int(each.pos) for each in self._bars.values()}
                position = next(k for k in range(1, len(taken) + 2) if k not in taken)
                form = "{desc} {percentage:3.0f}%|{bar}| {postfix}"
                bar = self._bars[i] = tqdm(
                    total=1.0, desc=row.film[:24], position=position, leave=False, bar_format=form
                )
            bar.n = row.share
            bar.set_postfix_str(row.doing[:32])
        elif i in self._bars:
            self._bars.pop(i).close()
        if row.going is Going.DONE:
            found = board.figures()
            self._all.total, self._all.n = found.films, found.done
            self._all.set_postfix_str(pace(found))

    def close(self) -> None:
        """Take the bars away."""
        for bar in (*self._bars.values(), self._all):
            if bar is not None:
                bar.close()


def pace(found: Figures) -> str:
    """How a run goes, in a few words."""
    words = [f"{found.failed} not made"] if found.failed else []
    if found.per_hour is not None:
        words.append(f"{found.per_hour:.0f} an hour")
        if found.left_s:
            words.append(f"{duration(found.left_s)} left")
    return ", ".join(words)


def duration(seconds: float) -> str:
    """A time that is estimated: 40 s, 12 min, 3.5 h."""
    if seconds < 100:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 6000 else f"{seconds / 3600:.1f} h"


def line(board: Board, row: Row) -> str:
    """A line of a log: what became of a film, and how all of them stand."""
    assert row.outcome is not None
    found = board.figures()
    words = row.outcome.failed or " ".join(row.outcome.look)
    how = pace(found)
    return (
        f"{datetime.now():%H:%M:%S} {found.done} of {found.films}{f' ({how})' if how else ''}: {row.film}:"
        f" {row.outcome.state}{f': {words}' if words else ''}"
    )


def engine_of(args: argparse.Namespace) -> Engine:
    """What makes the films."""
    if not args.cluster:
        return Cores()
    found = Cluster(args.cluster)
    while not found.workers:
        print(f"No worker is there yet; waiting. Start one: dask worker {args.cluster}", file=sys.stderr, flush=True)
        time.sleep(5 * LOOK_S)
    print(f"{found.workers} workers; the scheduler's own page: {found.dashboard}", file=sys.stderr, flush=True)
    return found


def _stop(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


@contextmanager
def _shown(args: argparse.Namespace, films: list[str], where: str, engine: Engine) -> Iterator[Board]:
    about = {"from": str(args.folder), "to": where, "recipe": args.recipe.name, "dashboard": engine.dashboard}
    signal.signal(signal.SIGTERM, _stop)  # as Ctrl-C: what was begun ends, nothing stays half
    shown = Shown()
    board = Board(films, about, shown=[shown])
    with closing(shown), boards.Kept(board, (args.data or default_folder()) / boards.FOLDER):
        yield board


def batch(args: argparse.Namespace) -> int:
    """Make every film of a folder by a recipe, and say what became of each; 2 where one is not made."""
    recipe = recipes.read(args.recipe)
    found = places.films_at(args.folder, recipe, but=args.out)
    where = places.results_at(args.out)
    with closing(engine_of(args)) as engine, _shown(args, [each.name for each in found], args.out, engine) as board:
        made = by_need(running.run(found, recipe, where, board, engine=engine, again=args.again))
    if args.json:
        write_json(sys.stdout, made)
    else:
        print("\n".join(table(made)))
    return 2 if any(each.bad for each in made) else 0


def _watch(args: argparse.Namespace) -> int:
    if places.in_store(args.folder):
        raise InvalidValue("watch takes a folder; an object store is made by batch, again and again if need be.")
    recipe, folder = recipes.read(args.recipe), Path(args.folder)
    out = args.out or folder / MADE

    def say(text: str) -> None:
        tqdm.write(f"{datetime.now():%H:%M:%S} {text}", file=sys.stderr)

    with closing(engine_of(args)) as engine, _shown(args, [], str(out), engine) as board:
        watch = Watch(folder, recipe, results.results_in(out), engine, board, say, settle_s=args.settle_s, but=out)
        say(f"watching {folder}")
        try:
            with closing(watch):
                while True:
                    watch.look()
                    time.sleep(LOOK_S)
        except KeyboardInterrupt:
            say("stopped; a new start goes on where this was")
    return 0
