"""A long project with everything known about its media, for measuring how quickly decisions follow a change."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise, product

import numpy as np

from jaylantern.core.ducking import tuning
from jaylantern.core.ducking.media_power import MediaPower
from jaylantern.core.edit import captions
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.timeline.captions import CaptionForm
from jaylantern.core.timeline.clip import Clip, Trigger
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.core.timeline.tag import Tag
from jaylantern.pipeline import DuckingResult, MediaFacts, decide
from jaylantern.workspace.memo import Memo as Kept


def project_of(passages: int, minutes: int) -> tuple[Project, Mapping[int, MediaFacts]]:
    """One narration and one bed of so many minutes, with so many separate stretches of talk."""
    length_n = minutes * 60 * RATE
    talk, bed = (Media(i, "", name, length_n, True, False) for i, name in ((1, "talk"), (2, "bed")))
    lanes = tuple(
        Lane(m.id, m.name, LaneKind.SOUND, tag, clips=(Clip(m.id, m.name, m, 0, 0, length_n),))
        for m, tag in ((talk, Tag.DIALOGUE), (bed, Tag.MUSIC))
    )
    frames, step = length_n // HOP_N, length_n // HOP_N // passages
    probability = np.where(np.arange(frames) % step < step // 3, 0.97, 0.02).astype(np.float32)
    level = np.where(probability > 0.5, -20, -70).astype(np.float32)
    power = MediaPower(np.full((length_n // STEP_N, 1), 1e-3))
    facts = {
        1: MediaFacts(VoiceTrack(probability, level, length_n), power),
        2: MediaFacts(VoiceTrack(np.zeros(frames, np.float32), level, length_n), power),
    }
    return Project(1, "workspace", lanes=lanes), facts


def decide_once(project: Project, facts: Mapping[int, MediaFacts], k: int, memo: Memo = anew) -> DuckingResult:
    """All that follows from the project with the attack a little different."""
    settings = project.settings.changed({"attack_ms": 300 + k})
    return decide(replace(project, revision=k, settings=settings), facts, memo)


def captioned(project: Project, facts: Mapping[int, MediaFacts], each: int) -> Project:
    """The same with so many captions under each passage, by which its talk counts: the same passages."""
    spans = []
    for passage in decide(project, facts).plan.passages:
        edges = np.linspace(passage.start_n, passage.stop_n, each + 1).astype(int).tolist()
        spans += [(a, b, "What is said", "") for a, b in pairwise(edges)]
    made = captions.add(project, iter((999,)).__next__, name="talk.srt", form=CaptionForm.SRT, cues=spans)
    lanes = tuple(replace(lane, trigger=Trigger.CAPTIONS) if lane.tag.speaks else lane for lane in made.lanes)
    return replace(made, lanes=lanes)


def tuning_map(project: Project, facts: Mapping[int, MediaFacts]) -> tuple[float, float]:
    """Seconds for every fourth place of a map of sensitivity and hold along both, and for all of its 24 × 24."""
    names = ("sensitivity", "hold_ms")
    x, y = (tuning.values(KNOB[name], 24) for name in names)
    taken = []
    for places in (slice(2, None, 4), slice(None)):
        opened = decide(project, facts, kept := Kept())  # as the page has it, when a map is asked for
        tuning.figures(opened.plan, opened.clear)
        began = time.perf_counter()
        for at in product(x[places], y[places]):
            tuned = replace(project, settings=tuning.at(project.settings, names, at))
            result = decide(tuned, facts, kept)
            tuning.figures(result.plan, result.clear)
        taken.append(time.perf_counter() - began)
    return taken[0], taken[1]
