"""Commands on points of gain curves: moved, added, taken away; a curve frozen, cleared, let follow the speech again."""

from __future__ import annotations

from typing import Any

from jaylantern.commands.command import Command, NewId, Param, maybe
from jaylantern.commands.provider import PLAN
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.edit import automation
from jaylantern.core.edit.automation import Moved
from jaylantern.core.edit.draft import lane_of
from jaylantern.core.signal.timebase import clock, ms_to_n
from jaylantern.core.timeline.clip import GAIN
from jaylantern.core.timeline.described import described, noun, read
from jaylantern.core.timeline.kinds import ID, LINK, TIME, Flag, Kind, Listed, Maybe
from jaylantern.core.timeline.project import Project

Answer = tuple[str, Project]
POINTS = Param(Listed(Kind(), 1, 20_000, "Choose points on the curve first."), called="Points")


@noun
class _At:
    """A point of a curve: when, and which pin it is, if any (0 and null: none)."""

    at_n: int = described(TIME)
    pin: int | None = described(Maybe(LINK), default=None)


@noun
class _To:
    """Where a point goes."""

    to_n: int = described(TIME)
    to_db: float = described(GAIN)


def count_of(points: list[Any]) -> str:
    """How many points, in words."""
    return "a point" if len(points) == 1 else f"{len(points)} points"


def _move_points(project: Project, new_id: NewId, *, lane_id: int, points: list[Any], plan: Plan) -> Answer:
    lane = lane_of(project, lane_id)
    both = [(read(_At, each, what="A point"), read(_To, each, what="A point")) for each in points]
    moved = [Moved(at.at_n, at.pin or None, to.to_n, to.to_db) for at, to in both]
    where = f" to {moved[0].to_db:g} dB at {clock(moved[0].to_n, decimals=2)}" if len(moved) == 1 else ""
    after = automation.move(project, plan, new_id, lane_id=lane.id, points=moved)
    return f"Move {count_of(moved)} of {lane.name}{where}", after


def _add_point(
    project: Project, new_id: NewId, *, lane_id: int, at_n: int, gain_db: float, dipped: bool, plan: Plan
) -> Answer:
    lane = lane_of(project, lane_id)
    after = automation.add(project, plan, new_id, lane_id=lane.id, at_n=at_n, gain_db=gain_db, dipped=dipped)
    return f"Add a point to {lane.name} at {clock(at_n, decimals=2)}", after


def _remove_points(project: Project, new_id: NewId, *, lane_id: int, points: list[Any], plan: Plan) -> Answer:
    lane, found = lane_of(project, lane_id), [read(_At, each, what="A point") for each in points]
    gone = [(each.at_n, each.pin or None) for each in found]
    after = automation.remove(project, plan, new_id, lane_id=lane.id, points=gone)
    return f"Take away {count_of(points)} of {lane.name}", after


def _freeze_curve(project: Project, new_id: NewId, *, lane_id: int, plan: Plan) -> Answer:
    lane, settings = lane_of(project, lane_id), project.settings
    after, count, error = automation.freeze(
        project,
        plan,
        new_id,
        lane_id=lane.id,
        largest_db=settings.thin_db,
        least_n=ms_to_n(settings.thin_ms),
    )
    return f"Freeze {lane.name}: {count} points, within {error:.2f} dB", after


def _clear_curve(project: Project, new_id: NewId, *, lane_id: int) -> Answer:
    lane = lane_of(project, lane_id)
    return f"Clear the automation of {lane.name}", automation.clear(project, lane_id=lane.id)


def _follow_speech(project: Project, new_id: NewId, *, lane_id: int) -> Answer:
    lane = lane_of(project, lane_id)
    word = "Let {} follow the speech again" if lane.frozen else "Lift the points of {}"
    return word.format(lane.name), automation.follow(project, lane_id=lane.id)


COMMANDS = (
    Command("move_points", _move_points, prepare=PLAN, lane_id=ID, points=POINTS),
    Command(
        "add_point",
        _add_point,
        prepare=PLAN,
        lane_id=ID,
        at_n=TIME,
        gain_db=Param(GAIN, called="A point"),
        dipped=maybe(Flag(), False),
    ),
    Command("remove_points", _remove_points, prepare=PLAN, lane_id=ID, points=POINTS),
    Command("freeze_curve", _freeze_curve, prepare=PLAN, lane_id=ID),
    Command("clear_curve", _clear_curve, lane_id=ID),
    Command("follow_speech", _follow_speech, lane_id=ID),
)
