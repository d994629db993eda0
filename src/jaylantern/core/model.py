"""The project as small frozen data: media, clips, lanes, tags. Sound is never in here."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum

from jaylantern.core.settings import Settings
from jaylantern.errors import InvalidValue


class Tag(StrEnum):
    """What a lane or clip is. A clip without a tag of its own takes its lane's."""

    DIALOGUE = "dialogue"
    MUSIC = "music"
    EFFECTS = "effects"
    AMBIENCE = "ambience"
    UNTAGGED = "untagged"


class LaneKind(StrEnum):
    """What a lane carries."""

    PICTURE = "picture"
    SOUND = "sound"


@dataclass(frozen=True)
class Media:
    """A file brought in. `length_n` is the longer of its sound and picture, in samples at the project rate."""

    id: int
    sha256: str
    name: str
    length_n: int
    has_sound: bool
    has_picture: bool


@dataclass(frozen=True)
class Clip:
    """A stretch of media on a lane: media [offset_n, offset_n + length_n) at timeline [start_n, stop_n).

    `name` is what its file was called when it was brought in.
    """

    id: int
    name: str
    media: Media
    start_n: int
    offset_n: int
    length_n: int
    tag: Tag | None = None
    gain_db: float = 0.0
    muted: bool = False
    link: int | None = None

    def __post_init__(self) -> None:
        if self.start_n < 0:
            raise InvalidValue(f"Clip {self.id} would begin {-self.start_n} samples before the timeline does.")
        if self.length_n <= 0 or self.offset_n < 0 or self.offset_n + self.length_n > self.media.length_n:
            raise InvalidValue(f"Clip {self.id} reaches outside its media, which is {self.media.length_n} samples.")

    @property
    def stop_n(self) -> int:
        """Timeline end, exclusive."""
        return self.start_n + self.length_n

    @property
    def shift_n(self) -> int:
        """What is added to a media time to get its timeline time."""
        return self.start_n - self.offset_n


@dataclass(frozen=True)
class Lane:
    """One track of the timeline, its clips ordered by start."""

    id: int
    name: str
    kind: LaneKind
    tag: Tag = Tag.UNTAGGED
    gain_db: float = 0.0
    muted: bool = False
    soloed: bool = False
    clips: tuple[Clip, ...] = ()

    def tag_of(self, clip: Clip) -> Tag:
        """The clip's own tag, else the lane's."""
        return clip.tag or self.tag


@dataclass(frozen=True)
class Project:
    """Everything that decides how it sounds, apart from the sound itself."""

    id: int
    name: str
    revision: int = 0
    lanes: tuple[Lane, ...] = ()
    settings: Settings = field(default_factory=Settings)

    @property
    def length_n(self) -> int:
        """End of the last clip; 0 for an empty project."""
        return max((clip.stop_n for lane in self.lanes for clip in lane.clips), default=0)

    def sounding(self) -> Iterator[tuple[Lane, Clip]]:
        """Every clip that has sound and is not muted, nor its lane; solo is for listening and not asked here."""
        for lane in self.lanes:
            if lane.kind is LaneKind.SOUND and not lane.muted:
                yield from ((lane, clip) for clip in lane.clips if clip.media.has_sound and not clip.muted)

    def heard(self) -> Iterator[tuple[Lane, Clip]]:
        """The sounding clips, only those of soloed lanes while any lane is soloed."""
        solo = any(lane.soloed for lane in self.lanes)
        return ((lane, clip) for lane, clip in self.sounding() if lane.soloed or not solo)
