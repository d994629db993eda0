"""A clip: a stretch of a medium on a lane."""

from __future__ import annotations

from enum import StrEnum

from jaylantern.core.timeline.care import CARE, Care
from jaylantern.core.timeline.described import Composed, Medium, described, noun
from jaylantern.core.timeline.fades import NO_FADE, Fade
from jaylantern.core.timeline.gain_line import LINE, NO_LINE, GainLine
from jaylantern.core.timeline.kinds import ID, LENGTH, LINK, TIME, Choice, Flag, Line, Maybe, Number
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue

FADE = Composed(Fade, ("_n", "_shape"))
GAIN_LIMITS_DB = (-90.0, 24.0)  # of a lane and of a clip
GAIN = Number(*GAIN_LIMITS_DB, "dB", "Choose a gain in between.")
THRESHOLD = Number(-90.0, 0.0, "dBFS", "Choose a threshold in between.")


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
    CAPTIONS = "captions"  # where captions stand over it


@noun
class Clip:
    """A stretch of media on a lane: media [offset_n, offset_n + length_n) at timeline [start_n, stop_n).

    `name` is what its file was called when it was brought in. Clips of one `link` are cut and moved together. A
    bystander stands outside the pecking order: it neither gives way nor makes others do so. `root` is the clip it was
    split off, 0 for itself. Without a `trigger` or threshold (`level_db`, dBFS) of its own it takes its lane's. `line`
    is the gain drawn on it by hand; without a `care` of its own it takes its lane's.
    """

    id: int = described(ID)
    name: str = described(Line(200))
    media: Media = described(Medium())
    start_n: int = described(TIME)
    offset_n: int = described(TIME)
    length_n: int = described(LENGTH)
    tag: Tag | None = described(Maybe(Choice(Tag)), default=None)
    gain_db: float = described(GAIN, default=0.0)
    muted: bool = described(Flag(), default=False)
    link: int | None = described(Maybe(LINK), default=None)
    channels: Channels = described(Choice(Channels), default=Channels.BOTH)
    fade_in: Fade = described(FADE, default=NO_FADE)
    fade_out: Fade = described(FADE, default=NO_FADE)
    bystander: bool = described(Flag(), default=False)
    trigger: Trigger | None = described(Maybe(Choice(Trigger)), default=None)
    level_db: float | None = described(Maybe(THRESHOLD), default=None)
    root: int = described(LINK, default=0)
    line: GainLine = described(LINE, default=NO_LINE)
    care: Care | None = described(Maybe(CARE), default=None)

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
