"""What a person can do to a project, each as the row operations it comes to and the words it is called by."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from jaylantern.core.model import Clip, Lane, LaneKind, Media, Project, Tag
from jaylantern.core.settings import KNOB
from jaylantern.core.timebase import clock
from jaylantern.errors import InvalidValue, NotFound, Refused
from jaylantern.store import edits, projects, rows
from jaylantern.store.connection import atomic, next_id
from jaylantern.store.rows import Op

LARGEST_N = 48_000 * 3600 * 24
GAIN_LIMITS_DB = (-90.0, 24.0)


def place_media(connection: sqlite3.Connection, project_id: int, media: Media, *, name: str, at_n: int) -> int:
    """Put a medium onto lanes of its own: its picture above all sound lanes, its sound below them."""
    with atomic(connection):
        lanes = projects.load(connection, project_id).lanes
        link = next_id(connection) if media.has_picture else None
        ops: list[Op] = []
        if media.has_picture:
            ops += _new_lane(
                connection, project_id, LaneKind.PICTURE, name, _above_sound(connection, lanes), media, at_n, link
            )
        if media.has_sound or not media.has_picture:
            ops += _new_lane(
                connection, project_id, LaneKind.SOUND, name, _lowest(connection, lanes), media, at_n, link
            )
        return edits.perform(connection, project_id, f"Bring in {name}", ops)


def _positions(connection: sqlite3.Connection, lanes: tuple[Lane, ...], kind: LaneKind) -> list[float]:
    return [
        connection.execute("SELECT position FROM lane WHERE id = ?", (lane.id,)).fetchone()["position"]
        for lane in lanes
        if lane.kind is kind
    ]


def _above_sound(connection: sqlite3.Connection, lanes: tuple[Lane, ...]) -> float:
    return min(_positions(connection, lanes, LaneKind.SOUND), default=1.0) - 1.0


def _lowest(connection: sqlite3.Connection, lanes: tuple[Lane, ...]) -> float:
    return max(_positions(connection, lanes, LaneKind.SOUND), default=0.0) + 1.0


def _new_lane(
    connection: sqlite3.Connection,
    project_id: int,
    kind: LaneKind,
    name: str,
    position: float,
    media: Media,
    at_n: int,
    link: int | None,
) -> list[Op]:
    lane_id = next_id(connection)
    return [
        rows.add(
            "lane", id=lane_id, project_id=project_id, position=position, name=_stem(name), kind=kind, tag="untagged"
        ),
        rows.add(
            "clip",
            id=next_id(connection),
            lane_id=lane_id,
            media_id=media.id,
            name=name,
            start_n=at_n,
            offset_n=0,
            length_n=media.length_n,
            link=link,
        ),
    ]


def _stem(name: str) -> str:
    return (name.rsplit(".", 1)[0] or name)[:80]


def do(connection: sqlite3.Connection, project_id: int, kind: str, values: Mapping[str, Any]) -> int:
    """Carry out a command by name with values from outside, checked; returns the new revision."""
    if kind not in COMMANDS:
        raise InvalidValue(f"There is no command called {kind[:40]!r}.")
    with atomic(connection):
        project = projects.load(connection, project_id)
        label, ops = COMMANDS[kind](project, values)
        if not ops:
            return project.revision
        gesture = values.get("gesture")
        return edits.perform(connection, project_id, label, ops, gesture=str(gesture)[:60] if gesture else None)


def _lane(project: Project, values: Mapping[str, Any]) -> Lane:
    for lane in project.lanes:
        if lane.id == values.get("lane_id"):
            return lane
    raise NotFound("That lane is not there any more.")


def _clip(project: Project, values: Mapping[str, Any]) -> tuple[Lane, Clip]:
    for lane in project.lanes:
        for clip in lane.clips:
            if clip.id == values.get("clip_id"):
                return lane, clip
    raise NotFound("That clip is not there any more.")


def _tag(value: Any) -> Tag:
    try:
        return Tag(value)
    except ValueError:
        raise InvalidValue(f"A tag is one of {', '.join(Tag)}; {str(value)[:40]!r} is not.") from None


def _move_clip(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    """Move a clip along its lane; picture and sound that belong together move together."""
    _, clip = _clip(project, values)
    start_n = values.get("start_n")
    if not isinstance(start_n, int) or isinstance(start_n, bool) or not 0 <= start_n <= LARGEST_N:
        raise InvalidValue("A clip can stand anywhere from 0 to 24 hours.")
    together = [
        (lane, c) for lane in project.lanes for c in lane.clips if c is clip or (clip.link and c.link == clip.link)
    ]
    shift = start_n - clip.start_n
    shift = max(shift, -min(c.start_n for _, c in together))
    moving = {c.id for _, c in together}
    for lane, c in together:
        _refuse_overlap(lane, c, c.start_n + shift, moving)
    ops = [rows.put("clip", {"id": c.id}, start_n=c.start_n + shift) for _, c in together] if shift else []
    return f"Move {clip.name} to {clock(clip.start_n + shift, decimals=2)}", ops


def _refuse_overlap(lane: Lane, clip: Clip, start_n: int, moving: set[int]) -> None:
    for other in lane.clips:
        if other.id not in moving and start_n < other.stop_n and other.start_n < start_n + clip.length_n:
            raise Refused(f"{clip.name} would lie over {other.name} on lane {lane.name}.")


def _tag_lane(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    lane, tag = _lane(project, values), _tag(values.get("tag"))
    ops = [rows.put("lane", {"id": lane.id}, tag=tag)] if tag is not lane.tag else []
    return f"Tag lane {lane.name} as {tag}", ops


def _tag_clip(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    _, clip = _clip(project, values)
    tag = _tag(values["tag"]) if values.get("tag") else None
    label = f"Tag clip {clip.name} as {tag}" if tag else f"Let clip {clip.name} take its lane's tag"
    return label, [rows.put("clip", {"id": clip.id}, tag=tag)] if tag is not clip.tag else []


def _set_lane(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    """Rename, fade, mute or solo a lane."""
    lane = _lane(project, values)
    changed: dict[str, Any] = {}
    if "name" in values:
        changed["name"] = " ".join(str(values["name"]).split())[:80] or lane.name
    if "gain_db" in values:
        changed["gain_db"] = _gain(values["gain_db"])
    changed |= {name: int(bool(values[name])) for name in ("muted", "soloed") if name in values}
    changed = {name: value for name, value in changed.items() if value != getattr(lane, name)}
    words = {
        "name": f"Rename lane {lane.name} to {changed.get('name')}",
        "gain_db": f"Fader of {lane.name} to {changed.get('gain_db', 0):g} dB",
        "muted": f"{'Mute' if changed.get('muted') else 'Unmute'} {lane.name}",
        "soloed": f"{'Solo' if changed.get('soloed') else 'Unsolo'} {lane.name}",
    }
    label = words[next(iter(changed))] if changed else ""
    return label, [rows.put("lane", {"id": lane.id}, **changed)] if changed else []


def _gain(value: Any) -> float:
    low, high = GAIN_LIMITS_DB
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= value <= high:
        raise InvalidValue(f"A fader goes from {low:g} to {high:g} dB; {str(value)[:40]!r} is not in there.")
    return float(value)


def _set_settings(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    wanted = values.get("settings")
    if not isinstance(wanted, Mapping) or not wanted:
        raise InvalidValue("Say which settings to change.")
    after = project.settings.changed({str(name): value for name, value in wanted.items()})
    changed = {n: getattr(after, n) for n in wanted if getattr(after, n) != getattr(project.settings, n)}
    ops = [rows.put("setting", {"project_id": project.id, "name": n}, value=v) for n, v in changed.items()]
    label = ", ".join(f"{KNOB[n].label} {v:g} {KNOB[n].unit}".strip() for n, v in changed.items())
    return label, ops


def _remove_lane(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    lane = _lane(project, values)
    ops = [rows.drop("clip", {"id": clip.id}) for clip in lane.clips]
    return f"Remove lane {lane.name}", [*ops, rows.drop("lane", {"id": lane.id})]


def _rename_project(project: Project, values: Mapping[str, Any]) -> tuple[str, list[Op]]:
    name = projects.clean_name(str(values.get("name", "")))
    ops = [rows.put("project", {"id": project.id}, name=name)] if name != project.name else []
    return f"Rename project to {name}", ops


COMMANDS = {
    "move_clip": _move_clip,
    "tag_lane": _tag_lane,
    "tag_clip": _tag_clip,
    "set_lane": _set_lane,
    "set_settings": _set_settings,
    "remove_lane": _remove_lane,
    "rename_project": _rename_project,
}
