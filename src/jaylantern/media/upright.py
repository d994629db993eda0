"""A picture as it is meant to be seen: turned, mirrored and stretched as its file says.

Phones keep the picture as the sensor read it and say beside it how it is to be turned: a matrix from stored to shown
coordinates (ISO/IEC 14496-12, 8.3.2, `matrix` of the track header; FFmpeg hands it on as a display matrix).

    x' = a·x + c·y      stored (x, y) right and down, shown (x', y') right and down
    y' = b·x + d·y
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.sidedata.sidedata import Type

from jaylantern.media.damaged import frames

# signs of a, b, c, d → filters that bring the stored picture to the shown one
TURNS: dict[tuple[int, int, int, int], tuple[str, ...]] = {
    (1, 0, 0, 1): (),
    (-1, 0, 0, 1): ("hflip",),
    (1, 0, 0, -1): ("vflip",),
    (-1, 0, 0, -1): ("hflip", "vflip"),
    (0, 1, -1, 0): ("transpose=clock",),
    (0, -1, 1, 0): ("transpose=cclock",),
    (0, 1, 1, 0): ("transpose=cclock_flip",),
    (0, -1, -1, 0): ("transpose=clock_flip",),
}
MIRRORING = frozenset({(-1, 0, 0, 1), (1, 0, 0, -1), (0, 1, 1, 0), (0, -1, -1, 0)})
SQUARE = Fraction(1)
LARGEST_PIXEL = 8  # no pixel is so many times wider than high, or the other way round


@dataclass(frozen=True)
class Look:
    """How a stored picture is to be seen: how it is turned (a key of TURNS), and a pixel's width over its height."""

    turn: tuple[int, int, int, int] = (1, 0, 0, 1)
    pixel: Fraction = SQUARE

    @property
    def plain(self) -> bool:
        """Is it shown just as it is stored?"""
        return not TURNS[self.turn] and self.pixel == SQUARE

    @property
    def mirrored(self) -> bool:
        """Is left right in it, or up down?"""
        return self.turn in MIRRORING

    @property
    def lying(self) -> bool:
        """Do width and height change places?"""
        return not self.turn[0]

    def size(self, width: int, height: int) -> tuple[int, int]:
        """Width and height as it is seen, in square pixels; the height of the stored rows stays."""
        wide = max(1, round(width * self.pixel))
        return (height, wide) if self.lying else (wide, height)


PLAIN = Look()


def matrix_turn(matrix: Sequence[int]) -> tuple[int, int, int, int]:
    """The turn nearest to a display matrix of nine numbers (a, b, u, c, d, v, x, y, w)."""
    a, b, c, d = (int(matrix[i]) for i in (0, 1, 3, 4))
    if abs(a) + abs(d) >= abs(b) + abs(c):
        return (-1 if a < 0 else 1, 0, 0, -1 if d < 0 else 1)
    return (0, -1 if b < 0 else 1, -1 if c < 0 else 1, 0)


def look_of(stream: Any, frame: Any) -> Look:
    """How the pictures of a stream are to be seen, from one of its frames."""
    found = frame.side_data.get(Type.DISPLAYMATRIX)
    turn = matrix_turn(np.frombuffer(bytes(found), "<i4").tolist()) if found is not None else (1, 0, 0, 1)
    pixel = stream.sample_aspect_ratio or SQUARE
    usable = pixel > 0 and Fraction(1, LARGEST_PIXEL) <= pixel <= LARGEST_PIXEL
    return Look(turn, Fraction(pixel) if usable else SQUARE)


def first_look(container: Any, stream: Any) -> Look:
    """How the pictures of an open file are to be seen; its first frame is decoded, and it is at its beginning again."""
    try:
        frame = next(frames(container, stream), None)
        container.seek(0)
    except av.FFmpegError:
        return Look()
    return Look() if frame is None else look_of(stream, frame)


def fitted(look: Look, stored: tuple[int, int], size: tuple[int, int]) -> tuple[int, int]:
    """The largest even width and height inside `size` in which a stored picture keeps its shape."""
    seen = look.size(*stored)
    scale = min(size[0] / seen[0], size[1] / seen[1])
    return tuple(max(2, min(side, round(old * scale / 2) * 2)) for side, old in zip(size, seen, strict=True))  # type: ignore[return-value]


class Upright:
    """Brings frames of one source to how they are seen, in a size (width, height, both even), black around what has
    another shape."""

    def __init__(self, look: Look, size: tuple[int, int], form: str = "yuv420p") -> None:
        self._look, self._size, self._form = look, size, form
        self._graph: Any = None
        self._kind: tuple[object, ...] = ()

    def frame(self, frame: av.VideoFrame) -> av.VideoFrame:
        """The frame as it is seen; it keeps its time."""
        inner = fitted(self._look, (frame.width, frame.height), self._size)
        if self._look.plain and inner == self._size:
            return frame.reformat(*self._size, self._form)
        kind = frame.width, frame.height, frame.format.name
        if kind != self._kind:
            self._graph, self._kind = self._built(frame, inner), kind
        self._graph.push(frame)
        shown = self._graph.pull()
        shown.pts, shown.time_base = frame.pts, frame.time_base
        return shown

    def _built(self, frame: av.VideoFrame, inner: tuple[int, int]) -> Any:
        graph = av.filter.Graph()
        base = frame.time_base or Fraction(1, 90_000)
        steps = [graph.add_buffer(width=frame.width, height=frame.height, format=frame.format, time_base=base)]
        left, top = ((outer - side) // 4 * 2 for outer, side in zip(self._size, inner, strict=True))
        wanted = [*TURNS[self._look.turn], "scale={}:{}".format(*inner), f"format={self._form}"]
        if inner != self._size:
            wanted.append(f"pad={self._size[0]}:{self._size[1]}:{left}:{top}:black")
        for each in [*wanted, "setsar=1"]:
            name, _, values = each.partition("=")
            steps.append(graph.add(name, values) if values else graph.add(name))
        steps.append(graph.add("buffersink"))
        graph.link_nodes(*steps).configure()
        return graph
