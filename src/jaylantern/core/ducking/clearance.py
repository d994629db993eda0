"""Clearance: by how many LU speech stands above the rest of the mix in a passage."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.loudness import STEP_N, integrated_lufs, to_lufs
from jaylantern.core.signal.timebase import RATE, db_to_amplitude
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.clip import Channels, Clip
from jaylantern.core.timeline.fades import Fade, amplitude_at
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag

SHORT_N = 300 * RATE  # clips under five minutes are many, and their powers small enough to be remembered
CLEAR_LU = 10.0  # common practice: speech some 10 LU over the bed is followed without effort
WEIGHTS = {  # of left², right², left·right
    Channels.BOTH: (1.0, 1.0, 0.0),
    Channels.LEFT: (2.0, 0.0, 0.0),
    Channels.RIGHT: (0.0, 2.0, 0.0),
    Channels.MONO: (0.5, 0.5, 1.0),
}
MASKED_LU = 7.0  # common practice: under about 7 LU listeners complain


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


@dataclass(frozen=True)
class Powers:
    """K-weighted power per 100 ms of timeline, (steps,) each: the talk, the rest ducked, and all of it plain."""

    speech: Doubles
    rest: Doubles
    plain: Doubles

    @property
    def match_db(self) -> float:
        """Gain in dB that makes the plain mix as loud as the ducked one, over all that is louder than −70 LUFS.

        Both powers are means over the same steps: 10·log10(Σ ducked / Σ plain).
        """
        loud = to_lufs(self.plain) > -70.0
        ducked = float((self.speech + self.rest)[loud].sum())
        return 10.0 * float(np.log10(ducked / self.plain[loud].sum())) if ducked > 0 else 0.0


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
                    power *= 10.0 ** (line.at(_middles(place.stop)[place.start :]) / 10.0)
            yield lane, clip, place, power


def powers(project: Project, plan: Plan, media_power: Mapping[Source, MediaPower]) -> Powers:
    """What sounds on the timeline. With a band of its own that gives way, the band's share is not known here and the
    whole is taken to go down with it."""
    steps = -(-project.length_n // STEP_N)
    speech, rest, plain = np.zeros(steps), np.zeros(steps), np.zeros(steps)
    yielding: dict[tuple[CurveKey, bool], Doubles] = {}
    for lane, clip, place, power in of_clips(project, media_power, plan.rides):
        plain[place] += power
        talks = lane.tag_of(clip).speaks and not lane.outside(clip)
        key = plan.key_of(lane, clip)
        if key is not None:
            yielding.setdefault((key, talks), np.zeros(steps))[place] += power
        else:
            (speech if talks else rest)[place] += power
    middle = _middles(steps)
    for (key, talks), power in yielding.items():
        target = speech if talks else rest
        target += power * 10.0 ** (plan.curves.gain_at(key, middle) / 10.0)
    return Powers(speech, rest, plain)


@dataclass(frozen=True)
class Parts:
    """K-weighted power per 100 ms of timeline as it is heard, (steps,) each: of every lane that sounds, of all
    talk, and of all music."""

    lanes: Mapping[int, Doubles]
    speech: Doubles
    music: Doubles


def parts(project: Project, plan: Plan, media_power: Mapping[Source, MediaPower]) -> Parts:
    """The mix taken apart, as it is heard: of soloed lanes alone while any is. Powers of what sounds together are
    added, as of sounds that have nothing to do with each other."""
    heard = {clip.id for _, clip in project.heard()}
    steps = -(-project.length_n // STEP_N)
    lanes: dict[int, Doubles] = {}
    speech, music = np.zeros(steps), np.zeros(steps)
    gains: dict[CurveKey, Doubles] = {}
    for lane, clip, place, power in of_clips(project, media_power, plan.rides):
        if clip.id not in heard:
            continue
        key = plan.key_of(lane, clip)
        if key is not None:
            if key not in gains:
                gains[key] = 10.0 ** (plan.curves.gain_at(key, _middles(steps)) / 10.0)
            power = power * gains[key][place]
        lanes.setdefault(lane.id, np.zeros(steps))[place] += power
        tag = lane.tag_of(clip)
        if tag.speaks:
            speech[place] += power
        elif tag is Tag.MUSIC:
            music[place] += power
    return Parts(lanes, speech, music)


def _middles(steps: int) -> NDArray[np.int64]:
    return np.arange(steps) * STEP_N + STEP_N // 2


def _fade(power: Doubles, place: slice, clip: Clip, coming: Fade, going: Fade) -> None:
    """Weigh the power of each step, in place, with the clip's fades in its middle."""
    if coming.length_n or going.length_n:
        time_n = np.arange(place.start, place.stop) * STEP_N + STEP_N // 2 - clip.start_n
        time_n = np.clip(time_n, 0, clip.length_n - 1)
        power *= amplitude_at(coming, going, length_n=clip.length_n, time_n=time_n) ** 2


def per_passage(plan: Plan, speech: Doubles, rest: Doubles) -> list[float]:
    """Clearance in LU of each passage, over the 100 ms steps in which someone speaks; inf where all else is silent.

    10·log10(Σ speech power / Σ rest power): both sums over the same steps.
    """
    if not plan.passages or not len(speech):
        return []
    edges = np.clip(plan.speech // STEP_N + np.array([0, 1]), 0, len(speech))
    depth = np.zeros(len(speech) + 1)
    np.add.at(depth, edges[:, 0], 1)
    np.add.at(depth, edges[:, 1], -1)
    spoken = np.cumsum(depth)[:-1] > 0
    sums = [np.concatenate(([0.0], np.cumsum(np.where(spoken, power, 0.0)))) for power in (speech, rest)]
    span = np.array([(p.start_n // STEP_N, -(-p.stop_n // STEP_N)) for p in plan.passages])
    above, below = (total[np.minimum(span[:, 1], len(speech))] - total[span[:, 0]] for total in sums)
    with np.errstate(divide="ignore", invalid="ignore"):
        clear: Sequence[float] = (10.0 * np.log10(above / below)).tolist()
    return [value if value == value else 0.0 for value in clear]


def speech_lufs(speech: Doubles) -> float:
    """Gated loudness of all talk, LUFS; −∞ for none."""
    return integrated_lufs(speech)
