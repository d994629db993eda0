"""The command that puts an icon on the desktop, or takes it away: shortcut. A library knows what each system wants."""

from __future__ import annotations

import argparse
import shlex
from pathlib import Path
from types import ModuleType

from jaylantern.errors import Refused
from jaylantern.support import own_python, system
from jaylantern.support.paths import take_away

NAME = "Jay\u00a0Lantern"  # a space that doesn't break: the library turns the other into an underline
ICON = Path(__file__).parent / "icon"


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("--remove", action="store_true", help="take it away again")
    parser.set_defaults(run=_shortcut)


def _library() -> ModuleType:
    try:
        import pyshortcuts
    except ImportError:
        raise Refused(
            "An icon needs pyshortcuts: pipx inject jay-lantern pyshortcuts, or uv tool install 'jay-lantern[desktop]'."
        ) from None
    return pyshortcuts


def _shortcut(args: argparse.Namespace) -> None:
    library = _library()
    if args.remove:
        _remove(library)
        return
    python, *arguments = own_python.command("-m", "jaylantern.cli.main", "serve", "--open")
    icon, about = ICON / f"lantern{system.ICON_ENDING}", "Lowers the music under the speech"
    made = library.make_shortcut(
        shlex.join(arguments), executable=python, name=NAME, description=about, icon=str(icon), terminal=True
    )
    print(f"{made.target} is on the desktop and in the menu; {own_python.called()} shortcut --remove ends that.")


def _remove(library: ModuleType) -> None:
    folders = library.get_folders()
    found = [
        path
        for folder in (folders.desktop, folders.startmenu)
        if folder
        for path in Path(folder).glob(f"{NAME}.*")
        if path.stem == NAME and path.suffix in (".desktop", ".lnk", ".app")
    ]
    for path in found:
        take_away(path)
    print(f"Removed: {', '.join(map(str, found))}" if found else "There was none.")
