"""The command that takes the data off a machine: uninstall-data."""

from __future__ import annotations

import argparse
from pathlib import Path

from jaylantern.cli.asking import may
from jaylantern.workspace import leaving
from jaylantern.workspace.folder import DataFolder, default_folder


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
    parser.add_argument("--yes", action="store_true", help="remove without asking")
    parser.set_defaults(run=_uninstall_data)


def _uninstall_data(args: argparse.Namespace) -> int:
    """0 where it is gone, 1 where it was not wanted, or something is left that isn't ours."""
    folder = DataFolder((args.data or default_folder()).resolve())
    there = leaving.what_is_there(folder)
    print(
        f"{folder.path}: {there.projects} project{'' if there.projects == 1 else 's'}, {there.media} media,"
        f" {there.size_bytes / 1e6:.0f} MB. Files you handed off elsewhere, and what you brought in from, stay."
    )
    if not may("Remove all of this for good?", yes=args.yes):
        return 1
    left = leaving.take_data_away(folder)
    leaving.take_caches_away()
    if left:
        print(f"Removed. Left, for Jay Lantern did not make it: {', '.join(str(path) for path in left)}")
        return 1
    print("Removed. The program itself goes as it came: pipx uninstall jay-lantern, or uv tool uninstall jay-lantern.")
    return 0
