"""Commands on clips: move, trim, split, slip, delete, close gaps, copies, links, pauses cut out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from jaylantern.commands.clipboard import copied_clip, media_of
from jaylantern.commands.command import CLIPS, Command, NewId, maybe
from jaylantern.commands.provider import FPS_OF, FpsOf, Prepare, Provider
from jaylantern.core.edit import cutting, landing, lanes, moving
from jaylantern.core.edit import pauses as talk
from jaylantern.core.edit.cutting import Edge, Ripple
from jaylantern.core.edit.draft import clip_of, lane_of, named, together
from jaylantern.core.edit.landing import Landing
from jaylantern.core.edit.pauses import Pauses
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE, clock, ms_to_n, n_to_seconds
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.kinds import ID, MOVE, TIME, Choice, Flag, Integer, Kind, Listed, Maybe
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

Answer = tuple[str, Project]
LONGEST_MS = 60_000
FRAME_N = RATE // 10  # a cut lies nearer to where it was asked for than this: half a frame of the slowest picture
PAUSE_MS = Integer(100, LONGEST_MS, "ms", "A pause lasts a tenth of a second or longer.")
BREATH_MS = Integer(0, LONGEST_MS, "ms")


def _names(project: Project, clip_ids: Sequence[int]) -> str:
    return named([clip for _, clip in together(project, clip_ids)])


def _move_clips(
    project: Project,
    new_id: NewId,
    *,
    clip_ids: list[int],
    by_n: int,
    lanes_by: int,
    leader_id: int | None,
    how: Landing,
) -> Answer:
    """Move clips along their lanes and, with the leader, to lanes above or below."""
    leader_id = leader_id if lanes_by else None
    after = landing.move_onto(
        project, new_id, clip_ids=clip_ids, by_n=by_n, leader_id=leader_id, lanes_by=lanes_by, how=how
    )
    lane, first = clip_of(after, leader_id or clip_ids[0])
    was, _clip = clip_of(project, first.id)
    where = f" on {lane.name}" if lane.id != was.id else ""
    return f"{how.says('Move')} {_names(project, clip_ids)} to {clock(first.start_n, decimals=2)}{where}", after


def _trim_clips(
    project: Project, new_id: NewId, *, clip_ids: list[int], edge: Edge, to_n: int | None, by_n: int | None
) -> Answer:
    """Trim an end of clips, by so much or, that of the first, to a time."""
    if to_n is not None:
        _lane, clip = clip_of(project, clip_ids[0] if clip_ids else None)
        by_n = to_n - (clip.start_n if edge is Edge.START else clip.stop_n)
    elif by_n is None:
        raise InvalidValue("Say by how much to trim (by_n), or to which time (to_n).")
    after = cutting.trim(project, clip_ids=clip_ids, edge=edge, by_n=by_n)
    return f"Trim the {edge_word(edge)} of {_names(project, clip_ids)}", after


def edge_word(edge: Edge) -> str:
    """What an edge is called."""
    return "start" if edge is Edge.START else "end"


def _slip_clips(project: Project, new_id: NewId, *, clip_ids: list[int], by_n: int) -> Answer:
    by = f"{abs(by_n) / RATE:.3f} s {'later' if by_n > 0 else 'earlier'}"
    return f"Slip {_names(project, clip_ids)}: {by}", cutting.slip(project, clip_ids=clip_ids, by_n=by_n)


def _split_clips(project: Project, new_id: NewId, *, at_n: int, clip_ids: list[int] | None) -> Answer:
    what = "all lanes" if clip_ids is None else _names(project, clip_ids)
    after = cutting.split(project, new_id, at_n=at_n, clip_ids=clip_ids)
    return f"Split {what} at {clock(at_n, decimals=2)}", after


def _delete_clips(project: Project, new_id: NewId, *, clip_ids: list[int], close: Ripple, cut: bool) -> Answer:
    how = {Ripple.NONE: "", Ripple.LANE: " and close the gap", Ripple.ALL: " and close up all lanes"}[close]
    word = "Cut" if cut else "Delete"
    after = cutting.delete(project, new_id, clip_ids=clip_ids, close=close)
    also = cutting.cut_along(project, clip_ids) if close is Ripple.ALL else []
    through = f", cut into {named(also)} to keep step" if also else ""
    return f"{word} {_names(project, clip_ids)}{how}{through}", after


def _close_gaps(project: Project, new_id: NewId, *, lane_id: int | None) -> Answer:
    where = "all lanes" if lane_id is None else lane_of(project, lane_id).name
    return f"Close the gaps of {where}", cutting.close_gaps(project, lane_id=lane_id)


def _cut_out(project: Project, new_id: NewId, *, start_n: int, stop_n: int) -> Answer:
    """Cut a stretch of timeline out of all lanes."""
    if stop_n <= start_n:
        raise InvalidValue("The out point must lie behind the in point. Set them with I and O.")
    label = f"Cut out {clock(start_n, decimals=2)} to {clock(stop_n, decimals=2)}"
    after = cutting.cut_out(project, new_id, spans=np.array([[start_n, stop_n]], np.int64))
    if project.in_n is not None and project.out_n is not None:
        moved_n = max(abs(project.in_n - start_n), abs(project.out_n - stop_n))
        if moved_n <= FRAME_N:  # it is what lay between them that was cut, on frames: nothing is left of it
            after = replace(after, in_n=None, out_n=None)
    return label, after


def _paste_clips(
    project: Project, new_id: NewId, *, copied: list[Mapping[str, Any]], at_n: int, media: Mapping[int, Media]
) -> Answer:
    """Lay copies on the timeline; `copied` are clips as the page shows them, each with its lane."""
    found = [copied_clip(each, media) for each in copied]
    names = named([each.clip for each in found]) if found else "nothing"
    after = moving.paste(project, new_id, copied=found, at_n=at_n)
    return f"Paste {names} at {clock(at_n, decimals=2)}", after


def _duplicate_clips(project: Project, new_id: NewId, *, clip_ids: list[int]) -> Answer:
    return f"Duplicate {_names(project, clip_ids)}", moving.duplicate(project, new_id, clip_ids=clip_ids)


def _link_clips(project: Project, new_id: NewId, *, clip_ids: list[int]) -> Answer:
    after = lanes.link(project, new_id, clip_ids=clip_ids)
    return f"Link {_names(after, clip_ids)}", after


def _unlink_clips(project: Project, new_id: NewId, *, clip_ids: list[int]) -> Answer:
    return f"Unlink {_names(project, clip_ids)}", lanes.unlink(project, clip_ids=clip_ids)


def speech_around(project: Project, provider: Provider, values: Mapping[str, Any]) -> dict[int, Intervals]:
    """The speech of all media that sound in a project, or belong to what is chosen, by number; media time."""
    heard = [*project.sounding(), *together(project, values["clip_ids"])]
    media = {clip.media.id: clip.media for _, clip in heard if clip.media.has_sound}
    return {number: provider.speech(each, project.settings.sensitivity) for number, each in media.items()}


def find_pauses(
    project: Project,
    *,
    clip_ids: list[int],
    longest_ms: int,
    breath_ms: int,
    all_lanes: bool,
    speech: Mapping[int, Intervals],
    fps_of: FpsOf,
) -> Pauses:
    """The pauses that would go, their ends on frames of the picture."""
    found = talk.find(
        project,
        speech,
        clip_ids=clip_ids,
        longest_n=ms_to_n(longest_ms),
        breath_n=ms_to_n(breath_ms),
        all_lanes=all_lanes,
    )
    return replace(found, spans=picture.on_frames(project, found.spans, found.lane_ids, fps_of))


def _cut_pauses(project: Project, new_id: NewId, *, clip_ids: list[int], all_lanes: bool, **how: Any) -> Answer:
    """Cut the pauses out of talk."""
    found = find_pauses(project, clip_ids=clip_ids, all_lanes=all_lanes, **how)
    count = len(found.spans)
    cut = f"{count} pause{'s' if count > 1 else ''} ({n_to_seconds(found.removed_n):.1f} s)"
    after = talk.cut(project, new_id, found, all_lanes=all_lanes)
    return f"Cut {cut} out of {_names(project, clip_ids)}", after


PAUSES: Prepare = {"speech": speech_around, **FPS_OF}
COMMANDS = (
    Command(
        "move_clips",
        _move_clips,
        clip_ids=CLIPS,
        by_n=MOVE,
        lanes_by=maybe(Integer(-1000, 1000, "lanes"), 0),
        leader_id=maybe(Maybe(ID), None),
        how=maybe(Choice(Landing), Landing.OWN, "How they are laid there"),
    ),
    Command(
        "trim_clips",
        _trim_clips,
        clip_ids=CLIPS,
        edge=Choice(Edge),
        to_n=maybe(Maybe(TIME), None),
        by_n=maybe(Maybe(MOVE), None),
    ),
    Command("slip_clips", _slip_clips, clip_ids=CLIPS, by_n=MOVE),
    Command("split_clips", _split_clips, at_n=TIME, clip_ids=maybe(Maybe(CLIPS), None)),
    Command(
        "delete_clips",
        _delete_clips,
        clip_ids=CLIPS,
        close=maybe(Choice(Ripple), Ripple.NONE),
        cut=maybe(Flag(), False),
    ),
    Command("close_gaps", _close_gaps, lane_id=maybe(Maybe(ID), None)),
    Command("cut_out", _cut_out, start_n=TIME, stop_n=TIME),
    Command(
        "paste_clips",
        _paste_clips,
        prepare={"media": lambda _, provider, values: media_of(values["copied"], provider)},
        copied=Listed(Kind(), most=20_000, remedy="Copy the clips again."),
        at_n=TIME,
    ),
    Command("duplicate_clips", _duplicate_clips, clip_ids=CLIPS),
    Command("link_clips", _link_clips, clip_ids=CLIPS),
    Command("unlink_clips", _unlink_clips, clip_ids=CLIPS),
    Command(
        "cut_pauses",
        _cut_pauses,
        prepare=PAUSES,
        clip_ids=CLIPS,
        longest_ms=PAUSE_MS,
        breath_ms=BREATH_MS,
        all_lanes=maybe(Flag(), False),
    ),
)
