"""A medium: a file that was brought in. Its sound is never in here."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Media:
    """A file brought in. `length_n` is the longer of its sound and picture, in samples at the project rate.

    One that is `missing` is a stand-in for a file that is not here: it has neither sound nor picture.
    """

    id: int
    sha256: str
    name: str
    length_n: int
    has_sound: bool
    has_picture: bool
    missing: bool = False
