"""Files and folders a person names on the command line: there, or refused in words."""

from __future__ import annotations

from pathlib import Path

from jaylantern.errors import MediaError


def must_be_a_file(path: Path) -> None:
    """Raises MediaError for what is not there, or is a folder."""
    if not path.is_file():
        raise MediaError(f"{path} is not there, or is not a file.")


def must_have_a_folder(path: Path) -> None:
    """Raises MediaError for a file to be written into a folder that is not there."""
    if not path.parent.is_dir():
        raise MediaError(f"The folder {path.parent} is not there; make it first.")
