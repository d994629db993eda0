"""A project as a JSON document, and back. `docs/project-file.md` says what stands in it.

The document holds what a person decided and nothing that follows from it. Its numbers are its own; media are known by
the hash of their content.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any

from jaylantern.core.edit.draft import check
from jaylantern.core.edit.drafts import as_project
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import nested
from jaylantern.core.timeline.held_draft import HeldDraft, Letter
from jaylantern.core.timeline.imported import ImportedProject, MediaAlias, MissingMedia, stand_in
from jaylantern.core.timeline.kinds import ID, LARGEST_ID, LARGEST_N, LENGTH, TIME, Choice, Integer, Maybe
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import Pair, completed, pairs_among, perch_of_lane, perch_today
from jaylantern.core.timeline.pin import PINS, PointPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED, WAS, Settings
from jaylantern.core.timeline.tag import USUAL_PERCHES, WORDS_BEFORE
from jaylantern.core.timeline.tailoring import TailoringKind
from jaylantern.errors import InvalidValue
from jaylantern.interchange.plain import Plain

FORMAT = "jay lantern project"
VERSION = 2  # 1 said ambience where this says atmosphere, and knew no narration
IN, OUT, TAILORED = Maybe(TIME), Maybe(LENGTH), Maybe(TailoringKind())
HASH_CHARACTERS = frozenset("0123456789abcdef")


def written(
    project: Project,
    *,
    media: Sequence[Media],
    aliases: Sequence[MediaAlias] = (),
    missing: Mapping[int, MissingMedia] | None = None,
    entries: Mapping[int, str] | None = None,
) -> dict[str, Any]:
    """A project as values fit for JSON. `media` are all of it, those that no clip shows too; `entries` says where a
    medium lies beside the document, by its number; `missing` what is known of those that are missing."""
    missing, entries = missing or {}, entries or {}
    numbers = {each.id for each in media}
    return {
        "format": FORMAT,
        "version": VERSION,
        "rate": RATE,
        "name": project.name,
        "in_n": project.in_n,
        "out_n": project.out_n,
        **decisions(project),
        "media": [_medium(each, missing.get(each.id), entries.get(each.id)) for each in media],
        "called": [nested(each) for each in aliases if each.media_id in numbers],
        "lanes": [{**nested(lane), "clips": [nested(clip) for clip in lane.clips]} for lane in project.lanes],
        "markers": [_without_id(marker) for marker in project.markers],
    }


def decisions(project: Project) -> dict[str, Any]:
    """What is set for the whole project: settings, pecking order, what was corrected by hand; the same of the draft
    that is held, and captions, where there are any."""
    held = {}
    if project.held is not None:
        aside = {**_set(as_project(project)), "frozen": list(project.held.frozen)}
        held = {"draft": {"letter": project.held.letter, **aside}}
    captions = [_without_id(each) for each in project.captions]
    return {**_set(project), **held, **({"captions": captions} if captions else {})}


def _set(project: Project) -> dict[str, Any]:
    """The same of one draft alone."""
    return {
        "settings": dict(vars(project.settings)),
        "perches": [str(name) for name in project.perches],
        "pairs": [nested(pair) for pair in project.pairs],
        **{name: [_without_id(pin) for pin in getattr(project, name)] for name in PINS},
    }


def _without_id(thing: Any) -> dict[str, Any]:
    """A noun as the document has it, where its number says nothing."""
    return {name: value for name, value in nested(thing).items() if name != "id"}


def _medium(media: Media, missing: MissingMedia | None, entry: str | None) -> dict[str, Any]:
    known = missing or MissingMedia(media.name, media.sha256)
    return {
        "id": media.id,
        "sha256": known.sha256,
        "name": known.name,
        "length_n": media.length_n,
        "url": known.url,
        "entry": entry,
        **({} if media.tailored is None else {"tailored": media.tailored.plain}),
    }


def read(values: object) -> ImportedProject:
    """A project from its document. Raises InvalidValue, which says where, for anything that can't be in one."""
    plain = Plain(values)
    if plain.values.get("format") != FORMAT:
        raise InvalidValue("It is not a project of Jay Lantern.")
    version = plain.value("version", Integer(1, 1 << 30))
    if version > VERSION:
        raise InvalidValue(f"It was made by a newer version (document version {version}); this one reads {VERSION}.")
    if plain.value("rate", Integer(1, 1 << 30)) != RATE:
        raise plain.wrong("rate", str(RATE))
    missing, media = _media(plain)
    lanes = _numbered(_lane(each, media) for each in plain.objects("lanes"))
    _numbered(clip for lane in lanes for clip in lane.clips)
    for lane in lanes:
        check(lane)
    in_n, out_n = plain.value("in_n", IN, None), plain.value("out_n", OUT, None)
    markers = tuple(each.noun(Marker, id=i) for i, each in enumerate(plain.objects("markers"), 1))
    found, remarks = read_decisions(plain, media, {lane.id for lane in lanes})
    aliases = [each.noun(MediaAlias) for each in plain.objects("called")]
    project = Project(
        1, plain.line("name") or "Untitled", 0, tuple(lanes), markers=markers, in_n=in_n, out_n=out_n, **found
    )
    return ImportedProject(project, missing, [each for each in aliases if each.media_id in media], remarks)


