"""A medium: a file that was brought in. Its sound is never in here."""

from __future__ import annotations

from jaylantern.core.timeline.described import described, noun
from jaylantern.core.timeline.kinds import ID, LENGTH, Flag, Line, Maybe
from jaylantern.core.timeline.tailoring import Tailoring, TailoringKind


@noun
class Media:
    """A file brought in. `length_n` is the longer of its sound and picture, in samples at the project rate.

    Tailored music is made of pieces of another medium. One that is `missing` is a stand-in for a file that is not here:
    it has neither sound nor picture.
    """

    id: int = described(ID)
    sha256: str = described(Line(64))
    name: str = described(Line(200))
    length_n: int = described(LENGTH)
    has_sound: bool = described(Flag())
    has_picture: bool = described(Flag())
    missing: bool = described(Flag(), default=False)
    tailored: Tailoring | None = described(Maybe(TailoringKind()), default=None)
