"""Commands on gain lines: points, stretches, whole lines, moves of a fader. Times are samples of the timeline."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from jaylantern.commands.command import CLIPS, Command, NewId, Param, maybe
from jaylantern.commands.points import count_of
from jaylantern.commands.provider import LOUD, PLAN
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.edit import clip_sound, lines
from jaylantern.core.edit.draft import clip_of, lane_of
from jaylantern.core.edit.lines import Moved
from jaylantern.core.mixing.matching import Loud
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline.described import described, noun, read
from jaylantern.core.timeline.gain_line import LINE, LINE_LIMITS_DB, MOST_POINTS, GainLine
from jaylantern.core.timeline.kinds import ID, TIME, Choice, Kind, Listed, Number, Values, number_in
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Ramp
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]
LINE_GAIN = Number(*LINE_LIMITS_DB, "dB", "Choose a gain in between.")
CHANGE = Param(Number(-60.0, 60.0, "dB"), called="A change of gain")
NO_POINT = "Choose points on the line first."


@noun
class _Move:
    """A point of a line, and where it goes."""

    at_n: int = described(TIME)
    to_n: int = described(TIME)
    to_db: float = described(LINE_GAIN)


def _line_of(project: Project, clip_ids: list[int]) -> str:
    return f"the line of {clip_sound.called(project, clip_ids)}"


def _move_line(project: Project, new_id: NewId, *, clip_id: int, points: list[Any]) -> Answer:
    moves = [read(_Move, each, what="A point") for each in points]
    after = lines.move(project, clip_id=clip_id, points=[Moved(each.at_n, each.to_n, each.to_db) for each in moves])
    where = f" to {moves[0].to_db:g} dB at {clock(moves[0].to_n, decimals=2)}" if len(moves) == 1 else ""
    return f"Move {count_of(moves)} of {_line_of(project, [clip_id])}{where}", after


def _add_to_line(project: Project, new_id: NewId, *, clip_id: int, at_n: int, gain_db: float) -> Answer:
    after = lines.add(project, clip_id=clip_id, at_n=at_n, gain_db=gain_db)
    return f"Add a point to {_line_of(project, [clip_id])} at {clock(at_n, decimals=2)}", after


def _remove_from_line(project: Project, new_id: NewId, *, clip_id: int, at_n: list[int]) -> Answer:
    after = lines.remove(project, clip_id=clip_id, at_n=at_n)
    return f"Take away {count_of(at_n)} of {_line_of(project, [clip_id])}", after


def _shape_line(project: Project, new_id: NewId, *, clip_id: int, at_n: list[int], ramp: Ramp) -> Answer:
    after = lines.shape(project, clip_id=clip_id, at_n=at_n, ramp=ramp)
    return f"Ramps of {_line_of(project, [clip_id])}: {ramp}", after


def _raise_stretch(
    project: Project, new_id: NewId, *, clip_ids: list[int], start_n: int, stop_n: int, by_db: float
) -> Answer:
    after = lines.raise_stretch(project, clip_ids=clip_ids, start_n=start_n, stop_n=stop_n, by_db=by_db)
    return f"{_stretch(start_n, stop_n)} of {clip_sound.called(project, clip_ids)} by {by_db:+g} dB", after


def _level_stretch(
    project: Project, new_id: NewId, *, clip_ids: list[int], start_n: int, stop_n: int, loud: Sequence[Loud]
) -> Answer:
    powers = {each.clip_id: each.power for each in loud}
    after, by_db = lines.level_stretch(project, powers, clip_ids=clip_ids, start_n=start_n, stop_n=stop_n)
    where = f"{_stretch(start_n, stop_n)} of {clip_sound.called(project, clip_ids)}"
    return f"{where} as loud as its surroundings: {by_db:+.1f} dB", after


def _stretch(start_n: int, stop_n: int) -> str:
    low_n, high_n = sorted((start_n, stop_n))
    return f"{clock(low_n, decimals=1)} to {clock(high_n, decimals=1)}"


def _scale_line(project: Project, new_id: NewId, *, clip_ids: list[int], factor: float) -> Answer:
    return f"Scale {_line_of(project, clip_ids)} to {100 * factor:g} %", lines.scale(
        project, clip_ids=clip_ids, factor=factor
    )


def _clear_line(project: Project, new_id: NewId, *, clip_ids: list[int]) -> Answer:
    return f"Clear {_line_of(project, clip_ids)}", lines.clear(project, clip_ids=clip_ids)


def _copy_line(project: Project, new_id: NewId, *, clip_ids: list[int], from_id: int) -> Answer:
    source = clip_of(project, from_id)[1]
    after = lines.copy(project, from_id=from_id, clip_ids=clip_ids)
    return f"Line of {source.name} to {clip_sound.called(project, [n for n in clip_ids if n != from_id])}", after


def _line_from_ducking(project: Project, new_id: NewId, *, clip_ids: list[int], plan: Plan) -> Answer:
    after, count, error = lines.from_ducking(project, plan, clip_ids=clip_ids)
    return (
        f"Ducking of {clip_sound.called(project, clip_ids)} as its line: {count} points, within {error:.2f} dB",
        after,
    )


def _line_into_ducking(project: Project, new_id: NewId, *, clip_ids: list[int], plan: Plan) -> Answer:
    after, count, error = lines.into_ducking(project, plan, new_id, clip_ids=clip_ids)
    return (
        f"Line of {clip_sound.called(project, clip_ids)} as ducking, frozen: {count} points, within {error:.2f} dB",
        after,
    )


def _ride_lane(
    project: Project,
    new_id: NewId,
    *,
    lane_id: int,
    time_n: list[int],
    gain_db: list[float],
    over: dict[str, GainLine],
) -> Answer:
    if len(time_n) != len(gain_db) or time_n[0] >= time_n[-1]:
        raise InvalidValue("A ride needs as many times as gains, and must last a while.")
    lane = lane_of(project, lane_id)
    before = {n: line for number, line in over.items() if (n := number_in(number)) is not None}
    after, count, error = lines.ride(project, lane_id=lane.id, time_n=time_n, gain_db=gain_db, over=before)
    return f"Ride {lane.name}, {_stretch(time_n[0], time_n[-1])}: {count} points, within {error:.2f} dB", after


CLIP_POINTS = Param(Listed(Kind(), 1, MOST_POINTS, NO_POINT), called="Points")
TIMES = Param(Listed(TIME, 1, MOST_POINTS, NO_POINT), called="Times of points")
COMMANDS = (
    Command("move_line", _move_line, clip_id=ID, points=CLIP_POINTS),
    Command("add_to_line", _add_to_line, clip_id=ID, at_n=TIME, gain_db=LINE_GAIN),
    Command("remove_from_line", _remove_from_line, clip_id=ID, at_n=TIMES),
    Command("shape_line", _shape_line, clip_id=ID, at_n=TIMES, ramp=Choice(Ramp)),
    Command("raise_stretch", _raise_stretch, clip_ids=CLIPS, start_n=TIME, stop_n=TIME, by_db=CHANGE),
    Command("level_stretch", _level_stretch, prepare=LOUD, clip_ids=CLIPS, start_n=TIME, stop_n=TIME),
    Command("scale_line", _scale_line, clip_ids=CLIPS, factor=Param(Number(-4.0, 4.0), called="A scale")),
    Command("clear_line", _clear_line, clip_ids=CLIPS),
    Command("copy_line", _copy_line, clip_ids=CLIPS, from_id=ID),
    Command("line_from_ducking", _line_from_ducking, prepare=PLAN, clip_ids=CLIPS),
    Command("line_into_ducking", _line_into_ducking, prepare=PLAN, clip_ids=CLIPS),
    Command(
        "ride_lane",
        _ride_lane,
        lane_id=ID,
        time_n=Param(Listed(TIME, 2, MOST_POINTS, "Hold the fader a little longer."), called="Times of a ride"),
        gain_db=Param(Listed(LINE_GAIN, 2, MOST_POINTS), called="Gains of a ride"),
        over=maybe(Values(LINE), {}, "Lines as they were"),
    ),
)
