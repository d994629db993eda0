"""The settings of a project: the fields of one class, each with label, unit, default, limits, step and a line of help.

`KNOBS` are the figures among them, `OPTIONS` the choices between words; both are read off the fields.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from enum import StrEnum
from typing import Any

from jaylantern.core.timeline.kinds import refused
from jaylantern.errors import InvalidValue


class Mode(StrEnum):
    """How the music is made to give way."""

    PASSAGE = "passage"  # drawn dips under passages
    COMPRESSOR = "compressor"  # sidechain compression
    EVEN = "even"  # no ducking: one level throughout


class DuckBy(StrEnum):
    """What says how deep a dip is."""

    AMOUNT = "amount"  # so many dB under every passage
    CLEARANCE = "clearance"  # as far as it takes for speech to stand so many LU above everything else


class ClearIn(StrEnum):
    """What clearance is measured in."""

    LOUDNESS = "loudness"  # LU above everything else
    INTELLIGIBILITY = "intelligibility"  # the Speech Intelligibility Index, 0 to 1


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
            raise refused(self.label, value, f"one of {', '.join(self.kind)}", "Choose one of them.") from None


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
    help: str
    slide: tuple[float, float]  # what a slider covers; a typed value may go to the limits
    was: str = ""  # what it was called in older versions

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
        except (TypeError, ValueError, OverflowError):
            number = math.nan
        if not self.low <= number <= self.high:
            limit = f"between {self.low:g} and {self.high:g} {self.unit}".rstrip()
            raise refused(self.label, value, limit, "Choose a value in between.")
        return number


class Refit(StrEnum):
    """When tailored music is fitted anew whose end follows something that has moved."""

    BY_HAND = "by hand"
    ITSELF = "by itself"


class RiseOn(StrEnum):
    """Where the music is back at its level."""

    ANYWHERE = "anywhere"
    BEAT = "beat"
    BAR = "bar"


RAMP_WORDS = {Ramp.DB: "straight in dB", Ramp.AMPLITUDE: "straight in amplitude", Ramp.EASED: "eased"}


def knob(
    label: str,
    unit: str,
    default: float,
    limits: tuple[float, float],
    step: float,
    help: str,
    *,
    slide: tuple[float, float] | None = None,
    was: str = "",
) -> Any:
    """A field that is a figure."""

    def _named(name: str) -> Knob:
        return Knob(name, label, unit, default, *limits, step, help, slide or limits, was)

    return field(default=default, metadata={"named": _named})


def option(label: str, default: StrEnum, words: Mapping[Any, str], help: str) -> Any:
    """A field that is a choice between words."""
    return field(
        default=default, metadata={"named": lambda name: Option(name, label, type(default), default, words, help)}
    )


@dataclass(frozen=True)
class Settings:
    """What the person can turn. Refuses values outside their limits."""

    # fmt: off
    sensitivity: float = knob("Sensitivity", "", 50, (0, 100), 1,
        "How readily a moment counts as speech. More: quieter and more doubtful speech counts too. Bridges no pause.")
    amount_db: float = knob("Duck amount", "dB", -14, (-60, 0), 0.5,
        "How far the music goes down under speech.", slide=(-30, 0))
    wish_lu: float = knob("Clearance", "LU", 10, (0, 40), 0.5,
        "By how much speech is to stand above everything else. Each dip goes as deep as that takes.", slide=(0, 24))
    wish_sii: float = knob("Intelligibility", "SII", 0.75, (0, 0.99), 0.01,
        "How well speech is to be made out, 0 to 1. Good from 0.75 on. Each dip goes as deep as that takes.",
        slide=(0.3, 0.95))
    deepest_db: float = knob("Deepest dip", "dB", -24, (-60, 0), 0.5,
        "No dip goes deeper than this, whatever is wished for.", slide=(-40, 0))
    slightest_db: float = knob("Slightest dip", "dB", 0, (-60, 0), 0.5,
        "Every dip goes at least as deep as this, also where speech stands clear without it.", slide=(-20, 0))
    step_db: float = knob("Largest step", "dB", 6, (0, 60), 0.5,
        "From one dip to the next within ten seconds the depth changes by no more; the slighter one goes deeper.",
        slide=(0, 24))
    follow_s: float = knob("Follow", "s", 0, (0, 60), 1,
        "Long passages are followed in stretches of about so many seconds, by 3 dB a second. 0: one depth each.",
        slide=(0, 30))
    attack_ms: float = knob("Attack", "ms", 350, (0, 5000), 10,
        "Time the music takes to go down. It is down when the first word begins.", slide=(0, 1600))
    release_ms: float = knob("Release", "ms", 900, (0, 10000), 10,
        "Time the music takes to come back.", slide=(0, 3000))
    last_release_ms: float = knob("Last release", "ms", 1800, (0, 20000), 10,
        "Time it takes to come back after the last word over a piece of music.", slide=(0, 5000))
    lead_in_ms: float = knob("Lead-in", "ms", 120, (-2000, 5000), 10,
        "How long before the first syllable the music is already down. Negative: later.", slide=(-500, 1000))
    hold_ms: float = knob("Hold", "ms", 650, (0, 10000), 10,
        "How long the music stays down after the last syllable.", slide=(0, 2000))
    least_rise_ms: float = knob("Least rise", "ms", 1000, (0, 20000), 10,
        "The shortest stretch at full level worth coming up for; shorter ones are bridged.", slide=(0, 4000))
    atmosphere_db: float = knob("Atmosphere", "dB", -4, (-60, 0), 0.5,
        "How far atmosphere goes down under speech.", slide=(-30, 0), was="ambience_db")
    even_db: float = knob("Even bed", "dB", -12, (-60, 0), 0.5,
        "Where music and atmosphere lie throughout, without any ducking.", slide=(-30, 0))
    hysteresis_db: float = knob("Hysteresis", "dB", 6, (0, 40), 0.5,
        "How far under its threshold a level has to fall before it counts as over. For the trigger level.",
        slide=(0, 20))
    level_hold_ms: float = knob("Level hold", "ms", 250, (0, 10000), 10,
        "How long a sound counts on after its level has fallen. For the trigger level.", slide=(0, 2000))
    threshold_db: float = knob("Threshold", "dBFS", -30, (-80, 0), 0.5,
        "From which level of the key on the music is turned down.", slide=(-60, 0))
    ratio: float = knob("Ratio", ":1", 4, (1, 100), 0.1,
        "So many dB more of the key let the music rise by only one against it.", slide=(1, 20))
    knee_db: float = knob("Knee", "dB", 6, (0, 40), 0.5,
        "How gradually it sets in around the threshold.", slide=(0, 24))
    comp_attack_ms: float = knob("Attack", "ms", 15, (0, 1000), 1,
        "Time constant of going down.", slide=(0, 200))
    comp_hold_ms: float = knob("Hold", "ms", 1000, (0, 10000), 10,
        "How long the deepest reduction is kept before it is let go.", slide=(0, 3000))
    comp_release_ms: float = knob("Release", "ms", 450, (0, 10000), 10,
        "Time constant of coming back.", slide=(0, 3000))
    look_ahead_ms: float = knob("Look-ahead", "ms", 30, (0, 1000), 1,
        "How long before the key the music begins to go down.", slide=(0, 200))
    range_db: float = knob("Range", "dB", -24, (-60, 0), 0.5,
        "The music goes down by no more than this.", slide=(-40, 0))
    output_db: float = knob("Output gain", "dB", 0, (-24, 24), 0.5,
        "Added to the music throughout. Two or three dB are plenty.", slide=(-12, 12))
    band_low_hz: float = knob("From", "Hz", 250, (40, 4000), 10,
        "Lower edge of the band that gives way.", slide=(40, 1000))
    band_high_hz: float = knob("To", "Hz", 4000, (500, 20000), 50,
        "Upper edge of the band that gives way.", slide=(1000, 12000))
    thin_db: float = knob("Largest error", "dB", 0.5, (0.01, 12), 0.05,
        "How far fewer points may stray from the curve.", slide=(0.05, 3))
    thin_ms: float = knob("Least distance", "ms", 100, (1, 5000), 10,
        "No two points come closer than this, unless that were more than the largest error.", slide=(1, 1000))
    ceiling_dbtp: float = knob("Ceiling", "dBTP", -1, (-12, 0), 0.1,
        "The limiter keeps the true peak of the mix below this.", slide=(-6, 0))
    limiter_release_ms: float = knob("Release", "ms", 100, (10, 500), 5,
        "Time the limiter takes to let go after a peak. Longer is smoother and quieter.")
    even_out_db: float = knob("Even out", "dB", 0, (0, 12), 0.5,
        "By how much the leveller may raise or lower a narrator who drifts. 0 leaves speech as it is.")
    even_out_s: float = knob("Over", "s", 8, (2, 60), 1,
        "Over how many seconds the leveller listens. Longer is gentler.", slide=(2, 30))
    target_lufs: float = knob("Target", "LUFS", -23, (-40, -5), 0.5,
        "How loud the finished mix should be, measured over all of it.", slide=(-30, -10))
    mode: Mode = option("Mode", Mode.PASSAGE,
        {Mode.PASSAGE: "Passages", Mode.COMPRESSOR: "Compressor", Mode.EVEN: "Even bed"},
        "How the music is made to give way.")
    duck_by: DuckBy = option("Duck by", DuckBy.AMOUNT,
        {DuckBy.AMOUNT: "Amount", DuckBy.CLEARANCE: "Clearance"},
        "Whether every dip is as deep as the duck amount, or as deep as it takes for speech to stand clear.")
    clear_in: ClearIn = option("Measured in", ClearIn.LOUDNESS,
        {ClearIn.LOUDNESS: "LU", ClearIn.INTELLIGIBILITY: "SII"},
        "Whether clearance is LU above everything else, or how well an ear makes speech out (SII, 0 to 1).")
    fall: Ramp = option("Way down", Ramp.DB, RAMP_WORDS, "The course of the gain on the way down.")
    rise: Ramp = option("Way up", Ramp.DB, RAMP_WORDS, "The course of the gain on the way up.")
    start_hour: float = knob("First hour", "h", 1, (0, 23), 1,
        "Where the timecode of lists and timelines that are handed off begins: 1 is 01:00:00:00.")
    rise_on: RiseOn = option("Back on", RiseOn.ANYWHERE,
        {RiseOn.ANYWHERE: "no beat", RiseOn.BEAT: "a beat", RiseOn.BAR: "a bar"},
        "Whether the music is back at its level on a beat or bar of its own, within what hold and release allow.")
    refit: Refit = option("Fit anew", Refit.BY_HAND, {Refit.BY_HAND: "by hand", Refit.ITSELF: "by itself"},
        "Whether tailored music follows by itself when what it lasts until has moved.")
    detector: Detector = option("Detector", Detector.RMS, {Detector.RMS: "RMS", Detector.PEAK: "peak"},
        "What is called the level of the key: its power over 10 ms, or its largest sample.")
    band: Band = option("Gives way", Band.WHOLE,
        {Band.WHOLE: "the whole sound", Band.SPEECH: "the speech band only"},
        "Whether all of the music goes down, or only the band in which speech lives.")
    # fmt: on

    def __post_init__(self) -> None:
        for each in fields(self):
            object.__setattr__(self, each.name, NAMED[each.name].checked(getattr(self, each.name)))
        self._check_band()

    def _check_band(self) -> None:
        if self.band_high_hz < 1.5 * self.band_low_hz:
            raise InvalidValue(
                f"The band that gives way must reach at least half an octave up: from {self.band_low_hz:g} Hz to "
                f"{1.5 * self.band_low_hz:g} Hz or higher; {self.band_high_hz:g} Hz is too near."
            )

    @property
    def wish(self) -> float:
        """How clear speech is to stand, in what clearance is measured in."""
        return self.wish_sii if self.clear_in is ClearIn.INTELLIGIBILITY else self.wish_lu

    def changed(self, values: Mapping[str, Any]) -> Settings:
        """A copy with some values changed. Raises InvalidValue for an unknown name or a bad value."""
        values = {WAS.get(name, name): value for name, value in values.items()}
        unknown = [name for name in values if name not in NAMED]
        if unknown:
            raise InvalidValue(f"There is no setting called {str(unknown[0])[:40]!r}.")
        made = object.__new__(Settings)  # what is not changed has been checked: a map asks for thousands of these
        made.__dict__.update({name: self.__dict__[name] for name in NAMED})
        made.__dict__.update({name: NAMED[name].checked(value) for name, value in values.items()})
        made._check_band()
        return made


NAMED: dict[str, Knob | Option] = {each.name: each.metadata["named"](each.name) for each in fields(Settings)}
KNOBS = tuple(each for each in NAMED.values() if isinstance(each, Knob))
KNOB = {knob.name: knob for knob in KNOBS}
OPTIONS = tuple(each for each in NAMED.values() if isinstance(each, Option))
OPTION = {option.name: option for option in OPTIONS}
WAS = {knob.was: knob.name for knob in KNOBS if knob.was}  # names of older versions
SHAPING = (
    "amount_db",
    "wish_lu",
    "wish_sii",
    "attack_ms",
    "release_ms",
    "lead_in_ms",
    "hold_ms",
    "fall",
    "rise",
)  # a dip's own


def setting_words(name: str, value: Any) -> str:
    """A setting with its value, in words."""
    if name in OPTION:
        return f"{OPTION[name].label}: {value_words(name, value)}"
    return f"{KNOB[name].label} {value_words(name, value)}"


def value_words(name: str, value: Any) -> str:
    """The value of a setting alone, with its unit, in words."""
    return OPTION[name].words[value] if name in OPTION else f"{value:g} {KNOB[name].unit}".strip()
