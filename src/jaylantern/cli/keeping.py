"""The commands that keep a data folder and bring it back: backup, restore."""

from __future__ import annotations

import argparse
from functools import partial
from pathlib import Path

from jaylantern.cli.progress import TerminalProgress
from jaylantern.projectfile import backup
from jaylantern.support import own_python
from jaylantern.support.paths import must_have_a_folder
from jaylantern.workspace.folder import default_folder


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What they take."""
    what = "FILE.zip to write" if name == "backup" else "FILE.zip to read"
    parser.add_argument("file", type=Path, metavar="FILE", help=what)
    parser.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
    parser.set_defaults(run=_backup if name == "backup" else _restore)


def _backup(args: argparse.Namespace) -> None:
    data = args.data or default_folder()
    must_have_a_folder(args.file)
    with TerminalProgress([args.file.name]) as shown:
        count = backup.backup(data, args.file, progress=partial(shown, 0))
    print(f"{args.file}: {count} files, {args.file.stat().st_size / 1e6:.0f} MB")


def _restore(args: argparse.Namespace) -> None:
    data = args.data or default_folder()
    with TerminalProgress([args.file.name]) as shown:
        count = backup.restore(args.file, data, progress=partial(shown, 0))
    print(f"{data}: {count} files. Start with: {own_python.called()} serve --data {data}")
