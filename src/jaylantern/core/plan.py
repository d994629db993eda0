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
class Plan:
    """Passages in order, and for each tag that gives way its gain curve over the timeline."""

    passages: tuple[Passage, ...]
    speech: Intervals
    curves: Mapping[Tag, Curve]


def dip_curve(passages: Sequence[Passage], settings: Settings, *, amount_db: float) -> Curve:
    """Four points a passage: start of attack, down, start of release, up again.

    down = first syllable − lead-in; down_from = down − attack; rise = last syllable + hold; up = rise + release.
    A lead-in so negative that the dip would begin after its end begins it at its end. A dip that has no
    room to come up before the next one is joined to it.
    """
    if not passages or amount_db == 0:
        return Curve.flat()
    start, stop = np.array([(p.start_n, p.stop_n) for p in passages], np.int64).T
    rise = stop + ms_to_n(settings.hold_ms)
    down = np.minimum(start - ms_to_n(settings.lead_in_ms), rise)
    down_from, up = down - ms_to_n(settings.attack_ms), rise + ms_to_n(settings.release_ms)
    times = np.stack((down_from, down, rise, up), axis=1).ravel()
    gains = np.tile([0.0, amount_db, amount_db, 0.0], len(passages))
    apart = np.concatenate(([True], down_from[1:] >= up[:-1]))
    keep = np.stack((apart, apart, np.append(apart[1:], True), np.append(apart[1:], True)), axis=1).ravel()
    return Curve(np.maximum.accumulate(times[keep]), gains[keep])


def make_plan(project: Project, speech: Mapping[int, Intervals]) -> Plan:
    """Everything that ducking decides, from the project and the speech of its media (media time, by number)."""
    spans = talk.speech_on_timeline(talk.key_clips(project), speech)
    found = tuple(talk.bridge(spans, project.settings))
    curves = {
        tag: dip_curve(found, project.settings, amount_db=amount)
        for tag, amount in pecking.amounts(project.settings).items()
    }
    return Plan(found, spans, curves)
