"""Files and folders a person names on the command line: there, or refused in words."""

from __future__ import annotations

import shutil
from pathlib import Path

from jaylantern.errors import MediaError
from jaylantern.support import system


def must_be_a_file(path: Path) -> None:
    """Raises MediaError for what is not there, or is a folder."""
    if not path.is_file():
        raise MediaError(f"{path} is not there, or is not a file.")


def take_away(path: Path) -> None:
    """Remove a file, or a folder with all that is in it, if it is there; of a link the link alone."""
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path)
    else:
        system.remove(path)


def must_have_a_folder(path: Path) -> None:
    """Raises MediaError for a file to be written into a folder that is not there."""
    if not path.parent.is_dir():
        raise MediaError(f"The folder {path.parent} is not there; make it first.")
