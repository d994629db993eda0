"""Cutting the pauses out of talk.

speech   ──[####]────────────[###]──[##]──       a pause longer than asked for goes, but for a breath
removed        ┊  ~~~~~~~~  ┊                    half of which stays on either side
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from jaylantern.core.ducking.passages import key_clips
from jaylantern.core.ducking.triggers import spoken_in
from jaylantern.core.edit import cutting
from jaylantern.core.edit.draft import together
from jaylantern.core.edit.ripple import between
from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import NewId, Project
from jaylantern.errors import InvalidValue, Refused

EDGE_N = ms_to_n(5)  # common practice: a few milliseconds of fade make a cut inaudible


@dataclass(frozen=True)
class Pauses:
    """What would be cut: disjoint spans of timeline, and the lanes they lie on."""

    spans: Intervals
    lane_ids: frozenset[int]

    @property
    def removed_n(self) -> int:
        """How much shorter it gets."""
        return intervals.total_n(self.spans)


def find(
    project: Project,
    speech: Mapping[int, Intervals],
    *,
    clip_ids: list[int],
    longest_n: int,
    breath_n: int,
    all_lanes: bool,
) -> Pauses:
    """Pauses longer than `longest_n` between the words of these clips, less a breath.

    `speech` holds media-time spans by media number. Silence before the first word and after the last is no pause.
    Where several of the clips talk, a pause is where none of them does. If all lanes are to close up, nobody else who
    is tagged dialogue may talk there either, and their lanes are cut along. Raises InvalidValue, Refused.
    """
    if breath_n < 0 or longest_n <= 0 or breath_n >= longest_n:
        raise InvalidValue("The breath that stays must be shorter than the pauses that go.")
    group = together(project, clip_ids)
    talking = [(lane, clip) for lane, clip in group if clip.media.has_sound and lane.kind is LaneKind.SOUND]
    if not talking:
        raise Refused("None of the chosen clips has sound. Choose the narration.")
    spoken = [spoken_in(project, [clip], speech) for _, clip in talking]
    chosen = {clip.id for _, clip in talking}
    others = [(lane, clip) for lane, clip in key_clips(project) if clip.id not in chosen] if all_lanes else []
    found = between(np.concatenate(spoken))
    found = intervals.without(found, spoken_in(project, [clip for _, clip in others], speech))
    found = found[found[:, 1] - found[:, 0] > longest_n]
    spans = np.stack((found[:, 0] + breath_n // 2, found[:, 1] - (breath_n - breath_n // 2)), axis=1)
    words = [(part[0, 0], part[-1, 1]) for part in spoken if len(part)]
    inside = intervals.union(np.array(words, np.int64).reshape(-1, 2))
    return Pauses(intervals.overlap(spans, inside), frozenset(lane.id for lane, _ in (*talking, *others)))


def cut(project: Project, new_id: NewId, pauses: Pauses, *, all_lanes: bool) -> Project:
    """Cut the pauses out and close up: on the lanes of the talk and what is linked with it, or on all lanes.

    With all lanes, what lies under the talk is not cut: music and picture go on, and only what begins later moves up.
    The new ends get a fade of 5 ms.
    """
    if not len(pauses.spans):
        raise Refused("There is no pause as long as that in the chosen clips. Look for shorter ones.")
    close = cutting.Ripple.ALL if all_lanes else cutting.Ripple.LANE
    return cutting.cut_out(project, new_id, spans=pauses.spans, lane_ids=pauses.lane_ids, close=close, edge_n=EDGE_N)
