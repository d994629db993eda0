"""A gentle leveller for speech: a slow gain that brings a narrator who drifts back to his own middle.

Over every clip of dialogue whose gain nobody set, the loudness of its speech around each moment (a window of some
seconds, pauses left out) is compared with that of all its speech; the gain makes up for the difference within limits.
Through pauses the gain goes straight on. The clip as a whole stays as loud as it was: matching is another matter.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.media_power import MediaPower
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import STEP_N, to_lufs
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag

QUIET_LUFS = -60.0  # speech so soft is none: nothing is made of it
POINT_STEPS = 5  # a point of the gain line every half second
LEAST_STEPS = 30  # with less than three seconds of speech there is nothing to even out


def rides_for(clip: Clip, tag: Tag) -> bool:
    """Is a clip one that the leveller may touch?"""
    return tag.speaks and clip.gain_db == 0.0


def rides(
    project: Project, media_power: Mapping[int, MediaPower], speech: Mapping[int, Intervals], memo: Memo = anew
) -> dict[int, Curve]:
    """The gain lines of all clips that the leveller evens out, by number; `speech` in media time by medium."""
    settings = project.settings
    if settings.even_out_db <= 0:
        return {}
    found = {}
    for lane, clip in project.sounding():
        if rides_for(clip, lane.tag_of(clip)) and clip.media.id in media_power and clip.media.id in speech:
            how = {"limit_db": settings.even_out_db, "window_s": settings.even_out_s}
            line = ride(clip, media_power[clip.media.id].on_grid(clip, memo), speech[clip.media.id], **how)
            if line is not None:
                found[clip.id] = line
    return found


def ride(
    clip: Clip, power: tuple[slice, Doubles], speech: Intervals, *, limit_db: float, window_s: float
) -> Curve | None:
    """The gain line of a clip over the timeline, in dB within ±`limit_db`; None where there is nothing to even out.

    `power` is that of the clip on the timeline's 100 ms grid, K-weighted; `speech` is in media time; `window_s` the
    seconds over which loudness is taken.
    """
    place, mine = power
    middle = np.arange(place.start, place.stop) * STEP_N + STEP_N // 2
    spoken = _within(middle - clip.start_n + clip.offset_n, speech)
    spoken &= to_lufs(mine) > QUIET_LUFS
    if spoken.sum() < LEAST_STEPS:
        return None
    reach = max(1, round(window_s * 10 / 2))
    weight = spoken.astype(np.float64)
    near, count = _around(mine * weight, reach), _around(weight, reach)
    sure = count >= LEAST_STEPS / 3
    whole_db = 10.0 * np.log10(float((mine * weight).sum() / weight.sum()))
    at = np.flatnonzero(sure)
    if not len(at):
        return None
    off_db = whole_db - 10.0 * np.log10(near[at] / count[at])
    gain = np.interp(np.arange(len(mine)), at, np.clip(off_db, -limit_db, limit_db))
    gain = _around(gain, reach // 2) / _around(np.ones(len(gain)), reach // 2)
    kept = np.unique(np.append(np.arange(0, len(gain), POINT_STEPS), len(gain) - 1))
    return Curve(middle[kept], np.round(gain[kept], 2))


def _within(time_n: np.ndarray, spans: Intervals) -> np.ndarray:
    """Which times lie in one of sorted spans."""
    place = np.searchsorted(spans[:, 0], time_n, side="right") - 1
    inside: np.ndarray = (place >= 0) & (time_n < spans[np.maximum(place, 0), 1]) if len(spans) else time_n < time_n
    return inside


def _around(values: Doubles, reach: int) -> Doubles:
    """Sum of the values within so many steps to each side."""
    total = np.concatenate(([0.0], np.cumsum(values)))
    at = np.arange(len(values))
    found: Doubles = total[np.minimum(at + reach + 1, len(values))] - total[np.maximum(at - reach, 0)]
    return found
