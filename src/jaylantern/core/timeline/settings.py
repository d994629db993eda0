"""The settings of a project as one table: name, unit, default, limits, step, and one line of help.

`KNOBS` are figures, `OPTIONS` are choices between words.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from enum import StrEnum
from typing import Any

from jaylantern.errors import InvalidValue


class Mode(StrEnum):
    """How the music is made to give way."""

    PASSAGE = "passage"  # drawn dips under passages
    COMPRESSOR = "compressor"  # sidechain compression
    EVEN = "even"  # no ducking: one level throughout


class Ramp(StrEnum):
    """The course of the gain between two points."""

    DB = "decibel"  # straight in dB
    AMPLITUDE = "amplitude"  # straight in amplitude
    EASED = "eased"  # in dB, soft at both ends


class Detector(StrEnum):
    """What the compressor calls the level of its key."""

    PEAK = "peak"
    RMS = "rms"


class Band(StrEnum):
    """Which part of the music's sound gives way."""

    WHOLE = "whole"
    SPEECH = "speech"  # only the band in which speech lives


@dataclass(frozen=True)
class Option:
    """One setting that is a choice: what it is called, the words to choose from, and what it does in one line."""

    name: str
    label: str
    kind: type[StrEnum]
    default: StrEnum
    words: Mapping[Any, str]
    help: str

    def checked(self, value: object) -> StrEnum:
        """The choice by its value. Raises InvalidValue for anything else."""
        try:
            return self.kind(str(value))
        except ValueError:
            raise InvalidValue(f"{self.label} is one of {', '.join(self.kind)}; {str(value)[:40]!r} is not.") from None


@dataclass(frozen=True)
class Knob:
    """One setting: what it is called, its unit, limits and step, and what it does in one line."""

    name: str
    label: str
    unit: str
    default: float
    low: float
    high: float
    step: float
    slide: tuple[float, float]  # what a slider covers; a typed value may go to the limits
    help: str

    @property
    def slide_low(self) -> float:
        """Where the slider begins."""
        return self.slide[0]

    @property
    def slide_high(self) -> float:
        """Where the slider ends."""
        return self.slide[1]

    def checked(self, value: float) -> float:
        """The value as a float within the limits.

        Raises InvalidValue for anything that is not a finite number between `low` and `high`.
        """
        try:
            number = float(value)
        except (TypeError, ValueError):
            number = math.nan
        if not self.low <= number <= self.high:
            raise InvalidValue(
                f"{self.label} must be between {self.low:g} and {self.high:g} {self.unit}".rstrip()
                + f"; {str(value)[:40]!r} is not."
            )
        return number


