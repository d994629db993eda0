"""The project as small frozen data: media, clips, lanes, tags. Sound is never in here."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from jaylantern.core.fades import Fade
from jaylantern.core.pins import NOTHING_OWN, DipPin, Own, PointPin, SpeechPin
from jaylantern.core.settings import Settings
from jaylantern.errors import InvalidValue

NO_FADE = Fade(0)

GAIN_LIMITS_DB = (-90.0, 24.0)  # of a lane and of a clip


class Tag(StrEnum):
    """What a lane or clip is. A clip without a tag of its own takes its lane's."""

    DIALOGUE = "dialogue"
    MUSIC = "music"
    EFFECTS = "effects"
    AMBIENCE = "ambience"
    UNTAGGED = "untagged"


class Channels(StrEnum):
    """Which of a medium's two channels a clip plays. One channel alone is heard on both sides."""

    BOTH = "both"
    LEFT = "left"
    RIGHT = "right"
    MONO = "mono"  # the mean of the two


class Trigger(StrEnum):
    """What of a clip counts as sounding for those that give way to it."""

    VOICE = "voice"  # its speech
    LEVEL = "level"  # whatever is louder than a threshold
    CLIP = "clip"  # its being there


class LaneKind(StrEnum):
    """What a lane carries."""

    PICTURE = "picture"
    SOUND = "sound"


@dataclass(frozen=True)
class Media:
    """A file brought in. `length_n` is the longer of its sound and picture, in samples at the project rate.

    One that is `missing` is a stand-in for a file that is not here: it has neither sound nor picture.
    """

    id: int
    sha256: str
    name: str
    length_n: int
    has_sound: bool
    has_picture: bool
    missing: bool = False


@dataclass(frozen=True)
class Clip:
    """A stretch of media on a lane: media [offset_n, offset_n + length_n) at timeline [start_n, stop_n).

    `name` is what its file was called when it was brought in. Clips of one `link` are cut and moved together. A
    bystander stands outside the pecking order: it neither gives way nor makes others do so. `root` is the clip it was
    split off, 0 for itself. Without a `trigger` or threshold (`level_db`, dBFS) of its own it takes its lane's.
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
    channels: Channels = Channels.BOTH
    fade_in: Fade = NO_FADE
    fade_out: Fade = NO_FADE
    bystander: bool = False
    trigger: Trigger | None = None
    level_db: float | None = None
    root: int = 0

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
    def origin(self) -> int:
        """The clip that points set by hand know it by."""
        return self.root or self.id

    @property
    def shift_n(self) -> int:
        """What is added to a media time to get its timeline time."""
        return self.start_n - self.offset_n

    def shows(self, start_n: int, stop_n: int) -> tuple[int, int] | None:
        """Where on the timeline the clip shows some of media [start_n, stop_n); None where it shows nothing of it."""
        first_n = max(start_n, self.offset_n) + self.shift_n
        last_n = min(stop_n, self.offset_n + self.length_n) + self.shift_n
        return (first_n, last_n) if first_n < last_n else None


@dataclass(frozen=True)
class Lane:
    """One track of the timeline, its clips ordered by start.

    On a `frozen` lane the gain of the music is what its point pins say and nothing else.
    """

    id: int
    name: str
    kind: LaneKind
    tag: Tag = Tag.UNTAGGED
    gain_db: float = 0.0
    muted: bool = False
    soloed: bool = False
    bystander: bool = False
    clips: tuple[Clip, ...] = ()
    trigger: Trigger = Trigger.VOICE
    level_db: float = -36.0
    frozen: bool = False

    def tag_of(self, clip: Clip) -> Tag:
        """The clip's own tag, else the lane's."""
        return clip.tag or self.tag

    @property
    def common_tag(self) -> Tag | None:
        """What its clips are, all that have sound; its own tag while there are none, None where they differ."""
        tags = {self.tag_of(clip) for clip in self.clips if clip.media.has_sound} or {self.tag}
        return next(iter(tags)) if len(tags) == 1 else None

    @property
    def main_tag(self) -> Tag:
        """What its clips are; its own tag where they differ."""
        return self.common_tag or self.tag

    def trigger_of(self, clip: Clip) -> Trigger:
        """The clip's own trigger, else the lane's."""
        return clip.trigger or self.trigger

    def level_of(self, clip: Clip) -> float:
        """The clip's own threshold in dBFS, else the lane's."""
        return self.level_db if clip.level_db is None else clip.level_db

    def outside(self, clip: Clip) -> bool:
        """Does the clip stand outside the pecking order?"""
        return self.bystander or clip.bystander

    def fades(self) -> Iterator[tuple[Clip, Fade, Fade]]:
        """Every clip with its fades as they sound: where two clips overlap they cross over the whole overlap.

        ───────────╲ ╱───────────       a's fade out and b's fade in last as long as
            a       ╳      b            the overlap, each in its own shape
        ───────────╱ ╲───────────
        """
        for i, clip in enumerate(self.clips):
            before_n = max(0, self.clips[i - 1].stop_n - clip.start_n) if i else 0
            after_n = max(0, clip.stop_n - self.clips[i + 1].start_n) if i + 1 < len(self.clips) else 0
            yield clip, clip.fade_in.over(before_n), clip.fade_out.over(after_n)


@dataclass(frozen=True)
class Marker:
    """A named place on the timeline."""

    id: int
    time_n: int
    name: str


USUAL_PERCHES = (Tag.DIALOGUE, Tag.EFFECTS, Tag.MUSIC, Tag.AMBIENCE)


def perch_of_lane(lane_id: int) -> str:
    """What a lane's own perch is called."""
    return f"lane {lane_id}"


@dataclass(frozen=True)
class Pair:
    """How one perch gives way to one above it, where that is not as usual."""

    upper: str
    lower: str
    own: Own


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
