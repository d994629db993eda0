"""Commands on media: laid on the timeline, voice takes kept, missing files found again, a whole project opened."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from jaylantern.commands.command import Command, NewId, maybe
from jaylantern.commands.provider import FpsOf, Prepare, Provider, fps_of
from jaylantern.core.captions.placing import tied_where_loose
from jaylantern.core.edit import landing, moving, relinking
from jaylantern.core.edit.landing import Landing
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.kinds import ID, TIME, Choice, Ids, Line, Listed, Maybe, Thing
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused

Answer = tuple[str, Project]


def _brought(project: Project, provider: Provider, values: Mapping[str, Any]) -> tuple[Media, str]:
    """A medium of the project, and the name it was brought in by."""
    brought = provider.brought(values["media_id"])
    return brought.media, brought.name


def _fps_where_cut(project: Project, provider: Provider, values: Mapping[str, Any]) -> FpsOf | None:
    """Frames a second of the pictures of a project, where what lies there may be cut."""
    return None if values["how"] is Landing.OWN else fps_of(project, provider)


def _place(
    project: Project,
    new_id: NewId,
    *,
    media_id: int,
    at_n: int,
    how: Landing,
    lane_id: int | None,
    lane_ids: list[int],
    name: str,
    brought: tuple[Media, str],
    fps_of: FpsOf | None,
) -> Answer:
    """Put a medium of the project on the timeline.

    It goes onto lanes of its own, or onto the lane that is named, or (`lane_ids`) after what is there on these;
    inserted or laid over on the lane that is named, or on the first that fit.
    """
    media, name = brought[0], name or brought[1]
    if how is Landing.OWN and lane_id is not None:
        after = moving.place_on(project, new_id, media=media, name=name, at_n=at_n, lane_id=lane_id)
        return f"Bring in {name}", tied_where_loose(after)
    there = tuple(lane_ids) or (() if how is Landing.OWN else landing.lanes_for(project, media, lane_id))
    if fps_of is not None:
        at_n = picture.on_frame(project, at_n, there, fps_of)
    after = landing.land(project, new_id, media=media, name=name, at_n=at_n, how=how, lane_ids=there)
    where = "" if how is Landing.OWN else f" at {clock(at_n, decimals=2)}"
    return f"{how.says('Bring in')} {name}{where}", tied_where_loose(after)


def _lay_take(
    project: Project,
    new_id: NewId,
    *,
    media_id: int,
    name: str,
    at_n: int,
    offset_n: int,
    lane_id: int | None,
    found: Media,
) -> Answer:
    """Put a voice take where it was spoken. Without a lane, or with one that has gone meanwhile, it goes onto a lane of
    its own."""
    there = any(lane.id == lane_id for lane in project.lanes)
    after = moving.lay_take(
        project,
        new_id,
        media=found,
        name=name,
        at_n=at_n,
        offset_n=offset_n,
        lane_id=lane_id if there else None,
    )
    return f"Keep {name}", after


def _relink(
    project: Project, new_id: NewId, *, missing_id: int, media_id: int, origins: list[int], name: str, found: Media
) -> Answer:
    """Give the clips of a missing medium the file that was meant; `origins` are times that may stand for its first
    sample."""
    if all(clip.media.id != missing_id or not clip.media.missing for _, clip in project.placed()):
        raise Refused("That file is not missing any more.")
    return f"Relink {name}", relinking.relink(project, missing_id=missing_id, found=found, origins=origins).project


def _open(project: Project, new_id: NewId, *, opened: Project) -> Answer:
    """Make an empty project the one that was opened; it has no history: it is as if it had always been so."""
    if project.lanes or project.revision:
        raise Refused("A project opens as a project of its own. Drop its file on the shelf.")
    return "Open", replace(opened, id=project.id, revision=project.revision)


NAME = Line(200)
FOUND: Prepare = {"found": lambda _, provider, values: provider.medium(values["media_id"])}
COMMANDS = (
    Command(
        "place",
        _place,
        prepare={"brought": _brought, "fps_of": _fps_where_cut},
        media_id=ID,
        at_n=TIME,
        how=maybe(Choice(Landing), Landing.OWN, "How a file lands"),
        lane_id=maybe(Maybe(ID), None),
        lane_ids=maybe(Ids(), ()),
        name=maybe(NAME, ""),
    ),
    Command(
        "lay_take",
        _lay_take,
        prepare=FOUND,
        media_id=ID,
        name=NAME,
        at_n=TIME,
        offset_n=TIME,
        lane_id=maybe(Maybe(ID), None),
    ),
    Command("relink", _relink, prepare=FOUND, missing_id=ID, media_id=ID, origins=maybe(Listed(TIME), ()), name=NAME),
    Command("open", _open, lasting=True, opened=Thing(Project)),
)
