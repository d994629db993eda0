"""What was worked out lately: one memo of a data folder, handed to whoever computes. It alone says what is kept, by
what key, and how much of it."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, TypeVar

from jaylantern.support.bounded_cache import BoundedCache, bytes_of

T = TypeVar("T")
MB = 1 << 20


@dataclass(frozen=True)
class Kind:
    """A kind of thing that is kept: the first word of its keys; `by`: what the rest of a key says; at most so many of
    them, or so many bytes."""

    name: str
    by: str
    most: int = 0
    most_bytes: int = 0


KINDS = (
    Kind("project", "number, revision: its rows, read", 16),
    # decisions
    Kind("decided", "project, its revision and held draft: all that follows from it", 16),
    Kind("key level", "lanes, perches, detector, grid: the level of the compressor's key", 12),
    Kind("cues", "lanes and captions: where cues stand", 4),
    Kind("speech", "voice track, sensitivity: what is spoken in a medium", most_bytes=64 * MB),
    Kind("speech to step", "voice track, step of sensitivity: what holds up to there, not joined", most_bytes=32 * MB),
    Kind("standing out", "voice track: how far its sound stands out", most_bytes=64 * MB),
    Kind("media power", "products of a medium, channels: power, and its sums", most_bytes=256 * MB),
    Kind("clip power", "products of a medium, place, channels: power of a short clip", most_bytes=64 * MB),
    Kind(
        "undipped", "lanes, perches, powers, what of them: what sounds before anything gives way", most_bytes=256 * MB
    ),
    Kind("tuning map", "project but for two settings: places that are known", 4),
    Kind("page clip", "clip, what lane and neighbours make of it: what the page is told", 20_000),
    # media, by content and the time their facts were written
    Kind("about", "content, when it was told: what a file holds", 2000),
    Kind("facts", "content, when it was heard: voice track, powers", 2000),
    Kind("key track", "content, when it was heard: its level each millisecond", most_bytes=256 * MB),
    Kind("character", "content: what its sound is like", 2000),
    Kind("heard as", "content, when it was heard, stretch, sensitivity: what a clip's sound is like", 5000),
    Kind("picture length", "content", 2000),
    Kind("timecode", "content: where its own begins", 2000),
    Kind("beats", "content, beats or bars", 2000),
    Kind("grid", "content: beats with all their fits", 4),
    Kind("cuts", "content, wish: answers of tailoring", 32),
    Kind("sound", "content, when it was told: its samples, opened", 2000),
    Kind("voice", "content, when it was heard: what care needs to know", 2000),
    Kind("cared sound", "content, care, when it was heard: its treated samples, opened", 64),
    Kind("cared power", "content, care: powers of what was treated whole", 2000),
    Kind("bands", "content, care: powers of sixths of an octave", 256),
    # what was rendered
    Kind("block", "project, revision, variant, second: its sound", 96),
    Kind("meter", "project, revision, variant, second: loudness and true peak", 500),
    Kind("lane peaks", "project, revision, variant, second: peaks by lane", 500),
    Kind("mix", "project, revision: what the finished mix measures", 8),
    Kind("mix range", "all that a range of the mix depends on: what it measures", 1000),
    Kind("clip peaks", "content, stretch, channels, line, care: largest sample and true peak", 5000),
)


class Memo:
    """Safe to share between threads."""

    def __init__(self) -> None:
        self._of = {
            each.name: BoundedCache(each.most) if each.most else BoundedCache(each.most_bytes, bytes_of)
            for each in KINDS
        }

    def __call__(self, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        """The thing of a key, made if need be. Raises KeyError for a kind that is none of `KINDS`."""
        return self._of[str(key[0])].get(key, make)

    def peek(self, key: tuple[Hashable, ...]) -> Any | None:
        """The thing of a key, None where there is none."""
        return self._of[str(key[0])].peek(key)

    def keep(self, key: tuple[Hashable, ...], made: object) -> None:
        """Hold a thing."""
        self._of[str(key[0])].keep(key, made)
