"""A project: everything that decides how it sounds, apart from the sound itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeAlias

from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.held_draft import HeldDraft
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import NOTHING_OWN, DipPin, Own, PointPin, SpeechPin
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import USUAL_PERCHES

NewId: TypeAlias = Callable[[], int]  # a number never given out before


@dataclass(frozen=True)
class Project:
    """Everything that decides how it sounds, apart from the sound itself.

    `perches` is the pecking order from the top: tags, and lanes that have a perch of their own.
    """

    id: int
    name: str
    revision: int = 0
    lanes: tuple[Lane, ...] = ()
    settings: Settings = field(default_factory=Settings)
    markers: tuple[Marker, ...] = ()
    in_n: int | None = None  # the in and out points: a stretch to loop or to cut out
    out_n: int | None = None
    perches: tuple[str, ...] = USUAL_PERCHES
    pairs: tuple[Pair, ...] = ()
    speech_pins: tuple[SpeechPin, ...] = ()
    dip_pins: tuple[DipPin, ...] = ()
    point_pins: tuple[PointPin, ...] = ()
    captions: tuple[Captions, ...] = ()
    held: HeldDraft | None = None  # the draft beside this one
    beside: bool = False  # is this the held draft, heard as a project for a while?

    @property
    def state(self) -> tuple[int, int, bool]:
        """What tells this state of the project from every other."""
        return self.id, self.revision, self.beside

    @cached_property
    def own_pairs(self) -> dict[tuple[str, str], Own]:
        """What pairs of perches have of their own."""
        return {(pair.upper, pair.lower): pair.own for pair in self.pairs}

    def own_of_pair(self, upper: str, lower: str) -> Own:
        """What a pair of perches has of its own."""
        return self.own_pairs.get((upper, lower), NOTHING_OWN)

    @property
    def length_n(self) -> int:
        """End of the last clip; 0 for an empty project."""
        return max((clip.stop_n for _, clip in self.placed()), default=0)

    def placed(self) -> Iterator[tuple[Lane, Clip]]:
        """Every clip with its lane."""
        return ((lane, clip) for lane in self.lanes for clip in lane.clips)

    def fades(self) -> dict[int, tuple[Fade, Fade]]:
        """The fades of every clip as they sound, by its number."""
        return {clip.id: (coming, going) for lane in self.lanes for clip, coming, going in lane.fades()}

    def sounding(self) -> Iterator[tuple[Lane, Clip]]:
        """Every clip that has sound and is not muted, nor its lane; solo is for listening and not asked here."""
        for lane in self.lanes:
            if lane.kind is LaneKind.SOUND and not lane.muted:
                yield from ((lane, clip) for clip in lane.clips if clip.media.has_sound and not clip.muted)

    def heard(self) -> Iterator[tuple[Lane, Clip]]:
        """The sounding clips, only those of soloed lanes while any lane is soloed."""
        solo = any(lane.soloed for lane in self.lanes)
        return ((lane, clip) for lane, clip in self.sounding() if lane.soloed or not solo)
