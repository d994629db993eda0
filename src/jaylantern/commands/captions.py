"""Commands on captions: brought in, called otherwise, compared or not, moved, tied anew, removed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from jaylantern.commands.command import Command, NewId, Param, maybe
from jaylantern.core.captions import placing
from jaylantern.core.edit import captions
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.captions import (
    LONGEST_HEAD,
    LONGEST_TEXT,
    MOST_CUES,
    TEXT,
    CaptionForm,
    Encoding,
    Text,
)
from jaylantern.core.timeline.kinds import ID, LARGEST_N, Choice, Flag, Integer, Kind, Line, refused
from jaylantern.core.timeline.project import Project

Answer = tuple[str, Project]


class CueList(Kind):
    """Cues on the timeline: a list of [start_n, stop_n, text, settings] and, where it is known, what stood before."""

    def checked(self, value: object, what: str) -> list[tuple[int, int, str, str, str]]:
        """The cues."""
        if not isinstance(value, list) or not 0 < len(value) <= MOST_CUES:
            raise refused(what, value, f"a list of 1 to {MOST_CUES} cues")
        return [self._cue(each, what) for each in value]

    def _cue(self, value: object, what: str) -> tuple[int, int, str, str, str]:
        limit = f"[start_n, stop_n, text, settings, lead], its text at most {LONGEST_TEXT} characters"
        if not isinstance(value, (list, tuple)) or not 4 <= len(value) <= 5:
            raise refused(what, value, limit)
        if any(type(each) is not int for each in value[:2]):
            raise refused(what, value, limit)
        start_n, stop_n, text, set_to, lead = (*value, "")[:5]
        if not 0 <= start_n < stop_n <= LARGEST_N:
            raise refused(what, value, limit, "A cue ends after it begins.")
        return start_n, stop_n, TEXT.checked(text, what), TEXT.checked(set_to, what), TEXT.checked(lead, what)


def _add_captions(project: Project, new_id: NewId, *, name: str, **found: Any) -> Answer:
    return f"Captions {name}", captions.add(project, new_id, name=name, **found)


def _set_captions(
    project: Project, new_id: NewId, *, captions_id: int, name: str | None = None, checked: bool | None = None
) -> Answer:
    was = captions.captions_of(project, captions_id)
    values: dict[str, Any] = {} if name is None else {"name": name}
    if checked is not None:
        values["checked"] = checked
    said = f"Captions {was.name}: " + (
        f"called {name}" if name is not None else "compared" if checked else "not compared"
    )
    return said, captions.put(project, replace(was, **values))


def _shift_captions(project: Project, new_id: NewId, *, captions_id: int, by_n: int) -> Answer:
    was = captions.captions_of(project, captions_id)
    words = f"Captions {was.name} {abs(by_n) / RATE:.2f} s {'later' if by_n > 0 else 'earlier'}"
    return words, captions.put(project, placing.moved(project, was, by_n))


def _reread_captions(project: Project, new_id: NewId, *, captions_id: int, encoding: Encoding) -> Answer:
    was = captions.captions_of(project, captions_id)
    words = f"Captions {was.name} read as {encoding.word}"
    return words, captions.put(project, captions.reread(was, encoding.value))


def _tie_captions(project: Project, new_id: NewId, *, captions_id: int) -> Answer:
    was = captions.captions_of(project, captions_id)
    return f"Captions {was.name} tied to what lies under them", captions.put(project, placing.tied_anew(project, was))


def _remove_captions(project: Project, new_id: NewId, *, captions_id: int) -> Answer:
    was = captions.captions_of(project, captions_id)
    return f"Remove captions {was.name}", captions.remove(project, captions_id=captions_id)


COMMANDS = (
    Command(
        "add_captions",
        _add_captions,
        name=Line(200, needed=True),
        form=Choice(CaptionForm),
        cues=CueList(),
        head=maybe(Text(LONGEST_HEAD), ""),
        tail=maybe(Text(LONGEST_HEAD), ""),
        encoding=maybe(Line(40), ""),
    ),
    Command(
        "set_captions",
        _set_captions,
        captions_id=ID,
        name=maybe(Line(200, needed=True)),
        checked=maybe(Flag()),
    ),
    Command(
        "shift_captions",
        _shift_captions,
        captions_id=ID,
        by_n=Param(Integer(-LARGEST_N, LARGEST_N, "samples"), called="The shift"),
    ),
    Command("reread_captions", _reread_captions, captions_id=ID, encoding=Choice(Encoding)),
    Command("tie_captions", _tie_captions, captions_id=ID),
    Command("remove_captions", _remove_captions, captions_id=ID),
)
