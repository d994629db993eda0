"""A project as a JSON document, and back. `docs/project-file.md` says what stands in it.

The document holds what a person decided and nothing that follows from it. Its numbers are its own; media are known by
the hash of their content.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

from jaylantern.core.edit.draft import LARGEST_N, check
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import GAIN_LIMITS_DB, Channels, Clip, Trigger
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.imported import Called, Opened, Wanted, stand_in
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import USUAL_PERCHES, Pair, perch_of_lane
from jaylantern.core.timeline.pin import POINT_LIMITS_DB, DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue
from jaylantern.interchange.plain import Plain

FORMAT, VERSION = "jay lantern project", 1
LARGEST_ID = 1 << 60
LEVEL_LIMITS_DB = (-90.0, 0.0)
HASH_CHARACTERS = frozenset("0123456789abcdef")


def written(
    project: Project,
    *,
    media: Sequence[Media],
    called: Sequence[Called] = (),
    wanted: Mapping[int, Wanted] | None = None,
    entries: Mapping[int, str] | None = None,
) -> dict[str, Any]:
    """A project as values fit for JSON. `media` are all of it, those that no clip shows too; `entries` says where a
    medium lies beside the document, by its number; `wanted` what is known of those that are missing."""
    wanted, entries = wanted or {}, entries or {}
    numbers = {each.id for each in media}
    return {
        "format": FORMAT,
        "version": VERSION,
        "rate": RATE,
        "name": project.name,
        "in_n": project.in_n,
        "out_n": project.out_n,
        **decisions(project),
        "media": [_medium(each, wanted.get(each.id), entries.get(each.id)) for each in media],
        "called": [vars(each) for each in called if each.media_id in numbers],
        "lanes": [{**lane_values(lane), "clips": [clip_values(clip) for clip in lane.clips]} for lane in project.lanes],
        "markers": [{"time_n": marker.time_n, "name": marker.name} for marker in project.markers],
    }


def decisions(project: Project) -> dict[str, Any]:
    """What is set for the whole project: settings, pecking order, what was corrected by hand."""
    return {
        "settings": dict(vars(project.settings)),
        "perches": [str(name) for name in project.perches],
        "pairs": [{"upper": pair.upper, "lower": pair.lower, "own": pair.own.plain} for pair in project.pairs],
        "speech_pins": [_without_id(pin) for pin in project.speech_pins],
        "dip_pins": [{**_without_id(pin), "own": pin.own.plain} for pin in project.dip_pins],
        "point_pins": [_without_id(pin) for pin in project.point_pins],
    }


def _without_id(pin: SpeechPin | DipPin | PointPin) -> dict[str, Any]:
    return {name: value for name, value in vars(pin).items() if name != "id"}


def _medium(media: Media, wanted: Wanted | None, entry: str | None) -> dict[str, Any]:
    known = wanted or Wanted(media.name, media.sha256)
    return {
        "id": media.id,
        "sha256": known.sha256,
        "name": known.name,
        "length_n": media.length_n,
        "url": known.url,
        "entry": entry,
    }


def lane_values(lane: Lane) -> dict[str, Any]:
    """A lane without its clips, as values fit for JSON."""
    return {name: value for name, value in vars(lane).items() if name != "clips"}


def clip_values(clip: Clip) -> dict[str, Any]:
    """A clip as values fit for JSON; its medium by number."""
    return {**vars(clip), "media": clip.media.id, "fade_in": vars(clip.fade_in), "fade_out": vars(clip.fade_out)}


def read(values: object) -> Opened:
    """A project from its document. Raises InvalidValue, which says where, for anything that can't be in one."""
    plain = Plain(values)
    if plain.values.get("format") != FORMAT:
        raise InvalidValue("It is not a project of Jay Lantern.")
    version = plain.whole("version", 1, 1 << 30)
    if version > VERSION:
        raise InvalidValue(f"It was made by a newer version (document version {version}); this one reads {VERSION}.")
    if plain.whole("rate", 1, 1 << 30) != RATE:
        raise plain.wrong("rate", str(RATE))
    wanted, media = _media(plain)
    lanes = _numbered(_lane(each, media) for each in plain.objects("lanes"))
    _numbered(clip for lane in lanes for clip in lane.clips)
    for lane in lanes:
        check(lane)
    in_n, out_n = plain.whole_or_none("in_n", 0, LARGEST_N), plain.whole_or_none("out_n", 1, LARGEST_N)
    markers = tuple(
        Marker(i, each.whole("time_n", 0, LARGEST_N), each.line("name"))
        for i, each in enumerate(plain.objects("markers"), 1)
    )
    found, remarks = read_decisions(plain, media, {lane.id for lane in lanes})
    called = [
        Called(each.whole("media_id", 0, LARGEST_ID), each.line("name"), each.flag("is_take"))
        for each in plain.objects("called")
    ]
    project = Project(
        1, plain.line("name") or "Untitled", 0, tuple(lanes), markers=markers, in_n=in_n, out_n=out_n, **found
    )
    return Opened(project, wanted, [each for each in called if each.media_id in media], remarks)


