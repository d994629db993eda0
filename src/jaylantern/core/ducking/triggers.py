"""Triggers: what of a clip counts as sounding for those that give way to it, and what was corrected by hand.

voice   its speech                        ──[####]──[##]───
level   whatever passes a threshold       ──[#]─[#######]──     on from the threshold, off a hysteresis below, held
clip    its being there                   [################]
captions  where captions stand over it      ──[###]──[####]───
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.gain_line import over_media
from jaylantern.core.ducking.key_level import KeyTrack
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal import intervals
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE, SILENCE_DB, ms_to_n
from jaylantern.core.timeline.clip import Clip, Trigger
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.pin import Heard, SpeechPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings

BEYOND_N = RATE  # of what is heard across an edge that was set by hand, so much beyond it counts no more


@dataclass(frozen=True)
class Sounding:
    """What triggers need of media: speech, level and, for the compressor, the key's track, by number of the medium.

    `level_db` (blocks of 10 ms,), dBFS; `captions`: where any stand, on the timeline.
    """

    speech: Mapping[int, Intervals] = field(default_factory=dict)
    level_db: Mapping[int, NDArray[np.float32]] = field(default_factory=dict)
    key: Mapping[int, KeyTrack] = field(default_factory=dict)
    captions: Intervals = field(default_factory=intervals.none)
    memo: Memo = anew


def over_level(level_db: NDArray[np.float32], *, on_db: float, off_db: float, hold_n: int) -> Intervals:
    """Stretches in samples in which a level (blocks,) is up: from where it reaches `on_db` for as long as it has not
    fallen below `off_db` for longer than the hold. The hold lies behind each stretch too.
    """
    up = intervals.runs(level_db >= off_db)
    high = np.concatenate(([0], np.cumsum(level_db >= on_db)))
    first = np.array([b + int(np.argmax(level_db[b:e] >= on_db)) if high[e] > high[b] else -1 for b, e in up], np.int64)
    there = first >= 0
    spans = np.stack((first[there], up[there, 1]), axis=1) * HOP_N
    return intervals.union(spans + np.array([0, hold_n])) if len(spans) else intervals.none()


def spans_of(lane: Lane, clip: Clip, settings: Settings, sounding: Sounding, pins: Sequence[SpeechPin]) -> Intervals:
    """What of a clip counts as sounding, on the timeline; `pins` are those of its medium."""
    first_n, last_n = clip.offset_n, clip.offset_n + clip.length_n
    trigger = lane.trigger_of(clip)
    if trigger is Trigger.CLIP:
        found = np.array([[first_n, last_n]], np.int64)
    elif trigger is Trigger.LEVEL:
        found = _loud(lane, clip, settings, sounding)
    elif trigger is Trigger.CAPTIONS:
        found = sounding.captions - clip.shift_n
    else:
        found = sounding.speech.get(clip.media.id, intervals.none())
    found = corrected(found, pins)
    return intervals.clipped(found, start_n=first_n, stop_n=last_n) + clip.shift_n


def _loud(lane: Lane, clip: Clip, settings: Settings, sounding: Sounding) -> Intervals:
    """Where a clip, with its faders, is louder than its threshold; media time."""
    level = sounding.level_db.get(clip.media.id)
    if level is None:
        return intervals.none()
    first = clip.offset_n // HOP_N
    there = level[first : -(-(clip.offset_n + clip.length_n) // HOP_N)]
    if clip.line:
        middle_n = np.arange(first, first + len(there)) * HOP_N + HOP_N // 2
        there = there + over_media(clip.line).at(middle_n).astype(np.float32)
    on_db = max(lane.level_of(clip) - lane.gain_db - clip.gain_db, SILENCE_DB + 0.5)
    off_db = max(on_db - settings.hysteresis_db, SILENCE_DB + 0.25)  # silence itself never counts
    return over_level(there, on_db=on_db, off_db=off_db, hold_n=ms_to_n(settings.level_hold_ms)) + first * HOP_N


def corrected(found: Intervals, pins: Iterable[SpeechPin]) -> Intervals:
    """What counts, after corrections by hand in the order they were made. Of what was heard around an edge that was set
    by hand, the rest beyond it counts no more, at most `BEYOND_N`, however readily it is heard."""
    heard = found
    for pin in pins:
        stretch = np.array([[pin.start_n, pin.stop_n]], np.int64)
        if pin.heard is Heard.SPEECH:
            found = intervals.union(np.concatenate((found, stretch)))
        elif pin.heard is Heard.NOT_SPEECH:
            found = intervals.without(found, stretch)
        elif pin.heard in (Heard.BEGINS, Heard.ENDS):
            found = intervals.union(np.concatenate((intervals.without(found, _beyond(heard, pin)), stretch)))
    return found


def _beyond(heard: Intervals, pin: SpeechPin) -> Intervals:
    """What was heard in one go across an edge that was set by hand, beyond that edge."""
    edge_n = pin.start_n if pin.heard is Heard.BEGINS else pin.stop_n
    across = heard[(heard[:, 0] <= edge_n) & (edge_n <= heard[:, 1])]
    if pin.heard is Heard.BEGINS:
        return intervals.clipped(across, start_n=edge_n - BEYOND_N, stop_n=edge_n)
    return intervals.clipped(across, start_n=edge_n, stop_n=edge_n + BEYOND_N)


def spoken_in(project: Project, clips: Iterable[Clip], speech: Mapping[int, Intervals]) -> Intervals:
    """Union of the speech of clips on the timeline, as corrected; `speech` holds media-time spans by medium."""
    pins = pins_by_media(project)
    parts = [
        intervals.clipped(
            corrected(speech[clip.media.id], pins.get(clip.media.id, ())),
            start_n=clip.offset_n,
            stop_n=clip.offset_n + clip.length_n,
        )
        + clip.shift_n
        for clip in clips
        if clip.media.id in speech
    ]
    return intervals.union(np.concatenate(parts)) if parts else intervals.none()


def pins_by_media(project: Project) -> dict[int, list[SpeechPin]]:
    """The speech pins of each medium, in the order they were set."""
    found: dict[int, list[SpeechPin]] = {}
    for pin in project.speech_pins:
        found.setdefault(pin.media_id, []).append(pin)
    return found
