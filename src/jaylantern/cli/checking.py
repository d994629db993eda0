"""The command that looks through a data folder: check."""

from __future__ import annotations

import argparse
import json
import sys
from contextlib import closing
from functools import partial
from pathlib import Path

from jaylantern.cli.asking import may
from jaylantern.cli.progress import TerminalProgress
from jaylantern.workspace import inspecting
from jaylantern.workspace.folder import default_folder
from jaylantern.workspace.workspace import Workspace


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
    parser.add_argument("--yes", action="store_true", help="mend and free without asking")
    parser.add_argument("--no", action="store_true", help="only say what was found, ask nothing")
    parser.add_argument(
        "--older-days", type=float, default=inspecting.OLD_DAYS, metavar="N",
        help="files that were handed off so many days ago may be freed (%(default)s)",
    )  # fmt: skip
    parser.add_argument("--json", action="store_true", help="what was found as JSON; asks nothing unless --yes")
    parser.set_defaults(run=_check)


def _check(args: argparse.Namespace) -> int:
    """0 where all is sound or was mended, 1 where something is damaged."""
    workspace = Workspace((args.data or default_folder()).resolve())
    workspace.folder.must_be_there()
    lock = workspace.folder.prepare_alone()
    try:
        lock.say("which checks it")
        return _checked(workspace, args)
    finally:
        lock.release()


def _checked(workspace: Workspace, args: argparse.Namespace) -> int:
    with closing(workspace.folder.connect()) as db, TerminalProgress(["checking"]) as shown:
        found = inspecting.inspect(workspace, db, older_days=args.older_days, progress=partial(shown, 0))
        if args.json:
            print(json.dumps(_plain(found), ensure_ascii=False, indent=1))
        else:
            _tell(found)
        quiet = args.no or (args.json and not args.yes)
        left = list(found.troubles)
        if found.damaged and not quiet and may(f"Make {_files(len(found.damaged))} again?", yes=args.yes):
            for line in inspecting.mend(workspace, db, found):
                print(line, file=sys.stderr)
            left = inspecting.inspect(workspace, db, older_days=args.older_days).troubles
        if found.unused and not quiet:
            size = sum(each.size_bytes for each in found.unused)
            if may(f"Free {size / 1e6:.1f} MB by taking these away?", yes=args.yes):
                print(f"{inspecting.free(workspace, db, found.unused) / 1e6:.1f} MB are free.", file=sys.stderr)
    return 1 if left else 0


def _tell(found: inspecting.Found) -> None:
    print(f"{found.projects} project{'' if found.projects == 1 else 's'}, {_files(found.media)}.")
    for line in found.troubles or ["All of it is sound."]:
        print(line)
    if found.unused:
        print("Nothing uses these any more:")
    for each in found.unused:
        print(f"  {each.size_bytes / 1e6:8.1f} MB  {each.what}")


def _plain(found: inspecting.Found) -> dict[str, object]:
    unused = [{"what": each.what, "size_bytes": each.size_bytes} for each in found.unused]
    return {
        "projects": found.projects,
        "media": found.media,
        "troubles": found.troubles,
        "can_be_mended": [each.name for each in found.damaged],
        "unused": unused,
    }


def _files(count: int) -> str:
    return f"{count} file{'' if count == 1 else 's'}"
