"""The command that cuts music to a length: tailor."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import numpy as np

from jaylantern.core.signal.timebase import RATE, n_to_seconds, seconds_to_n
from jaylantern.core.tailoring.grid import grid_of
from jaylantern.core.tailoring.tailor import Solution, solutions
from jaylantern.core.tailoring.wish import FADE_OUT_N, Wish
from jaylantern.core.timeline.fades import Fade
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.export import sound_output
from jaylantern.library import ingest
from jaylantern.media.sound_files import FORMS, form_by_ending
from jaylantern.media.tailored import tailored, write_sped
from jaylantern.media.wav import Bext
from jaylantern.support.paths import must_be_a_file, must_have_a_folder
from jaylantern.support.scratch import scratch

PIECES = {"few": 20.0, "many": 80.0}
NOT_BROADCAST = Bext("", "", "")


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("music", type=Path, metavar="MUSIC")
    parser.add_argument("--length-s", type=float, required=True, metavar="S", help="how long it is to be, seconds")
    parser.add_argument("--exact", action="store_true",
                        help="to the sample, by at most 1 %% of speed; else as near as the beat allows")  # fmt: skip
    parser.add_argument("--pieces", choices=list(PIECES), help="few long pieces or many short ones")
    parser.add_argument(
        "--protect", action="append", default=[], metavar="A-B", help="a stretch that must stay, seconds"
    )
    parser.add_argument("--leave-out", action="append", default=[], metavar="A-B",
                        help="a stretch that must not be heard, seconds")  # fmt: skip
    parser.add_argument("--fade-out", action="store_true",
                        help=f"the end need not be kept; it fades out over {n_to_seconds(FADE_OUT_N):g} s")  # fmt: skip
    parser.add_argument("--out", type=Path, required=True, metavar="FILE", help="WAV, or another form by its ending")
    parser.add_argument("--json", action="store_true", help="print length, tempo and folds as JSON")
    parser.set_defaults(run=_tailor)


def _span(text: str, what: str) -> tuple[int, int]:
    first, sign, last = text.partition("-")
    try:
        start, stop = float(first), float(last)
    except ValueError:
        raise InvalidValue(f"{what} takes two times in seconds, such as 12.5-20; {text!r} is not.") from None
    if not sign or not 0 <= start < stop < float("inf"):
        raise InvalidValue(f"{what} must end after it begins; {text} does not.")
    return seconds_to_n(start), seconds_to_n(stop)


def _wish(args: argparse.Namespace) -> Wish:
    if not np.isfinite(args.length_s):
        raise InvalidValue(f"--length-s takes seconds; {args.length_s} is not.")
    return Wish(
        seconds_to_n(args.length_s),
        exact=args.exact,
        keep_end=not args.fade_out,
        protect=tuple(_span(each, "--protect") for each in args.protect),
        leave_out=tuple(_span(each, "--leave-out") for each in args.leave_out),
        pieces=PIECES.get(args.pieces, Wish.pieces),
    )


def _tailor(args: argparse.Namespace) -> None:
    form = form_by_ending(args.out)
    if form is None:
        known = ", ".join(dict.fromkeys(each.suffix for each in FORMS.values()))
        raise InvalidValue(f"{args.out.name} must end in one of {known}.")
    wish = _wish(args)
    must_be_a_file(args.music)
    must_have_a_folder(args.out)
    with scratch() as folder:
        read = ingest.read(args.music, name=args.music.name, folder=folder, listen=False)
        if read.store is None:
            raise MediaError(f"{args.music.name} is silent.")
        grid = grid_of(ingest.features_of(read.store, read.levels))
        found = solutions(grid, wish, read.store.read)[0]
        write_sped(read.store, found.cut, folder)
        sound = tailored(read.store, found.cut, folder)
        fade_n = 0 if wish.keep_end else min(FADE_OUT_N, sound.length_n)
        blocks = sound_output.stereo(sound, fade_out=Fade(fade_n))
        sound_output.write_sound(args.out, blocks, form=form, rate=RATE, bext=NOT_BROADCAST, measure=False)
    _say(found, tempo_bpm=grid.tempo_bpm, as_json=args.json)


def _say(found: Solution, *, tempo_bpm: float, as_json: bool) -> None:
    cut = found.cut
    folds = zip(cut.folds, found.fits, strict=True)
    if as_json:
        seams = [
            {
                "at_s": round(n_to_seconds(at), 4),
                "from_s": round(n_to_seconds(left), 4),
                "to_s": round(n_to_seconds(right), 4),
                "fit": fit,
            }
            for (at, left, right), fit in folds
        ]
        said = {"length_s": round(n_to_seconds(cut.length_n), 4), "tempo_bpm": round(tempo_bpm, 2), "seams": seams}
        print(json.dumps(said, indent=2))
        return
    tempo = f"{tempo_bpm:.1f} bpm" if tempo_bpm else "no beat to follow, cut where its sound is alike"
    print(f"{n_to_seconds(cut.length_n):.3f} s, {tempo}, {len(cut.folds)} folds")
    for (at, left, right), fit in folds:
        print(
            f"{n_to_seconds(at):10.3f}  from {n_to_seconds(left):.3f} on at {n_to_seconds(right):.3f}  fit {fit:.1f} %"
        )
