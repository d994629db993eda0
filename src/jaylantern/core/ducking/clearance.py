"""Clearance: by how many LU speech stands above the rest of the mix in a passage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.media_power import MediaPower, Spoken, Undipped, middles, of_clips
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.loudness import STEP_N, integrated_lufs, to_lufs
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag

CLEAR_LU = 10.0  # common practice: speech some 10 LU over the bed is followed without effort
LEAST = 5  # passages that are named as the least clear
MASKED_LU = 7.0  # common practice: under about 7 LU listeners complain


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


def powers(found: Undipped, plan: Plan) -> Powers:
    """What sounds on the timeline. With a band of its own that gives way, the band's share is not known here and the
    whole is taken to go down with it."""
    speech, rest = found.speech.copy(), found.rest.copy()
    middle = middles(found.steps)
    for (key, talks), power in found.yielding.items():
        target = speech if talks else rest
        target += power * 10.0 ** (plan.curves.gain_at(key, middle) / 10.0)
    return Powers(speech, rest, found.plain)


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
                gains[key] = 10.0 ** (plan.curves.gain_at(key, middles(steps)) / 10.0)
            power = power * gains[key][place]
        lanes.setdefault(lane.id, np.zeros(steps))[place] += power
        tag = lane.tag_of(clip)
        if tag.speaks:
            speech[place] += power
        elif tag is Tag.MUSIC:
            music[place] += power
    return Parts(lanes, speech, music)


def per_passage(plan: Plan, speech: Doubles, rest: Doubles) -> list[float]:
    """Clearance in LU of each passage, over the 100 ms steps in which someone speaks; inf where all else is silent.

    10·log10(Σ speech power / Σ rest power): both sums over the same steps.
    """
    if not plan.passages or not len(speech):
        return []
    spoken = Spoken(plan.speech, len(speech))
    above, below = (spoken.sums(spoken.total(power), plan.spans) for power in (speech, rest))
    with np.errstate(divide="ignore", invalid="ignore"):
        clear: Sequence[float] = (10.0 * np.log10(above / below)).tolist()
    return [value if value == value else 0.0 for value in clear]


@dataclass(frozen=True)
class Standing:
    """How speech stands in the whole programme: loudness of all talk and of the whole mix, gated, LUFS (−∞: silent);
    how many of the passages stand less clear than is wished for; the least clear of them, by their places in order."""

    speech_lufs: float
    whole_lufs: float
    passages: int
    under: int
    least: tuple[int, ...]

    @property
    def ratio_lu(self) -> float:
        """By how much the whole is louder than its talk, LU: the loudness-to-dialogue ratio of EBU R 128 s4 (from
        memory). NaN where either is silent."""
        there = np.isfinite(self.speech_lufs) and np.isfinite(self.whole_lufs)
        return self.whole_lufs - self.speech_lufs if there else float("nan")


def standing(found: Powers, clear_lu: Sequence[float], *, wish_lu: float) -> Standing:
    """Of what sounds, and how clear each passage stands, which counts as it is shown: to 0.1 LU."""
    shown = [round(lu, 1) for lu in clear_lu]
    order = sorted(range(len(shown)), key=lambda i: shown[i])
    under = sum(lu < wish_lu for lu in shown)
    whole = integrated_lufs(found.speech + found.rest)
    return Standing(integrated_lufs(found.speech), whole, len(clear_lu), under, tuple(order[:LEAST]))
