"""The command line, on the same core as the pages."""

from __future__ import annotations

import argparse
import json
import math
import sqlite3
import sys
import tempfile
from collections.abc import Sequence
from dataclasses import asdict
from functools import partial
from pathlib import Path

from jaylantern import pipeline
from jaylantern.cli import render
from jaylantern.cli.progress import TerminalProgress
from jaylantern.core.mixing.mix import Variant
from jaylantern.core.signal.timebase import db_to_percent, n_to_seconds
from jaylantern.core.speech.voice_track import find_speech
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import JayError, MediaError
from jaylantern.export import sound_output
from jaylantern.library import facts as facts_on_disk
from jaylantern.library import ingest
from jaylantern.library.facts import About
from jaylantern.media import wav
from jaylantern.media.sound import Reading
from jaylantern.projectfile import backup
from jaylantern.store.connection import disk_trouble
from jaylantern.support import own_python
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.support.progress import silent
from jaylantern.workspace.folder import default_folder

LOUDNESS_UNITS = {
    "integrated_lufs": "LUFS", "loudness_range_lu": "LU", "max_momentary_lufs": "LUFS M",
    "max_short_term_lufs": "LUFS S", "true_peak_dbtp": "dBTP",
}  # fmt: skip
DUCK_KNOBS = ("sensitivity", "amount_db", "attack_ms", "release_ms", "lead_in_ms", "hold_ms")


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; 0 if it worked, 2 with one clear line if the input was bad."""
    args = _parser().parse_args(argv)
    keep_freed_memory()
    own_python.guard()
    try:
        return int(args.run(args) or 0)
    except (JayError, OSError) as error:
        print(f"jaylantern: {error}", file=sys.stderr)
    except sqlite3.Error as error:
        print(f"jaylantern: the data folder can't be used: {disk_trouble(error) or error}", file=sys.stderr)
    return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="jaylantern", description="Lowers the music under the speech.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    detect = commands.add_parser("detect", help="find the speech in a file")
    detect.add_argument("file", type=Path)
    _knob(detect, "sensitivity")
    detect.add_argument("--json", action="store_true", help="print JSON")
    detect.set_defaults(run=_detect)

    duck = commands.add_parser("duck", help="lower music under dialogue; all files start at zero")
    duck.add_argument("--dialogue", type=Path, action="append", required=True, metavar="FILE")
    duck.add_argument("--music", type=Path, required=True, metavar="FILE")
    for name in DUCK_KNOBS:
        _knob(duck, name)
    for option, what in (("--out-mix", "mix as 24-bit WAV"), ("--out-music", "ducked music as 24-bit WAV"),
                         ("--keyframes", "gain curve as CSV")):  # fmt: skip
        duck.add_argument(option, type=Path, metavar="FILE", help=what)
    duck.add_argument("--json", action="store_true", help="print passages and settings as JSON")
    duck.set_defaults(run=_duck)

    loudness = commands.add_parser("loudness", help="measure files by ITU-R BS.1770-5 and EBU R 128")
    loudness.add_argument("files", type=Path, nargs="+", metavar="FILE")
    loudness.add_argument("--json", action="store_true", help="print JSON, one object for each file by its name")
    loudness.set_defaults(run=_loudness)

    render.add_to(commands)

    for name, help_text, what in (
        (
            "backup",
            "write all projects and media into one zip file, also while the application runs",
            "FILE.zip to write",
        ),
        ("restore", "unpack a backup into a new data folder", "FILE.zip to read"),
    ):
        keep = commands.add_parser(name, help=help_text)
        keep.add_argument("file", type=Path, metavar="FILE", help=what)
        keep.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
        keep.set_defaults(run=_backup if name == "backup" else _restore)

    for name, help_text in (("serve", "start the application"), ("demo", "start it with the demo project")):
        serve = commands.add_parser(name, help=help_text)
        serve.add_argument("--port", type=int, default=8420)
        serve.add_argument("--open", action="store_true", help="open the page in a browser")
        serve.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
        serve.set_defaults(run=_serve, demo=name == "demo")
    return parser


def _knob(parser: argparse.ArgumentParser, name: str) -> None:
    knob = KNOB[name]
    text = f"{knob.help} {knob.low:g} to {knob.high:g} {knob.unit}, default {knob.default:g}".replace("%", "%%")
    parser.add_argument(f"--{name.replace('_', '-')}", type=float, default=knob.default, metavar="N", help=text)


def _taken(path: Path, folder: Path) -> About:
    if not path.is_file():
        raise MediaError(f"{path} is not there, or is not a file.")
    about = ingest.take_in(path, name=path.name, folder=folder, progress=silent)
    if not about.has_sound and about.sound_word != "silent":
        raise MediaError(f"{path.name} has no sound.")
    return about


def _detect(args: argparse.Namespace) -> None:
    sensitivity = KNOB["sensitivity"].checked(args.sensitivity)
    with tempfile.TemporaryDirectory(prefix="jaylantern-") as folder:
        about = _taken(args.file, Path(folder))
        track = facts_on_disk.read_facts(Path(folder), about).track if about.has_sound else None
    spans = [] if track is None else find_speech(track, sensitivity=sensitivity).tolist()
    segments = [[round(n_to_seconds(a), 4), round(n_to_seconds(b), 4)] for a, b in spans]
    if args.json:
        print(json.dumps({"duration_s": round(n_to_seconds(about.length_n), 4), "segments": segments}))
        return
    for start, stop in segments:
        print(f"{start:10.3f} {stop:10.3f}")


def _loudness(args: argparse.Namespace) -> int:
    """Measure files; 2 if one of them could not be read, and the others are measured all the same."""
    found, failed = {}, 0
    for path in args.files:
        try:
            if not path.is_file():
                raise MediaError(f"{path} is not there, or is not a file.")
            found[str(path)] = ingest.loudness_of(path)
        except (JayError, OSError) as error:
            failed = 2
            print(f"jaylantern: {error}", file=sys.stderr)
    if args.json:
        said = {
            name: {key: round(value, 2) if math.isfinite(value) else None for key, value in asdict(each).items()}
            for name, each in found.items()
        }
        print(json.dumps(said, indent=2, ensure_ascii=False))
        return failed
    for name, each in found.items():
        figures = "  ".join(f"{_figure(asdict(each)[key])} {unit}" for key, unit in LOUDNESS_UNITS.items())
        print(f"{figures}  {name}")
    return failed


def _figure(value: float) -> str:
    """A level as text of one width."""
    return f"{value:6.1f}" if math.isfinite(value) else "     —"


def _duck(args: argparse.Namespace) -> None:
    settings = Settings().changed({name: getattr(args, name) for name in DUCK_KNOBS})
    outputs = [p for p in (args.out_mix, args.out_music, args.keyframes) if p is not None]
    for path in outputs:
        if not path.parent.is_dir():
            raise MediaError(f"The folder {path.parent} is not there; make it first.")
    with tempfile.TemporaryDirectory(prefix="jaylantern-") as folder:
        _duck_in(Path(folder), args, settings)


def _duck_in(folder: Path, args: argparse.Namespace, settings: Settings) -> None:
    files = [(path, Tag.DIALOGUE) for path in args.dialogue] + [(args.music, Tag.MUSIC)]
    lanes, stores, facts = [], {}, {}
    for number, (path, tag) in enumerate(files, 1):
        place = folder / str(number)
        about = _taken(path, place)
        media = Media(number, "", path.name, about.length_n, about.has_sound, False)
        clip = Clip(number, path.name, media, 0, 0, about.length_n)
        lanes.append(Lane(number, path.name, LaneKind.SOUND, tag, clips=(clip,)))
        if about.has_sound:
            stores[number], facts[number] = (
                facts_on_disk.sound_store(place, about),
                facts_on_disk.read_facts(place, about),
            )
    project = Project(1, "command line", 0, tuple(lanes), settings)
    result = pipeline.decide(project, facts)
    read = Reading(stores)
    for path, variant in ((args.out_mix, Variant.DUCKED), (args.out_music, Variant.MUSIC)):
        if path is not None:
            wav.write_wav(path, sound_output.rendered(sound_output.whole_of(result.programme, read, variant), silent))
    music = project.lanes[-1].clips[0]
    if args.keyframes is not None:
        curve = pipeline.keyframes(result.plan.leading, music)
        sound_output.write_keyframes(args.keyframes, curve)
    passages = [[round(n_to_seconds(p.start_n), 4), round(n_to_seconds(p.stop_n), 4)] for p in result.plan.passages]
    if args.json:
        chosen = {name: getattr(settings, name) for name in DUCK_KNOBS}
        print(json.dumps({"passages": passages, "settings": chosen}))
    else:
        left = db_to_percent(settings.amount_db)
        print(f"{len(passages)} passages, music at {settings.amount_db:g} dB ({left:.1f} %) under them")


def _backup(args: argparse.Namespace) -> None:
    data = args.data or default_folder()
    if not args.file.parent.is_dir():
        raise MediaError(f"The folder {args.file.parent} is not there; make it first.")
    with TerminalProgress([args.file.name]) as shown:
        count = backup.backup(data, args.file, progress=partial(shown, 0))
    print(f"{args.file}: {count} files, {args.file.stat().st_size / 1e6:.0f} MB")


def _restore(args: argparse.Namespace) -> None:
    data = args.data or default_folder()
    with TerminalProgress([args.file.name]) as shown:
        count = backup.restore(args.file, data, progress=partial(shown, 0))
    print(f"{data}: {count} files. Start with: ./jay serve --data {data}")


def _serve(args: argparse.Namespace) -> None:
    from jaylantern.web.server import serve

    serve(data=args.data, port=args.port, open_page=args.open, demo=args.demo)


if __name__ == "__main__":
    sys.exit(main())
