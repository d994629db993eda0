"""The one tree of errors a person can be shown.

JayError                 anything said to the person: what happened, to what, the remedy
├── InvalidValue         a value outside its limits or of the wrong kind
├── NotFound             a project, lane, clip, media or job that is not there
├── MediaError           a file that cannot be read, or holds nothing to use
├── Refused              an edit or an export that cannot be done as asked
│   └── Stale            an edit of a project that was changed elsewhere since the person looked
└── Stopped              long work the person stopped
"""


class JayError(Exception):
    """Something the person is told in one plain line."""


class InvalidValue(JayError, ValueError):
    """A value outside its limits or of the wrong kind."""


class NotFound(JayError, LookupError):
    """A thing asked for by number that is not there."""


class MediaError(JayError):
    """A media file that cannot be read, or that holds nothing to use."""


class Refused(JayError):
    """An edit or an export that cannot be done as asked."""


class Stale(Refused):
    """An edit of a project that was changed elsewhere since the person looked."""


class Stopped(JayError):
    """Long work the person stopped."""
