"""What sounds, and how loud: the K-weighted power of media, and of the clips that show them on the timeline.

power per 100 ms in media time ─ clip, gains, lines, fades ─▶ on the timeline's grid ─▶ before anything gives way
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.timebase import RATE, db_to_amplitude
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.clip import Channels, Clip
from jaylantern.core.timeline.fades import Fade, amplitude_at
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project

SHORT_N = 300 * RATE  # clips under five minutes are many, and their powers small enough to be remembered
WEIGHTS = {  # of left², right², left·right
    Channels.BOTH: (1.0, 1.0, 0.0),
    Channels.LEFT: (2.0, 0.0, 0.0),
    Channels.RIGHT: (0.0, 2.0, 0.0),
    Channels.MONO: (0.5, 0.5, 1.0),
}


class MediaPower:
    """K-weighted products of a medium per 100 ms, (steps, 1) or (steps, 3) as `KWeighting.products` gives them,
    ready to be read for any stretch of it."""

    def __init__(self, products: Doubles) -> None:
        self.products = products
        self._heard: dict[Channels, tuple[Doubles, Doubles]] = {}
        self._short = lru_cache(maxsize=2000)(self._placed)

    @classmethod
    def unknown(cls, length_n: int) -> MediaPower:
        """Of a medium of so many samples that was not measured: silence."""
        return cls(np.zeros((-(-length_n // STEP_N), 1)))

    def _of(self, channels: Channels) -> tuple[Doubles, Doubles]:
        """Power on both sides together in each step, and what it adds up to before each; both (steps + 1,).

        One channel alone is heard on both sides: 2·left². The mean of two, (l + r)/2, on both sides is
        (left² + right² + 2·left·right)/2.
        """
        if channels not in self._heard:
            one = self.products.shape[1] == 1
            power = np.append(self.products @ np.array([2.0] if one else WEIGHTS[channels]), 0.0)
            self._heard[channels] = power, np.concatenate(([0.0], np.cumsum(power[:-1])))
        return self._heard[channels]

    def on_grid(self, clip: Clip) -> tuple[slice, Doubles]:
        """Power of a clip on the timeline's 100 ms grid: which steps it touches, and its power in each.

        What the media's 100 ms powers add up to is read, straight between them, at the edges of the steps. The power
        is not to be changed: that of short clips is remembered.
        """
        place = self._short if clip.length_n < SHORT_N else self._placed
        return place(clip.start_n, clip.offset_n, clip.length_n, clip.channels)

    def _placed(self, start_n: int, offset_n: int, length_n: int, channels: Channels) -> tuple[slice, Doubles]:
        first, last = start_n // STEP_N, -(-(start_n + length_n) // STEP_N)
        power, total = self._of(channels)
        at = np.empty(last - first + 1)
        at[0], at[-1] = (_reached(power, total, n) for n in (offset_n, offset_n + length_n))
        step, rest_n = divmod((first + 1) * STEP_N - start_n + offset_n, STEP_N)
        inner = slice(step, step + len(at) - 2)  # edges between the ends lie equally far into their steps
        there = min(len(at) - 2, len(power) - step)
        at[1 : 1 + there] = total[inner] + rest_n / STEP_N * power[inner]
        at[1 + there : -1] = total[-1]
        return slice(first, last), np.diff(at)


def _reached(power: Doubles, total: Doubles, time_n: int) -> float:
    """What the power adds up to before a media time."""
    step = min(time_n // STEP_N, len(power) - 1)
    return float(total[step] + (time_n / STEP_N - step) * power[step])


def of_clips(
    project: Project, media_power: Mapping[Source, MediaPower], rides: Mapping[int, Curve] | None = None
) -> Iterator[tuple[Lane, Clip, slice, Doubles]]:
    """Every clip that sounds with its power per 100 ms: which steps of the timeline, and the power with all gains,
    lines drawn by hand and fades, with the leveller's where they are given, before anything gives way."""
    faded = project.fades()
    for lane, clip in project.sounding():
        care = lane.care_of(clip)
        known = media_power.get(clip.media.id if care is None else (clip.media.id, care)) or media_power.get(
            clip.media.id
        )
        if known is not None:
            place, power = known.on_grid(clip)
            power = power * db_to_amplitude(lane.gain_db + clip.gain_db) ** 2
            _fade(power, place, clip, *faded[clip.id])
            for line in (rides.get(clip.id) if rides else None, line_of(clip)):
                if line is not None:
                    power *= 10.0 ** (line.at(middles(place.stop)[place.start :]) / 10.0)
            yield lane, clip, place, power


