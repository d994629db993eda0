"""What sounds, and how loud: the power of media, and of the clips that show them on the timeline.

power per 100 ms in media time ─ clip, gains, lines, fades ─▶ on the timeline's grid ─▶ before anything gives way

Powers are K-weighted, one figure a step, (steps,), or those of bands, (steps, bands).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking import pecking_order
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.memo import Memo, Same, anew
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intelligibility import bands_of_speech
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.sixth_octaves import k_of_bands
from jaylantern.core.signal.speech_band import SpeechBand, band_of_sixth_octaves
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
    """Products of a medium's channels per 100 ms, ready to be read for any stretch of it: (steps, 1) or (steps, 3) as
    `KWeighting.products` gives them, or (steps, bands, 1) or (steps, bands, 3) in the same way."""

    def __init__(self, products: NDArray[np.floating]) -> None:
        self.products = products

    @classmethod
    def unknown(cls, length_n: int) -> MediaPower:
        """Of a medium of so many samples that was not measured: silence."""
        return cls(np.zeros((-(-length_n // STEP_N), 1)))

    def _of(self, channels: Channels) -> tuple[Doubles, Doubles]:
        """Power on both sides together in each step, and what it adds up to before each; both (steps + 1, …).

        One channel alone is heard on both sides: 2·left². The mean of two, (l + r)/2, on both sides is
        (left² + right² + 2·left·right)/2.
        """
        one = self.products.shape[-1] == 1
        power = self.products @ np.array([2.0] if one else WEIGHTS[channels])
        nothing = np.zeros((1, *power.shape[1:]))
        power = np.concatenate((power, nothing))
        return power, np.concatenate((nothing, np.cumsum(power[:-1], axis=0)))

    def on_grid(self, clip: Clip, memo: Memo = anew) -> tuple[slice, Doubles]:
        """Power of a clip on the timeline's 100 ms grid: which steps it touches, and its power in each.

        What the media's 100 ms powers add up to is read, straight between them, at the edges of the steps. The power
        is not to be changed: a memo has that of short clips.
        """
        if clip.length_n >= SHORT_N:
            return self._placed(clip, memo)
        depends = (clip.start_n, clip.offset_n, clip.length_n, clip.channels)
        return memo(("clip power", Same(self), *depends), lambda: self._placed(clip, memo))

    def _placed(self, clip: Clip, memo: Memo) -> tuple[slice, Doubles]:
        start_n, offset_n, length_n = clip.start_n, clip.offset_n, clip.length_n
        first, last = start_n // STEP_N, -(-(start_n + length_n) // STEP_N)
        power, total = memo(("media power", Same(self), clip.channels), lambda: self._of(clip.channels))
        at = np.empty((last - first + 1, *power.shape[1:]))
        at[0], at[-1] = (_reached(power, total, n) for n in (offset_n, offset_n + length_n))
        step, rest_n = divmod((first + 1) * STEP_N - start_n + offset_n, STEP_N)
        inner = slice(step, step + len(at) - 2)  # edges between the ends lie equally far into their steps
        there = max(0, min(len(at) - 2, len(power) - step))  # a clip may go on where its sound has ended
        at[1 : 1 + there] = total[inner] + rest_n / STEP_N * power[inner]
        at[1 + there : -1] = total[-1]
        return slice(first, last), np.diff(at, axis=0)


class Spectrum:
    """Powers of a medium in sixths of an octave, products (steps, sixths, 1 or 3), and in the bands of speech."""

    def __init__(self, products: NDArray[np.floating]) -> None:
        self.sixths = MediaPower(products)

    @cached_property
    def speech(self) -> MediaPower:
        """In the bands of speech."""
        return MediaPower(bands_of_speech(self.sixths.products))


def _reached(power: Doubles, total: Doubles, time_n: int) -> Doubles:
    """What the power adds up to before a media time."""
    step = min(time_n // STEP_N, len(power) - 1)
    reached: Doubles = total[step] + (time_n / STEP_N - step) * power[step]
    return reached


def of_clips(
    project: Project,
    media_power: Mapping[Source, MediaPower],
    rides: Mapping[int, Curve] | None = None,
    *,
    memo: Memo = anew,
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
            place, power = known.on_grid(clip, memo)
            power = power * db_to_amplitude(lane.gain_db + clip.gain_db) ** 2
            _fade(power, place, clip, *faded[clip.id])
            for line in (rides.get(clip.id) if rides else None, line_of(clip)):
                if line is not None:
                    power *= along(10.0 ** (line.at(middles(place.stop)[place.start :]) / 10.0), power)
            yield lane, clip, place, power


def middles(steps: int) -> NDArray[np.int64]:
    """The middles of so many steps of 100 ms, in samples."""
    return np.arange(steps) * STEP_N + STEP_N // 2


def along(values: NDArray[Any], power: Doubles) -> NDArray[Any]:
    """Values of each step, (n,), as they weigh a power (n, …)."""
    return values.reshape(-1, *[1] * (power.ndim - 1))


def _fade(power: Doubles, place: slice, clip: Clip, coming: Fade, going: Fade) -> None:
    """Weigh the power of each step, in place, with the clip's fades in its middle."""
    if coming.length_n or going.length_n:
        time_n = np.arange(place.start, place.stop) * STEP_N + STEP_N // 2 - clip.start_n
        time_n = np.clip(time_n, 0, clip.length_n - 1)
        power *= along(amplitude_at(coming, going, length_n=clip.length_n, time_n=time_n) ** 2, power)


