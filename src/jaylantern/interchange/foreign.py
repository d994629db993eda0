"""What readers of foreign timelines share: stand-ins for media as long as they turn out to be, what could not be
carried over, and the project that comes of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from jaylantern.core.edit.draft import check
from jaylantern.core.timeline.imported import ImportedProject, MediaAlias, MissingMedia, stand_in
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project


@dataclass
class ForeignTimeline:
    """A timeline of another program while it is being read."""

    media: dict[str, Media] = field(default_factory=dict)  # by what a medium is known by: hash, address or name
    missing: dict[int, MissingMedia] = field(default_factory=dict)
    left_out: dict[str, int] = field(default_factory=dict)

    def leave_out(self, what: str, times: int = 1) -> None:
        """Remember that something could not be carried over."""
        if times:
            self.left_out[what] = self.left_out.get(what, 0) + times

    def needed(self, known: str, length_n: int, *, number: int, about: MissingMedia) -> Media:
        """The stand-in of a medium, at least so long; under this number and known as this if it is new."""
        found = self.media.get(known)
        if found is None:
            found = stand_in(number, about.name, length_n)
            self.missing[found.id] = about
        elif found.length_n < length_n:
            found = replace(found, length_n=length_n)
        self.media[known] = found
        return found

    def finished(self, lanes: Iterable[Lane]) -> tuple[Lane, ...]:
        """The lanes, every clip with its medium as long as it turned out. Raises Refused where clips lie ill."""
        media = {medium.id: medium for medium in self.media.values()}
        made = tuple(
            replace(lane, clips=tuple(replace(clip, media=media[clip.media.id]) for clip in lane.clips))
            for lane in lanes
        )
        for lane in made:
            check(lane)
        return made

    def project(
        self,
        title: str,
        lanes: tuple[Lane, ...],
        *,
        remarks: Sequence[str] = (),
        aliases: Sequence[MediaAlias] = (),
        **values: Any,
    ) -> ImportedProject:
        """The project, with remarks on what could not be carried over; `values` are further fields of it."""
        if self.left_out:
            said = ", ".join(f"{what} ({times})" for what, times in self.left_out.items())
            remarks = (*remarks, f"Not carried over: {said}.")
        return ImportedProject(Project(1, title, 0, lanes, **values), self.missing, aliases, tuple(remarks))