KNOBS: tuple[Knob, ...] = (
    Knob("sensitivity", "Sensitivity", "", 50, 0, 100, 1, (0, 100),
         "How readily a moment counts as speech. More: quieter and more doubtful speech counts too. Bridges no pause."),
    Knob("amount_db", "Duck amount", "dB", -14, -60, 0, 0.5, (-30, 0),
         "How far the music goes down under speech."),
    Knob("attack_ms", "Attack", "ms", 350, 0, 5000, 10, (0, 1600),
         "Time the music takes to go down. It is down when the first word begins."),
    Knob("release_ms", "Release", "ms", 900, 0, 10000, 10, (0, 3000),
         "Time the music takes to come back."),
    Knob("last_release_ms", "Last release", "ms", 1800, 0, 20000, 10, (0, 5000),
         "Time it takes to come back after the last word over a piece of music."),
    Knob("lead_in_ms", "Lead-in", "ms", 120, -2000, 5000, 10, (-500, 1000),
         "How long before the first syllable the music is already down. Negative: later."),
    Knob("hold_ms", "Hold", "ms", 650, 0, 10000, 10, (0, 2000),
         "How long the music stays down after the last syllable."),
    Knob("least_rise_ms", "Least rise", "ms", 1000, 0, 20000, 10, (0, 4000),
         "The shortest stretch at full level worth coming up for; shorter ones are bridged."),
    Knob("ambience_db", "Ambience", "dB", -4, -60, 0, 0.5, (-30, 0),
         "How far ambience goes down under speech."),
    Knob("even_db", "Even bed", "dB", -12, -60, 0, 0.5, (-30, 0),
         "Where music and ambience lie throughout, without any ducking."),
    Knob("hysteresis_db", "Hysteresis", "dB", 6, 0, 40, 0.5, (0, 20),
         "How far under its threshold a level has to fall before it counts as over. For the trigger level."),
    Knob("level_hold_ms", "Level hold", "ms", 250, 0, 10000, 10, (0, 2000),
         "How long a sound counts on after its level has fallen. For the trigger level."),
    Knob("threshold_db", "Threshold", "dBFS", -30, -80, 0, 0.5, (-60, 0),
         "From which level of the key on the music is turned down."),
    Knob("ratio", "Ratio", ":1", 4, 1, 100, 0.1, (1, 20),
         "So many dB more of the key let the music rise by only one against it."),
    Knob("knee_db", "Knee", "dB", 6, 0, 40, 0.5, (0, 24),
         "How gradually it sets in around the threshold."),
    Knob("comp_attack_ms", "Attack", "ms", 15, 0, 1000, 1, (0, 200),
         "Time constant of going down."),
    Knob("comp_hold_ms", "Hold", "ms", 1000, 0, 10000, 10, (0, 3000),
         "How long the deepest reduction is kept before it is let go."),
    Knob("comp_release_ms", "Release", "ms", 450, 0, 10000, 10, (0, 3000),
         "Time constant of coming back."),
    Knob("look_ahead_ms", "Look-ahead", "ms", 30, 0, 1000, 1, (0, 200),
         "How long before the key the music begins to go down."),
    Knob("range_db", "Range", "dB", -24, -60, 0, 0.5, (-40, 0),
         "The music goes down by no more than this."),
    Knob("output_db", "Output gain", "dB", 0, -24, 24, 0.5, (-12, 12),
         "Added to the music throughout. Two or three dB are plenty."),
    Knob("band_low_hz", "From", "Hz", 250, 40, 4000, 10, (40, 1000),
         "Lower edge of the band that gives way."),
    Knob("band_high_hz", "To", "Hz", 4000, 500, 20000, 50, (1000, 12000),
         "Upper edge of the band that gives way."),
    Knob("thin_db", "Largest error", "dB", 0.5, 0.01, 12, 0.05, (0.05, 3),
         "How far fewer points may stray from the curve."),
    Knob("thin_ms", "Least distance", "ms", 100, 1, 5000, 10, (1, 1000),
         "No two points come closer than this."),
    Knob("ceiling_dbtp", "Ceiling", "dBTP", -1, -12, 0, 0.1, (-6, 0),
         "The limiter keeps the true peak of the mix below this."),
    Knob("limiter_release_ms", "Release", "ms", 100, 10, 500, 5, (10, 500),
         "Time the limiter takes to let go after a peak. Longer is smoother and quieter."),
    Knob("even_out_db", "Even out", "dB", 0, 0, 12, 0.5, (0, 12),
         "By how much the leveller may raise or lower a narrator who drifts. 0 leaves speech as it is."),
    Knob("even_out_s", "Over", "s", 8, 2, 60, 1, (2, 30),
         "Over how many seconds the leveller listens. Longer is gentler."),
    Knob("target_lufs", "Target", "LUFS", -23, -40, -5, 0.5, (-30, -10),
         "How loud the finished mix should be, measured over all of it."),
)  # fmt: skip
KNOB = {knob.name: knob for knob in KNOBS}
RAMP_WORDS = {Ramp.DB: "straight in dB", Ramp.AMPLITUDE: "straight in amplitude", Ramp.EASED: "eased"}
OPTIONS: tuple[Option, ...] = (
    Option("mode", "Mode", Mode, Mode.PASSAGE,
           {Mode.PASSAGE: "Passages", Mode.COMPRESSOR: "Compressor", Mode.EVEN: "Even bed"},
           "How the music is made to give way."),
    Option("fall", "Way down", Ramp, Ramp.DB, RAMP_WORDS, "The course of the gain on the way down."),
    Option("rise", "Way up", Ramp, Ramp.DB, RAMP_WORDS, "The course of the gain on the way up."),
    Option("detector", "Detector", Detector, Detector.RMS, {Detector.RMS: "RMS", Detector.PEAK: "peak"},
           "What is called the level of the key: its power over 10 ms, or its largest sample."),
    Option("band", "Gives way", Band, Band.WHOLE, {Band.WHOLE: "the whole sound", Band.SPEECH: "the speech band only"},
           "Whether all of the music goes down, or only the band in which speech lives."),
)  # fmt: skip
OPTION = {option.name: option for option in OPTIONS}
NAMED: dict[str, Knob | Option] = {**KNOB, **OPTION}
SHAPING = (
    "amount_db",
    "attack_ms",
    "release_ms",
    "lead_in_ms",
    "hold_ms",
    "fall",
    "rise",
)  # a dip's own


