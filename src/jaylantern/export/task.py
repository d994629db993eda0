"""All that a file is made from."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

from jaylantern.core.edit.ending import Ending, span
from jaylantern.core.mixing.mix import STEMS, Programme, Variant, programme
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.timecode import rate_of
from jaylantern.errors import Refused
from jaylantern.export.request import ExportRequest, Extent
from jaylantern.media.wav import Bext
from jaylantern.pipeline import DuckingResult
from jaylantern.projectfile.archive import Belonging
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

WORDS = {Variant.DUCKED: "mix", Variant.MUSIC_PLAIN: "music plain"} | {each: str(each) for each in STEMS}


@dataclass(frozen=True)
class Task:
    """All that a file is made from."""

    workspace: Workspace
    project: Project
    result: DuckingResult
    folder: Path
    request: ExportRequest
    progress: Progress
    belonging: Belonging = field(default_factory=Belonging)

    def path(self, what: str, suffix: str) -> Path:
        """Where a file goes."""
        return self.folder / (self.request.name(self.project.name, what) + suffix)

    def about(self, variant: Variant) -> Bext:
        """What a broadcast WAV says of itself."""
        when = self.request.when
        words = f"{self.project.name}: {WORDS[variant]}"
        return Bext(words, f"{when:%Y-%m-%d}", f"{when:%H:%M:%S}", self.span[0])

    @property
    def fps(self) -> Fraction:
        """Frames a second of the first picture, 25 where there is none."""
        films = (
            self.workspace.library.about(clip.media) for _, clip in self.project.placed() if clip.media.has_picture
        )
        return rate_of(next((about.fps for about in films if about.fps), 25.0))

    @property
    def chosen(self) -> list[Clip]:
        """The chosen clips. Raises Refused where none is there any more."""
        clips = [clip for _, clip in self.project.placed() if clip.id in self.request.clip_ids]
        if not clips:
            raise Refused("No clip is chosen. Choose clips on the timeline first.")
        return clips

    @property
    def span(self) -> tuple[int, int]:
        """First and last sample of what is handed off. Raises Refused where there is none."""
        if self.request.range is Extent.CHOSEN:
            return min(clip.start_n for clip in self.chosen), max(clip.stop_n for clip in self.chosen)
        if self.request.range is Extent.IN_OUT:
            return span(self.project, Ending.RANGE)
        return 0, self.project.length_n

    @property
    def programme(self) -> Programme:
        """What is rendered: all that is heard, or of it the chosen clips alone; the music gives way just the same."""
        if self.request.range is not Extent.CHOSEN:
            return self.result.programme
        ids = {clip.id for clip in self.chosen}
        lanes = tuple(
            replace(lane, clips=tuple(clip if clip.id in ids else replace(clip, muted=True) for clip in lane.clips))
            for lane in self.project.lanes
        )
        return programme(replace(self.project, lanes=lanes), self.result.plan)