@dataclass(frozen=True)
class Yielding:
    """Power that gives way, all of it, and what the part of the sound that goes down holds of it: by amplitude (`once`)
    and by power (`twice`). With its gain g, |x + (g − 1)·part(x)|² is power − 2·(1 − g)·once + (1 − g)²·twice."""

    power: Doubles
    once: Doubles
    twice: Doubles

    @classmethod
    def whole(cls, power: Doubles) -> Yielding:
        """All of the sound goes down."""
        return cls(power, power, power)

    @property
    def is_whole(self) -> bool:
        """Does all of the sound go down?"""
        return self.once is self.power

    def at(self, gain_db: Doubles) -> Doubles:
        """What is left of it at gains in dB, (n,)."""
        gain = along(10.0 ** (gain_db / 20.0), self.power)
        if self.is_whole:
            return self.power * gain**2
        return np.maximum(self.power - 2 * (1 - gain) * self.once + (1 - gain) ** 2 * self.twice, 0.0)

    def each(self, change: Callable[[Doubles], Doubles]) -> Yielding:
        """The same of something else."""
        if self.is_whole:
            return Yielding.whole(change(self.power))
        return Yielding(change(self.power), change(self.once), change(self.twice))

    def __add__(self, other: Yielding) -> Yielding:
        """Both together."""
        if self.is_whole and other.is_whole:
            return Yielding.whole(self.power + other.power)
        return Yielding(self.power + other.power, self.once + other.once, self.twice + other.twice)


