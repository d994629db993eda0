"""The settings of a project as one table: name, unit, default, limits, step, and one line of help."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

from jaylantern.errors import InvalidValue


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
         "How readily a moment counts as speech. More: quieter and more doubtful speech counts too."),
    Knob("amount_db", "Duck amount", "dB", -14, -60, 0, 0.5, (-30, 0),
         "How far the music goes down under speech."),
    Knob("attack_ms", "Attack", "ms", 350, 0, 5000, 10, (0, 1600),
         "Time the music takes to go down. It is down when the first word begins."),
    Knob("release_ms", "Release", "ms", 900, 0, 10000, 10, (0, 3000),
         "Time the music takes to come back."),
    Knob("lead_in_ms", "Lead-in", "ms", 120, -2000, 5000, 10, (-500, 1000),
         "How long before the first syllable the music is already down. Negative: later."),
    Knob("hold_ms", "Hold", "ms", 650, 0, 10000, 10, (0, 2000),
         "How long the music stays down after the last syllable."),
    Knob("least_rise_ms", "Least rise", "ms", 1000, 0, 20000, 10, (0, 4000),
         "The shortest stretch at full level worth coming up for; shorter ones are bridged."),
    Knob("ambience_db", "Ambience", "dB", -4, -60, 0, 0.5, (-30, 0),
         "How far ambience goes down under speech."),
    Knob("ceiling_dbtp", "Ceiling", "dBTP", -1, -12, 0, 0.1, (-6, 0),
         "The limiter keeps the true peak of the mix below this."),
)  # fmt: skip
KNOB = {knob.name: knob for knob in KNOBS}


def _default(name: str) -> Any:
    return field(default=KNOB[name].default)


@dataclass(frozen=True)
class Settings:
    """What the person can turn; every field is a row of `KNOBS`. Refuses values outside their limits."""

    sensitivity: float = _default("sensitivity")
    amount_db: float = _default("amount_db")
    attack_ms: float = _default("attack_ms")
    release_ms: float = _default("release_ms")
    lead_in_ms: float = _default("lead_in_ms")
    hold_ms: float = _default("hold_ms")
    least_rise_ms: float = _default("least_rise_ms")
    ambience_db: float = _default("ambience_db")
    ceiling_dbtp: float = _default("ceiling_dbtp")

    def __post_init__(self) -> None:
        for each in fields(self):
            object.__setattr__(self, each.name, KNOB[each.name].checked(getattr(self, each.name)))

    def changed(self, values: Mapping[str, float]) -> Settings:
        """A copy with some values changed. Raises InvalidValue for an unknown name or a bad value."""
        unknown = [name for name in values if name not in KNOB]
        if unknown:
            raise InvalidValue(f"There is no setting called {unknown[0]!r}.")
        return replace(self, **values)
