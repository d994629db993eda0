"""The commands that go by a recipe: recipe check."""

from __future__ import annotations

import argparse
from pathlib import Path

from jaylantern.errors import MediaError
from jaylantern.fleet import one_film, places
from jaylantern.interchange import recipe as recipes
from jaylantern.interchange.recipe import Recipe
from jaylantern.support.paths import must_be_a_file

MOST_BYTES = 1_000_000


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("do", choices=("check",), help="check: say in words what it does")
    parser.add_argument("file", type=Path, metavar="FILE", help="a recipe, JSON or TOML")
    parser.add_argument("--on", metavar="FOLDER", help="and which films of this folder, or s3://…, it would make")
    parser.set_defaults(run=_check)


def read(path: Path) -> Recipe:
    """The recipe of a file, all that it hands off checked. Raises MediaError, InvalidValue."""
    must_be_a_file(path)
    if path.stat().st_size > MOST_BYTES:
        raise MediaError(f"{path.name} is too large for a recipe.")
    found = recipes.read(path.read_bytes(), path.name)
    one_film.request_check(found.hand_off)
    return found


def _check(args: argparse.Namespace) -> int:
    recipe = read(args.file)
    print("\n".join(recipes.in_words(recipe)))
    if args.on is None:
        return 0
    found = places.films_at(args.on, recipe)
    for film in found:
        files = ", ".join(f"{each.name} ({each.role})" for each in film.files)
        print(f"{film.name}: {film.wrong or files}")
    return 2 if any(film.wrong for film in found) else 0
