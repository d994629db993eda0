"""The commands that go by a recipe: recipe check."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from jaylantern.cli.progress import TerminalProgress
from jaylantern.errors import MediaError
from jaylantern.fleet import films, making, running
from jaylantern.fleet.outcome import Outcome, by_need, table, write_json
from jaylantern.interchange import recipe as recipes
from jaylantern.interchange.recipe import Recipe
from jaylantern.support.paths import must_be_a_file

MOST_BYTES = 1_000_000


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("do", choices=("check",), help="check: say in words what it does")
    parser.add_argument("file", type=Path, metavar="FILE", help="a recipe, JSON or TOML")
    parser.add_argument("--on", type=Path, metavar="FOLDER", help="and which films of this folder it would make")
    parser.set_defaults(run=_check)


def read(path: Path) -> Recipe:
    """The recipe of a file, all that it hands off checked. Raises MediaError, InvalidValue."""
    must_be_a_file(path)
    if path.stat().st_size > MOST_BYTES:
        raise MediaError(f"{path.name} is too large for a recipe.")
    found = recipes.read(path.read_bytes(), path.name)
    making.request_check(found.hand_off)
    return found


def _check(args: argparse.Namespace) -> int:
    recipe = read(args.file)
    print("\n".join(recipes.in_words(recipe)))
    if args.on is None:
        return 0
    found = films.films_in(args.on, recipe)
    for film in found:
        files = ", ".join(f"{each.name} ({each.role})" for each in film.files)
        print(f"{film.name}: {film.wrong or files}")
    return 2 if any(film.wrong for film in found) else 0


def batch(folder: Path, recipe_file: Path, out: Path, *, again: bool, as_json: bool) -> int:
    """Make every film of a folder by a recipe, and say what became of each; 2 where one is not made."""
    recipe = read(recipe_file)
    found = films.films_in(folder, recipe, but=out.resolve())
    with TerminalProgress([film.name for film in found]) as shown:
        made = by_need(running.run(found, recipe, out, shown, again=again))
    say(made, as_json=as_json)
    return 2 if any(each.bad for each in made) else 0


def say(made: list[Outcome], *, as_json: bool) -> None:
    """What became of films, as a table or as JSON."""
    if as_json:
        write_json(sys.stdout, made)
    else:
        print("\n".join(table(made)))
