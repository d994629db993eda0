"""Captions brought in, moved, tied anew, let go."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from jaylantern.core.captions import placing
from jaylantern.core.timeline.captions import CaptionForm, Captions, Cue, clean
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import NotFound, Refused

# start_n, stop_n, text, settings and, where it is known, what stood before it
FoundCue = tuple[int, int, str, str] | tuple[int, int, str, str, str]
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
    cues: Iterable[FoundCue],
    head: str = "",
    tail: str = "",
    encoding: str = "",
) -> Project:
    """Captions from their cues on the timeline, tied to what lies under them."""
    if len(project.captions) >= MOST:
        raise Refused(f"There are {MOST} captions already. Remove some first.")
    listed = list(cues)
    parts = placing.tied(placing.carriers(project), [(start_n, stop_n) for start_n, stop_n, *_ in listed])
    made = tuple(Cue(text, set_to, tie, *lead) for (_, _, text, set_to, *lead), tie in zip(listed, parts, strict=True))
    brought = Captions(new_id(), name, form, made, head=head, tail=tail, encoding=encoding)
    return replace(project, captions=(*project.captions, brought))


def put(project: Project, captions: Captions) -> Project:
    """Captions in the place of those of their number."""
    captions_of(project, captions.id)
    return replace(project, captions=tuple(captions if each.id == captions.id else each for each in project.captions))


def reread(captions: Captions, encoding: str) -> Captions:
    """The same captions, their letters read as of another encoding. Raises Refused where that can't be."""
    if not captions.encoding:
        raise Refused("These captions are written in UTF-8: their letters are as they were meant.")

    def _again(text: str) -> str:
        return clean(text.encode(captions.encoding).decode(encoding))

    try:
        cues = tuple(cue._replace(text=_again(cue.text), lead=_again(cue.lead)) for cue in captions.cues)
        return replace(captions, cues=cues, head=_again(captions.head), tail=_again(captions.tail), encoding=encoding)
    except (UnicodeError, LookupError) as error:
        raise Refused(f"They can't be read as {encoding}: some of their letters do not exist there.") from error


def remove(project: Project, *, captions_id: int) -> Project:
    """The project without these captions."""
    captions_of(project, captions_id)
    return replace(project, captions=tuple(each for each in project.captions if each.id != captions_id))
