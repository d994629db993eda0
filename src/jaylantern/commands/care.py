"""Commands on what is done to voices: parts switched and set, starting points, places that are spared."""

from __future__ import annotations

from jaylantern.commands.command import CLIPS, Command, NewId, Param, maybe
from jaylantern.core.care.suggestions import STARTS
from jaylantern.core.edit import care, clip_sound
from jaylantern.core.edit.draft import lane_of
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline.care import BY_NAME, PARTS
from jaylantern.core.timeline.kinds import ID, TIME, Flag, Line, Maybe, Number, Values
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]
AMOUNTS = Param(Values(Maybe(Number(-10_000, 10_000)), 1, "Say what is to be done to the voice."), called="A part")


def _words(parts: dict[str, float | None]) -> str:
    said = [
        f"{BY_NAME[name].word} {'off' if value is None else f'{value:g} {BY_NAME[name].unit}'}"
        for name, value in parts.items()
        if name in BY_NAME
    ]
    return ", ".join(said) if len(said) < 3 else f"{len(said)} parts"


def _care_for_lane(project: Project, new_id: NewId, *, lane_id: int, parts: dict[str, float | None]) -> Answer:
    after = care.of_lane(project, lane_id=lane_id, parts=parts)
    return f"Voice of {lane_of(project, lane_id).name}: {_words(parts)}", after


def _care_for_clips(project: Project, new_id: NewId, *, clip_ids: list[int], parts: dict[str, float | None]) -> Answer:
    after = care.of_clips(project, clip_ids=clip_ids, parts=parts)
    return f"Voice of {clip_sound.called(project, clip_ids)}: {_words(parts)}", after


def _start_care(project: Project, new_id: NewId, *, lane_id: int, start: str) -> Answer:
    """All parts as a starting point has them; "off" switches all off."""
    if start != "off" and start not in STARTS:
        raise InvalidValue(f"There is no starting point called {start[:40]!r}; it is off, {', '.join(STARTS)}.")
    found = None if start == "off" else STARTS[start]
    parts = {part.name: None if found is None else getattr(found, part.name) for part in PARTS}
    return f"Voice of {lane_of(project, lane_id).name}: {start}", care.of_lane(project, lane_id=lane_id, parts=parts)


def _care_as_lane(project: Project, new_id: NewId, *, clip_ids: list[int]) -> Answer:
    what = clip_sound.called(project, clip_ids)
    return f"Voice of {what} as its lane", care.as_lane(project, clip_ids=clip_ids)


def _spare_place(project: Project, new_id: NewId, *, clip_id: int, at_n: int, spared: bool) -> Answer:
    words = f"{'Spare' if spared else 'Lower again'} the place at {clock(at_n, decimals=2)} of the voice"
    return words, care.spare(project, clip_id=clip_id, at_n=at_n, spared=spared)


COMMANDS = (
    Command("care_for_lane", _care_for_lane, lane_id=ID, parts=AMOUNTS),
    Command("care_for_clips", _care_for_clips, clip_ids=CLIPS, parts=AMOUNTS),
    Command("start_care", _start_care, lane_id=ID, start=Line(60, needed=True)),
    Command("care_as_lane", _care_as_lane, clip_ids=CLIPS),
    Command("spare_place", _spare_place, clip_id=ID, at_n=TIME, spared=maybe(Flag(), True)),
)