def _numbered(found: Any) -> list[Any]:
    """Lanes or clips, no two of one number."""
    listed = list(found)
    if len({each.id for each in listed}) < len(listed):
        raise InvalidValue("Two lanes or two clips have the same number.")
    return listed


def _media(plain: Plain) -> tuple[dict[int, Wanted], dict[int, Media]]:
    wanted, media = {}, {}
    for each in plain.objects("media"):
        number = each.whole("id", 0, LARGEST_ID)
        sha256 = each.line("sha256", "")
        if sha256 and (len(sha256) != 64 or not set(sha256) <= HASH_CHARACTERS):
            raise each.wrong("sha256", "64 hexadecimal figures")
        name = each.line("name") or "unnamed file"
        entry = each.values.get("entry")
        wanted[number] = Wanted(name, sha256, each.line("url", "", most=2000), entry if isinstance(entry, str) else "")
        media[number] = stand_in(number, name, each.whole("length_n", 1, LARGEST_N))
    return wanted, media


def _lane(plain: Plain, media: Mapping[int, Media]) -> Lane:
    clips = sorted((_clip(each, media) for each in plain.objects("clips")), key=lambda clip: (clip.start_n, clip.id))
    return Lane(
        id=plain.whole("id", 0, LARGEST_ID),
        name=plain.line("name") or "Lane",
        kind=plain.one_of(LaneKind, "kind"),
        clips=tuple(clips),
        soloed=plain.flag("soloed"),
        **lane_sound(plain),
    )


def lane_sound(plain: Plain) -> dict[str, Any]:
    """What is set for a lane, by the names of its fields; usual where it is not there."""
    return {
        "tag": plain.one_of(Tag, "tag", Tag.UNTAGGED),
        "gain_db": plain.number("gain_db", *GAIN_LIMITS_DB, 0.0),
        "muted": plain.flag("muted"),
        "bystander": plain.flag("bystander"),
        "trigger": plain.one_of(Trigger, "trigger", Trigger.VOICE),
        "level_db": plain.number("level_db", *LEVEL_LIMITS_DB, -36.0),
        "frozen": plain.flag("frozen"),
    }


def _clip(plain: Plain, media: Mapping[int, Media]) -> Clip:
    number = plain.whole("media", 0, LARGEST_ID)
    if number not in media:
        raise plain.wrong("media", "the number of a medium of the document")
    start_n, length_n = plain.whole("start_n", 0, LARGEST_N), plain.whole("length_n", 1, LARGEST_N)
    if start_n + length_n > LARGEST_N:
        raise plain.wrong("length_n", "short enough to end within 24 hours")
    return Clip(
        id=plain.whole("id", 1, LARGEST_ID),
        name=plain.line("name", media[number].name) or media[number].name,
        media=media[number],
        start_n=start_n,
        offset_n=plain.whole("offset_n", 0, LARGEST_N),
        length_n=length_n,
        **clip_sound(plain),
    )


