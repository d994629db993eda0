"""A marker: a named place on the timeline."""

from __future__ import annotations

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import ID, TIME, Line


@noun
class Marker:
    """A named place on the timeline."""

    id: int = described(ID)
    time_n: int = described(TIME)
    name: str = described(Line(80))
