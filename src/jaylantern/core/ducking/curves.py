"""The gain curves of a plan by whose they are: drawn ones, and the compressor's, which are worked out when needed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.sidechain import SidechainGain
from jaylantern.core.signal.arrays import Doubles, Times

STRAIGHT_DB = 0.05  # how far pieces straight in dB may stray from a bent ramp
CurveKey = tuple[int, str]  # lane and perch


class Curves(Mapping[CurveKey, Curve]):
    """The gain curve of each lane and perch that gives way. Those of the compressor are worked out when first asked
    for; `gain_at` and `outline` don't wait for that on a long timeline."""

    def __init__(self, found: Mapping[CurveKey, Curve | SidechainGain]) -> None:
        self._found = found

    def __getitem__(self, key: CurveKey) -> Curve:
        found = self._found[key]
        return found.curve if isinstance(found, SidechainGain) else found

    def __contains__(self, key: object) -> bool:
        return key in self._found

    def __iter__(self) -> Iterator[CurveKey]:
        return iter(self._found)

    def __len__(self) -> int:
        return len(self._found)

    def gain_at(self, key: CurveKey, time_n: Times) -> Doubles:
        """Gain in dB at the given samples; of a long compressor's curve that of its coarse grid."""
        return self._found[key].at(time_n)

    def outline(self, key: CurveKey) -> Curve:
        """The curve for a look at the whole of it."""
        found = self._found[key]
        return found.outline if isinstance(found, SidechainGain) else found

    def rough(self, key: CurveKey) -> bool:
        """Does the outline leave anything out?"""
        found = self._found[key]
        return isinstance(found, SidechainGain) and found.long

    def exact_within(self, key: CurveKey, start_n: int, stop_n: int) -> Curve:
        """The outline with the exact curve in a stretch of it."""
        found, outline = self._found[key], self.outline(key)
        if not isinstance(found, SidechainGain) or not found.long:
            return outline
        part = found.within(start_n, stop_n)
        first, last = np.searchsorted(outline.time_n, (start_n, stop_n))
        return Curve(
            np.concatenate((outline.time_n[:first], part.time_n, outline.time_n[last:])),
            np.concatenate((outline.gain_db[:first], part.gain_db, outline.gain_db[last:])),
        )