@dataclass(frozen=True)
class Undipped:
    """Power per 100 ms of timeline before anything gives way, (steps, …) each: of talk that gives way to nothing, of
    what else gives way to nothing by lane, of what gives way by its curve and whether it talks."""

    speech: Doubles
    others: Mapping[int, Doubles]
    yielding: Mapping[tuple[CurveKey, bool], Yielding]

    @property
    def steps(self) -> int:
        """Of 100 ms."""
        return len(self.speech)

    @cached_property
    def rest(self) -> Doubles:
        """What does not talk and gives way to nothing."""
        return sum(self.others.values(), np.zeros_like(self.speech))

    @cached_property
    def plain(self) -> Doubles:
        """All of it."""
        return sum((each.power for each in self.yielding.values()), self.speech + self.rest)

    def of_speech(self) -> Undipped:
        """Of sixths of an octave, what they come to in the bands of speech."""
        others = {lane_id: bands_of_speech(power) for lane_id, power in self.others.items()}
        yielding = {key: each.each(bands_of_speech) for key, each in self.yielding.items()}
        return Undipped(bands_of_speech(self.speech), others, yielding)

    def in_band(self, band: SpeechBand) -> Undipped:
        """Of sixths of an octave, with only a band of their sound giving way."""
        once, twice = band_of_sixth_octaves(band)
        yielding = {key: Yielding(each.power, each.power * once, each.power * twice)
                    for key, each in self.yielding.items()}  # fmt: skip
        return Undipped(self.speech, self.others, yielding)

    def as_in(self, bands: Undipped) -> Undipped:
        """K-weighted, with as much of it in what goes down as there is of bands; all where those are silent."""
        weights = k_of_bands()

        def _shared(power: Doubles, of: Yielding) -> Yielding:
            whole, once, twice = (each @ weights for each in (of.power, of.once, of.twice))
            heard = whole > 0
            once, twice = (np.divide(part, whole, out=np.ones_like(whole), where=heard) for part in (once, twice))
            return Yielding(power, power * once, power * twice)

        known = {key: _shared(self.yielding[key].power, each) for key, each in bands.yielding.items()}
        return Undipped(self.speech, self.others, {**self.yielding, **known})


def undipped(
    project: Project,
    media_power: Mapping[Source, MediaPower],
    rides: Mapping[int, Curve] | None = None,
    *,
    bands: int | None = None,
    memo: Memo = anew,
) -> Undipped:
    """What sounds on the timeline before anything gives way; `rides`: the leveller's gain lines by clip; `bands`: of
    how many the powers are, None where they are K-weighted."""
    shape = (-(-project.length_n // STEP_N), *([] if bands is None else [bands]))
    speech = np.zeros(shape)
    others: dict[int, Doubles] = {}
    yielding: dict[tuple[CurveKey, bool], Doubles] = {}
    order = pecking_order.order_of(project)
    for lane, clip, place, power in of_clips(project, media_power, rides, memo=memo):
        talks = lane.tag_of(clip).speaks and not lane.outside(clip)
        perch = order.yielding(lane, clip)
        if perch is not None:
            yielding.setdefault(((lane.id, perch), talks), np.zeros(shape))[place] += power
        elif talks:
            speech[place] += power
        else:
            others.setdefault(lane.id, np.zeros(shape))[place] += power
    return Undipped(speech, others, {key: Yielding.whole(power) for key, power in yielding.items()})


class Spoken:
    """Sums over the 100 ms steps of a timeline in which someone speaks."""

    def __init__(self, speech: Intervals, steps: int) -> None:
        edges = np.clip(speech // STEP_N + np.array([0, 1]), 0, steps)
        depth = np.zeros(steps + 1)
        np.add.at(depth, edges[:, 0], 1)
        np.add.at(depth, edges[:, 1], -1)
        self._spoken = np.cumsum(depth)[:-1] > 0
        self._steps = steps
        self._counted = np.concatenate(([0], np.cumsum(self._spoken)))

    @property
    def count(self) -> int:
        """How many steps that are."""
        return int(self._counted[-1])

    def total(self, power: Doubles) -> Doubles:
        """What a power per step, (steps, …), adds up to before each, (steps + 1, …)."""
        total = np.zeros((len(power) + 1, *power.shape[1:]))
        np.cumsum(power * along(self._spoken, power), axis=0, out=total[1:])
        return total

    def means(self, total: Doubles, spans: Intervals) -> Doubles:
        """Means over the spoken steps of each of (n, 2) stretches of timeline, (n, …), of what `total` said of a power;
        0 where none is."""
        first = np.minimum(spans[:, 0] // STEP_N, self._steps)
        last = np.minimum(-(-spans[:, 1] // STEP_N), self._steps)
        sums = total[last] - total[first]
        return sums / along(np.maximum(self._counted[last] - self._counted[first], 1), sums)