def _default(name: str) -> Any:
    return field(default=NAMED[name].default)


@dataclass(frozen=True)
class Settings:
    """What the person can turn; every field is a row of `KNOBS` or `OPTIONS`. Refuses values outside their limits."""

    sensitivity: float = _default("sensitivity")
    amount_db: float = _default("amount_db")
    attack_ms: float = _default("attack_ms")
    release_ms: float = _default("release_ms")
    lead_in_ms: float = _default("lead_in_ms")
    hold_ms: float = _default("hold_ms")
    least_rise_ms: float = _default("least_rise_ms")
    ambience_db: float = _default("ambience_db")
    ceiling_dbtp: float = _default("ceiling_dbtp")
    limiter_release_ms: float = _default("limiter_release_ms")
    target_lufs: float = _default("target_lufs")
    even_out_db: float = _default("even_out_db")
    even_out_s: float = _default("even_out_s")
    last_release_ms: float = _default("last_release_ms")
    even_db: float = _default("even_db")
    hysteresis_db: float = _default("hysteresis_db")
    level_hold_ms: float = _default("level_hold_ms")
    threshold_db: float = _default("threshold_db")
    ratio: float = _default("ratio")
    knee_db: float = _default("knee_db")
    comp_attack_ms: float = _default("comp_attack_ms")
    comp_hold_ms: float = _default("comp_hold_ms")
    comp_release_ms: float = _default("comp_release_ms")
    look_ahead_ms: float = _default("look_ahead_ms")
    range_db: float = _default("range_db")
    output_db: float = _default("output_db")
    band_low_hz: float = _default("band_low_hz")
    band_high_hz: float = _default("band_high_hz")
    thin_db: float = _default("thin_db")
    thin_ms: float = _default("thin_ms")
    mode: Mode = _default("mode")  # noqa: RUF009
    fall: Ramp = _default("fall")  # noqa: RUF009
    rise: Ramp = _default("rise")  # noqa: RUF009
    detector: Detector = _default("detector")  # noqa: RUF009
    band: Band = _default("band")  # noqa: RUF009

    def __post_init__(self) -> None:
        for each in fields(self):
            object.__setattr__(self, each.name, NAMED[each.name].checked(getattr(self, each.name)))
        if self.band_high_hz < 1.5 * self.band_low_hz:
            raise InvalidValue(
                f"The band that gives way must reach at least half an octave up: from {self.band_low_hz:g} Hz to "
                f"{1.5 * self.band_low_hz:g} Hz or higher; {self.band_high_hz:g} Hz is too near."
            )

    def changed(self, values: Mapping[str, Any]) -> Settings:
        """A copy with some values changed. Raises InvalidValue for an unknown name or a bad value."""
        unknown = [name for name in values if name not in NAMED]
        if unknown:
            raise InvalidValue(f"There is no setting called {str(unknown[0])[:40]!r}.")
        return replace(self, **values)