def clip_sound(plain: Plain) -> dict[str, Any]:
    """What is set for a clip, by the names of its fields; usual where it is not there."""
    return {
        "tag": plain.one_of_or_none(Tag, "tag"),
        "gain_db": plain.number("gain_db", *GAIN_LIMITS_DB, 0.0),
        "muted": plain.flag("muted"),
        "link": plain.whole_or_none("link", 0, LARGEST_ID),
        "channels": plain.one_of(Channels, "channels", Channels.BOTH),
        "fade_in": _fade(plain.object("fade_in")),
        "fade_out": _fade(plain.object("fade_out")),
        "bystander": plain.flag("bystander"),
        "trigger": plain.one_of_or_none(Trigger, "trigger"),
        "level_db": plain.number_or_none("level_db", *LEVEL_LIMITS_DB),
        "root": plain.whole("root", 0, LARGEST_ID, 0),
    }


def _fade(plain: Plain) -> Fade:
    return Fade(plain.whole("length_n", 0, LARGEST_N, 0), plain.one_of(Shape, "shape", Shape.ROUND))


def read_decisions(
    plain: Plain, media: Collection[int], lanes: Collection[int]
) -> tuple[dict[str, Any], tuple[str, ...]]:
    """What is set for the whole project, by the names of its fields, and remarks on what was left out.

    `media` and `lanes` are the numbers that can be spoken of.
    """
    sent = plain.object("settings").values
    unknown = [str(name)[:40] for name in sent if name not in NAMED]
    settings = Settings().changed({name: value for name, value in sent.items() if name in NAMED})
    remarks = (f"Settings this version does not know were left out: {', '.join(unknown)}.",) if unknown else ()
    own = {perch_of_lane(number) for number in lanes}
    perches = [
        each for each in plain.list("perches") if isinstance(each, str) and (each in USUAL_PERCHES or each in own)
    ]
    pairs = (_pair(each) for each in plain.objects("pairs"))

    def pins(name: str, make: Callable[[int, Plain], Any], *, of_media: bool = True) -> tuple[Any, ...]:
        here = [each for each in plain.objects(name) if not of_media or each.values.get("media_id") in media]
        return tuple(make(i, each) for i, each in enumerate(here, 1))

    def stretch(each: Plain) -> dict[str, int]:
        return {name: each.whole(name, 0, LARGEST_N) for name in ("media_id", "start_n", "stop_n")}

    found = {
        "settings": settings,
        "perches": tuple(dict.fromkeys(perches)) or USUAL_PERCHES,
        "pairs": tuple(pair for pair in pairs if {pair.upper, pair.lower} <= set(perches)),
        "speech_pins": pins(
            "speech_pins", lambda i, each: SpeechPin(id=i, heard=each.one_of(Heard, "heard"), **stretch(each))
        ),
        "dip_pins": pins(
            "dip_pins", lambda i, each: DipPin(id=i, own=Own.of(each.object("own").values), **stretch(each))
        ),
        "point_pins": pins("point_pins", _point, of_media=False),
    }
    return found, remarks


def _pair(plain: Plain) -> Pair:
    return Pair(plain.line("upper", most=40), plain.line("lower", most=40), Own.of(plain.object("own").values))


def _point(number: int, plain: Plain) -> PointPin:
    return PointPin(
        number,
        plain.whole("root", 0, LARGEST_ID),
        plain.whole("at_n", -LARGEST_N, LARGEST_N),
        plain.number_or_none("gain_db", *POINT_LIMITS_DB),
        plain.whole_or_none("instead_n", -LARGEST_N, LARGEST_N),
        plain.flag("dipped"),
    )
