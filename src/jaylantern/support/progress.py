"""Progress of long work: one protocol for all of it. What is told may raise Stopped, and the work ends there."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

Progress: TypeAlias = Callable[[float, str], None]  # share done, 0 to 1, and what is being done


def silent(share: float, doing: str) -> None:
    """Tells nobody."""


def within(progress: Progress, low: float, high: float) -> Progress:
    """Progress of a part of the work that reaches from one share of the whole to another."""
    return lambda share, doing: progress(low + (high - low) * share, doing)
