"""Clearance: how clear speech stands of the rest of the mix in a passage, on either of two scales."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.media_power import MediaPower, Spoken, Undipped, middles, of_clips
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.ducking.scales import MARKS, scale_of
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.loudness import STEP_N, integrated_lufs, to_lufs
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import ClearIn, Settings
from jaylantern.core.timeline.tag import Tag

LEAST = 5  # passages that are named as the least clear


@dataclass(frozen=True)
class Powers:
    """Power per 100 ms of timeline, (steps, …) each: the talk, the rest ducked, and all of it plain."""

    speech: Doubles
    rest: Doubles
    plain: Doubles

    @property
    def match_db(self) -> float:
        """Gain in dB that makes the plain mix as loud as the ducked one, over all that is louder than −70 LUFS.

        Both K-weighted powers are means over the same steps: 10·log10(Σ ducked / Σ plain).
        """
        loud = to_lufs(self.plain) > -70.0
        ducked = float((self.speech + self.rest)[loud].sum())
        return 10.0 * float(np.log10(ducked / self.plain[loud].sum())) if ducked > 0 else 0.0


def powers(found: Undipped, plan: Plan) -> Powers:
    """What sounds on the timeline, when what gives way has done so."""
    speech, rest = found.speech.copy(), found.rest.copy()
    middle = middles(found.steps)
    for (key, talks), each in found.yielding.items():
        target = speech if talks else rest
        target += each.at(plan.curves.gain_at(key, middle))
    return Powers(speech, rest, found.plain)


@dataclass(frozen=True)
class Parts:
    """K-weighted power per 100 ms of timeline as it is heard, (steps,) each: of every lane that sounds, of all
    talk, and of all music."""

    lanes: Mapping[int, Doubles]
    speech: Doubles
    music: Doubles


def parts(
    project: Project, plan: Plan, media_power: Mapping[Source, MediaPower], found: Undipped, memo: Memo = anew
) -> Parts:
    """The mix taken apart, as it is heard: of soloed lanes alone while any is. Powers of what sounds together are
    added, as of sounds that have nothing to do with each other. `found`: what sounds before anything gives way, of
    which each curve leaves a share."""
    heard = {clip.id for _, clip in project.heard()}
    steps = -(-project.length_n // STEP_N)
    lanes: dict[int, Doubles] = {}
    speech, music = np.zeros(steps), np.zeros(steps)
    gains: dict[CurveKey, Doubles] = {}
    for lane, clip, place, power in of_clips(project, media_power, plan.rides, memo=memo):
        if clip.id not in heard:
            continue
        key = plan.key_of(lane, clip)
        if key is not None:
            if key not in gains:
                gains[key] = _left(found, key, plan.curves.gain_at(key, middles(steps)))
            power = power * gains[key][place]
        lanes.setdefault(lane.id, np.zeros(steps))[place] += power
        tag = lane.tag_of(clip)
        if tag.speaks:
            speech[place] += power
        elif tag is Tag.MUSIC:
            music[place] += power
    return Parts(lanes, speech, music)


def _left(found: Undipped, key: CurveKey, gain_db: Doubles) -> Doubles:
    """The share that is left in each step of the power of what follows a curve."""
    there = [each for (curve, _), each in found.yielding.items() if curve == key]
    before = sum((each.power for each in there), np.zeros(found.steps))
    after = sum((each.at(gain_db) for each in there), np.zeros(found.steps))
    return np.divide(after, before, out=10.0 ** (gain_db / 10.0), where=before > 0)


def per_passage(plan: Plan, found: Powers, clear_in: ClearIn) -> list[float]:
    """How clear speech stands in each passage, over the 100 ms steps in which someone speaks: LU of K-weighted powers,
    inf where all else is silent, and where nobody speaks (a passage of effects); or the index, of powers in the bands
    of speech, inf where nobody speaks."""
    if not plan.passages or not len(found.speech):
        return []
    spoken = Spoken(plan.speech, len(found.speech))
    talk, rest = (spoken.total(power) for power in (found.speech, found.rest))
    scale = scale_of(clear_in, spoken, talk)
    said, others = (spoken.means(total, plan.spans) for total in (talk, rest))
    clear: list[float] = np.where(plan.spoken, scale.of(said, others), np.inf).tolist()
    return clear


@dataclass(frozen=True)
class Standing:
    """How speech stands in the whole programme: loudness of all talk and of the whole mix, gated, LUFS (−∞: silent);
    how many of the passages stand less clear than is wished for; the least clear of them, by their places in order;
    and what they were measured in, with the wish."""

    speech_lufs: float
    whole_lufs: float
    passages: int
    under: int
    least: tuple[int, ...]
    clear_in: ClearIn
    wish: float

    @property
    def ratio_lu(self) -> float:
        """By how much the whole is louder than its talk, LU: the loudness-to-dialogue ratio of EBU R 128 s4 (from
        memory). NaN where either is silent."""
        there = np.isfinite(self.speech_lufs) and np.isfinite(self.whole_lufs)
        return self.whole_lufs - self.speech_lufs if there else float("nan")


def standing(found: Powers, clear: Sequence[float], settings: Settings) -> Standing:
    """Of what sounds, K-weighted, and how clear each passage stands, which counts as it is shown."""
    marks = MARKS[settings.clear_in]
    shown = [marks.shown(each) for each in clear]
    order = sorted(range(len(shown)), key=lambda i: shown[i])
    under = sum(each < marks.shown(settings.wish) for each in shown)
    speech, whole = (integrated_lufs(power) for power in (found.speech, found.speech + found.rest))
    return Standing(speech, whole, len(clear), under, tuple(order[:LEAST]), settings.clear_in, settings.wish)
