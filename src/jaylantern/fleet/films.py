"""The films of a folder: every folder in which files match the recipe is one film."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path, PurePosixPath

from jaylantern.errors import JayError, MediaError
from jaylantern.interchange.recipe import BY_SOUND, Recipe
from jaylantern.library.bringing import hash_of
from jaylantern.support import system
from jaylantern.support.progress import Progress

MADE_LIKE = 1  # goes up when the same recipe makes something else of the same files
DEEP = 1 << 15  # letters: a person's folders may lie as deep as a system takes them
NO_TEXT = "{} holds bytes that are no text (UTF-8). Rename it, then it is made."
NO_MEDIA = {".txt", ".md", ".json", ".toml", ".csv", ".zip", ".otio", ".edl", ".xml", ".pdf", ".jpg", ".png", ".part"}


@dataclass(frozen=True)
class File:
    """A file of a film: what it is by the recipe, and its name below the film's folder. `mark` is what an object store
    says of its content, which changes when that does."""

    role: str
    name: str
    mark: str = ""


@dataclass(frozen=True)
class Film:
    """A film: its name, which is its path below the folder of all, its folder and its files in order of their names.
    `wrong` says why it can't be made, `holds_others` that further films lie in folders of its own, `url` where in an
    object store it lies instead of in a folder."""

    name: str
    folder: Path
    files: Sequence[File] = ()
    wrong: str = ""
    holds_others: bool = False
    url: str = ""

    @cached_property
    def _hashes(self) -> dict[str, str]:
        return {}

    def hash_of(self, file: File, progress: Progress) -> str:
        """SHA-256 of a file's content, read once; of one in a store its mark."""
        if file.mark:
            return file.mark
        if file.name not in self._hashes:
            self._hashes[file.name] = hash_of(self.folder / file.name, progress)
        return self._hashes[file.name]

    def key(self, recipe: Recipe, progress: Progress) -> str:
        """A hash of what it is made from: the bytes of its files, what they are, the recipe."""
        read = [(each.role, each.name, self.hash_of(each, progress)) for each in self.files]
        return hashlib.sha256(json.dumps([MADE_LIKE, recipe.key, read]).encode()).hexdigest()


def films_in(root: Path, recipe: Recipe, *, but: Sequence[Path] = ()) -> list[Film]:
    """The films below a folder, by name; the folder itself is one where files lie in it. Folders and files that begin
    with a dot, and all below those of `but`, are passed over. Raises MediaError where there is none."""
    if not root.is_dir():
        raise MediaError(f"{root} is not there, or is no folder.")
    where, root = str(root), system.with_room(root, DEEP)
    found, passed = [], {system.real(system.with_room(path, DEEP)) for path in but}

    def unreadable(error: OSError) -> None:
        path = Path(error.filename or root)
        found.append(Film(_name(root, path), path, wrong=f"The folder can't be read: {error.strerror}."))

    for at, folders, names in os.walk(root, onerror=unreadable):
        here = Path(at)
        folders[:] = sorted(each for each in folders if each[0] != "." and system.real(here / each) not in passed)
        name = _name(root, here)
        film = film_of(Film(as_text(name), here), dict.fromkeys(names, ""), recipe)
        if film is not None and not is_text(name):
            film = replace(film, wrong=NO_TEXT.format("The name of its folder"))
        if film is not None:
            found.append(film)
    return in_order(found, where)


def in_order(found: Iterable[Film], where: str) -> list[Film]:
    """Films by name, each knowing whether others lie within its folder. Raises MediaError where there is none."""
    films = sorted(found, key=lambda film: film.name)
    if not films:
        raise MediaError(f"No film in {where}: in no folder does a file match the recipe.")
    above = {path for film in films for path in film.folder.parents}
    return [replace(film, holds_others=film.folder in above) for film in films]


def _name(root: Path, folder: Path) -> str:
    path = folder.relative_to(root).as_posix()
    return system.real(root).name if path == "." else path


def is_text(name: str) -> bool:
    """Is a file's name text, not bytes that mean nothing in UTF-8?"""
    return not any("\ud800" <= letter <= "\udfff" for letter in name)


def as_text(name: str) -> str:
    """A file's name with a mark for each byte that means nothing."""
    return os.fsencode(name).decode("utf-8", "replace")


def film_of(empty: Film, marks: dict[str, str], recipe: Recipe) -> Film | None:
    """A film with those files of its folder that the recipe takes; None where it takes none. `marks` by name."""
    files = []
    try:
        for name in sorted(marks):
            if name.startswith("."):
                continue
            role = recipe.role_of(PurePosixPath(name))
            if role is None and recipe.others and Path(name).suffix.lower() not in NO_MEDIA:
                role = BY_SOUND
            if role is not None:
                files.append(File(role, name, marks[name]))
    except JayError as error:
        return replace(empty, wrong=str(error))
    odd = next((each.name for each in files if not is_text(each.name)), None)
    if odd is not None:
        return replace(empty, wrong=NO_TEXT.format(f"The name of its file {as_text(odd)}"))
    return replace(empty, files=tuple(files)) if files else None
