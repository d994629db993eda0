"""A medium: a file that was brought in. Its sound is never in here."""

from __future__ import annotations

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import ID, LENGTH, Flag, Line


@noun
class Media:
    """A file brought in. `length_n` is the longer of its sound and picture, in samples at the project rate.

    One that is `missing` is a stand-in for a file that is not here: it has neither sound nor picture.
    """

    id: int = described(ID)
    sha256: str = described(Line(64))
    name: str = described(Line(200))
    length_n: int = described(LENGTH)
    has_sound: bool = described(Flag())
    has_picture: bool = described(Flag())
    missing: bool = described(Flag(), default=False)
