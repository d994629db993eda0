"""Clearance: by how many LU speech stands above the rest of the mix in a passage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from jaylantern.core import pecking
from jaylantern.core.arrays import Doubles
from jaylantern.core.loudness import STEP_N, to_lufs
from jaylantern.core.model import Clip, Project, Tag
from jaylantern.core.plan import Plan
from jaylantern.core.timebase import db_to_amplitude

CLEAR_LU = 10.0  # common practice: speech some 10 LU over the bed is followed without effort
MASKED_LU = 7.0  # common practice: under about 7 LU listeners complain


def _on_grid(power: Doubles, clip: Clip) -> tuple[slice, Doubles]:
    """K-weighted power of a clip on the timeline's 100 ms grid: which steps it touches, and its power in each.

    What the media's 100 ms powers add up to is read, straight between them, at the edges of the steps; within a
    clip these lie all equally far behind the edges of the media's own steps.
    """
    first, last = clip.start_n // STEP_N, -(-clip.stop_n // STEP_N)
    whole, behind_n = divmod(first * STEP_N - clip.shift_n, STEP_N)
    before, count = max(0, -whole), last - first + 1
    padded = np.pad(power, (before, max(0, whole + count + 1 - len(power))))
    total = np.concatenate(([0.0], np.cumsum(padded)))
    here = slice(whole + before, whole + before + count)
    reached = total[here] + behind_n / STEP_N * padded[here]
    for i, media_n in ((0, clip.offset_n), (-1, clip.offset_n + clip.length_n)):
        step, rest_n = divmod(media_n + before * STEP_N, STEP_N)
        reached[i] = total[step] + rest_n / STEP_N * padded[step]
    return slice(first, last), np.diff(reached)


def powers(project: Project, plan: Plan, media_power: Mapping[int, Doubles]) -> tuple[Doubles, Doubles]:
    """K-weighted power per 100 ms of timeline, of the dialogue and of all the rest ducked; both (steps,)."""
    steps = -(-project.length_n // STEP_N)
    speech, rest = np.zeros(steps), np.zeros(steps)
    yielding: dict[Tag, Doubles] = {}
    for lane, clip in project.sounding():
        if clip.media.id not in media_power:
            continue
        tag = lane.tag_of(clip)
        place, power = _on_grid(media_power[clip.media.id], clip)
        power *= db_to_amplitude(lane.gain_db + clip.gain_db) ** 2
        if tag in pecking.KEYS:
            speech[place] += power
        else:
            yielding.setdefault(tag, np.zeros(steps))[place] += power
    middle = np.arange(steps) * STEP_N + STEP_N // 2
    for tag, power in yielding.items():
        rest += power * 10.0 ** (plan.curves[tag].at(middle) / 10.0) if tag in plan.curves else power
    return speech, rest


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
    """Loudness of all dialogue where it sounds (steps above −70 LUFS), LUFS; −∞ for none."""
    loud = speech[to_lufs(speech) > -70.0]
    return float(to_lufs(loud.mean(keepdims=True))[0]) if len(loud) else float("-inf")
