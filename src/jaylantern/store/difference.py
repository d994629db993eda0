"""What an edit comes to in rows: the operations that turn the stored project into the one after the edit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import fields
from typing import Any

from jaylantern.core.timeline.described import row
from jaylantern.core.timeline.project import Project
from jaylantern.store import rows
from jaylantern.store.rows import Op

Row = dict[str, Any]
LISTS = {  # fields of the project by their table
    "speech_pin": "speech_pins", "dip_pin": "dip_pins", "point_pin": "point_pins", "captions": "captions",
}  # fmt: skip


def difference(before: Project, after: Project) -> list[Op]:
    """Row operations from one state of a project to another; none where they are equal.

    Rows are added from the outside in and dropped from the inside out, so that at no moment a clip is without a lane.
    """
    old_lanes, new_lanes = _lanes(before), _lanes(after)
    old_clips, new_clips = _clips(before, other=after), _clips(after, other=before)
    old_marks, new_marks = _of_project(before, before.markers), _of_project(after, after.markers)
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
        *_lists(before, after),
        *_keyed("perch", _perches(before), _perches(after)),
        *_keyed("pair", _pairs(before), _pairs(after)),
        *_held(before, after),
    ]


def _lists(before: Project, after: Project) -> list[Op]:
    """Where a project has no other pins or captions, nothing is compared."""
    ops = []
    for table, name in LISTS.items():
        if getattr(before, name) is not getattr(after, name):
            old, new = (_of_project(project, getattr(project, name)) for project in (before, after))
            ops += [*_dropped(table, old, new), *_changed(table, old, new), *_added(table, old, new)]
    return ops


def _perches(project: Project) -> dict[str, Row]:
    return {
        str(name): {"project_id": project.id, "name": str(name), "position": float(i)}
        for i, name in enumerate(project.perches)
    }


def _pairs(project: Project) -> dict[tuple[str, str], Row]:
    return {(pair.upper, pair.lower): {**row(pair), "project_id": project.id} for pair in project.pairs}


def _held(before: Project, after: Project) -> list[Op]:
    if before.held is after.held:
        return []
    old, new = (
        {} if each.held is None else {0: {"project_id": before.id, "body": each.held.text}} for each in (before, after)
    )
    return _keyed("draft", old, new)


def _keyed(table: str, old: Mapping[Any, Row], new: Mapping[Any, Row]) -> list[Op]:
    """As for rows with a number, for those known by other columns."""
    key = rows.KEYS[table]
    ops = [rows.drop(table, {name: each[name] for name in key}) for found, each in old.items() if found not in new]
    for found, each in new.items():
        was = old.get(found)
        if was is None:
            ops.append(rows.add(table, **each))
        elif each != was:
            changed = {name: value for name, value in each.items() if name not in key}
            ops.append(rows.put(table, {name: each[name] for name in key}, **changed))
    return ops


def _lanes(project: Project) -> dict[int, Row]:
    return {
        lane.id: {**row(lane), "project_id": project.id, "position": float(i)} for i, lane in enumerate(project.lanes)
    }


def _clips(project: Project, *, other: Project) -> dict[int, Row]:
    """Rows of the clips that are not the very same on the same lane in the other state."""
    same = {(lane.id, clip.id, id(clip)) for lane, clip in other.placed()}
    return {c.id: {**row(c), "lane_id": lane.id} for lane, c in project.placed() if (lane.id, c.id, id(c)) not in same}


def _of_project(project: Project, things: Iterable[Any]) -> dict[int, Row]:
    """Rows of what belongs to the project itself, by number."""
    return {each.id: {**row(each), "project_id": project.id} for each in things}


def _added(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    return [rows.add(table, **each) for number, each in new.items() if number not in old]


def _dropped(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    return [rows.drop(table, {"id": number}) for number in old if number not in new]


def _changed(table: str, old: Mapping[int, Row], new: Mapping[int, Row]) -> list[Op]:
    ops = []
    for number, each in new.items():
        was = old.get(number, each)
        values = {name: value for name, value in each.items() if value != was[name] and name != "position"}
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
