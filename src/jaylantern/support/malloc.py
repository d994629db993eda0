"""Keeping freed memory: sound goes through in blocks of some hundred kilobytes, which glibc would hand back to the
system and ask for anew each time; clearing those pages takes longer than the arithmetic done on them."""

from __future__ import annotations

import ctypes

from jaylantern.support import system

TRIM_THRESHOLD, MMAP_THRESHOLD, ARENA_MAX = -1, -3, -8  # names of glibc's malloc.h
KEPT_BYTES = 64 << 20


def keep_freed_memory() -> bool:
    """Have blocks under 64 MB reused by this process, not handed back; False where the system has no such switch."""
    if not system.LINUX:
        return False
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return False
    wanted = ((MMAP_THRESHOLD, KEPT_BYTES), (TRIM_THRESHOLD, KEPT_BYTES), (ARENA_MAX, 2))
    return all(mallopt(name, value) for name, value in wanted)
