"""Where films come from and results go: a folder, shared or of this machine, or an object store, by its address."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jaylantern.fleet import films, results, store
from jaylantern.fleet.films import Film
from jaylantern.fleet.results import Results
from jaylantern.interchange.recipe import Recipe
from jaylantern.support.progress import Progress


def in_store(where: str) -> bool:
    """Is it the address of an object store, such as s3://bucket/folder?"""
    return "://" in where


def films_at(where: str, recipe: Recipe, *, but: str = "") -> list[Film]:
    """The films of a folder or of a store, without those at `but`. Raises MediaError."""
    if in_store(where):
        return store.films_in(where, recipe, but=but)
    return films.films_in(Path(where), recipe, but=[Path(but)] if but and not in_store(but) else [])


def results_at(where: str) -> Results:
    """Where results go."""
    return Results(store.StoreShelf(where)) if in_store(where) else results.results_in(Path(where))


@contextmanager
def at_hand(film: Film, progress: Progress) -> Iterator[Film]:
    """A film whose files lie in a folder here: fetched for so long, where they lie in a store."""
    if film.url:
        with store.fetched(film, progress) as here:
            yield here
    else:
        yield film
