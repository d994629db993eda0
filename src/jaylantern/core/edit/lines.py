"""Gain lines drawn by hand: points moved, added, taken away; stretches raised; lines scaled, copied, ridden; a line
made of what ducking does, and the other way round. Times are samples of the timeline.

a stretch raised by 3 dB    ──────o╱o────────o╲o──────    four points, ramps of RAMP_N outside the stretch
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from jaylantern.core.ducking.curve import CODES, Curve
from jaylantern.core.ducking.gain_line import as_line, line_of, over_media
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.ducking.thinning import thinned, thinned_within
from jaylantern.core.edit import automation, lanes
from jaylantern.core.edit.clip_sound import sound_clips
from jaylantern.core.edit.draft import Draft, clip_of, lane_of
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.loudness import STEP_N, integrated_lufs
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.gain_line import LINE_LIMITS_DB, NO_LINE, GainLine, LinePoint
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.pin import POINT_LIMITS_DB, PointPin
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.core.timeline.settings import Ramp
from jaylantern.errors import NotFound, Refused

RAMP_N = 2400  # 50 ms: between what was and a raised stretch
LET_GO_N = 4800  # 100 ms: from where the fader was let go back to the old line
BENT_DB = 0.05  # by which a bent ramp may stray that is cut in two
RIDE_DB = 0.25  # by which a ridden line may stray from the moves of the fader
MADE_DB, MADE_LEAST_N = 0.1, 480  # by which a line made of a curve may stray from it; points no nearer than that
LEAST_STRETCH_N = 480
STRAIGHT = CODES[Ramp.DB]
SURROUNDINGS_N = 5 * RATE  # of a stretch that is made as loud as they are
MOST_LEVELLED_DB = (-24.0, 24.0)


@dataclass(frozen=True)
class Moved:
    """A point of a line at `at_n`, and where it goes."""

    at_n: int
    to_n: int
    to_db: float


def put(project: Project, lines: Mapping[int, GainLine]) -> Project:
    """The project with other lines on some clips, by number."""
    draft = Draft(project)
    for number, line in lines.items():
        draft.put(replace(clip_of(project, number)[1], line=line))
    return draft.finish()


def move(project: Project, *, clip_id: int, points: Sequence[Moved]) -> Project:
    """Move points of a clip's line. None leaves its clip, and none passes one that stays."""
    clip = _clip(project, clip_id)
    moves = {each.at_n - clip.shift_n: each for each in points}
    _there(clip, moves)
    out = []
    for point in clip.line.points:
        wanted = moves.get(point.at_n)
        if wanted is not None:
            to_n = min(max(wanted.to_n, clip.start_n), clip.stop_n) - clip.shift_n
            point = replace(point, at_n=to_n, gain_db=wanted.to_db)
        out.append(point)
    if any(a.at_n >= b.at_n for a, b in pairwise(out)):
        raise Refused("A point can't pass another, nor lie where another does. Take the other away first.")
    return put(project, {clip.id: GainLine(tuple(out))})


def add(project: Project, *, clip_id: int, at_n: int, gain_db: float) -> Project:
    """Add a point; one that lies there already is set to the gain."""
    clip = _clip(project, clip_id)
    if not clip.start_n <= at_n <= clip.stop_n:
        raise Refused("The point would lie outside the clip. Choose a time within it.")
    time_n = at_n - clip.shift_n
    before = [point for point in clip.line.points if point.at_n < time_n]
    after = [point for point in clip.line.points if point.at_n > time_n]
    ramp = before[-1].ramp if before and after else Ramp.DB
    return put(project, {clip.id: GainLine((*before, LinePoint(time_n, gain_db, ramp), *after))})


def remove(project: Project, *, clip_id: int, at_n: Collection[int]) -> Project:
    """Take away points."""
    clip = _clip(project, clip_id)
    gone = _there(clip, {each - clip.shift_n for each in at_n})
    return put(project, {clip.id: GainLine(tuple(point for point in clip.line.points if point.at_n not in gone))})


def shape(project: Project, *, clip_id: int, at_n: Collection[int], ramp: Ramp) -> Project:
    """Give the ramps that begin at points another course."""
    clip = _clip(project, clip_id)
    bent = _there(clip, {each - clip.shift_n for each in at_n})
    points = (replace(point, ramp=ramp) if point.at_n in bent else point for point in clip.line.points)
    return put(project, {clip.id: GainLine(tuple(points))})


