"""Clearance: by how many LU speech stands above the rest of the mix in a passage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from jaylantern.core import pecking
from jaylantern.core.arrays import Doubles
from jaylantern.core.loudness import STEP_N, to_lufs
from jaylantern.core.model import Clip, Project
from jaylantern.core.plan import Plan
from jaylantern.core.timebase import db_to_amplitude

CLEAR_LU = 10.0  # common practice: speech some 10 LU over the bed is followed without effort
MASKED_LU = 7.0  # common practice: under about 7 LU listeners complain


def _on_grid(power: Doubles, clip: Clip, steps: int) -> Doubles:
    """K-weighted power of a clip on the timeline's 100 ms grid, shape (steps,), from its media's 100 ms powers."""
    total = np.concatenate(([0.0], np.cumsum(power)))
    edge = np.clip(np.arange(steps + 1) * STEP_N, clip.start_n, clip.stop_n) - clip.shift_n
    return np.diff(np.interp(edge / STEP_N, np.arange(len(total)), total))


def powers(project: Project, plan: Plan, media_power: Mapping[int, Doubles]) -> tuple[Doubles, Doubles]:
    """K-weighted power per 100 ms of timeline, of the dialogue and of all the rest ducked; both (steps,)."""
    steps = -(-project.length_n // STEP_N)
    middle = np.arange(steps) * STEP_N + STEP_N // 2
    ducked = {tag: 10.0 ** (curve.at(middle) / 10.0) for tag, curve in plan.curves.items()}
    speech, rest = np.zeros(steps), np.zeros(steps)
    for lane, clip in project.sounding():
        if clip.media.id not in media_power:
            continue
        tag = lane.tag_of(clip)
        power = _on_grid(media_power[clip.media.id], clip, steps)
        power *= db_to_amplitude(lane.gain_db + clip.gain_db) ** 2
        if tag in pecking.KEYS:
            speech += power
        else:
            rest += power * ducked.get(tag, 1.0)
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
