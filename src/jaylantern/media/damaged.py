"""Files that are damaged: what can be read of them is taken, and what can't be is counted and said in words."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import av

from jaylantern.errors import MediaError
from jaylantern.support.disk import OF_THE_DISK


@dataclass
class Unread:
    """How many packets of a stream could not be decoded."""

    packets: int = 0


def frames(container: Any, stream: Any, unread: Unread | None = None) -> Iterator[Any]:
    """Decoded frames of a stream of an open file in order; what can't be decoded is passed over, and counted."""
    unread = Unread() if unread is None else unread
    packets = container.demux(stream)
    while True:
        try:
            packet = next(packets, None)
        except av.FFmpegError:  # the file itself breaks off
            unread.packets += 1
            return
        if packet is None:
            return
        try:
            found = packet.decode()
        except av.FFmpegError:
            unread.packets += 1
            continue
        yield from found


@contextmanager
def in_words(name: str) -> Iterator[None]:
    """What goes wrong with a file inside, as MediaError that speaks of it; as OSError where it is the disk."""
    try:
        yield
    except av.FFmpegError as error:
        if error.errno in OF_THE_DISK:
            raise OSError(error.errno, error.strerror) from error
        raise MediaError(f"{name} can't be read: it may be damaged or cut short.") from error
