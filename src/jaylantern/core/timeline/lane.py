"""A lane: one track of the timeline with its clips."""

from __future__ import annotations

from collections.abc import Iterator
from enum import StrEnum

from jaylantern.core.timeline.care import CARE, NO_CARE, Care
from jaylantern.core.timeline.clip import GAIN, THRESHOLD, Clip, Trigger
from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.kinds import ID, Choice, Flag, Line
from jaylantern.core.timeline.tag import Tag


class LaneKind(StrEnum):
    """What a lane carries."""

    PICTURE = "picture"
    SOUND = "sound"


@noun
class Lane:
    """One track of the timeline, its clips ordered by start.

    On a `frozen` lane the gain of the music is what its point pins say and nothing else.
    """

    id: int = described(ID)
    name: str = described(Line(80))
    kind: LaneKind = described(Choice(LaneKind))
    tag: Tag = described(Choice(Tag), default=Tag.UNTAGGED)
    gain_db: float = described(GAIN, default=0.0)
    muted: bool = described(Flag(), default=False)
    soloed: bool = described(Flag(), default=False)
    bystander: bool = described(Flag(), default=False)
    clips: tuple[Clip, ...] = ()
    trigger: Trigger = described(Choice(Trigger), default=Trigger.VOICE)
    level_db: float = described(THRESHOLD, default=-36.0)
    frozen: bool = described(Flag(), default=False)
    care: Care = described(CARE, default=NO_CARE)

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

    def care_set(self, clip: Clip) -> Care:
        """The clip's own care, else the lane's."""
        return self.care if clip.care is None else clip.care

    def care_of(self, clip: Clip) -> Care | None:
        """What is done to the sound of the clip; None for nothing."""
        found = self.care_set(clip)
        return found if found.on and clip.media.has_sound else None

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
