"""What is asked for when something is handed off, and all that it is made from."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from datetime import datetime
from fractions import Fraction
from pathlib import Path

from jaylantern.core.edit.ending import Ending, span
from jaylantern.core.mixing.mix import Programme, Variant, programme
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.timecode import rate_of
from jaylantern.errors import Refused
from jaylantern.export.sound_output import Progress
from jaylantern.media.film_sound import SOUND_TRACKS, SoundTrack
from jaylantern.media.sound_files import Form
from jaylantern.media.wav import Bext
from jaylantern.pipeline import Decided
from jaylantern.projectfile.archive import Belonging
from jaylantern.workspace.workspace import Workbench

PATTERN = "{project} - {what} {time}"
TOKENS = ("project", "what", "date", "time")
STRETCHES = ("whole", "in-out", "chosen")
WORDS = {
    Variant.DUCKED: "mix",
    Variant.SPEECH: "speech",
    Variant.MUSIC: "music",
    Variant.MUSIC_PLAIN: "music plain",
    Variant.EFFECTS: "effects",
    Variant.AMBIENCE: "ambience",
    Variant.UNTAGGED: "untagged",
}


@dataclass(frozen=True)
class Wish:
    """What is asked for: form and rate of sound files, which stretch, of which clips alone, names by which pattern."""

    what: str
    form: Form
    rate: int
    stretch: str = "whole"
    clip_ids: frozenset[int] = frozenset()
    pattern: str = PATTERN
    asked_at: str = ""
    track: SoundTrack = SOUND_TRACKS["aac"]  # of a film
    quality: str = "medium"  # of a picture that is encoded anew
    keep: bool = False  # the film's own sound, as a further track
    ending: Ending = Ending.PICTURE  # of a film
    fade_s: float = 2.0  # of music that is cut off where a film ends
    fps: Fraction | None = None  # of a film; None keeps the times of its frames

    @property
    def when(self) -> datetime:
        """When it was asked for."""
        return datetime.fromisoformat(self.asked_at) if self.asked_at else datetime.now()

    def name(self, project: str, what: str) -> str:
        """A file's name without its ending, fit for any system."""
        when = self.when
        values = {"project": project, "what": what, "date": f"{when:%Y-%m-%d}", "time": f"{when:%H%M%S}"}
        pattern = self.pattern if "{what}" in self.pattern else self.pattern + " {what}"
        text = re.sub(r"\{(\w+)\}", lambda found: values[found[1]], pattern)
        return " ".join(re.sub(r'[<>:"/\\|?*\x00-\x1f]+', " ", text).split()).strip(" .")[:120] or "project"


@dataclass(frozen=True)
class Task:
    """All that a file is made from."""

    bench: Workbench
    project: Project
    decided: Decided
    folder: Path
    wish: Wish
    report: Progress
    belonging: Belonging = field(default_factory=Belonging)

    def path(self, what: str, suffix: str) -> Path:
        """Where a file goes."""
        return self.folder / (self.wish.name(self.project.name, what) + suffix)

    def about(self, variant: Variant) -> Bext:
        """What a broadcast WAV says of itself."""
        when = self.wish.when
        words = f"{self.project.name}: {WORDS[variant]}"
        return Bext(words, f"{when:%Y-%m-%d}", f"{when:%H:%M:%S}", self.span[0])

    @property
    def fps(self) -> Fraction:
        """Frames a second of the first picture, 25 where there is none."""
        films = (self.bench.about(clip.media) for _, clip in self.project.placed() if clip.media.has_picture)
        return rate_of(next((about.fps for about in films if about.fps), 25.0))

    @property
    def chosen(self) -> list[Clip]:
        """The chosen clips. Raises Refused where none is there any more."""
        clips = [clip for _, clip in self.project.placed() if clip.id in self.wish.clip_ids]
        if not clips:
            raise Refused("No clip is chosen. Choose clips on the timeline first.")
        return clips

    @property
    def span(self) -> tuple[int, int]:
        """First and last sample of what is handed off. Raises Refused where there is none."""
        if self.wish.stretch == "chosen":
            return min(clip.start_n for clip in self.chosen), max(clip.stop_n for clip in self.chosen)
        if self.wish.stretch == "in-out":
            return span(self.project, Ending.RANGE)
        return 0, self.project.length_n

    @property
    def programme(self) -> Programme:
        """What is rendered: all that is heard, or of it the chosen clips alone; the music gives way just the same."""
        if self.wish.stretch != "chosen":
            return self.decided.programme
        ids = {clip.id for clip in self.chosen}
        lanes = tuple(
            replace(lane, clips=tuple(clip if clip.id in ids else replace(clip, muted=True) for clip in lane.clips))
            for lane in self.project.lanes
        )
        return programme(replace(self.project, lanes=lanes), self.decided.plan)
