"""How well stretches that were found fit those that are there: the marks both tables of the ear are made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jaylantern.core.ducking.passages import bridge
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import Settings

LATE_N = round(0.1 * RATE)


@dataclass(frozen=True)
class Marks:
    """Frame F1; share of onsets found later than 100 ms, or not at all; share of the time without speech taken for it,
    but for 100 ms around every word (a collar, as is common practice: where a word ends is a matter of taste); share
    lost; dips that would come up inside a sentence at the usual settings: passages that begin inside a true stretch."""

    f1: float
    late: float
    false: float
    missed: float
    flutters: int


def marks(found: Intervals, truth: Intervals, size: int) -> Marks:
    """The marks of found stretches, both in samples, of a sound of `size` blocks of 10 ms."""
    known, heard = mask_of(truth, size), mask_of(found, size)
    both = float((known & heard).sum())
    silent = ~mask_of(truth + np.array([-LATE_N, LATE_N]), size)
    begins = bridge(found, Settings())[:, 0]
    late = flutters = 0
    for start_n, stop_n in truth.tolist():
        over = found[(found[:, 0] < stop_n) & (found[:, 1] > start_n)]
        late += not len(over) or int(over[0, 0]) > start_n + LATE_N
        flutters += int(((begins > start_n + LATE_N) & (begins < stop_n)).sum())
    return Marks(
        2 * both / max(1.0, float(known.sum() + heard.sum())),
        late / max(1, len(truth)),
        float((heard & silent).sum()) / max(1, int(silent.sum())),
        1 - both / max(1, int(known.sum())),
        flutters,
    )


def mask_of(spans: Intervals, size: int) -> np.ndarray:
    """Stretches in samples as a mask of blocks of 10 ms."""
    out = np.zeros(size, bool)
    for start_n, stop_n in spans.tolist():
        out[max(0, round(start_n / HOP_N)) : max(0, round(stop_n / HOP_N))] = True
    return out
