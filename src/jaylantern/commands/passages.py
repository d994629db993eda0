"""Commands on passages: marked, split, joined, their ends moved, given dips of their own."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from jaylantern.commands.command import CLIPS, Command, NewId, maybe
from jaylantern.commands.ducking import OWN_VALUES, own_words
from jaylantern.commands.provider import PLAN, Provider
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.edit import corrections
from jaylantern.core.edit.cutting import Edge
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline.kinds import TIME, Choice, Flag, Integer, Maybe, Number
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]
WHICH = "Say which passage (index), or from where to where (start_n, stop_n)."
INDEX = Integer(0, 1_000_000, remedy="Choose another passage.")


def _plan_of_index(project: Project, provider: Provider, values: Mapping[str, Any]) -> Plan | None:
    """The plan where a passage is meant by its number."""
    return None if values["index"] is None else provider.plan(project)


def _mark_speech(
    project: Project,
    new_id: NewId,
    *,
    speech: bool,
    index: int | None,
    start_n: int | None,
    stop_n: int | None,
    clip_ids: list[int] | None,
    plan: Plan | None,
) -> Answer:
    """Say that a passage, or a stretch of timeline, is speech or is none."""
    if plan is not None and index is not None:
        passage = corrections.passage_of(plan, index)
        start_n, stop_n = passage.start_n, passage.stop_n
    if start_n is None or stop_n is None:
        raise InvalidValue(WHICH)
    if stop_n <= start_n:
        raise InvalidValue("A stretch must end after it begins. Set the in point before the out point.")
    label = f"{clock(start_n, decimals=2)} to {clock(stop_n, decimals=2)} is {'speech' if speech else 'not speech'}"
    return label, corrections.mark(
        project, new_id, start_n=start_n, stop_n=stop_n, speech=speech, clip_ids=clip_ids or []
    )


def _move_edge(project: Project, new_id: NewId, *, index: int, edge: Edge, to_n: int, plan: Plan) -> Answer:
    word = "begins" if edge is Edge.START else "ends"
    after = corrections.drag_edge(project, plan, new_id, index=index, edge=edge, to_n=to_n)
    if after.dip_pins != project.dip_pins:
        how = "is down from" if edge is Edge.START else "stays down until"
        return f"Passage {index + 1} {word} with its clip; the music {how} {clock(to_n, decimals=2)}", after
    return f"Passage {index + 1} {word} at {clock(to_n, decimals=2)}", after


def _split_passage(project: Project, new_id: NewId, *, at_n: int, plan: Plan) -> Answer:
    after = corrections.split(project, plan, new_id, at_n=at_n)
    return f"Split the passage at {clock(at_n, decimals=2)}", after


def _join_passages(project: Project, new_id: NewId, *, index: int, plan: Plan) -> Answer:
    after = corrections.join(project, plan, new_id, index=index)
    return f"Join passages {index + 1} and {index + 2}", after


def _set_passage(
    project: Project, new_id: NewId, *, index: int, own: dict[str, Any] | None, none: bool | None, plan: Plan
) -> Answer:
    """Give the dip of a passage values of its own, or let it have none."""
    words = own_words(own) if own else ("no dip" if none else "its dip again")
    after = corrections.set_own(project, plan, new_id, index=index, values=own or {}, none=none)
    return f"Passage {index + 1}: {words}", after


def _duck_further(project: Project, new_id: NewId, *, start_n: int, stop_n: int, by_db: float, plan: Plan) -> Answer:
    """Deepen the dips of all passages that reach into a stretch of timeline."""
    after = corrections.duck_further(project, plan, new_id, start_n=start_n, stop_n=stop_n, by_db=by_db)
    return f"Duck {-by_db:g} dB further from {clock(start_n, decimals=0)} to {clock(stop_n, decimals=0)}", after


def _lift_passage(
    project: Project, new_id: NewId, *, index: int | None, start_n: int | None, stop_n: int | None, plan: Plan | None
) -> Answer:
    """Take back what was corrected of a passage, or that a stretch of timeline is no speech."""
    if plan is not None and index is not None:
        return f"Lift the pins of passage {index + 1}", corrections.lift(project, plan, index=index)
    if start_n is None or stop_n is None:
        raise InvalidValue(WHICH)
    label = f"{clock(start_n, decimals=2)} to {clock(stop_n, decimals=2)} is as it was found"
    return label, corrections.lift_within(project, start_n=start_n, stop_n=stop_n)


COMMANDS = (
    Command(
        "mark_speech",
        _mark_speech,
        prepare={"plan": _plan_of_index},
        speech=maybe(Flag(), False),
        index=maybe(Maybe(INDEX), None),
        start_n=maybe(Maybe(TIME), None),
        stop_n=maybe(Maybe(TIME), None),
        clip_ids=maybe(Maybe(CLIPS), None),
    ),
    Command("move_edge", _move_edge, prepare=PLAN, index=INDEX, edge=Choice(Edge), to_n=TIME),
    Command("split_passage", _split_passage, prepare=PLAN, at_n=TIME),
    Command("join_passages", _join_passages, prepare=PLAN, index=INDEX),
    Command(
        "set_passage",
        _set_passage,
        prepare=PLAN,
        index=INDEX,
        own=maybe(Maybe(OWN_VALUES), None),
        none=maybe(Maybe(Flag()), None),
    ),
    Command("duck_further", _duck_further, prepare=PLAN, start_n=TIME, stop_n=TIME, by_db=Number(-60, -0.5, "dB")),
    Command(
        "lift_passage",
        _lift_passage,
        prepare={"plan": _plan_of_index},
        index=maybe(Maybe(INDEX), None),
        start_n=maybe(Maybe(TIME), None),
        stop_n=maybe(Maybe(TIME), None),
    ),
)
