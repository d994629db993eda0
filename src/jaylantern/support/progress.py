"""Progress of long work: one protocol for all of it. What is told may raise Stopped, and the work ends there."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeAlias

Progress: TypeAlias = Callable[[float, str], None]  # share done, 0 to 1, and what is being done

TOLD_EVERY_S = 0.2


def silent(share: float, doing: str) -> None:
    """Tells nobody."""


def within(progress: Progress, low: float, high: float) -> Progress:
    """Progress of a part of the work that reaches from one share of the whole to another."""
    return lambda share, doing: progress(low + (high - low) * share, doing)


def sparing(tell: Progress) -> Progress:
    """Progress that is told to another process: at once where something else is being done, else now and then."""
    last: tuple[float, str] = (0.0, "")

    def progress(share: float, doing: str) -> None:
        nonlocal last
        now = time.monotonic()
        if doing != last[1] or now - last[0] > TOLD_EVERY_S:
            last = (now, doing)
            tell(share, doing)

    return progress
