"""Films and results in an object store, through fsspec: each worker fetches what it makes and puts what it made.

A store has no folders that could be renamed: results are put file by file, the receipt last and the old one removed
first, so what a receipt names stands whole.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from typing import Any

from jaylantern.errors import InvalidValue, JayError, MediaError, Refused
from jaylantern.fleet.films import Film, film_of, in_order
from jaylantern.interchange.recipe import Recipe
from jaylantern.support.progress import Progress, within
from jaylantern.support.scratch import scratch

FETCHED = 0.1  # share of the whole that fetching is


def opened(url: str) -> tuple[Any, str]:
    """The file system of an address, and the path within it. Raises InvalidValue where it is none that is known, or its
    package is not installed."""
    try:
        import fsspec
    except ImportError:
        raise InvalidValue(
            "Object stores need packages that are not installed: pip install 'jay-lantern[cluster]'."
        ) from None
    try:
        files, path = fsspec.url_to_fs(url, use_listings_cache=False)
    except (ValueError, ImportError) as error:
        raise InvalidValue(f"{url} can't be reached: {str(error)[:200]}") from error
    return files, str(path).rstrip("/")


@contextmanager
def _reaching(url: str) -> Iterator[None]:
    """What a store's package raises, as MediaError; what is said of a file or of the disk here, as it is."""
    try:
        yield
    except (OSError, JayError):
        raise
    except Exception as error:
        raise MediaError(f"{url} can't be reached: {str(error)[:200]}.") from error


def films_in(url: str, recipe: Recipe, *, but: str = "") -> list[Film]:
    """The films below an address, as in a folder. Raises MediaError where there is none or it can't be read."""
    files, root = opened(url)
    passed = opened(but)[1] if but.partition("://")[0] == url.partition("://")[0] else None
    found: list[Film] = []
    try:
        with _reaching(url):
            for at, folders, inside in files.walk(root, detail=True, on_error="raise"):
                here = PurePosixPath(str(at).rstrip("/"))
                for name in [*folders]:
                    if name.startswith(".") or str(here / name) == passed:
                        del folders[name]
                below = here.relative_to(root).as_posix()
                name = PurePosixPath(root).name if below == "." else below
                marks = {each: _mark(about) for each, about in inside.items() if each}
                film = film_of(Film(name, Path("/") / here, url=files.unstrip_protocol(str(here))), marks, recipe)
                if film is not None:
                    found.append(film)
    except OSError as error:
        raise MediaError(f"{url} can't be read: {_said(error)}.") from error
    return in_order(found, url)


def _mark(about: dict[str, Any]) -> str:
    """What the store says of a file's content: its tag, or when it was changed and how large it is."""
    tag = about.get("ETag") or about.get("etag") or about.get("md5Hash")
    mark = tag or f"{about.get('LastModified') or about.get('mtime') or about.get('created')}"
    return f"{mark} {about.get('size')}"


def _said(error: OSError) -> str:
    if isinstance(error, FileNotFoundError):
        return "it is not there"
    return error.strerror or str(error) or type(error).__name__


@contextmanager
def fetched(film: Film, progress: Progress) -> Iterator[Film]:
    """A film whose files lie in a folder of this machine, for so long, changed when they were in the store."""
    files, root = opened(film.url)
    with scratch() as folder:
        for k, file in enumerate(film.files):
            within(progress, 0.0, FETCHED)(k / len(film.files), "fetching")
            here = folder / file.name
            try:
                with _reaching(film.url):
                    files.get_file(f"{root}/{file.name}", str(here))
                    changed = files.modified(f"{root}/{file.name}").timestamp()
            except OSError as error:
                raise MediaError(f"{file.name} can't be fetched: {_said(error)}.") from error
            os.utime(here, (changed, changed))
        plain = tuple(replace(each, mark="") for each in film.files)
        yield replace(film, folder=folder, files=plain, url="")


@dataclass(frozen=True)
class StoreShelf:
    """A shelf in an object store."""

    url: str

    def _at(self, name: str) -> tuple[Any, str]:
        files, root = opened(self.url)
        return files, f"{root}/{name}"

    def text(self, name: str) -> str | None:
        """A text by its path; None where there is none or it can't be read."""
        files, path = self._at(name)
        try:
            with _reaching(self.url):
                return str(files.cat_file(path).decode("utf-8"))
        except (OSError, ValueError):
            return None

    def write(self, name: str, text: str) -> None:
        """Write a text; what was there stays until all of it is."""
        files, path = self._at(name)
        with _reaching(self.url):
            files.pipe_file(path, text.encode())

    def remove(self, name: str) -> None:
        """Remove a text, or a folder of them, if it is there."""
        files, path = self._at(name)
        with suppress(FileNotFoundError), _reaching(self.url):
            files.rm(path, recursive=True)

    def texts(self, folder: str) -> list[str]:
        """The names in a folder, in order."""
        return sorted(self.sizes(folder))

    def sizes(self, folder: str) -> dict[str, int]:
        """Files of a folder and their sizes in bytes."""
        files, path = self._at(folder)
        try:
            with _reaching(self.url):
                found = files.ls(path, detail=True)
        except FileNotFoundError:
            return {}
        return {PurePosixPath(each["name"]).name: int(each["size"]) for each in found if each["type"] == "file"}

    @contextmanager
    def unfinished(self) -> Iterator[Path]:
        """A folder of this machine to make files in."""
        with scratch() as folder:
            made = folder / "made"
            made.mkdir()
            yield made

    def put(self, folder: Path, name: str, receipt: str, *, before: Sequence[str], beside: bool) -> None:
        """Put files in the place of that name, the receipt last. Raises Refused where one is another film's folder."""
        files, root = self._at(name)
        with _reaching(self.url):
            self._put(files, root, folder, name, receipt, before, beside)

    def _put(
        self, files: Any, root: str, folder: Path, name: str, receipt: str, before: Sequence[str], beside: bool
    ) -> None:
        if beside and (taken := [path.name for path in folder.iterdir() if files.isdir(f"{root}/{path.name}")]):
            raise Refused(f"{name}/{taken[0]} is the folder of another film. Give the file another pattern.")
        self.remove(f"{name}/{receipt}")
        for each in before:
            self.remove(f"{name}/{PurePosixPath(each).name}")
        for path in sorted(folder.iterdir(), key=lambda path: path.name == receipt):
            files.put_file(str(path), f"{root}/{path.name}")
        shutil.rmtree(folder)

    def clear(self) -> None:
        """Nothing unfinished is left in a store: what is put half has no receipt, and is put again."""
