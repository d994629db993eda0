"""What a workspace answers when a command is prepared: what the database knows, and what the media sound like."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Mapping, Sequence
from typing import Protocol

from jaylantern.commands.provider import Provider
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.mixing.matching import Level, Loud
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.tailoring.cut import Source
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.tailor import Solution
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.library import tailored_media
from jaylantern.library.library import Library
from jaylantern.pipeline import DuckingResult
from jaylantern.store import projects
from jaylantern.workspace.mix_loudness import MixLoudness


class Knows(Protocol):
    """Who knows what media sound like."""

    library: Library
    loudness: MixLoudness

    def result(self, project: Project) -> DuckingResult:
        """What follows from a project."""

    def decide(self, project: Project) -> DuckingResult:
        """What follows from a project that is not kept."""


class WorkspaceProvider(Provider):
    """All of it."""

    def __init__(self, connection: sqlite3.Connection, project_id: int, knows: Knows) -> None:
        super().__init__(connection, project_id)
        self._knows = knows
        self._worked_out: tuple[Project, Plan] | None = None  # of a state that is not kept yet

    def plan(self, project: Project) -> Plan:
        """The duck plan of the project, also of one that is not kept yet."""
        if projects.load(self._connection, project.id) is project:
            return self._knows.result(project).plan
        if self._worked_out is None or self._worked_out[0] is not project:
            self._worked_out = project, self._knows.decide(project).plan
        return self._worked_out[1]

    def speech(self, found: Media, sensitivity: float) -> Intervals:
        """The speech of a medium, in media time."""
        return self._knows.library.speech(found, sensitivity)

    def solutions(self, source: Media, wish: Wish) -> Sequence[Solution]:
        """The cuts of a recording that answer a wish, the best first; its beats are heard where they were not."""
        tailored_media.listen_for_beats(self._knows.library, source)
        return self._knows.library.solutions(source, wish)

    def grid(self, source: Media) -> Grid:
        """The beats of a recording."""
        tailored_media.listen_for_beats(self._knows.library, source)
        return self._knows.library.grid(source)

    def sound(self, source: Media) -> Source:
        """Reads the sound of a recording."""
        return self._knows.library.sound(source).read

    def tailored(self, source: Media, tailoring_of: Tailoring, name: str) -> Media:
        """The medium of a tailoring, made unless it is there."""
        return tailored_media.keep(self._knows.library, self._connection, source, tailoring_of, name=name)

    def fps(self, found: Media) -> float:
        """Frames a second of a medium, 0 where it has no picture."""
        return self._knows.library.fps(found)

    def seen_n(self, found: Media) -> int:
        """How long the picture of a medium is, in samples; 0 where that is not known."""
        return self._knows.library.seen_n(found)

    def loud(self, project: Project) -> Sequence[Loud]:
        """How loud every clip is that sounds."""
        return list(self._knows.loudness.loud(project).values())

    def levels(self, project: Project, clip_ids: Collection[int]) -> Mapping[int, Level]:
        """How loud some clips are, with their peaks, by number."""
        return self._knows.loudness.clips(project, clip_ids)

    def mix(self, project: Project) -> Loudness:
        """What the finished mix measures."""
        return self._knows.loudness.mix(project).loudness
