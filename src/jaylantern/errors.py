"""The one tree of errors a person can be shown.

JayError                 anything said to the person: what happened, to what, the remedy
├── InvalidValue         a value outside its limits or of the wrong kind
├── NotFound             a project, lane, clip, media or job that is not there
├── MediaError           a file that cannot be read, or holds nothing to use
│   └── Damaged          what is kept of a medium in the data folder is damaged or gone
├── Refused              an edit or an export that cannot be done as asked
│   └── Stale            an edit of a project that was changed elsewhere since the person looked
└── Stopped              long work the person stopped
"""

from __future__ import annotations


class JayError(Exception):
    """Something the person is told in one plain line."""


class InvalidValue(JayError, ValueError):
    """A value outside its limits or of the wrong kind."""


class NotFound(JayError, LookupError):
    """A thing asked for by number that is not there."""


class MediaError(JayError):
    """A media file that cannot be read, or that holds nothing to use."""


class Damaged(MediaError):
    """What is kept of a medium in the data folder is damaged or gone; `sha256` is the medium's."""

    def __init__(self, sha256: str) -> None:
        super().__init__(
            "Something of a file is damaged or gone in the data folder. It is made again from the file you brought in,"
            " if that is still there; until then it is shown as missing."
        )
        self.sha256 = sha256

    def __reduce__(self) -> tuple[type[Damaged], tuple[str]]:
        return Damaged, (self.sha256,)


class Refused(JayError):
    """An edit or an export that cannot be done as asked."""


class Stale(Refused):
    """An edit of a project that was changed elsewhere since the person looked."""


class Stopped(JayError):
    """Long work the person stopped."""
