"""Matching levels: clips brought to a target; what it would do can be asked before."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.command import CLIPS, Command, NewId, Param, maybe
from jaylantern.commands.provider import Provider
from jaylantern.core.edit.draft import Draft
from jaylantern.core.mixing import matching
from jaylantern.core.mixing.matching import By, Match, Subject, Way
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.kinds import Choice, Kind
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue, Refused

Answer = tuple[str, Project]
BYS = {By.LOUDNESS: "loudness", By.TRUE_PEAK: "true peak", By.SAMPLE_PEAK: "sample peak"}
UNITS = {By.LOUDNESS: "LUFS", By.TRUE_PEAK: "dBTP", By.SAMPLE_PEAK: "dBFS"}


@dataclass(frozen=True)
class Figure(Kind):
    """A level as it is typed: a number, perhaps with its unit behind it."""

    @property
    def script(self) -> str:
        """A number, or text."""
        return "number|string"

    def checked(self, value: object, what: str) -> float:
        """The number."""
        text = str(value).strip().replace("−", "-").replace(",", ".")
        for unit in UNITS.values():
            text = text.removesuffix(unit).strip()
        try:
            number = float(text)
        except ValueError:
            number = math.nan
        if isinstance(value, bool) or not math.isfinite(number):
            raise InvalidValue(
                f"{what} is a number of LUFS, dBTP or dBFS; {str(value)[:40]!r} is not. Type one, such as −23."
            )
        return number


def matches(
    project: Project, provider: Provider, *, subject: Subject, how: Way, by: By, target: float, clip_ids: list[int]
) -> list[tuple[Lane, Clip, Match]]:
    """What matching would do to each clip. Raises Refused where there is nothing to match."""
    clips = matching.subjects(project, subject, clip_ids, lambda: provider.loud(project))
    known = provider.levels(project, {clip.id for _, clip in clips})
    clips = [pair for pair in clips if pair[1].id in known]
    if not clips:
        what = "No clip is chosen." if subject is Subject.CHOSEN else "There is nothing of that kind to match."
        raise Refused(f"{what} Nothing is changed.")
    levels = [known[clip.id] for _, clip in clips]
    ceiling_dbtp = project.settings.ceiling_dbtp
    if subject is Subject.MIX:
        mix = provider.mix(project)
        now = mix.integrated_lufs if by is By.LOUDNESS else mix.true_peak_dbtp
        if not math.isfinite(now):
            raise Refused("The mix is silent: there is nothing to match. Unmute what is to be heard.")
        found = matching.shift(levels, target - now, by=by, ceiling_dbtp=ceiling_dbtp)
    else:
        soft = subject is Subject.SOFT
        found = matching.match(
            levels, target=target, by=by, each=soft or how is Way.EACH, ceiling_dbtp=ceiling_dbtp, keep_under=soft
        )
    return [(lane, clip, each) for (lane, clip), each in zip(clips, found, strict=True)]


def _match(
    project: Project, new_id: NewId, *, by: By, target: float, matched: list[tuple[Lane, Clip, Match]], **_how: Any
) -> Answer:
    """Bring clips to a target; `matched`: what that does to each."""
    draft, changed = Draft(project), 0
    for _, clip, each in matched:
        if each.change_db:
            draft.put(replace(clip, gain_db=each.gain_db))
            changed += 1
    if not changed:
        raise Refused("All of that lies where it should already. Choose another target to change it.")
    clips = f"{changed} clip{'s' if changed > 1 else ''}"
    return f"Match {BYS[by]} of {clips} to {target:g} {UNITS[by]}", draft.finish()


MATCH = Command(
    "match",
    _match,
    prepare={"matched": lambda project, provider, values: matches(project, provider, **values)},
    subject=maybe(Choice(Subject), Subject.DIALOGUE, "What is matched"),
    how=maybe(Choice(Way), Way.EACH),
    by=maybe(Choice(By), By.LOUDNESS),
    target=Param(Figure(), called="A target"),
    clip_ids=maybe(CLIPS, ()),
)
COMMANDS = (MATCH,)
