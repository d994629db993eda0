"""Points of a gain curve edited by hand: moved, added, taken away; a curve frozen, cleared, let follow again."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from jaylantern.core.ducking.plan import Plan
from jaylantern.core.ducking.thinning import thinned_within
from jaylantern.core.edit import lanes
from jaylantern.core.edit.draft import lane_of
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.pin import PointPin
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import NotFound, Refused


@dataclass(frozen=True)
class Moved:
    """A point of the curve at `at_n`, computed or (`pin_id`) set by hand, and where it goes: time and dB."""

    at_n: int
    pin_id: int | None
    to_n: int
    to_db: float


def clip_at(project: Project, plan: Plan, lane: Lane, time_n: int) -> Clip:
    """The clip of a lane whose curve has a point at a time. Raises Refused."""
    for clip in lane.clips:
        if clip.start_n <= time_n <= clip.stop_n and plan.key_of(lane, clip) is not None:
            return clip
    raise Refused(
        "No clip that gives way lies there, so there is no curve to set a point on. Tag music and speech first."
    )


def pin_of(project: Project, pin_id: int) -> PointPin:
    """A point pin by number. Raises NotFound."""
    for pin in project.point_pins:
        if pin.id == pin_id:
            return pin
    raise NotFound("That point is not there any more. Choose another.")


def move(project: Project, plan: Plan, new_id: NewId, *, lane_id: int, points: Iterable[Moved]) -> Project:
    """Move points; a computed one becomes a pin. None leaves its clip."""
    lane = lane_of(project, lane_id)
    pins = {pin.id: pin for pin in project.point_pins}
    for point in points:
        clip = clip_at(project, plan, lane, point.at_n)
        to_n = min(max(point.to_n, clip.start_n), clip.stop_n) - clip.shift_n
        if point.pin_id is not None:
            was = pin_of(project, point.pin_id)
            pins[was.id] = replace(was, at_n=to_n, gain_db=point.to_db)
        else:
            number = new_id()
            pins[number] = PointPin(number, clip.origin, to_n, point.to_db, point.at_n - clip.shift_n)
    return replace(project, point_pins=tuple(pins.values()))


def add(
    project: Project, plan: Plan, new_id: NewId, *, lane_id: int, at_n: int, gain_db: float, dipped: bool
) -> Project:
    """Add a point; `dipped`: is the curve down there now?"""
    lane = lane_of(project, lane_id)
    clip = clip_at(project, plan, lane, at_n)
    pin = PointPin(new_id(), clip.origin, at_n - clip.shift_n, gain_db, None, dipped)
    return replace(project, point_pins=(*project.point_pins, pin))


def remove(
    project: Project, plan: Plan, new_id: NewId, *, lane_id: int, points: Sequence[tuple[int, int | None]]
) -> Project:
    """Take away points, each given by its time and its pin if it has one."""
    lane = lane_of(project, lane_id)
    pins = {pin.id: pin for pin in project.point_pins}
    for at_n, pin_id in points:
        if pin_id is not None:
            was = pin_of(project, pin_id)
            del pins[was.id]
            if was.instead_n is not None and not lane.frozen:
                pins[was.id] = replace(was, gain_db=None)
        else:
            clip = clip_at(project, plan, lane, at_n)
            number = new_id()
            pins[number] = PointPin(number, clip.origin, at_n - clip.shift_n, None, at_n - clip.shift_n)
    return replace(project, point_pins=tuple(pins.values()))


def without_points(project: Project, *, lane_id: int) -> Project:
    """Without the points set by hand on a lane."""
    gone = {clip.origin for clip in lane_of(project, lane_id).clips}
    return replace(project, point_pins=tuple(pin for pin in project.point_pins if pin.root not in gone))


def follow(project: Project, *, lane_id: int) -> Project:
    """Lift all points of a lane, and let it follow the speech again if it was frozen."""
    return lanes.change(without_points(project, lane_id=lane_id), lane_id=lane_id, frozen=False)


def clear(project: Project, *, lane_id: int) -> Project:
    """A lane without any automation: its music stays at its level, whatever is said."""
    return lanes.change(without_points(project, lane_id=lane_id), lane_id=lane_id, frozen=True)


def freeze(
    project: Project, plan: Plan, new_id: NewId, *, lane_id: int, largest_db: float, least_n: int
) -> tuple[Project, int, float]:
    """Turn a lane's curve into plain points that no longer follow, within each clip; answers how many, and by how many
    dB they stray: never more than `largest_db`.

    Raises Refused where nothing on the lane gives way.
    """
    lane = lane_of(project, lane_id)
    made: list[PointPin] = []
    worst = 0.0
    for clip in lane.clips:
        curve = plan.curve_of(lane, clip)
        if curve is None:
            continue
        bent_db = 0.0 if curve.straight else largest_db / 10  # of bent ramps said in straight ones
        points, error = thinned_within(
            curve, clip.start_n, clip.stop_n, largest_db=largest_db, least_n=least_n, bent_db=bent_db
        )
        worst = max(worst, error)
        for time_n, gain_db in zip(points.time_n.tolist(), points.gain_db.tolist(), strict=True):
            made.append(PointPin(new_id(), clip.origin, time_n - clip.shift_n, round(gain_db, 3)))
    if not made:
        raise Refused(f"Nothing on {lane.name} gives way, so there is no curve to freeze. Tag it as music first.")
    after = without_points(project, lane_id=lane_id)
    after = replace(after, point_pins=(*after.point_pins, *made))
    return lanes.change(after, lane_id=lane_id, frozen=True), len(made), worst