def raise_stretch(project: Project, *, clip_ids: Iterable[int], start_n: int, stop_n: int, by_db: float) -> Project:
    """The lines of clips raised by so many dB over what they show of a stretch, with short ramps outside it."""
    found = stretch_of(project, clip_ids, start_n, stop_n)
    return put(project, {clip.id: raised(clip.line, first, last, by_db) for clip, first, last in found})


def level_stretch(
    project: Project, powers: Mapping[int, Doubles], *, clip_ids: Iterable[int], start_n: int, stop_n: int
) -> tuple[Project, float]:
    """A stretch of clips as loud as what lies within SURROUNDINGS_N of it in the same clip; `powers` is
    the K-weighted power of every clip by itself per 100 ms, (steps,) by number. Answers the largest change in dB.
    Raises Refused where there is nothing to measure."""
    low, high = MOST_LEVELLED_DB
    lines, largest = {}, 0.0
    for clip, first_n, last_n in stretch_of(project, clip_ids, start_n, stop_n):
        power = powers.get(clip.id)
        if power is None:
            continue
        at = (np.arange(len(power)) + clip.start_n // STEP_N) * STEP_N + STEP_N // 2 - clip.shift_n
        inside = (at >= first_n) & (at < last_n)
        around = ~inside & (at >= first_n - SURROUNDINGS_N) & (at < last_n + SURROUNDINGS_N)
        by_db = integrated_lufs(power[around]) - integrated_lufs(power[inside])
        if math.isfinite(by_db):
            by_db = round(min(max(by_db, low), high), 2)
            largest = max(largest, by_db, key=abs)
            lines[clip.id] = raised(clip.line, first_n, last_n, by_db)
    if not lines:
        raise Refused("The stretch, or what lies around it, is too short or too quiet to measure. Choose more of it.")
    return put(project, lines), largest


def stretch_of(project: Project, clip_ids: Iterable[int], start_n: int, stop_n: int) -> list[tuple[Clip, int, int]]:
    """Clips of sound with the media time they show of a stretch. Raises Refused where none shows any."""
    low_n, high_n = min(start_n, stop_n), max(start_n, stop_n)
    found = [
        (clip, max(low_n, clip.start_n) - clip.shift_n, min(high_n, clip.stop_n) - clip.shift_n)
        for clip in sound_clips(project, clip_ids)
        if min(high_n, clip.stop_n) - max(low_n, clip.start_n) >= LEAST_STRETCH_N
    ]
    if not found:
        raise Refused("The chosen clips show nothing of that stretch. Drag over a clip, or choose one that lies there.")
    return found


def raised(line: GainLine, first_n: int, last_n: int, by_db: float) -> GainLine:
    """A line raised over media [first_n, last_n]; what would pass its limits stays within them."""
    ends = (first_n - RAMP_N, first_n, last_n, last_n + RAMP_N)
    curve = _straight_at(line, ends)
    was = dict(zip(ends, curve.at(np.array(ends)).tolist(), strict=True))
    out = {time_n: (db, STRAIGHT) for time_n, db in was.items()}
    for time_n, (gain_db, code) in _points(line, curve).items():
        if not (ends[0] < time_n < first_n or last_n < time_n < ends[3]):
            out[time_n] = gain_db, STRAIGHT if time_n in (ends[0], last_n) else code
    return _of_points({n: (db + by_db * (first_n <= n <= last_n), code) for n, (db, code) in out.items()})


def ride(
    project: Project, *, lane_id: int, time_n: Sequence[int], gain_db: Sequence[float], over: Mapping[int, GainLine]
) -> tuple[Project, int, float]:
    """The moves of a lane's fader, (n,) times and dB, written over the lines of its clips; `over` are lines that stand
    for those of the project, by clip: what was there when the fader was touched. Answers how many points were written,
    and by how many dB they stray from the moves."""
    lane = lane_of(project, lane_id)
    moves, error = thinned(Curve(np.array(time_n, np.int64), np.array(gain_db, np.float64)), largest_db=RIDE_DB)
    lines, count = {}, 0
    for clip in lane.clips:
        line = over.get(clip.id, clip.line)
        first_n, last_n = max(int(time_n[0]), clip.start_n), min(int(time_n[-1]), clip.stop_n)
        if clip.media.has_sound and first_n < last_n:
            mine = moves.within(first_n, last_n)
            count += len(mine.time_n)
            lines[clip.id] = _ridden(clip, line, mine)
        elif line != clip.line:
            lines[clip.id] = line
    if not count:
        raise Refused(f"No sound of {lane.name} lay under the playhead while the fader moved.")
    return put(project, lines), count, error


def _ridden(clip: Clip, line: GainLine, moves: Curve) -> GainLine:
    """A line with moves of the timeline written over it, and back to what it was after them."""
    times = (moves.time_n - clip.shift_n).tolist()
    edges = (times[0] - 1, times[-1] + LET_GO_N)
    old = _straight_at(line, edges)
    out = {n: point for n, point in _points(line, old).items() if n < edges[0] or n > edges[1]}
    for n, db in (*zip(edges, old.at(np.array(edges)).tolist(), strict=True),
                  *zip(times, moves.gain_db.tolist(), strict=True)):  # fmt: skip
        out[n] = db, STRAIGHT
    return _of_points(out)


def _points(line: GainLine, curve: Curve) -> dict[int, tuple[float, int]]:
    """The points of a line's curve: dB, and the code of the ramp that begins there, by time."""
    points = zip(curve.gain_db.tolist(), curve.codes, strict=True)
    return dict(zip(curve.time_n.tolist(), points, strict=True)) if line else {}


def _of_points(points: Mapping[int, tuple[float, int]]) -> GainLine:
    """A line of such points, each within what a line may be."""
    ramps = list(Ramp)
    return GainLine(tuple(LinePoint(n, _within_limits(db), ramps[code]) for n, (db, code) in sorted(points.items())))


def _within_limits(gain_db: float) -> float:
    low, high = LINE_LIMITS_DB
    return round(min(max(gain_db, low), high), 3)


def _straight_at(line: GainLine, at_n: Iterable[int]) -> Curve:
    """A line as a curve that can be cut at some times: straight in dB if a bent ramp lies there."""
    curve = over_media(line)
    if curve.straight:
        return curve
    place = np.searchsorted(curve.time_n, np.array(list(at_n)), side="right") - 1
    bent = (place >= 0) & (place < len(curve.ramp)) & (curve.ramp[np.clip(place, 0, len(curve.ramp) - 1)] > 0)
    return curve.straightened(largest_db=BENT_DB) if bent.any() else curve


def scale(project: Project, *, clip_ids: Iterable[int], factor: float) -> Project:
    """Lines with every gain in dB so many times as large, within what a line may be."""

    def scaled(clip: Clip) -> GainLine:
        """Its line."""
        points = clip.line.points
        return GainLine(tuple(replace(point, gain_db=_within_limits(point.gain_db * factor)) for point in points))

    return _changed(project, clip_ids, scaled)


def clear(project: Project, *, clip_ids: Iterable[int]) -> Project:
    """Clips without their lines."""
    return _changed(project, clip_ids, lambda clip: NO_LINE)


def _changed(project: Project, clip_ids: Iterable[int], make: Callable[[Clip], GainLine]) -> Project:
    found = [clip for clip in sound_clips(project, clip_ids) if clip.line]
    if not found:
        raise Refused("The chosen clips have no gain line yet. Draw one first.")
    return put(project, {clip.id: make(clip) for clip in found})


def copy(project: Project, *, from_id: int, clip_ids: Iterable[int]) -> Project:
    """The line of one clip given to others, as far after their beginnings as it lies after its own."""
    source = _clip(project, from_id)
    if not source.line:
        raise Refused(f"{source.name} has no gain line to copy. Draw one first.")
    others = [clip for clip in sound_clips(project, clip_ids) if clip.id != source.id]
    if not others:
        raise Refused("Choose the clips that are to get the line, too.")
    return put(project, {clip.id: source.line.shifted(clip.offset_n - source.offset_n) for clip in others})


def from_ducking(project: Project, plan: Plan, *, clip_ids: Iterable[int]) -> tuple[Project, int, float]:
    """What ducking does to clips as points of their lines; the clips then stand outside the pecking order, so that they
    sound as before. Answers how many points the lines have, and by how many dB they stray."""
    draft, count, worst = Draft(project), 0, 0.0
    for clip in sound_clips(project, clip_ids):
        lane = clip_of(project, clip.id)[0]
        curve = plan.curve_of(lane, clip)
        if curve is not None:
            points, error = _joined(curve, clip)
            draft.put(replace(clip, line=as_line(points, by_n=-clip.shift_n), bystander=True))
            count, worst = count + len(points.time_n), max(worst, error)
    if not count:
        raise Refused("Nothing ducks the chosen clips, so there is no curve to take over.")
    return draft.finish(), count, worst


def into_ducking(project: Project, plan: Plan, new_id: NewId, *, clip_ids: Iterable[int]) -> tuple[Project, int, float]:
    """Lines of clips as points of the ducking curve, set by hand: their lanes are frozen, the clips give way again and
    have no lines. Answers how many points, and by how many dB they stray."""
    chosen = [clip for clip in sound_clips(project, clip_ids) if clip.line]
    if not chosen:
        raise Refused("The chosen clips have no gain line yet. Draw one first.")
    numbers, made, worst = {clip.id for clip in chosen}, list[PointPin](), 0.0
    after = project
    for lane in project.lanes:
        mine = [clip for clip in lane.clips if clip.id in numbers]
        if not mine:
            continue
        _check_yields(lane, mine)
        after = automation.without_points(after, lane_id=lane.id)
        for clip in lane.clips:
            if clip.id in numbers:
                points, error = _joined(plan.curve_of(lane, clip) or Curve.flat(), clip)
            elif (curve := plan.curve_of(lane, clip)) is not None:
                points, error = _thin(curve, clip)
            else:
                continue
            worst = max(worst, error)
            low, high = POINT_LIMITS_DB
            made += [
                PointPin(new_id(), clip.origin, time_n - clip.shift_n, round(min(max(gain_db, low), high), 3))
                for time_n, gain_db in zip(points.time_n.tolist(), points.gain_db.tolist(), strict=True)
            ]
        after = lanes.change(after, lane_id=lane.id, frozen=True)
    draft = Draft(after)
    for clip in chosen:
        draft.put(replace(clip, line=NO_LINE, bystander=False))
    return draft.finish(point_pins=(*after.point_pins, *made)), len(made), worst


def _check_yields(lane: Lane, clips: Sequence[Clip]) -> None:
    origins = [clip.origin for clip in lane.clips]
    for clip in clips:
        if lane.bystander:
            raise Refused(f"{lane.name} stands outside the pecking order. Take it in first.")
        if origins.count(clip.origin) > 1 and any(other.line != clip.line for other in lane.clips
                                                  if other.origin == clip.origin):  # fmt: skip
            raise Refused(
                f"The parts of {clip.name} have different lines. Choose all of them, or copy one to the others."
            )


def _joined(curve: Curve, clip: Clip) -> tuple[Curve, float]:
    """What a curve and the clip's line do together over the clip, thinned, and by how much it strays."""
    line = line_of(clip)
    if line is None:
        return _thin(curve, clip)
    parts = [each.straightened(largest_db=MADE_DB / 10) for each in (curve, line)]
    times = np.unique(np.concatenate([_doubled(each) for each in parts]))
    return _thin(Curve(times, sum(each.at(times) for each in parts)), clip)  # type: ignore[arg-type]


def _doubled(curve: Curve) -> np.ndarray:
    """The times of a curve; of a step also the sample before it."""
    steps = curve.time_n[1:][np.diff(curve.time_n) == 0]
    return np.concatenate((curve.time_n, steps - 1))


def _thin(curve: Curve, clip: Clip) -> tuple[Curve, float]:
    return thinned_within(
        curve, clip.start_n, clip.stop_n, largest_db=MADE_DB, least_n=MADE_LEAST_N, bent_db=MADE_DB / 10
    )


def _clip(project: Project, clip_id: int) -> Clip:
    """A clip of sound. Raises NotFound or Refused."""
    _, clip = clip_of(project, clip_id)
    if not clip.media.has_sound:
        raise Refused(f"{clip.name} has no sound, so there is nothing to draw a line on.")
    return clip


def _there(clip: Clip, at_n: Collection[int]) -> set[int]:
    """Which points are meant, by media time. Raises NotFound."""
    known = {point.at_n for point in clip.line.points}
    if not at_n or set(at_n) - known:
        raise NotFound("That point of the line is not there any more. Choose another.")
    return set(at_n)
