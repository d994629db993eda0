"""The films of a folder: every folder in which files match the recipe is one film."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path, PurePosixPath

from jaylantern.errors import JayError, MediaError
from jaylantern.interchange.recipe import BY_SOUND, Recipe
from jaylantern.library.bringing import hash_of
from jaylantern.support.progress import Progress

MADE_LIKE = 1  # goes up when the same recipe makes something else of the same files
NO_MEDIA = {".txt", ".md", ".json", ".toml", ".csv", ".zip", ".otio", ".edl", ".xml", ".pdf", ".jpg", ".png", ".part"}


@dataclass(frozen=True)
class File:
    """A file of a film: what it is by the recipe, and its name below the film's folder."""

    role: str
    name: str


@dataclass(frozen=True)
class Film:
    """A film: its name, which is its path below the folder of all, its folder and its files in order of their names.
    `wrong` says why it can't be made, `holds_others` that further films lie in folders of its own."""

    name: str
    folder: Path
    files: Sequence[File] = ()
    wrong: str = ""
    holds_others: bool = False

    @cached_property
    def _hashes(self) -> dict[str, str]:
        return {}

    def hash_of(self, file: File, progress: Progress) -> str:
        """SHA-256 of a file's content, read once."""
        if file.name not in self._hashes:
            self._hashes[file.name] = hash_of(self.folder / file.name, progress)
        return self._hashes[file.name]

    def key(self, recipe: Recipe, progress: Progress) -> str:
        """A hash of what it is made from: the bytes of its files, what they are, the recipe."""
        read = [(each.role, each.name, self.hash_of(each, progress)) for each in self.files]
        return hashlib.sha256(json.dumps([MADE_LIKE, recipe.key, read]).encode()).hexdigest()


def films_in(root: Path, recipe: Recipe, *, but: Path | None = None) -> list[Film]:
    """The films below a folder, by name; the folder itself is one where files lie in it. Folders and files that begin
    with a dot, and all below `but`, are passed over. Raises MediaError where there is none."""
    if not root.is_dir():
        raise MediaError(f"{root} is not there, or is no folder.")
    found = []

    def unreadable(error: OSError) -> None:
        path = Path(error.filename or root)
        found.append(Film(_name(root, path), path, wrong=f"The folder can't be read: {error.strerror}."))

    for at, folders, names in os.walk(root, onerror=unreadable):
        here = Path(at)
        folders[:] = sorted(each for each in folders if not each.startswith(".") and (here / each).resolve() != but)
        film = _film(root, here, names, recipe)
        if film is not None:
            found.append(film)
    if not found:
        raise MediaError(f"No film in {root}: in no folder does a file match the recipe.")
    above = {path for film in found for path in film.folder.parents}
    found = [replace(film, holds_others=film.folder in above) for film in found]
    return sorted(found, key=lambda film: film.name)


def _name(root: Path, folder: Path) -> str:
    path = folder.relative_to(root).as_posix()
    return root.resolve().name if path == "." else path


def _film(root: Path, folder: Path, names: Sequence[str], recipe: Recipe) -> Film | None:
    files = []
    try:
        for name in sorted(names):
            if name.startswith("."):
                continue
            role = recipe.role_of(PurePosixPath(name))
            if role is None and recipe.others and Path(name).suffix.lower() not in NO_MEDIA:
                role = BY_SOUND
            if role is not None:
                files.append(File(role, name))
    except JayError as error:
        return Film(_name(root, folder), folder, wrong=str(error))
    return Film(_name(root, folder), folder, tuple(files)) if files else None
