"""What commands are prepared from: what stands in the database beside the project, and what media sound like."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any

from jaylantern.core.ducking.plan import Plan
from jaylantern.core.mixing import matching
from jaylantern.core.mixing.matching import Loud
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.tailoring.cut import Source
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.tailor import Solution
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.errors import NotFound, Refused
from jaylantern.store import media, presets, projects

NO_SOUND_HERE = "What the media sound like is not known here; open the project in the application."


class Provider:
    """What the database answers. A workspace, which knows what media sound like, answers all of it."""

    def __init__(self, connection: sqlite3.Connection, project_id: int) -> None:
        self._connection, self._project_id = connection, project_id

    def medium(self, media_id: int) -> Media:
        """A medium by number. Raises NotFound where it has gone."""
        return media.get(self._connection, media_id)

    def brought(self, media_id: int) -> media.Brought:
        """A medium of this project as it was brought in. Raises NotFound."""
        for each in media.of_project(self._connection, self._project_id):
            if each.media.id == media_id:
                return each
        raise NotFound("That file is not among the project's media any more. Bring it in again.")

    def preset(self, preset_id: int) -> tuple[str, Mapping[str, Any]]:
        """The name and the settings of one of the person's own presets. Raises NotFound."""
        kept = presets.get(self._connection, preset_id)
        return kept.name, kept.settings

    def other(self, project_id: int) -> Project:
        """Another project. Raises NotFound."""
        return projects.load(self._connection, project_id)

    def plan(self, project: Project) -> Plan:
        """The duck plan of the project."""
        raise Refused(NO_SOUND_HERE)

    def speech(self, found: Media, sensitivity: float) -> Intervals:
        """The speech of a medium, in media time."""
        raise Refused(NO_SOUND_HERE)

    def recording(self, found: Media) -> Media:
        """The recording that a tailored medium is made of; itself for any other. Raises Refused where it is missing, or
        has no sound."""
        source = media.recording(self._connection, found)
        if source is None or source.missing:
            raise Refused(f"The recording of {found.name} is missing. Find it under Lay out, Media.")
        if not source.has_sound:
            raise Refused(f"{found.name} has no sound that could be tailored.")
        return source

    def solutions(self, source: Media, wish: Wish) -> Sequence[Solution]:
        """The cuts of a recording that answer a wish, the best first."""
        raise Refused(NO_SOUND_HERE)

    def grid(self, source: Media) -> Grid:
        """The beats of a recording."""
        raise Refused(NO_SOUND_HERE)

    def sound(self, source: Media) -> Source:
        """Reads the sound of a recording."""
        raise Refused(NO_SOUND_HERE)

    def tailored(self, source: Media, tailoring_of: Tailoring, name: str) -> Media:
        """The medium of a tailoring, made unless it is there."""
        raise Refused(NO_SOUND_HERE)

    def fps(self, found: Media) -> float:
        """Frames a second of a medium, 0 where it has no picture."""
        raise Refused(NO_SOUND_HERE)

    def seen_n(self, found: Media) -> int:
        """How long the picture of a medium is, in samples; 0 where that is not known."""
        raise Refused(NO_SOUND_HERE)

    def loud(self, project: Project) -> Sequence[Loud]:
        """How loud every clip is that sounds."""
        raise Refused(NO_SOUND_HERE)

    def levels(self, project: Project, clip_ids: Collection[int]) -> Mapping[int, matching.Level]:
        """How loud some clips are, with their peaks, by number."""
        raise Refused(NO_SOUND_HERE)

    def mix(self, project: Project) -> Loudness:
        """What the finished mix measures."""
        raise Refused(NO_SOUND_HERE)


FpsOf = Callable[[Media], float]
Prepare = Mapping[
    str, Callable[[Project, Provider, Mapping[str, Any]], Any]
]  # things by the name the edit knows them by
PLAN: Prepare = {"plan": lambda project, provider, values: provider.plan(project)}
LOUD: Prepare = {"loud": lambda project, provider, values: provider.loud(project)}


def fps_of(project: Project, provider: Provider) -> FpsOf:
    """Frames a second of the pictures of a project, 0 of what has none."""
    media = {clip.media.id: clip.media for _, clip in project.placed() if clip.media.has_picture}
    found = {number: provider.fps(each) for number, each in media.items()}
    return lambda media: found.get(media.id, 0.0)


FPS_OF: Prepare = {"fps_of": lambda project, provider, values: fps_of(project, provider)}
