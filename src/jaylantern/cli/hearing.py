"""The commands that find speech in files, and lower music under it: detect, duck."""

from __future__ import annotations

import argparse
import json
import math
from pathlib import Path

from jaylantern import pipeline
from jaylantern.core.ducking.media_power import MediaPower, Spectrum
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.mixing.mix import Variant
from jaylantern.core.signal.timebase import db_to_percent, n_to_seconds
from jaylantern.core.speech.voice_track import find_speech
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, ClearIn, DuckBy, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.export import sound_output
from jaylantern.library import ingest
from jaylantern.media import wav
from jaylantern.media.sound import Reading, Sound
from jaylantern.pipeline import DuckingResult, MediaFacts
from jaylantern.support.paths import must_be_a_file, must_have_a_folder
from jaylantern.support.progress import silent
from jaylantern.support.scratch import scratch

DUCK_KNOBS = ("sensitivity", "amount_db", "attack_ms", "release_ms", "lead_in_ms", "hold_ms")
LIMITS = ("deepest_db", "slightest_db")


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What these commands take."""
    if name == "detect":
        parser.add_argument("file", type=Path)
        _knob(parser, "sensitivity")
        parser.add_argument("--json", action="store_true", help="print JSON")
        parser.set_defaults(run=_detect)
        return
    parser.add_argument("--dialogue", type=Path, action="append", required=True, metavar="FILE")
    parser.add_argument("--music", type=Path, required=True, metavar="FILE")
    for each in DUCK_KNOBS:
        _knob(parser, each)
    clear = KNOB["wish_lu"]
    parser.add_argument("--clearance-lu", type=float, metavar="N", help=f"{clear.help} Takes the place of an amount; "
                        f"{clear.low:g} to {clear.high:g} {clear.unit}")  # fmt: skip
    by_ear = KNOB["wish_sii"]
    parser.add_argument("--sii", type=float, metavar="N", help=f"{by_ear.help} Takes the place of a clearance in LU; "
                        f"{by_ear.low:g} to {by_ear.high:g}")  # fmt: skip
    for each in LIMITS:
        _knob(parser, each)
    for option, what in (("--out-mix", "mix as 24-bit WAV"), ("--out-music", "ducked music as 24-bit WAV"),
                         ("--keyframes", "gain curve as CSV")):  # fmt: skip
        parser.add_argument(option, type=Path, metavar="FILE", help=what)
    parser.add_argument("--json", action="store_true", help="print passages and settings as JSON")
    parser.set_defaults(run=_duck)


def _knob(parser: argparse.ArgumentParser, name: str) -> None:
    knob = KNOB[name]
    text = f"{knob.help} {knob.low:g} to {knob.high:g} {knob.unit}, default {knob.default:g}".replace("%", "%%")
    parser.add_argument(f"--{name.replace('_', '-')}", type=float, default=knob.default, metavar="N", help=text)


def _read(path: Path, folder: Path, *, listen: bool) -> ingest.Read:
    """What is in a file, decoded into a folder; only what is asked for is worked out."""
    must_be_a_file(path)
    folder.mkdir(exist_ok=True)
    return ingest.read(path, name=path.name, folder=folder, listen=listen)


def _detect(args: argparse.Namespace) -> None:
    sensitivity = KNOB["sensitivity"].checked(args.sensitivity)
    with scratch() as folder:
        found = _read(args.file, folder, listen=True)
    spans = [] if found.track is None else find_speech(found.track, sensitivity=sensitivity).tolist()
    segments = [[round(n_to_seconds(a), 4), round(n_to_seconds(b), 4)] for a, b in spans]
    if args.json:
        print(json.dumps({"duration_s": round(n_to_seconds(found.length_n), 4), "segments": segments}))
        return
    for start, stop in segments:
        print(f"{start:10.3f} {stop:10.3f}")


def _duck(args: argparse.Namespace) -> None:
    settings = Settings().changed({name: getattr(args, name) for name in (*DUCK_KNOBS, *LIMITS)})
    if args.clearance_lu is not None:
        settings = settings.changed({"duck_by": DuckBy.CLEARANCE, "wish_lu": args.clearance_lu})
    if args.sii is not None:
        by_ear = {"clear_in": ClearIn.INTELLIGIBILITY, "wish_sii": args.sii}
        settings = settings.changed({"duck_by": DuckBy.CLEARANCE, **by_ear})
    outputs = [p for p in (args.out_mix, args.out_music, args.keyframes) if p is not None]
    for path in outputs:
        must_have_a_folder(path)
    with scratch() as folder:
        _duck_in(folder, args, settings)


def _duck_in(folder: Path, args: argparse.Namespace, settings: Settings) -> None:
    """The music is not listened to: nothing gives way to it."""
    files = [(path, Tag.DIALOGUE) for path in args.dialogue] + [(args.music, Tag.MUSIC)]
    clear = settings.duck_by is DuckBy.CLEARANCE
    lanes: list[Lane] = []
    stores: dict[Source, Sound] = {}
    facts: dict[int, MediaFacts] = {}
    for number, (path, tag) in enumerate(files, 1):
        found = _read(path, folder / str(number), listen=tag is Tag.DIALOGUE)
        media = Media(number, "", path.name, found.length_n, found.store is not None, False)
        clip = Clip(number, path.name, media, 0, 0, found.length_n)
        lanes.append(Lane(number, path.name, LaneKind.SOUND, tag, clips=(clip,)))
        if found.store is not None:
            stores[number] = found.store
            facts[number] = _facts(found) if clear else MediaFacts(found.track, MediaPower.unknown(found.length_n))
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
    passages = [[round(n_to_seconds(each_n), 4) for each_n in span] for span in result.plan.spans.tolist()]
    if args.json:
        wish = "wish_lu" if args.sii is None else "wish_sii"
        named = (*DUCK_KNOBS, wish, *LIMITS) if clear else DUCK_KNOBS
        chosen = {name: getattr(settings, name) for name in named}
        print(json.dumps({"passages": _weighed(result, passages) if clear else passages, "settings": chosen}))
    elif clear:
        for each in _weighed(result, passages):
            start_s, stop_s, amount_db, clearance_lu, sii = each.values()
            print(f"{start_s:10.3f} {stop_s:10.3f} {amount_db:7.1f} dB {_lu(clearance_lu)}  SII {sii:.2f}")
        wished = MARKS[settings.clear_in].wished(settings.wish)
        print(f"{len(passages)} passages, speech wished {wished} clear of the music")
    else:
        left = db_to_percent(settings.amount_db)
        print(f"{len(passages)} passages, music at {settings.amount_db:g} dB ({left:.1f} %) under them")


def _facts(found: ingest.Read) -> MediaFacts:
    """All that clearance needs of a file that has sound."""
    assert found.store is not None
    products, bands = ingest.weighed(found.store)
    spectrum = Spectrum(bands)
    return MediaFacts(found.track, MediaPower(products), bands=lambda care: spectrum)


def _weighed(result: DuckingResult, passages: list[list[float]]) -> list[dict[str, float | None]]:
    """Each passage with the depth of its dip and how clear speech stands; no clearance where all else is silent."""
    found = zip(passages, result.plan.dips, result.clear_lu, result.sii, strict=True)
    return [
        {
            "start_s": start_s,
            "stop_s": stop_s,
            "amount_db": round(dip.amount_db, 2),
            "clearance_lu": round(lu, 2) if math.isfinite(lu) else None,
            "sii": round(sii, 3),
        }
        for (start_s, stop_s), dip, lu, sii in found
    ]


def _lu(clearance_lu: float | None) -> str:
    return "alone" if clearance_lu is None else f"{clearance_lu:5.1f} LU"
