"""The command line, on the same core as the pages. A command's module is imported when that command is meant."""

from __future__ import annotations

import argparse
import sqlite3
import sys
from collections.abc import Sequence
from importlib import import_module

from jaylantern.errors import JayError
from jaylantern.support import own_python
from jaylantern.support.malloc import keep_freed_memory

COMMANDS = {  # name: module that knows what it takes and does, what it is for
    "detect": ("hearing", "find the speech in a file"),
    "duck": ("hearing", "lower music under dialogue; all files start at zero"),
    "tailor": ("tailor", "cut music to a length, on the beat"),
    "loudness": ("loudness", "measure files by ITU-R BS.1770-5 and EBU R 128"),
    "render": ("render", "make files of a project: an archive (zip), OpenTimelineIO, an EDL"),
    "batch": ("render", "make files of all projects in a folder, or of all its films by a recipe, on all cores"),
    "watch": ("fleet", "make by a recipe whatever arrives in a folder"),
    "recipe": ("recipe", "say in words what a recipe does"),
    "backup": ("keeping", "write all projects and media into one zip file, also while the application runs"),
    "restore": ("keeping", "unpack a backup into a new data folder"),
    "check": ("checking", "say what of a data folder is sound; mend and free, when asked"),
    "uninstall-data": ("leaving", "remove all projects, media and finished files of a data folder"),
    "shortcut": ("shortcut", "put an icon on the desktop"),
    "serve": ("serving", "start the application"),
    "demo": ("serving", "start it with the demo project"),
    "address": ("serving", "print an address that lets one more browser in"),
}

STOPPED = 130  # as a shell says it of what Ctrl-C has ended


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; 0 if it worked, 2 with one clear line if the input was bad, 130 if it was stopped."""
    args = _parser(sys.argv[1:] if argv is None else argv).parse_args(argv)
    keep_freed_memory()
    own_python.guard()
    try:
        return int(args.run(args) or 0)
    except KeyboardInterrupt:
        print("jaylantern: stopped. What is whole stays; a new start goes on from there.", file=sys.stderr)
        return STOPPED
    except (JayError, OSError) as error:
        print(f"jaylantern: {error}", file=sys.stderr)
    except sqlite3.Error as error:
        from jaylantern.store.connection import disk_trouble

        print(f"jaylantern: the data folder can't be used: {disk_trouble(error) or error}", file=sys.stderr)
    return 2


def _parser(argv: Sequence[str]) -> argparse.ArgumentParser:
    """All commands; what the one takes that `argv` begins with."""
    parser = argparse.ArgumentParser(prog="jaylantern", description="Lowers the music under the speech.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for name, (module, help_text) in COMMANDS.items():
        command = commands.add_parser(name, help=help_text)
        if argv and argv[0] == name:
            import_module(f"jaylantern.cli.{module}").add_to(command, name)
    return parser


if __name__ == "__main__":
    sys.exit(main())
