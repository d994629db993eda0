"""Where the results of films lie: a folder for each, whole or not there, with what it was made from.

OUT/film/            what was handed off, and made.json: the key of what it is made from, its figures, its files
OUT/.making-…/       a film that is being made, named after machine and process; what a kill left is cleared
OUT/.set-aside.json  films whose making was killed each time, by key
OUT/films.csv, .json all films of the last run, those that need a look first
"""

from __future__ import annotations

import json
import os
import shutil
import socket
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any
from uuid import uuid4

from jaylantern.errors import Refused
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome, State, by_need, outcome_of, write_csv, write_json
from jaylantern.support.atomic_file import whole_text

RECEIPT, ASIDE, MAKING, GONE = "made.json", ".set-aside.json", ".making-", ".gone-"


def standing(out: Path, film: Film, key: str) -> Outcome | None:
    """What stands there of a film, made of the same by the same recipe and whole; None otherwise."""
    folder = out / film.name
    try:
        kept = json.loads((folder / RECEIPT).read_text(encoding="utf-8"))
        files = kept["files"]
        if kept["key"] != key or any((folder / name).stat().st_size != size for name, size in files.items()):
            return None
        return replace(outcome_of(kept["outcome"]), state=State.THERE)
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return None


@contextmanager
def unfinished(out: Path) -> Iterator[Path]:
    """A folder to make a film in; it is gone afterwards unless it was put in its place."""
    folder = out / f"{MAKING}{socket.gethostname()}-{os.getpid()}-{uuid4().hex[:8]}"
    folder.mkdir(parents=True)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def put(out: Path, film: Film, folder: Path, key: str, outcome: Outcome) -> None:
    """Put a made film in its place. Raises Refused where something of the person's own lies there."""
    files = {path.name: path.stat().st_size for path in sorted(folder.iterdir())}
    kept = {"key": key, "outcome": outcome.plain, "files": files}
    whole_text(folder / RECEIPT, lambda text: json.dump(kept, text, indent=2, ensure_ascii=False))
    target = out / film.name
    ours = _files_of(target)
    if target.exists() and ours is None and any(path.is_file() for path in target.iterdir()):
        raise Refused(f"{target} is there already and is no result of ours. Choose another folder for the results.")
    target.parent.mkdir(parents=True, exist_ok=True)
    if film.holds_others:
        _put_beside(target, folder, ours or [])
        return
    gone = out / f"{GONE}{uuid4().hex[:8]}"
    with suppress(FileNotFoundError):
        target.rename(gone)
    folder.rename(target)
    shutil.rmtree(gone, ignore_errors=True)


def _files_of(folder: Path) -> list[str] | None:
    """The files that a receipt names; None where there is no receipt."""
    try:
        return [str(name) for name in json.loads((folder / RECEIPT).read_text(encoding="utf-8"))["files"]]
    except FileNotFoundError:
        return None
    except (OSError, ValueError, KeyError, TypeError):
        return []


def _put_beside(target: Path, folder: Path, before: Sequence[str]) -> None:
    """Into a folder that holds other films' results, too: file by file, the receipt last, so that it stands when all
    of them do."""
    target.mkdir(exist_ok=True)
    (target / RECEIPT).unlink(missing_ok=True)
    for name in before:
        (target / Path(name).name).unlink(missing_ok=True)
    for path in sorted(folder.iterdir(), key=lambda path: path.name == RECEIPT):
        if (target / path.name).is_dir():
            raise Refused(f"{target / path.name} is the folder of another film. Give the file another pattern.")
        path.replace(target / path.name)


def clear(out: Path) -> None:
    """Remove what a kill left behind of films that processes of this machine were making."""
    for path in out.glob(f"{MAKING}{socket.gethostname()}-*"):
        number = path.name.rsplit("-", 2)[1]
        if not number.isdigit() or not Path(f"/proc/{number}").exists():
            shutil.rmtree(path, ignore_errors=True)
    for path in out.glob(f"{GONE}*"):
        shutil.rmtree(path, ignore_errors=True)


def set_aside(out: Path) -> dict[str, str]:
    """Films that were set aside: their keys by name."""
    try:
        kept: Any = json.loads((out / ASIDE).read_text(encoding="utf-8"))
        return {str(name): str(key) for name, key in kept.items()}
    except (OSError, ValueError, AttributeError):
        return {}


def keep_aside(out: Path, film: Film, key: str | None) -> None:
    """Set a film aside, or with None take it back."""
    kept = set_aside(out)
    if kept.get(film.name) == key:
        return
    kept.pop(film.name, None)
    if key is not None:
        kept[film.name] = key
    whole_text(out / ASIDE, lambda text: json.dump(kept, text, indent=2))


def write_table(out: Path, found: Sequence[Outcome]) -> None:
    """All films of a run."""
    ordered = by_need(found)
    whole_text(out / "films.csv", partial(write_csv, found=ordered))
    whole_text(out / "films.json", partial(write_json, found=ordered))
