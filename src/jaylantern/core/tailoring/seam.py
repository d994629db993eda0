"""Folds set to the sample: the place that follows is moved to where it agrees best with what would have followed.

cross-correlation of the mono sound AROUND_N to both sides, up to SEARCH_N away, normalised; the largest
    that is near
likeness of the crossfade: the correlation of both sides over it
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.arrays import Samples, mono
from jaylantern.core.signal.timebase import RATE, n_to_seconds
from jaylantern.core.tailoring.cut import FADE_N, HALF_N, Cut, Piece, Source, Speed
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.ways import EXACT_SHARE
from jaylantern.core.tailoring.wish import Way, Wish
from jaylantern.errors import Refused

SEARCH_N = RATE * 25 // 1000
AROUND_N = RATE * 80 // 1000
NEARER = 0.15  # of likeness, that a place SEARCH_N away must be better by: the beat is kept


def seam(source: Source, left_n: int, right_n: int) -> tuple[int, float]:
    """The place near `right_n` that follows `left_n` best, and the likeness of both sides in the crossfade."""
    before = mono(_read(source, left_n - AROUND_N, left_n + AROUND_N)).astype(np.float64)
    after = mono(_read(source, right_n - AROUND_N - SEARCH_N, right_n + AROUND_N + SEARCH_N)).astype(np.float64)
    shift = _best_shift(before, after)
    middle = slice(AROUND_N - HALF_N, AROUND_N + HALF_N)
    one, other = before[middle], after[shift + AROUND_N - HALF_N : shift + AROUND_N + HALF_N]
    size = float(np.sqrt((one @ one) * (other @ other)))
    return right_n + shift - SEARCH_N, float(np.clip(one @ other / size, -1, 1)) if size > 1e-12 else 0.0


def _best_shift(before: NDArray[np.float64], after: NDArray[np.float64]) -> int:
    """Where in `after` the sound `before` is found best; the middle where there is nothing to be found."""
    size = 1 << (len(after) + len(before)).bit_length()
    product = np.fft.irfft(np.fft.rfft(after, size) * np.conj(np.fft.rfft(before, size)), size)[: 2 * SEARCH_N + 1]
    squares = np.concatenate(([0.0], np.cumsum(after * after)))
    energy = squares[len(before) :][: 2 * SEARCH_N + 1] - squares[: 2 * SEARCH_N + 1]
    quiet = max(float(before @ before), 1e-9) * 1e-6
    likeness = product / np.sqrt(np.maximum(energy, quiet))
    away = np.arange(-SEARCH_N, SEARCH_N + 1) / SEARCH_N
    best = int((likeness - NEARER * away**2).argmax())
    while 0 < best < 2 * SEARCH_N and likeness[best] < max(likeness[best - 1], likeness[best + 1]):
        best += 1 if likeness[best + 1] > likeness[best - 1] else -1
    return best if likeness[best] > likeness[SEARCH_N] + 1e-9 else SEARCH_N


def _read(source: Source, start_n: int, stop_n: int) -> Samples:
    """Samples that may lie before the beginning, where there is silence."""
    sound = source(max(0, start_n), stop_n)
    return np.pad(sound, ((max(0, -start_n), 0), (0, 0)))


def cut_of(grid: Grid, way: Way, wish: Wish, source: Source) -> Cut:
    """A way with its folds set to the sample, and, where the wish is exact, brought to its very length.

    Raises Refused where that would take more than 1 % of speed.
    """
    at = [int(grid.places_n[i]) for i, _ in way.folds]
    seams = [seam(source, int(grid.places_n[i]), int(grid.places_n[j])) for i, j in way.folds]
    begins = [way.start_n, *(max(0, place) for place, _ in seams)]
    ends = [*at, way.stop_n]
    if not wish.keep_end:  # where it fades out, what the seams moved is taken from or added to its end
        over_n = sum(b - a for a, b in zip(begins, ends, strict=True)) - wish.length_n
        ends[-1] = min(max(ends[-1] - over_n, begins[-1] + FADE_N), grid.length_n)
    pieces = [Piece(a, b, b - a) for a, b in zip(begins, ends, strict=True)]
    likeness = tuple(round(each, 6) for _, each in seams)
    if wish.exact:
        pieces = exactly(pieces, wish.length_n)
    return Cut(tuple(pieces), likeness)


def exactly(pieces: Sequence[Piece], length_n: int) -> list[Piece]:
    """Pieces that last `length_n` together: as few of the longest as can take it up go up to 1 % faster or slower."""
    missing = length_n - sum(piece.length_n for piece in pieces)
    if not missing:
        return list(pieces)
    order = sorted(range(len(pieces)), key=lambda k: -pieces[k].length_n)
    taken, room_n = [], 0.0
    for k in order:
        taken.append(k)
        room_n += pieces[k].length_n * EXACT_SHARE / (1 + EXACT_SHARE)
        if room_n >= abs(missing):
            break
    else:
        near = n_to_seconds(length_n - missing)
        raise Refused(
            f"{n_to_seconds(length_n):.2f} s exactly would take more than 1 % of speed. {near:.2f} s is the nearest on"
            " the beat; or let the end fade out."
        )
    out, total = list(pieces), sum(pieces[k].length_n for k in taken)
    for number, k in enumerate(taken):
        last = number == len(taken) - 1
        share = missing if last else round(missing * pieces[k].length_n / total)
        total, missing = total - pieces[k].length_n, missing - share
        if share:
            out[k] = Piece(pieces[k].from_n, pieces[k].to_n, pieces[k].length_n + share, Speed.SPEED)
    return out
