"""The flow, as a handful of functions. Read this first.

file ─ sound_chunks ─▶ Analysis ─ hear ─▶ VoiceTrack          once per medium, independent of any setting
project + speech ─ decide ─▶ Decided (plan, clearance, check-up, programme)      on every change
programme ─ render ─▶ samples ─▶ listen, meters, export                          any window, on demand
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import soxr

from jaylantern.core import checkup, clearance, intervals, mix
from jaylantern.core.analysis import Analysis
from jaylantern.core.arrays import mono
from jaylantern.core.clearance import MediaPower
from jaylantern.core.intervals import Intervals
from jaylantern.core.levels import level_db
from jaylantern.core.model import Project, Tag
from jaylantern.core.passages import Passage
from jaylantern.core.plan import Plan, make_plan
from jaylantern.core.speech import FRAME_N, VoiceTrack, find_speech
from jaylantern.core.timebase import RATE
from jaylantern.detect import silero
from jaylantern.detect.protocol import VoiceDetector

TARGET_DB = -23.0  # level the 90th percentile is brought to before the network hears it
LARGEST_BOOST_DB = 50.0


@dataclass(frozen=True, eq=False)
class MediaFacts:
    """What decisions need of one medium: its voice track (None while unheard) and its K-weighted powers."""

    track: VoiceTrack | None
    power: MediaPower


@dataclass(frozen=True)
class Decided:
    """All that follows from a project and its media's facts."""

    project: Project
    plan: Plan
    clear_lu: list[float]
    speech_lufs: float
    findings: list[checkup.Finding]

    @cached_property
    def programme(self) -> mix.Programme:
        """What rendering needs; worked out when something is first heard."""
        return mix.programme(self.project, self.plan)

    @property
    def talk_n(self) -> int:
        """Samples of timeline that lie in passages."""
        return sum(passage.stop_n - passage.start_n for passage in self.plan.passages)

    def dip_db(self, passage: Passage) -> float:
        """Gain of the music in the middle of a passage."""
        middle = np.array([(passage.start_n + passage.stop_n) // 2])
        return float(self.plan.curves[Tag.MUSIC].at(middle)[0])


def hear(
    chunks: Iterator[np.ndarray], analysis: Analysis, *, length_n: int, detector: VoiceDetector | None = None
) -> VoiceTrack:
    """Voice track of a medium from its sound in float32 chunks (n, channels) at 48 kHz."""
    levels = level_db(analysis.mean_square)
    loud = float(np.percentile(levels, 90)) if len(levels) else TARGET_DB
    gain = np.float32(10 ** (min(TARGET_DB - loud, LARGEST_BOOST_DB) / 20))
    detector = detector or silero.SileroDetector()
    found = [detector.probabilities(part) for part in _frames(chunks, gain)]
    wanted = -(-length_n // FRAME_N)
    probability = np.concatenate([*found, np.zeros(wanted, np.float32)])[:wanted]
    return VoiceTrack(probability, levels.astype(np.float32), length_n)


def _frames(chunks: Iterator[np.ndarray], gain: np.float32) -> Iterator[np.ndarray]:
    """16 kHz mono in stretches of whole 512-sample frames, the last filled up with silence."""
    stream = soxr.ResampleStream(RATE, silero.RATE, 1, dtype="float32", quality="HQ")
    rest = np.zeros(0, np.float32)
    for chunk in chunks:
        rest = np.concatenate((rest, stream.resample_chunk(mono(chunk) * gain)))
        whole = len(rest) // silero.FRAME_N * silero.FRAME_N
        yield rest[:whole]
        rest = rest[whole:]
    rest = np.concatenate((rest, stream.resample_chunk(np.zeros(0, np.float32), last=True)))
    yield np.pad(rest, (0, -len(rest) % silero.FRAME_N))


def speech_of(fact: MediaFacts, sensitivity: float) -> Intervals:
    """The speech of a medium in media time; none where it was not listened to."""
    return intervals.none() if fact.track is None else _speech_of(fact.track, sensitivity)


@lru_cache(maxsize=512)
def _speech_of(track: VoiceTrack, sensitivity: float) -> Intervals:
    return find_speech(track, sensitivity=sensitivity)


def decide(project: Project, facts: Mapping[int, MediaFacts]) -> Decided:
    """Speech → passages → duck plan → gain curves, and what they are worth. `facts` by media number."""
    keyed = {clip.media.id for lane, clip in project.sounding()}
    speech = {
        number: speech_of(fact, project.settings.sensitivity)
        for number, fact in facts.items()
        if fact.track is not None and number in keyed
    }
    plan = make_plan(project, speech)
    above, below = clearance.powers(project, plan, {number: fact.power for number, fact in facts.items()})
    clear = clearance.per_passage(plan, above, below)
    loud = clearance.speech_lufs(above)
    return Decided(project, plan, clear, loud, checkup.findings(project, plan, speech, clear, loud))
