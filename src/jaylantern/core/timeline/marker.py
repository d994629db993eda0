"""A marker: a named place on the timeline."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Marker:
    """A named place on the timeline."""

    id: int
    time_n: int
    name: str
