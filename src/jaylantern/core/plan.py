"""The duck plan: one dip under every passage, and the gain curve they make.

     down_from          lead-in                         up
0 dB ───o                 ┊                              o───
         \\               ┊   first …… last syllable    /
amount    o───────────────┊──[#######################]─o
        attack          down                   hold  rise  release
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jaylantern.core import passages as talk
from jaylantern.core import pecking
from jaylantern.core.curve import Curve
from jaylantern.core.intervals import Intervals
from jaylantern.core.model import Project, Tag
from jaylantern.core.passages import Passage
from jaylantern.core.settings import Settings
from jaylantern.core.timebase import ms_to_n


@dataclass(frozen=True)
class Dip:
    """The four corners of one dip in time: it begins to go down, is down, begins to rise, is up again."""

    from_n: int
    down_n: int
    rise_n: int
    up_n: int


@dataclass(frozen=True)
class Plan:
    """Passages in order with the dip that each asks for, and for each tag that gives way its gain curve.

    Dips that have no room between them are joined in the curve.
    """

    passages: tuple[Passage, ...]
    dips: tuple[Dip, ...]
    speech: Intervals
    curves: Mapping[Tag, Curve]


def dip_under(passage: Passage, settings: Settings) -> Dip:
    """The dip a passage asks for.

    down = first syllable − lead-in; from = down − attack; rise = last syllable + hold; up = rise + release.
    A lead-in so negative that the dip would begin after its end begins it at its end.
    """
    rise_n = passage.stop_n + ms_to_n(settings.hold_ms)
    down_n = min(passage.start_n - ms_to_n(settings.lead_in_ms), rise_n)
    return Dip(down_n - ms_to_n(settings.attack_ms), down_n, rise_n, rise_n + ms_to_n(settings.release_ms))


def dip_curve(dips: Sequence[Dip], *, amount_db: float) -> Curve:
    """Four points a dip; one that has no room to come up before the next goes down is joined to it."""
    if not dips or amount_db == 0:
        return Curve.flat()
    corner = np.array([(d.from_n, d.down_n, d.rise_n, d.up_n) for d in dips], np.int64)
    apart = corner[1:, 0] >= corner[:-1, 3]
    first, last = np.concatenate(([True], apart)), np.concatenate((apart, [True]))
    keep = np.stack((first, first, last, last), axis=1).ravel()
    gains = np.tile([0.0, amount_db, amount_db, 0.0], len(dips))
    return Curve(np.maximum.accumulate(corner.ravel()[keep]), gains[keep])


def make_plan(project: Project, speech: Mapping[int, Intervals]) -> Plan:
    """Everything that ducking decides, from the project and the speech of its media (media time, by number)."""
    spans = talk.speech_on_timeline((clip for _, clip in talk.key_clips(project)), speech)
    found = tuple(talk.bridge(spans, project.settings))
    dips = tuple(dip_under(passage, project.settings) for passage in found)
    curves = {tag: dip_curve(dips, amount_db=amount) for tag, amount in pecking.amounts(project.settings).items()}
    return Plan(found, dips, spans, curves)
