"""What a workspace has at hand for a command: what the database knows, and what the media sound like."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Mapping, Sequence
from typing import Protocol

from jaylantern.commands.at_hand import AtHand
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.mixing.matching import Level, Loud
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.library.library import Library
from jaylantern.pipeline import DuckingResult
from jaylantern.workspace.mix_loudness import MixLoudness


class Knows(Protocol):
    """Who knows what media sound like."""

    library: Library
    loudness: MixLoudness

    def result(self, project: Project) -> DuckingResult:
        """What follows from a project."""


class AllAtHand(AtHand):
    """All of it."""

    def __init__(self, connection: sqlite3.Connection, project_id: int, knows: Knows) -> None:
        super().__init__(connection, project_id)
        self._knows = knows

    def plan(self, project: Project) -> Plan:
        """The duck plan of the project."""
        return self._knows.result(project).plan

    def speech(self, found: Media, sensitivity: float) -> Intervals:
        """The speech of a medium, in media time."""
        return self._knows.library.speech(found, sensitivity)

    def fps(self, found: Media) -> float:
        """Frames a second of a medium, 0 where it has no picture."""
        return self._knows.library.fps(found)

    def loud(self, project: Project) -> Sequence[Loud]:
        """How loud every clip is that sounds."""
        return list(self._knows.loudness.loud(project).values())

    def levels(self, project: Project, clip_ids: Collection[int]) -> Mapping[int, Level]:
        """How loud some clips are, with their peaks, by number."""
        return self._knows.loudness.clips(project, clip_ids)

    def mix(self, project: Project) -> Loudness:
        """What the finished mix measures."""
        return self._knows.loudness.mix(project).loudness
