"""The tuning map of a project: places worked out row by row, each once, while only settings change."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import product

from jaylantern import pipeline
from jaylantern.core.ducking import tuning
from jaylantern.core.ducking.tuning import Figures
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.errors import InvalidValue, Refused
from jaylantern.library.library import Library
from jaylantern.workspace.memo import Memo

COUNT = 24  # places along either setting
COARSE = range(2, COUNT, 4)  # of them, those that are drawn first


@dataclass(frozen=True)
class Map:
    """A map of one state of a project: which two settings, their values, the places that are known by now."""

    project: Project
    names: tuple[str, str]
    worked_out: dict[tuple[int, int], Figures]

    @property
    def values(self) -> tuple[list[float], list[float]]:
        """The values along both."""
        x, y = (tuning.values(KNOB[name], COUNT) for name in self.names)
        return x, y


class Tuning:
    """The maps looked at last. Safe to share between threads."""

    def __init__(self, library: Library, memo: Memo) -> None:
        self._library, self._memo = library, memo

    def map(self, project: Project, names: tuple[str, str]) -> Map:
        """The map of two settings of a project. Raises InvalidValue, or Refused where there is nothing to tune."""
        there = tuning.KNOBS[project.settings.mode]
        if not there:
            raise Refused("An even bed has no dips to tune. Choose passages or the compressor.")
        if names[0] == names[1] or not set(names) <= set(there):
            raise InvalidValue(f"A map needs two different settings of: {', '.join(there)}.")
        usual = (
            KNOB[names[0]].default,
            KNOB[names[1]].default,
        )
        # it is over both: whatever they are, it is the same map
        base = replace(project, revision=0, settings=tuning.at(project.settings, names, usual))
        return self._memo(("tuning map", base, names), lambda: Map(base, names, {}))

    def places(self, of: Map, wanted: Iterable[tuple[int, int]]) -> dict[tuple[int, int], Figures]:
        """What comes of some places, each by deciding it."""
        x, y = of.values
        sounding = {clip.media.id: clip.media for _, clip in of.project.sounding()}
        facts = {number: self._library.facts(media) for number, media in sounding.items()}
        found = {}
        for i, j in wanted:
            if (i, j) not in of.worked_out:
                tuned = replace(of.project, settings=tuning.at(of.project.settings, of.names, (x[i], y[j])))
                result = pipeline.decide(tuned, facts, self._memo)
                of.worked_out[i, j] = tuning.figures(result.plan, result.clear)
            found[i, j] = of.worked_out[i, j]
        return found

    def sweet(self, of: Map) -> list[tuple[int, int]]:
        """The sweet places of a map; those that are not known yet are worked out."""
        self.places(of, product(range(COUNT), range(COUNT)))
        return tuning.sweet(dict(of.worked_out), of.project.settings)
