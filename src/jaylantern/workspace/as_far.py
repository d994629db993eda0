"""As far as it goes: what follows from a project where something of it can't be worked out. That one thing is found,
treated as silent and named; everything else is as ever, and the project stays within reach."""

from __future__ import annotations

import logging
from collections.abc import Callable, Collection
from dataclasses import replace

from jaylantern.core.ducking.check_up import Finding
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.errors import JayError
from jaylantern.pipeline import DuckingResult

Decide = Callable[[Project], DuckingResult]
MOST_TRIED, MOST_NAMED = 400, 3
REMEDY = "Undo the last step, or cut or replace it. Everything else is as ever."


def lesser(project: Project, decide: Decide, error: Exception) -> DuckingResult | None:
    """What follows from a project of which something can't be worked out, as `error` says; None where all of it can,
    and the fault lies elsewhere."""
    logging.getLogger(__name__).error("project %d can't be worked out", project.id, exc_info=error)
    clips = [clip for _, clip in project.sounding()]
    if _works(project, decide, {clip.id for clip in clips}):
        return None
    media = {clip.media.id for clip in clips}
    bad = {each for each in sorted(media) if not _works(project, decide, {c.id for c in clips if c.media.id == each})}
    tried = [clip for clip in clips if clip.media.id in bad][:MOST_TRIED]
    culprits = [clip for clip in tried if not _works(project, decide, {clip.id})] or tried
    if culprits and _works(project, decide, {clip.id for clip in clips} - {clip.id for clip in culprits}):
        without = _with_alone(project, {clip.id for clip in clips} - {clip.id for clip in culprits})
        return replace(decide(without), troubles=tuple(_trouble(clip, error) for clip in culprits[:MOST_NAMED]))
    silent = replace(project, lanes=tuple(replace(lane, muted=True) for lane in project.lanes))
    said = f"What follows from this project can't be worked out ({_kind(error)}), so nothing is ducked. {REMEDY}"
    return replace(decide(silent), troubles=(Finding(False, said),))


def weighed(result: DuckingResult) -> DuckingResult:
    """The same result, all of it worked out that pages show."""
    _ = result.power, result.clear, result.standing, result.match_db, result.findings, result.programme
    return result


def _works(project: Project, decide: Decide, ids: Collection[int]) -> bool:
    """Can everything be worked out of the project with these clips alone?"""
    try:
        weighed(decide(_with_alone(project, ids)))
    except JayError:
        return True  # that is told as it is
    except Exception:
        return False
    return True


def _with_alone(project: Project, ids: Collection[int]) -> Project:
    """The project with all clips muted but these."""
    lanes = (
        replace(lane, clips=tuple(clip if clip.id in ids else replace(clip, muted=True) for clip in lane.clips))
        for lane in project.lanes
    )
    return replace(project, lanes=tuple(lanes))


def _trouble(clip: Clip, error: Exception) -> Finding:
    said = f"{clip.name} can't be worked out here ({_kind(error)}): it is treated as silent. {REMEDY}"
    return Finding(False, said, at_n=clip.start_n, clip_id=clip.id)


def _kind(error: Exception) -> str:
    return f"{type(error).__name__}: {str(error)[:80]}".rstrip(": ")
