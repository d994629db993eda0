"""Read by a Python for Windows that runs under Wine before anything else: what that Wine has not is taken away, so that
Python goes the way it has for such systems."""

import contextlib

with contextlib.suppress(ImportError, AttributeError):
    import _winapi

    del _winapi.CopyFile2  # since Windows 8; Wine 8 says it is there and fails