def middles(steps: int) -> NDArray[np.int64]:
    """The middles of so many steps of 100 ms, in samples."""
    return np.arange(steps) * STEP_N + STEP_N // 2


def _fade(power: Doubles, place: slice, clip: Clip, coming: Fade, going: Fade) -> None:
    """Weigh the power of each step, in place, with the clip's fades in its middle."""
    if coming.length_n or going.length_n:
        time_n = np.arange(place.start, place.stop) * STEP_N + STEP_N // 2 - clip.start_n
        time_n = np.clip(time_n, 0, clip.length_n - 1)
        power *= amplitude_at(coming, going, length_n=clip.length_n, time_n=time_n) ** 2


@dataclass(frozen=True)
class Undipped:
    """K-weighted power per 100 ms of timeline before anything gives way, (steps,) each: of talk that gives way to
    nothing, of what else gives way to nothing by lane, of what gives way by its curve and whether it talks."""

    speech: Doubles
    others: Mapping[int, Doubles]
    yielding: Mapping[tuple[CurveKey, bool], Doubles]

    @property
    def steps(self) -> int:
        """Of 100 ms."""
        return len(self.speech)

    @cached_property
    def rest(self) -> Doubles:
        """What does not talk and gives way to nothing."""
        return sum(self.others.values(), np.zeros(self.steps))

    @cached_property
    def plain(self) -> Doubles:
        """All of it."""
        return sum(self.yielding.values(), self.speech + self.rest)


def undipped(
    project: Project, media_power: Mapping[Source, MediaPower], rides: Mapping[int, Curve] | None = None
) -> Undipped:
    """What sounds on the timeline before anything gives way; `rides`: the leveller's gain lines by clip."""
    steps = -(-project.length_n // STEP_N)
    speech = np.zeros(steps)
    others: dict[int, Doubles] = {}
    yielding: dict[tuple[CurveKey, bool], Doubles] = {}
    order = pecking_order.order_of(project)
    for lane, clip, place, power in of_clips(project, media_power, rides):
        talks = lane.tag_of(clip).speaks and not lane.outside(clip)
        perch = order.yielding(lane, clip)
        if perch is not None:
            yielding.setdefault(((lane.id, perch), talks), np.zeros(steps))[place] += power
        elif talks:
            speech[place] += power
        else:
            others.setdefault(lane.id, np.zeros(steps))[place] += power
    return Undipped(speech, others, yielding)


class Spoken:
    """Sums over the 100 ms steps of a timeline in which someone speaks."""

    def __init__(self, speech: Intervals, steps: int) -> None:
        edges = np.clip(speech // STEP_N + np.array([0, 1]), 0, steps)
        depth = np.zeros(steps + 1)
        np.add.at(depth, edges[:, 0], 1)
        np.add.at(depth, edges[:, 1], -1)
        self._spoken = np.cumsum(depth)[:-1] > 0
        self._steps = steps

    def total(self, power: Doubles) -> Doubles:
        """What a power per step, (steps,), adds up to before each, (steps + 1,)."""
        return np.concatenate(([0.0], np.cumsum(np.where(self._spoken, power, 0.0))))

    def sums(self, total: Doubles, spans: Intervals) -> Doubles:
        """Sums over each of (n, 2) stretches of timeline, of what `total` said of a power."""
        first, last = spans[:, 0] // STEP_N, -(-spans[:, 1] // STEP_N)
        return total[np.minimum(last, self._steps)] - total[np.minimum(first, self._steps)]
