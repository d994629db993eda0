"""Bars: how many beats one has, and on which it begins.

A bar is what comes back: beats so many apart are more alike than beats one more or one less apart (Foote & Cooper, ICME
2001, from memory). It begins where bass and drum set in and the harmony changes (common practice).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.tailoring.beats import largest_near
from jaylantern.core.tailoring.features import HARMONY_HOPS, HOPS_A_SECOND, MusicFeatures
from jaylantern.core.tailoring.likeness import row_means

METERS = (4, 3)  # beats in a bar; of two that come back alike, the first
AGAIN = (1, 2, 4)  # bars after which likeness is looked at

Doubles = NDArray[np.float64]
Floats = NDArray[np.float32]


def beats_in_a_bar(distance: Floats) -> int:
    """Beats in a bar, from the distances between beats (n, n)."""
    size = len(distance)
    lags = np.array([_along(distance, lag) for lag in range(min(size, max(METERS) * max(AGAIN) + 2))])
    scores = {}
    for meter in METERS:
        there = [meter * k for k in AGAIN if meter * k + 1 < len(lags)]
        others = [lag for lag in range(1, len(lags)) if lag % meter]
        if there and others:
            scores[meter] = float(np.mean(lags[others]) / max(np.mean(lags[there]), 1e-6))
    return max(scores, key=lambda meter: scores[meter]) if scores else METERS[0]


def _along(distance: Floats, lag: int) -> float:
    found = np.diagonal(distance, lag)
    return float(np.median(found)) if len(found) else 0.0


def first_downbeat(features: MusicFeatures, at_s: Doubles, meter: int) -> int:
    """Which of the first `meter` beats begins a bar; `at_s` (n,)."""
    hops = np.round(at_s * HOPS_A_SECOND - 0.5).astype(np.intp)
    bass = largest_near(features.low_onset, 4)[np.clip(hops, 0, len(features.low_onset) - 1)]
    beat_s = float(np.median(np.diff(at_s)))
    rate = HOPS_A_SECOND / HARMONY_HOPS
    before, after = (
        row_means(features.harmony, at_s - beat_s, at_s, rate),
        row_means(features.harmony, at_s, at_s + beat_s, rate),
    )
    change = 1 - (before * after).sum(axis=1) / np.maximum(
        np.sqrt((before**2).sum(axis=1) * (after**2).sum(axis=1)), 1e-6
    )
    accent = _standard(bass) + 2 * _standard(change)
    return int(np.argmax([accent[phase::meter].mean() for phase in range(meter)]))


def _standard(values: NDArray[np.floating]) -> Doubles:
    return np.asarray((values - values.mean()) / max(float(values.std()), 1e-9))
