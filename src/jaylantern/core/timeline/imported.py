"""A project that came from elsewhere: its own numbers, stand-ins for media that have yet to be found here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.held_draft import HeldDraft
from jaylantern.core.timeline.kinds import ID, Flag, Line
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import Pair, perch_of_lane
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.tailoring import Tailoring


@dataclass(frozen=True)
class MissingMedia:
    """What is known of a medium: its file's name, its content hash or "", where its file was said to lie or "".

    `entry` is where it stands in an archive, "" where it is not in one; `tailored` of what it is made, where it is.
    """

    name: str
    sha256: str = ""
    url: str = ""
    entry: str = ""
    tailored: Tailoring | None = None


@noun
class MediaAlias:
    """A medium as it was brought into the project: by its number, under a name, perhaps spoken as a voice take."""

    media_id: int = described(ID)
    name: str = described(Line(200))
    is_take: bool = described(Flag(), default=False)


@dataclass(frozen=True)
class ImportedProject:
    """A project as it was read: every medium in it is a stand-in that is `missing`; `missing` says which, by number.

    `remarks` say what could not be carried over, one plain sentence each.
    """

    project: Project
    missing: Mapping[int, MissingMedia]
    aliases: Sequence[MediaAlias] = ()
    remarks: Sequence[str] = field(default=())


def stand_in(number: int, name: str, length_n: int) -> Media:
    """A medium that is not here: silent, without a picture, as long as is known."""
    return Media(number, "", name, max(1, length_n), has_sound=False, has_picture=False, missing=True)


def renumbered(imported: ImportedProject, new_id: NewId, *, project_id: int) -> ImportedProject:
    """The same with numbers of this place throughout: media, lanes, clips, links, markers, pins."""
    old = imported.project
    media = {number: new_id() for number in imported.missing}
    lanes = {lane.id: new_id() for lane in old.lanes}
    clips = {clip.id: new_id() for _, clip in old.placed()}
    others: dict[tuple[str, int], int] = {}

    def other(kind: str, number: int) -> int:
        """A number that may stand for something that is not there any more: a link, a clip split long ago."""
        if (kind, number) not in others:
            others[kind, number] = clips.get(number) or new_id() if kind == "root" else new_id()
        return others[kind, number]

    def _clip_of(clip: Clip) -> Clip:
        return replace(
            clip,
            id=clips[clip.id],
            media=replace(clip.media, id=media[clip.media.id]),
            link=None if clip.link is None else other("link", clip.link),
            root=0 if not clip.root else other("root", clip.root),
        )

    def _lane_of(lane: Lane) -> Lane:
        return replace(lane, id=lanes[lane.id], clips=tuple(_clip_of(clip) for clip in lane.clips))

    perches = {perch_of_lane(number): perch_of_lane(new) for number, new in lanes.items()}

    def _perch_of(name: str) -> str:
        return perches.get(name, name)

    def _decided(of: Project | HeldDraft) -> dict[str, Any]:
        return {
            "perches": tuple(_perch_of(name) for name in of.perches),
            "pairs": tuple(Pair(_perch_of(pair.upper), _perch_of(pair.lower), pair.own) for pair in of.pairs),
            "speech_pins": tuple(replace(pin, id=new_id(), media_id=media[pin.media_id]) for pin in of.speech_pins),
            "dip_pins": tuple(replace(pin, id=new_id(), media_id=media[pin.media_id]) for pin in of.dip_pins),
            "point_pins": tuple(replace(pin, id=new_id(), root=other("root", pin.root)) for pin in of.point_pins),
        }

    def _captions_of(captions: Captions) -> Captions:
        cues = (
            cue._replace(parts=tuple(part._replace(root=part.root and other("root", part.root)) for part in cue.parts))
            for cue in captions.cues
        )
        return replace(captions, id=new_id(), cues=tuple(cues))

    def _held() -> HeldDraft | None:
        if old.held is None:
            return None
        frozen = tuple(lanes[number] for number in old.held.frozen if number in lanes)
        return replace(old.held, frozen=frozen, **_decided(old.held))

    project = replace(
        old,
        id=project_id,
        lanes=tuple(_lane_of(lane) for lane in old.lanes),
        markers=tuple(replace(marker, id=new_id()) for marker in old.markers),
        captions=tuple(_captions_of(each) for each in old.captions),
        held=_held(),
        **_decided(old),
    )
    missing = {media[number]: each for number, each in imported.missing.items()}
    aliases = [replace(each, media_id=media[each.media_id]) for each in imported.aliases]
    return replace(imported, project=project, missing=missing, aliases=aliases)
