"""Where the results of films lie: a folder for each, whole or not there, with what it was made from.

OUT/film/            what was handed off, and made.json: the key of what it is made from, its figures, its files
OUT/.making-…/       a film that is being made, named after machine and process; what a kill left is cleared
OUT/.set-aside/      films whose making was killed each time, by key
OUT/.tries-…/        how often a run has begun which film
OUT/films.csv, .json all films of the last run, those that need a look first
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from jaylantern.errors import Refused
from jaylantern.fleet.films import DEEP, Film
from jaylantern.fleet.folders import FolderShelf, Shelf
from jaylantern.fleet.outcome import Outcome, State, as_text, by_need, outcome_of, write_csv, write_json
from jaylantern.support import system
from jaylantern.support.atomic_file import whole_text

RECEIPT, ASIDE = "made.json", ".set-aside"


@dataclass(frozen=True)
class Results:
    """The results of films, on a shelf."""

    shelf: Shelf

    def _receipt(self, film: Film) -> dict[str, Any] | None:
        """What is known of the results that stand there; {} where that can't be read, None where there are none."""
        text = self.shelf.text(f"{film.name}/{RECEIPT}")
        if text is None:
            return None
        try:
            kept = json.loads(text)
            return {**kept, "files": {str(name): int(size) for name, size in kept["files"].items()}}
        except (ValueError, KeyError, TypeError, AttributeError):
            return {}

    def standing(self, film: Film, key: str) -> Outcome | None:
        """What stands there of a film, made of the same by the same recipe and whole; None otherwise."""
        kept = self._receipt(film)
        if not kept or kept.get("key") != key or not kept["files"].items() <= self.shelf.sizes(film.name).items():
            return None
        try:
            return replace(outcome_of(kept["outcome"]), state=State.THERE)
        except (ValueError, KeyError, TypeError, AttributeError):
            return None

    def unfinished(self) -> AbstractContextManager[Path]:
        """A folder to make a film in; it is gone afterwards unless it was put in its place."""
        return self.shelf.unfinished()

    def put(self, film: Film, folder: Path, key: str, outcome: Outcome) -> None:
        """Put a made film in its place. Raises Refused where something of the person's own lies there."""
        files = {path.name: path.stat().st_size for path in sorted(folder.iterdir())}
        kept = {"key": key, "outcome": outcome.plain, "files": files}
        whole_text(folder / RECEIPT, lambda text: json.dump(kept, text, indent=2, ensure_ascii=False))
        while True:
            before = self._receipt(film)
            try:
                self._put(film, folder, files, before)
                return
            except Refused:  # another who was taken for dead may just have put the same
                if self._receipt(film) == before:
                    raise

    def _put(self, film: Film, folder: Path, files: Mapping[str, int], before: Mapping[str, Any] | None) -> None:
        if before is None and self.shelf.sizes(film.name):
            raise Refused(f"{film.name} is there already and is no result of ours. Choose another folder for results.")
        known = before.get("files") if before else None
        names = list(known if known is not None else files if before is not None else ())
        self.shelf.put(folder, film.name, RECEIPT, before=names, beside=film.holds_others)

    def clear(self) -> None:
        """Remove what a kill left behind of films that processes of this machine were making."""
        self.shelf.clear()

    def set_aside(self, film: Film) -> str | None:
        """The key of a film that was set aside; None where it was not."""
        return self.shelf.text(_aside(film))

    def keep_aside(self, film: Film, key: str | None) -> None:
        """Set a film aside, or with None take it back."""
        if key is not None:
            self.shelf.write(_aside(film), key)
        elif self.set_aside(film) is not None:
            self.shelf.remove(_aside(film))

    def begun(self, run: str, film: Film) -> int:
        """Note that a run begins a film; answers how often it has now begun it."""
        folder = f"{run}/{_word(film)}"
        number = len(self.shelf.texts(folder)) + 1
        self.shelf.write(f"{folder}/{number}", "")
        return number

    def forget(self, run: str, film: Film) -> None:
        """What a run has begun of a film has come to an end, good or bad."""
        self.shelf.remove(f"{run}/{_word(film)}")

    def ended(self, run: str) -> None:
        """Forget what a run has begun."""
        self.shelf.remove(run)

    def write_table(self, found: Sequence[Outcome]) -> None:
        """All films of a run."""
        ordered = by_need(found)
        for name, write in (("films.csv", write_csv), ("films.json", write_json)):
            self.shelf.write(name, as_text(write, ordered))


def _word(film: Film) -> str:
    return hashlib.sha256(film.name.encode()).hexdigest()[:24]


def _aside(film: Film) -> str:
    return f"{ASIDE}/{_word(film)}"


def results_in(folder: Path) -> Results:
    """Results in a folder."""
    return Results(FolderShelf(system.with_room(folder, DEEP)))
