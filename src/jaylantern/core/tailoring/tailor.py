"""From a wish to music that can be heard: the ways through it, each with its folds set to the sample."""

from __future__ import annotations

from dataclasses import dataclass

from jaylantern.core.tailoring.cut import FADE_N, Cut, Piece, Source, Speed
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.seam import cut_of, exactly, seam
from jaylantern.core.tailoring.ways import ways
from jaylantern.core.tailoring.wish import Way, Wish, promised
from jaylantern.errors import InvalidValue, Refused

MOST_SOLUTIONS = 5
STRETCH_LIMITS = (0.5, 2.0)  # times as long
AUDIBLE_STRETCH = 0.03


@dataclass(frozen=True)
class Solution:
    """A cut that answers a wish, and how well each of its folds fits, per cent: 0 is the best there is, 50 chance."""

    cut: Cut
    fits: tuple[float, ...]

    @property
    def worst(self) -> float:
        """The fit of its worst fold; 0 without folds."""
        return max(self.fits, default=0.0)


def solutions(grid: Grid, wish: Wish, source: Source) -> list[Solution]:
    """Up to five cuts, the best for the wish first. Raises Refused where the wish can't be met."""
    found, refused = [], None
    for way in ways(grid, wish)[:MOST_SOLUTIONS]:
        try:
            found.append(Solution(cut_of(grid, way, wish, source), _fits(grid, way)))
        except Refused as error:
            refused = refused or error
    if not found and refused is not None:
        raise refused
    return found


def _fits(grid: Grid, way: Way) -> tuple[float, ...]:
    return tuple(round(float(grid.fit[i, j]), 2) for i, j in way.folds)


def fit_of(grid: Grid, left_n: int, right_n: int) -> float:
    """How well a fold fits, per cent, by the places nearest to it."""
    if not len(grid.places_n):
        return 100.0
    return round(float(grid.fit[grid.nearest(left_n), grid.nearest(right_n)]), 2)


def stretched(length_n: int, wished_n: int) -> Cut:
    """The whole recording made longer or shorter, its pitch kept: the poor way. Raises InvalidValue beyond half and
    twice its length."""
    low, high = STRETCH_LIMITS
    if not low <= wished_n / length_n <= high:
        raise InvalidValue(
            f"Stretching goes from half to twice the length; {100 * wished_n / length_n:.0f} % does not."
        )
    return Cut((Piece(0, length_n, wished_n, Speed.NONE if wished_n == length_n else Speed.STRETCH),))


def moved_fold(grid: Grid, cut: Cut, wish: Wish, source: Source, *, fold: int, by: int) -> Cut:
    """A cut with one fold moved along the music by some places; what is left out there stays as long.

    Raises Refused where it can't go on: at an end, another fold, what is protected or left out.
    """
    if not 0 <= fold < len(cut.folds) or not len(grid.places_n):
        raise Refused("That fold is not there any more.")
    _, left_n, right_n = cut.folds[fold]
    i, j = grid.nearest(left_n) + by, grid.nearest(right_n) + by
    if not (min(i, j) >= 0 and max(i, j) < len(grid.places_n)):
        raise Refused("The music ends there: the fold can't be moved farther.")
    left_n, right_n = int(grid.places_n[i]), int(grid.places_n[j])
    place, likeness = seam(source, left_n, right_n)
    begins, ends = [piece.from_n for piece in cut.pieces], [piece.to_n for piece in cut.pieces]
    ends[fold], begins[fold + 1] = left_n, max(0, place)
    heard = list(zip(begins, ends, strict=True))
    if any(b - a < 4 * FADE_N for a, b in heard):
        raise Refused("Another fold is in the way.")
    left, kept = promised(wish, heard, grid.length_n)
    if not left:
        raise Refused("What is left out would be heard.")
    if not kept:
        raise Refused("What is protected would be cut.")
    pieces = [Piece(a, b, b - a) for a, b in heard]
    alike = tuple(round(likeness, 6) if k == fold else each for k, each in enumerate(cut.likeness))
    return Cut(tuple(exactly(pieces, wish.length_n) if wish.exact else pieces), alike)
