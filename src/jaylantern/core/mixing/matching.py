"""Matching levels: by how much clips must go up or down to measure what is wanted, said before anything is changed."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.loudness import integrated_lufs
from jaylantern.core.signal.timebase import amplitude_to_db
from jaylantern.core.timeline.clip import GAIN_LIMITS_DB, Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue

THERE_DB = 0.05  # who is so near is there
SOFT_LU = 3.0  # speech so far under its target is too soft


class By(StrEnum):
    """What is matched."""

    LOUDNESS = "loudness"  # integrated, LUFS
    TRUE_PEAK = "true_peak"  # dBTP
    SAMPLE_PEAK = "sample_peak"  # dBFS


@dataclass(frozen=True)
class Loud:
    """How loud one clip is by itself, with its lane's and its own gain: K-weighted power per 100 ms (steps,)."""

    clip_id: int
    gain_db: float
    power: Doubles

    @property
    def lufs(self) -> float:
        """Its integrated loudness; −∞ where there is nothing to measure."""
        return integrated_lufs(self.power)


@dataclass(frozen=True)
class Level(Loud):
    """The same with its largest sample and its true peak, as amplitudes."""

    sample_peak: float
    true_peak: float

    def measure(self, by: By) -> float:
        """Its loudness or peak; −∞ where there is nothing to measure."""
        if by is By.LOUDNESS:
            return self.lufs
        return amplitude_to_db(self.true_peak if by is By.TRUE_PEAK else self.sample_peak)


@dataclass(frozen=True)
class Match:
    """What would become of a clip: measured now and then, its gain then, by how much that differs, its true peak then.

    `word` says why it stays as it is, or less than was asked, if so.
    """

    clip_id: int
    now: float
    then: float
    gain_db: float
    change_db: float
    true_peak_dbtp: float
    over: bool
    word: str = ""


def match(
    levels: Sequence[Level], *, target: float, by: By, each: bool, ceiling_dbtp: float, keep_under: bool = False
) -> list[Match]:
    """Every clip to the target by itself, or all by one amount so that their differences stay.

    By one amount, loudness is that of all clips one after another, and a peak that of the loudest. With `keep_under`
    no clip goes up so far that its true peak passes the ceiling. Raises InvalidValue for a target that is no level.
    """
    if not -100.0 <= target <= 0.0:
        raise InvalidValue(f"A target lies between −100 and 0; {target:g} does not.")
    together = _together(levels, by)
    return [
        _matched(level, target - (level.measure(by) if each else together), by, ceiling_dbtp, keep_under)
        for level in levels
    ]


def shift(levels: Sequence[Level], change_db: float, *, by: By, ceiling_dbtp: float) -> list[Match]:
    """Every clip up or down by so much."""
    return [_matched(level, change_db, by, ceiling_dbtp, False) for level in levels]


def _together(levels: Sequence[Level], by: By) -> float:
    if by is By.LOUDNESS:
        return integrated_lufs(np.concatenate([np.zeros(0), *(level.power for level in levels)]))
    return max((level.measure(by) for level in levels), default=-math.inf)


def _matched(level: Level, change_db: float, by: By, ceiling_dbtp: float, keep_under: bool) -> Match:
    now, peak = level.measure(by), amplitude_to_db(level.true_peak)
    word = ""
    if not math.isfinite(change_db):
        change_db, word = 0.0, "nothing to measure" if by is not By.LOUDNESS else "too short or too quiet to measure"
    if keep_under and change_db > 0 and peak + change_db > ceiling_dbtp:
        change_db, word = max(0.0, ceiling_dbtp - peak), "as far as the ceiling lets it"
    low, high = (limit - level.gain_db for limit in GAIN_LIMITS_DB)
    if not low <= change_db <= high:
        change_db, word = min(max(change_db, low), high), "as far as a clip's gain goes"
    change_db = round(change_db, 2) if abs(change_db) >= THERE_DB else 0.0
    then = peak + change_db
    gain_db = round(level.gain_db + change_db, 2)
    return Match(level.clip_id, now, now + change_db, gain_db, change_db, then, then > ceiling_dbtp + 0.005, word)


def too_soft(levels: Sequence[Loud], *, target_lufs: float) -> list[Loud]:
    """Clips of speech that lie more than 3 LU under the target and that nobody has raised by hand."""
    return [level for level in levels if level.gain_db == 0.0 and -math.inf < level.lufs < target_lufs - SOFT_LU]


class Subject(StrEnum):
    """What is to be matched."""

    DIALOGUE = "dialogue"  # every clip of talk
    MUSIC = "music"
    CHOSEN = "chosen"
    SOFT = "soft"  # talk that is too soft
    MIX = "mix"  # all clips, by what the finished mix is off


class Way(StrEnum):
    """How clips are matched."""

    EACH = "each"  # each by itself
    ALL = "all"  # all by one amount


def subjects(
    project: Project, subject: Subject, clip_ids: Collection[int], loud: Callable[[], Iterable[Loud]]
) -> list[tuple[Lane, Clip]]:
    """The sounding clips that are meant, each with its lane; `loud` answers how loud each clip is."""
    sounding = list(project.sounding())
    match subject:
        case Subject.MIX:
            return sounding
        case Subject.CHOSEN:
            return [(lane, clip) for lane, clip in sounding if clip.id in clip_ids]
        case Subject.MUSIC:
            return [(lane, clip) for lane, clip in sounding if lane.tag_of(clip) is Tag.MUSIC]
    talk = [(lane, clip) for lane, clip in sounding if lane.tag_of(clip).speaks]
    if subject is Subject.DIALOGUE:
        return talk
    numbers = {clip.id for _, clip in talk}
    soft = too_soft([each for each in loud() if each.clip_id in numbers], target_lufs=project.settings.target_lufs)
    wanted = {each.clip_id for each in soft}
    return [(lane, clip) for lane, clip in talk if clip.id in wanted]
