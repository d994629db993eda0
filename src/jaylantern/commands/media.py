"""Commands on media: laid on the timeline, voice takes kept, missing files found again, a whole project opened."""

from __future__ import annotations

from dataclasses import replace

from jaylantern.commands.at_hand import AtHand
from jaylantern.commands.command import Command, maybe
from jaylantern.core.captions.placing import tied_where_loose
from jaylantern.core.edit import landing, moving, relinking
from jaylantern.core.edit.landing import Landing
from jaylantern.core.signal.timebase import clock
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.kinds import ID, TIME, Choice, Ids, Line, Listed, Maybe, Thing
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused

Answer = tuple[str, Project]


def _place(
    project: Project,
    at_hand: AtHand,
    *,
    media_id: int,
    at_n: int,
    how: Landing,
    lane_id: int | None,
    lane_ids: list[int],
    name: str,
) -> Answer:
    """Put a medium of the project on the timeline.

    It goes onto lanes of its own, or onto the lane that is named, or (`lane_ids`) after what is there on these;
    inserted or laid over on the lane that is named, or on the first that fit.
    """
    brought = at_hand.brought(media_id)
    media, name = brought.media, name or brought.name
    if how is Landing.OWN and lane_id is not None:
        after = moving.place_on(project, at_hand.new_id, media=media, name=name, at_n=at_n, lane_id=lane_id)
        return f"Bring in {name}", tied_where_loose(after)
    there = tuple(lane_ids) or (() if how is Landing.OWN else landing.lanes_for(project, media, lane_id))
    if how is not Landing.OWN:
        at_n = picture.on_frame(project, at_n, there, at_hand.fps)
    after = landing.land(project, at_hand.new_id, media=media, name=name, at_n=at_n, how=how, lane_ids=there)
    where = "" if how is Landing.OWN else f" at {clock(at_n, decimals=2)}"
    return f"{how.says('Bring in')} {name}{where}", tied_where_loose(after)


def _lay_take(
    project: Project, at_hand: AtHand, *, media_id: int, name: str, at_n: int, offset_n: int, lane_id: int | None
) -> Answer:
    """Put a voice take where it was spoken. Without a lane, or with one that has gone meanwhile, it goes onto a lane of
    its own."""
    there = any(lane.id == lane_id for lane in project.lanes)
    after = moving.lay_take(
        project,
        at_hand.new_id,
        media=at_hand.medium(media_id),
        name=name,
        at_n=at_n,
        offset_n=offset_n,
        lane_id=lane_id if there else None,
    )
    return f"Keep {name}", after


def _relink(
    project: Project, at_hand: AtHand, *, missing_id: int, media_id: int, origins: list[int], name: str
) -> Answer:
    """Give the clips of a missing medium the file that was meant; `origins` are times that may stand for its first
    sample."""
    if all(clip.media.id != missing_id or not clip.media.missing for _, clip in project.placed()):
        raise Refused("That file is not missing any more.")
    found = at_hand.medium(media_id)
    return f"Relink {name}", relinking.relink(project, missing_id=missing_id, found=found, origins=origins).project


def _open(project: Project, at_hand: AtHand, *, opened: Project) -> Answer:
    """Make an empty project the one that was opened; it has no history: it is as if it had always been so."""
    if project.lanes or project.revision:
        raise Refused("A project opens as a project of its own. Drop its file on the shelf.")
    return "Open", replace(opened, id=project.id, revision=project.revision)


NAME = Line(200)
COMMANDS = (
    Command(
        "place",
        _place,
        media_id=ID,
        at_n=TIME,
        how=maybe(Choice(Landing), Landing.OWN, "How a file lands"),
        lane_id=maybe(Maybe(ID), None),
        lane_ids=maybe(Ids(), ()),
        name=maybe(NAME, ""),
    ),
    Command("lay_take", _lay_take, media_id=ID, name=NAME, at_n=TIME, offset_n=TIME, lane_id=maybe(Maybe(ID), None)),
    Command("relink", _relink, missing_id=ID, media_id=ID, origins=maybe(Listed(TIME), ()), name=NAME),
    Command("open", _open, lasting=True, opened=Thing(Project)),
)
