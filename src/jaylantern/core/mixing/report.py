"""A report of a finished film: what was aimed at, what it measures, its passages, what was set by hand."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from jaylantern.core.captions.comparing import Comparison
from jaylantern.core.ducking.check_up import Finding
from jaylantern.core.ducking.clearance import Parts, Standing
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.mixing.mix_metering import Level
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import STEP_N, to_lufs
from jaylantern.core.signal.timebase import n_to_seconds
from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import DuckBy, Mode

SILENT_LUFS = -70.0
MOST_PLACES = 20


@dataclass(frozen=True)
class Line:
    """One passage: when, how far the music goes down, how loud speech and music are in it (LUFS, ungated; None for
    silence), by how many LU speech stands clear, how well it is made out (0 to 1), whether it was corrected by hand."""

    start_s: float
    length_s: float
    dip_db: float
    speech_lufs: float | None
    music_lufs: float | None
    clear_lu: float | None
    sii: float
    by_hand: bool


def line(passage: Passage, parts: Parts, *, dip_db: float, clear_lu: float, sii: float) -> Line:
    """What is said of a passage."""
    span = slice(passage.start_n // STEP_N, -(-passage.stop_n // STEP_N))
    return Line(
        round(n_to_seconds(passage.start_n), 3),
        round(n_to_seconds(passage.stop_n - passage.start_n), 3),
        round(dip_db, 1),
        _mean_lufs(parts.speech[span]),
        _mean_lufs(parts.music[span]),
        round(clear_lu, 1) if math.isfinite(clear_lu) else None,
        round(sii, 2),
        passage.touched or not passage.own.empty,
    )


def _mean_lufs(power: Doubles) -> float | None:
    found = float(to_lufs(power.mean(keepdims=True))[0]) if len(power) else -math.inf
    return round(found, 1) if found > SILENT_LUFS else None


def by_hand(project: Project) -> dict[str, int]:
    """How much was set by hand, by what it is."""
    clips = [clip for lane in project.lanes for clip in lane.clips]
    found = {
        "corrections of speech": len(project.speech_pins),
        "dips with values of their own": len(project.dip_pins),
        "points of the curve": len(project.point_pins),
        "clips with a gain": sum(clip.gain_db != 0 for clip in clips),
        "clips with a gain line": sum(bool(clip.line) for clip in clips),
        "voices taken care of": sum(lane.care_of(clip) is not None for lane in project.lanes for clip in lane.clips),
        "frozen lanes": sum(lane.frozen for lane in project.lanes),
    }
    return {what: count for what, count in found.items() if count}


def document(
    project: Project,
    level: Level,
    lines: list[Line],
    findings: list[Finding],
    standing: Standing,
    captioned: Sequence[tuple[Captions, Comparison]] = (),
    *,
    tolerance_lu: float,
) -> dict[str, Any]:
    """The report as values fit for JSON. `captioned`: how captions agree with the talk."""
    settings, loudness = project.settings, level.loudness
    off = loudness.integrated_lufs - settings.target_lufs
    by = settings.duck_by if settings.mode is Mode.PASSAGE else None
    return {
        "project": project.name,
        "length_s": round(n_to_seconds(project.length_n), 3),
        "mode": str(settings.mode),
        "target": {"integrated_lufs": settings.target_lufs, "true_peak_dbtp": settings.ceiling_dbtp},
        "measured": {name: _figure(value) for name, value in asdict(loudness).items()},
        "off_lu": _figure(off),
        "on_target": abs(off) <= tolerance_lu and loudness.true_peak_dbtp <= settings.ceiling_dbtp + 0.05,
        "duck_amount_db": settings.amount_db if by is DuckBy.AMOUNT else None,
        "ducked_by_clearance": by is DuckBy.CLEARANCE,
        "passages": [asdict(each) for each in lines],
        "standing": {
            "speech_lufs": _figure(standing.speech_lufs),
            "whole_lufs": _figure(standing.whole_lufs),
            "loudness_to_dialogue_lu": _figure(standing.ratio_lu),
            "measured_in": MARKS[standing.clear_in].unit,
            "wish": standing.wish,
            "passages_under": standing.under,
            "least_clear": [place + 1 for place in standing.least],
        },
        "captions": [_compared(captions, found) for captions, found in captioned],
        "by_hand": by_hand(project),
        "warnings": [finding.text for finding in findings if not finding.fine],
        "limiter": [
            {"at_s": round(n_to_seconds(place.at_n), 2), "db": round(place.db, 1), "hard": place.hard}
            for place in level.places(MOST_PLACES)
        ],
    }


def _compared(captions: Captions, found: Comparison) -> dict[str, Any]:
    """How captions agree with the talk: stretches in seconds, and by how many they would have to be moved to fit."""
    return {
        "name": captions.name,
        "cues": len(captions.cues),
        "talk_without_s": _seconds(found.bare),
        "without_talk_s": _seconds(found.mute),
        "off_s": round(n_to_seconds(found.shift_n), 2),
    }


def _seconds(spans: Intervals) -> list[list[float]]:
    return [[round(n_to_seconds(start_n), 2), round(n_to_seconds(stop_n), 2)] for start_n, stop_n in spans.tolist()]


def _figure(value: float) -> float | None:
    return round(value, 2) if math.isfinite(value) else None


def polyline(
    time_n: np.ndarray, values: np.ndarray, *, length_n: int, low: float, high: float, width: int, height: int
) -> str:
    """Points of an SVG polyline over the whole film, `high` at the top and `low` at the bottom of the picture."""
    x = np.clip(time_n / max(1, length_n), 0, 1) * width
    y = (high - np.clip(values, low, high)) / (high - low) * height
    return " ".join(f"{a:.1f},{b:.1f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))