def _numbered(found: Any) -> list[Any]:
    """Lanes or clips, no two of one number."""
    listed = list(found)
    if len({each.id for each in listed}) < len(listed):
        raise InvalidValue("Two lanes or two clips have the same number.")
    return listed


def _media(plain: Plain) -> tuple[dict[int, MissingMedia], dict[int, Media]]:
    missing, media = {}, {}
    for each in plain.objects("media"):
        number = each.value("id", ID)
        sha256 = each.line("sha256", "")
        if sha256 and (len(sha256) != 64 or not set(sha256) <= HASH_CHARACTERS):
            raise each.wrong("sha256", "64 hexadecimal figures")
        name = each.line("name") or "unnamed file"
        entry = each.values.get("entry")
        tailored = each.value("tailored", TAILORED, None)
        missing[number] = MissingMedia(
            name, sha256, each.line("url", "", most=2000), entry if isinstance(entry, str) else "", tailored
        )
        media[number] = stand_in(number, name, each.value("length_n", LENGTH))
    return missing, media


def _lane(plain: Plain, media: Mapping[int, Media]) -> Lane:
    clips = sorted((_clip(each, media) for each in plain.objects("clips")), key=lambda clip: (clip.start_n, clip.id))
    return plain.noun(Lane, name=plain.line("name") or "Lane", clips=tuple(clips))


def _clip(plain: Plain, media: Mapping[int, Media]) -> Clip:
    number = plain.value("media", ID)
    if number not in media:
        raise plain.wrong("media", "the number of a medium of the document")
    name = plain.line("name", media[number].name) or media[number].name
    clip = plain.noun(Clip, media=media[number], name=name, id=plain.value("id", Integer(1, LARGEST_ID)))
    if clip.stop_n > LARGEST_N:
        raise plain.wrong("length_n", "short enough to end within 24 hours")
    return clip


def read_decisions(
    plain: Plain, media: Collection[int], lanes: Collection[int]
) -> tuple[dict[str, Any], tuple[str, ...]]:
    """What is set for the whole project, by the names of its fields, and remarks on what was left out.

    `media` and `lanes` are the numbers that can be spoken of.
    """
    found, remarks = _decided(plain, media, lanes)
    found["captions"] = tuple(each.noun(Captions, id=i) for i, each in enumerate(plain.objects("captions"), 1))
    if plain.values.get("draft") is not None:
        held = plain.object("draft")
        of_draft, more = _decided(held, media, lanes)
        frozen = tuple(number for number in held.list("frozen") if type(number) is int and number in lanes)
        found["held"] = HeldDraft(held.value("letter", Choice(Letter)), frozen=frozen, **of_draft)
        remarks = tuple(dict.fromkeys((*remarks, *more)))
    return found, remarks


def _decided(plain: Plain, media: Collection[int], lanes: Collection[int]) -> tuple[dict[str, Any], tuple[str, ...]]:
    sent = {WAS.get(name, name): value for name, value in plain.object("settings").values.items()}
    unknown = [str(name)[:40] for name in sent if name not in NAMED]
    settings = Settings().changed({name: value for name, value in sent.items() if name in NAMED})
    remarks = (f"Settings this version does not know were left out: {', '.join(unknown)}.",) if unknown else ()
    known = {*USUAL_PERCHES, *WORDS_BEFORE, *map(perch_of_lane, lanes)}
    perches = completed(each for each in plain.list("perches") if isinstance(each, str) and each in known)
    pairs = (_pair(each) for each in plain.objects("pairs"))

    def pins(name: str, kind: type[Any]) -> tuple[Any, ...]:
        here = [each for each in plain.objects(name) if kind is PointPin or each.speaks_of("media_id", media)]
        return tuple(each.noun(kind, id=i) for i, each in enumerate(here, 1))

    found = {
        "settings": settings,
        "perches": perches,
        "pairs": pairs_among(pairs, perches),
        **{name: pins(name, kind) for name, kind in PINS.items()},
    }
    return found, remarks


def _pair(plain: Plain) -> Pair:
    pair = plain.noun(Pair)
    return Pair(perch_today(pair.upper), perch_today(pair.lower), pair.own)
