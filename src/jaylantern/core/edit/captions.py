"""Captions brought in, moved, tied anew, let go."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from jaylantern.core.captions import placing
from jaylantern.core.timeline.captions import CaptionForm, Captions, Cue
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import NotFound, Refused

MOST = 40  # captions of one film: as many languages


def captions_of(project: Project, captions_id: object) -> Captions:
    """Captions by number. Raises NotFound."""
    for each in project.captions:
        if each.id == captions_id:
            return each
    raise NotFound("These captions are not there any more. Undo brings them back.")


def add(
    project: Project,
    new_id: NewId,
    *,
    name: str,
    form: CaptionForm,
    cues: Iterable[tuple[int, int, str, str]],
    head: str = "",
) -> Project:
    """Captions from their cues on the timeline (start_n, stop_n, text, settings), tied to what lies under them."""
    if len(project.captions) >= MOST:
        raise Refused(f"There are {MOST} captions already. Remove some first.")
    listed = list(cues)
    parts = placing.tied(placing.carriers(project), [(start_n, stop_n) for start_n, stop_n, _, _ in listed])
    made = tuple(Cue(text, set_to, tie) for (_, _, text, set_to), tie in zip(listed, parts, strict=True))
    return replace(project, captions=(*project.captions, Captions(new_id(), name, form, made, head=head)))


def put(project: Project, captions: Captions) -> Project:
    """Captions in the place of those of their number."""
    captions_of(project, captions.id)
    return replace(project, captions=tuple(captions if each.id == captions.id else each for each in project.captions))


def remove(project: Project, *, captions_id: int) -> Project:
    """The project without these captions."""
    captions_of(project, captions_id)
    return replace(project, captions=tuple(each for each in project.captions if each.id != captions_id))
