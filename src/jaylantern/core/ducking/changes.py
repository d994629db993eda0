"""What moved between two results of the same project: another ear or another version may hear and duck differently."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE, clock

MOVED_N = RATE // 20  # an edge that moved by less is where it was: common practice, a frame and a bit
DIFFERS_DB = 0.5  # of the music's level; less is not heard: common practice


@dataclass(frozen=True, eq=False)
class Outline:
    """Passages (n, 2), samples of timeline, and the course of the music's gain: times (m,) and dB (m,)."""

    passages: Intervals
    curve: Curve

    @classmethod
    def of(cls, plan: Plan) -> Outline:
        """Of what was decided."""
        return cls(plan.spans, plan.leading_outline.straightened(largest_db=DIFFERS_DB / 10))

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON."""
        gains = np.round(self.curve.gain_db, 2).tolist()
        return {"passages": self.passages.tolist(), "time_n": self.curve.time_n.tolist(), "gain_db": gains}

    @classmethod
    def from_plain(cls, values: Mapping[str, Any]) -> Outline:
        """And back. Raises ValueError, KeyError or TypeError for anything else."""
        passages = np.array(values["passages"], np.int64).reshape(-1, 2)
        return cls(passages, Curve(np.array(values["time_n"], np.int64), np.array(values["gain_db"], np.float64)))


@dataclass(frozen=True)
class Moved:
    """What moved: passages (by their place, from 1, and where) that begin or end elsewhere, are new or are gone; by how
    many dB the music's level differs at most, and where."""

    edges: tuple[tuple[int, int], ...]
    gone: tuple[int, ...]
    largest_db: float
    at_n: int

    @property
    def words(self) -> str:
        """It in words; empty where nothing did."""
        said = []
        if self.edges:
            number, at_n = self.edges[0]
            one, many = f"Passage {number} begins or ends", f"{len(self.edges)} passages begin or end"
            first = f", the first is passage {number}" if len(self.edges) > 1 else ""
            said.append(f"{many if first else one} elsewhere{first}, at {clock(at_n, decimals=1)}.")
        if self.gone:
            count = f"{len(self.gone)} passages are" if len(self.gone) > 1 else "A passage is"
            said.append(
                f"{count} no more, {'the first ' if len(self.gone) > 1 else ''}at {clock(self.gone[0], decimals=1)}."
            )
        if self.largest_db >= DIFFERS_DB:
            said.append(
                f"The music’s level differs by up to {self.largest_db:.1f} dB, most at {clock(self.at_n, decimals=1)}."
            )
        return " ".join(said)


def moved(before: Outline, after: Outline) -> Moved:
    """What moved from one outline to another."""
    edges = tuple(
        (i + 1, int(start_n))
        for i, (start_n, stop_n) in enumerate(after.passages.tolist())
        if not len(before.passages) or np.abs(before.passages - (start_n, stop_n)).max(axis=1).min() > MOVED_N
    )
    gone = tuple(
        int(start_n) for start_n, stop_n in before.passages.tolist() if not _met(after.passages, start_n, stop_n)
    )
    times = np.unique(np.concatenate((before.curve.time_n, after.curve.time_n)))
    differs = np.abs(before.curve.at(times) - after.curve.at(times))
    most = int(differs.argmax()) if len(differs) else 0
    return Moved(edges, gone, float(differs[most]) if len(differs) else 0.0, int(times[most]) if len(times) else 0)


def _met(passages: Intervals, start_n: int, stop_n: int) -> bool:
    """Does any passage lie over some of a stretch?"""
    return bool(((passages[:, 0] < stop_n) & (start_n < passages[:, 1])).any())
