"""Passages: stretches of timeline in which something that outranks the music is sounding.

speech in media time  ──[##]─[###]────────[##]──
clips                 |───────────────────────|
on the timeline       ────────[##]─[###]────────[##]──      union over all dialogue clips
passages              ────────[########]────────[##]──      pauses not worth a rise are bridged
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from jaylantern.core import intervals, pecking
from jaylantern.core.intervals import Intervals
from jaylantern.core.model import Clip, Lane, Project
from jaylantern.core.pecking import Role
from jaylantern.core.settings import Settings
from jaylantern.core.timebase import ms_to_n


@dataclass(frozen=True)
class Passage:
    """One stretch of talk on the timeline, [start_n, stop_n): first syllable to the end of the last."""

    start_n: int
    stop_n: int


def key_clips(project: Project) -> list[tuple[Lane, Clip]]:
    """The sounding clips that others give way to, each with its lane."""
    return [(lane, clip) for lane, clip in project.sounding() if pecking.role(lane, clip) is Role.KEY]


def speech_on_timeline(clips: Iterable[Clip], speech: Mapping[int, Intervals]) -> Intervals:
    """Union of the speech of all given clips; `speech` holds media-time spans by media number."""
    parts = [
        intervals.clipped(speech[c.media.id], start_n=c.offset_n, stop_n=c.offset_n + c.length_n) + c.shift_n
        for c in clips
        if c.media.id in speech
    ]
    return intervals.union(np.concatenate(parts)) if parts else intervals.none()


def shortest_gap_n(settings: Settings) -> int:
    """The shortest pause the music comes up in: hold + release + least rise + attack + lead-in, in samples."""
    total = settings.hold_ms + settings.release_ms + settings.least_rise_ms + settings.attack_ms + settings.lead_in_ms
    return max(0, ms_to_n(total))


def bridge(talk: Intervals, settings: Settings) -> list[Passage]:
    """Passages from speech on the timeline, pauses shorter than `shortest_gap_n` bridged."""
    joined = intervals.union(talk, gap_n=max(0, shortest_gap_n(settings) - 1))
    return [Passage(*span) for span in joined.tolist()]
