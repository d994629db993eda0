"""What an edit comes to in rows: the operations that turn the stored project into the one after the edit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.project import Project
from jaylantern.store import pins, rows
from jaylantern.store.rows import Op

Row = dict[str, Any]


def difference(before: Project, after: Project) -> list[Op]:
    """Row operations from one state of a project to another; none where they are equal.

    Rows are added from the outside in and dropped from the inside out, so that at no moment a clip is without a lane.
    """
    old_lanes, new_lanes = _lanes(before), _lanes(after)
    old_clips, new_clips = _clips(before, other=after), _clips(after, other=before)
    old_marks, new_marks = _markers(before), _markers(after)
    return [
        *_project(before, after),
        *_settings(before, after),
        *_added("lane", old_lanes, new_lanes),
        *_dropped("clip", old_clips, new_clips),
        *_changed("clip", old_clips, new_clips),
        *_added("clip", old_clips, new_clips),
        *_dropped("lane", old_lanes, new_lanes),
        *_changed("lane", old_lanes, new_lanes),
        *_order(before, after),
        *_dropped("marker", old_marks, new_marks),
        *_changed("marker", old_marks, new_marks),
        *_added("marker", old_marks, new_marks),
        *_pins(before, after),
        *_keyed("perch", ("project_id", "name"), pins.perch_rows(before), pins.perch_rows(after)),
        *_keyed("pair", ("project_id", "upper", "lower"), pins.pair_rows(before), pins.pair_rows(after)),
    ]


def _pins(before: Project, after: Project) -> list[Op]:
    """Where a project has no other pins, nothing is compared."""
    fields_ = ("speech_pins", "dip_pins", "point_pins")
    if all(getattr(before, name) is getattr(after, name) for name in fields_):
        return []
    old, new = pins.pin_rows(before), pins.pin_rows(after)
    ops = []
    for table in old:
        ops += _dropped(table, old[table], new[table])
        ops += _changed(table, old[table], new[table])
        ops += _added(table, old[table], new[table])
    return ops


def _keyed(table: str, key: tuple[str, ...], old: Mapping[Any, Row], new: Mapping[Any, Row]) -> list[Op]:
    """As for rows with a number, for those known by other columns."""
    ops = [rows.drop(table, {name: row[name] for name in key}) for found, row in old.items() if found not in new]
    for found, row in new.items():
        was = old.get(found)
        if was is None:
            ops.append(rows.add(table, **row))
        elif row != was:
            changed = {name: value for name, value in row.items() if name not in key}
            ops.append(rows.put(table, {name: row[name] for name in key}, **changed))
    return ops


def _lanes(project: Project) -> dict[int, Row]:
    return {lane.id: _lane(project, lane, i) for i, lane in enumerate(project.lanes)}


def _lane(project: Project, lane: Lane, position: int) -> Row:
    return {
        "id": lane.id,
        "project_id": project.id,
        "position": float(position),
        "name": lane.name,
        "kind": lane.kind,
        "tag": lane.tag,
        "gain_db": lane.gain_db,
        "muted": int(lane.muted),
        "soloed": int(lane.soloed),
        "bystander": int(lane.bystander),
        "trigger": lane.trigger,
        "level_db": lane.level_db,
        "frozen": int(lane.frozen),
    }


def _clips(project: Project, *, other: Project) -> dict[int, Row]:
    """Rows of the clips that are not the very same on the same lane in the other state."""
    same = {(lane.id, clip.id, id(clip)) for lane, clip in other.placed()}
    return {c.id: _clip(lane, c) for lane, c in project.placed() if (lane.id, c.id, id(c)) not in same}


def _clip(lane: Lane, clip: Clip) -> Row:
    return {
        "id": clip.id,
        "lane_id": lane.id,
        "media_id": clip.media.id,
        "name": clip.name,
        "start_n": clip.start_n,
        "offset_n": clip.offset_n,
        "length_n": clip.length_n,
        "tag": clip.tag,
        "gain_db": clip.gain_db,
        "muted": int(clip.muted),
        "link": clip.link,
        "channels": clip.channels,
        "fade_in_n": clip.fade_in.length_n,
        "fade_in_shape": clip.fade_in.shape,
        "fade_out_n": clip.fade_out.length_n,
        "fade_out_shape": clip.fade_out.shape,
        "bystander": int(clip.bystander),
        "trigger": clip.trigger,
        "level_db": clip.level_db,
        "root": clip.root,
    }


def _markers(project: Project) -> dict[int, Row]:
    return {mark.id: _marker(project, mark) for mark in project.markers}


def _marker(project: Project, marker: Marker) -> Row:
    return {"id": marker.id, "project_id": project.id, "time_n": marker.time_n, "name": marker.name}


def _added(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    return [rows.add(table, **row) for number, row in new.items() if number not in old]


def _dropped(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    return [rows.drop(table, {"id": number}) for number in old if number not in new]


def _changed(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    ops = []
    for number, row in new.items():
        was = old.get(number, row)
        values = {name: value for name, value in row.items() if value != was[name] and name != "position"}
        if values:
            ops.append(rows.put(table, {"id": number}, **values))
    return ops


def _order(before: Project, after: Project) -> list[Op]:
    """Where the order of lanes is another one, every lane that was there gets its new place."""
    there = {lane.id for lane in after.lanes}
    old = [lane.id for lane in before.lanes if lane.id in there]
    new = [lane.id for lane in after.lanes]
    if old == new:
        return []
    return [rows.put("lane", {"id": n}, position=float(i)) for i, n in enumerate(new) if n in old]


def _project(before: Project, after: Project) -> list[Op]:
    values = {name: getattr(after, name) for name in ("name", "in_n", "out_n")}
    values = {name: value for name, value in values.items() if value != getattr(before, name)}
    return [rows.put("project", {"id": before.id}, **values)] if values else []


def _settings(before: Project, after: Project) -> list[Op]:
    names = [each.name for each in fields(after.settings)]
    return [
        rows.put("setting", {"project_id": before.id, "name": name}, value=getattr(after.settings, name))
        for name in names
        if getattr(after.settings, name) != getattr(before.settings, name)
    ]
