"""The commands that make files of projects: render one, or a folder of them."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from jaylantern.cli import fleet
from jaylantern.cli.progress import TerminalProgress
from jaylantern.core.edit.ending import Ending
from jaylantern.core.signal.timebase import RATE, clock, n_to_seconds
from jaylantern.core.timeline.settings import NAMED
from jaylantern.core.timeline.timecode import rate_of_text
from jaylantern.errors import InvalidValue
from jaylantern.export import from_files, handoff
from jaylantern.export.request import GAINS
from jaylantern.media.film import QUALITIES
from jaylantern.media.film_sound import SOUND_TRACKS
from jaylantern.media.sound_files import FORMS, RATES, form_by_ending
from jaylantern.projectfile import reading


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What these commands take; their options are those of the page."""
    parser.epilog = "Exit code: 0 made, 1 made with media missing, 2 not made (batch: any of them)."
    if name == "render":
        parser.add_argument("project", type=Path, metavar="PROJECT", help=f"a file: {', '.join(reading.ENDINGS)}")
        out_help = "the file to write, or a folder that is there"
    else:
        parser.add_argument("folder", metavar="FOLDER", help="of projects; by a recipe of films, s3://BUCKET/… too")
        parser.add_argument(
            "--recipe",
            type=Path,
            metavar="FILE",
            help="what is to be done with the files below FOLDER: each folder in which files match is one film;"
            " of the other options --out, --again, --cluster, --data and --json count",
        )
        fleet.add_engine(parser)
        parser.add_argument("--again", action="store_true", help="by a recipe: make also what stands there already")
        out_help = "folder to write into; made if it is not there; by a recipe s3://BUCKET/… too"
    out_type = Path if name == "render" else str
    parser.add_argument("--out", type=out_type, required=True, metavar="PATH", help=out_help)
    parser.add_argument("--what", choices=list(handoff.FORMS), default="mix", help="default: mix")
    parser.add_argument(
        "--form", choices=list(FORMS), help="of sound files; default: by the ending of --out, else wav24"
    )
    parser.add_argument("--rate", type=int, choices=RATES, default=RATE, help="of sound files, default: 48000")
    parser.add_argument("--range", "--stretch", choices=("whole", "in-out"), default="whole", help="default: whole")
    parser.add_argument("--pattern", default="{project} - {what}", help="of file names: {project} {what} {date} {time}")
    parser.add_argument("--track", choices=list(SOUND_TRACKS), default="aac", help="sound of a film, default: aac")
    parser.add_argument("--quality", choices=list(QUALITIES), default="medium", help="of a picture encoded anew")
    parser.add_argument("--keep", action="store_true", help="keep a film's own sound as a further track")
    parser.add_argument("--parts", action="store_true", help="of a film: speech alone, music alone as further tracks")
    parser.add_argument(
        "--no-texts", dest="texts", action="store_false", help="of a film: no chapters of markers, no captions in it"
    )
    parser.add_argument("--language", default="", metavar="CODE", help="of a film's tracks: three letters, as eng")
    parser.add_argument("--gains", choices=GAINS, default=GAINS[0], help="of objects: how they carry their ducking")
    parser.add_argument(
        "--ending", choices=list(Ending), default=Ending.PICTURE, help="where a film ends, default: picture"
    )
    parser.add_argument(
        "--fade-s",
        type=float,
        default=2.0,
        metavar="N",
        help="fade of music that a film's end cuts off, default: 2",
    )
    parser.add_argument("--film-fps", metavar="N", help="frames a second of a film; default: as filmed")
    parser.add_argument("--media", type=Path, action="append", default=[], metavar="FOLDER",
                      help="where media are searched, by content and name; beside the project always")  # fmt: skip
    parser.add_argument("--fps", metavar="N", help="frames a second an EDL counts in")
    parser.add_argument("--set", action="append", default=[], metavar="NAME=VALUE", help="a setting instead of its own")
    parser.add_argument(
        "--data",
        type=Path,
        metavar="FOLDER",
        help="data folder to work in, on whose shelf the project stays; default: none; by a recipe: where the pages"
        " look for what runs, default: the usual data folder",
    )
    parser.add_argument("--over", action="store_true", help="write over files that are there")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.set_defaults(run=_render if name == "render" else _batch)


def _order(args: argparse.Namespace, form: str) -> from_files.Order:
    settings: dict[str, Any] = {}
    for each in args.set:
        name, sign, value = each.partition("=")
        if not sign or name not in NAMED:
            raise InvalidValue(f"--set takes NAME=VALUE with a setting's name, such as amount_db=-12; {each!r} is not.")
        settings[name] = NAMED[name].checked(value)
    fps = rate_of_text(args.fps) if args.fps else None
    names = ("what", "rate", "range", "pattern", "track", "quality", "keep", "ending", "fade_s",
             "parts", "texts", "language", "gains")  # fmt: skip
    request = {**{name: getattr(args, name) for name in names}, "form": form, "fps": args.film_fps}
    return from_files.Order(request, settings, args.media, fps, args.data, args.over)


def _render(args: argparse.Namespace) -> int:
    by_ending = form_by_ending(args.out)
    order = _order(args, args.form or (by_ending.name if by_ending else "wav24"))
    with TerminalProgress([args.project.name]) as shown:
        made = from_files.render(args.project, args.out, order, lambda share, doing: shown(0, share, doing))
    _say_made([made], as_json=args.json)
    return made.code


def _batch(args: argparse.Namespace) -> int:
    if args.recipe is not None:
        return fleet.batch(args)
    paths = from_files.projects_in(Path(args.folder))
    order = _order(args, args.form or "wav24")
    with TerminalProgress([path.name for path in paths]) as shown:
        made = from_files.batch(paths, Path(args.out), order, shown)
    _say_made(made, as_json=args.json)
    return max(each.code for each in made)


def _say_made(made: Sequence[from_files.Made], *, as_json: bool) -> None:
    """A table of what was made, or JSON; what failed is said on standard error, too."""
    if as_json:
        rows = [
            {
                "project": each.project,
                "files": [str(file) for file in each.files],
                "length_s": round(n_to_seconds(each.length_n), 3),
                "passages": each.passages,
                "missing": each.missing,
                "said": each.said,
                "failed": each.failed or None,
                "took_s": round(each.took_s, 2),
            }
            for each in made
        ]
        print(json.dumps(rows, indent=2, ensure_ascii=False))
    else:
        width = max(len("Project"), *(len(each.project) for each in made))
        print(f"{'Project':<{width}}  {'Length':>10}  {'Passages':>8}  {'Took':>7}  Result")
        for each in made:
            if each.failed:
                print(f"{each.project:<{width}}  {'—':>10}  {'—':>8}  {'—':>7}  not made: {each.failed}")
                continue
            files = ", ".join(file.name for file in each.files)
            length = clock(each.length_n, decimals=0)
            figures = f"{length:>10}  {each.passages:>8}  {each.took_s:>5.1f} s"
            print(f"{each.project:<{width}}  {figures}  {files}  {each.said}")
    for each in made:
        if each.failed:
            print(f"jaylantern: {each.project}: {each.failed}", file=sys.stderr)
