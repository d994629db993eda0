"""The best ways through a piece of music that come to a length: a shortest path over folds.

    state   (fold number f, place the last fold led to j, time won or lost so far q)
    G₀      at the beginning, nothing won or lost
    P_f(i, q) = min over j ≤ i − LEAST of G_f(j, q), where everything between j and i may be heard
    G_f+1(j′, q + tᵢ − t_j′) = min over i of P_f(i, q) + cost(i, j′)

Time is counted in steps of a bar where the tempo is steady, else in parts of a beat; the length of a way is reckoned
to the sample afterwards. Wenner et al., "Scalable Music: Automatic Music Retargeting and Synthesis", CGF 32(2), 2013,
search the same graph; ordering it by folds, so that few and many are answered at once, is our own.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.timebase import RATE, n_to_seconds
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.wish import Span, Way, Wish, promised
from jaylantern.errors import Refused

LEAST_BARS, LEAST_FREE = 2, 5  # a piece between two folds is no shorter: bars, or places where there are none
FEW, MANY = 0.25, 0.002  # what a fold costs by being one, at 0 and 100 of `pieces`
BAD = 10.0  # weight of the square of a fit: one bad fold is worse than two good ones
OFF_BAR = 0.15  # cost of a fold that is not whole bars apart, where such are needed
OFF_LENGTH = 0.04  # cost of a beat off the wished length
OFF_EXACT = 0.002  # the same where a little speed, which nobody hears, brings it there: the better fit counts
GOOD, BEST_OF_SHIFT, MOST_FOLDS_SEEN = 8.0, 4, 4000  # folds looked at: fit, per cent; of each shift; in all
MORE_LAYERS, MORE_FOLDS = 4, 6  # folds tried beyond the fewest that do; beyond what a length should take
ROOM, ROOM_LEAST_N, ROOM_MOST_N = 0.25, 20 * RATE, 90 * RATE  # time won and lost again on the way: of the piece
EXACT_SHARE = 0.01  # of speed
NEAR_EXACT = 0.95  # of it at most before folds are set to the sample
EDGE_N = RATE // 10  # what is left out so near the beginning or the end is left out there
WORSE = 0.6  # a way that costs so much more than the best is not offered
CELLS, COARSEST_BARS = 30_000_000, 2  # of all layers together; the largest step that still tells lengths apart
LARGE = 500  # places of a grid that is searched by coarser steps
ENDS_TRIED = 12
NEAR_BARS = (0.52, 1.05, 2.1)  # off the wished length: as near as whole bars come, else somewhat farther
NEVER = np.float32(np.inf)

Floats = NDArray[np.float32]
Indices = NDArray[np.intp]


@dataclass(frozen=True, eq=False)
class Folds:
    """Folds that may be used, sorted by the time each wins: leaves place `i`, goes on at `j`, costs `cost`, wins
    `won` steps."""

    i: Indices
    j: Indices
    cost: Floats
    won: Indices


def ways(grid: Grid, wish: Wish) -> list[Way]:
    """Ways that come nearest to the wished length, the best for the wish first, each of another number of folds.

    Raises Refused where none does: too short a piece, too much protected or left out.
    """
    _check(grid, wish)
    found = _Search(grid, wish, whole_bars=True).nearest()
    if wish.exact and not found:
        found = _Search(grid, wish, whole_bars=False).nearest()
    if not found:
        raise Refused(_why_none(grid, wish))
    found.sort(key=lambda way: way.cost)
    return [way for way in found if way.cost <= found[0].cost + WORSE]


def _close(found: Iterable[Way], wish: Wish) -> list[Way]:
    """Those that a little speed brings to the wished length."""
    return [way for way in found if abs(way.length_n - wish.length_n) <= EXACT_SHARE * NEAR_EXACT * wish.length_n]


def heard_between(length_n: int, leave_out: tuple[Span, ...]) -> Span:
    """Where a piece of this length begins and ends when what is left out at its very beginning and end is gone."""
    begin_n, end_n = 0, length_n
    for start, stop in sorted(leave_out):
        begin_n = max(begin_n, stop) if start <= begin_n + EDGE_N else begin_n
    for start, stop in sorted(leave_out, key=lambda span: -span[1]):
        end_n = min(end_n, start) if stop >= end_n - EDGE_N else end_n
    return min(begin_n, length_n), max(end_n, 0)


def fold_price(pieces: float) -> float:
    """What a fold costs by being one, for 0 (few) to 100 (many)."""
    return float(FEW * (MANY / FEW) ** (pieces / 100))


def _check(grid: Grid, wish: Wish) -> None:
    protected_n = sum(min(stop, grid.length_n) - start for start, stop in wish.protect if start < grid.length_n)
    if protected_n > wish.length_n:
        raise Refused(
            f"{n_to_seconds(protected_n):.1f} s are protected; that is longer than the"
            f" {n_to_seconds(wish.length_n):.1f} s wished for. Protect less, or make it longer."
        )
    for start, stop in wish.protect:
        if start >= grid.length_n:
            raise Refused(f"The music is {n_to_seconds(grid.length_n):.1f} s long; nothing lies at"
                          f" {n_to_seconds(start):.1f} s that could be protected.")  # fmt: skip
        if any(a < stop and start < b for a, b in wish.leave_out):
            raise Refused(f"What is protected at {n_to_seconds(start):.1f} s is left out, too. Take one of them back.")


def _why_none(grid: Grid, wish: Wish) -> str:
    wished, there = n_to_seconds(wish.length_n), n_to_seconds(grid.length_n)
    if len(grid.places_n) < 4 * grid.bar:
        return f"This piece is too short to be folded: {there:.1f} s. Repeat the clip, or stretch it."
    tied = "protected or left out" if wish.protect or wish.leave_out else "to be kept of its beginning and its end"
    return f"No way through the music comes near {wished:.1f} s: it is {there:.1f} s long, and too much is {tied}."


class _Search:
    """The search for one wish."""

    def __init__(self, grid: Grid, wish: Wish, *, whole_bars: bool) -> None:
        self._grid, self._wish = grid, wish
        self._at = grid.places_n.astype(np.float64)
        self._size = len(self._at)
        self._least = LEAST_FREE if grid.bar == 1 else LEAST_BARS * grid.bar
        self._price = fold_price(wish.pieces)
        self._off_price = OFF_EXACT if wish.exact else OFF_LENGTH
        self._segment = self._segments()
        self._begin_n, self._end_n = heard_between(grid.length_n, wish.leave_out)
        self._begin_row = int(np.searchsorted(self._at, self._begin_n)) + 1 if self._begin_n else 0
        self._end_row = (
            int(np.searchsorted(self._at, self._end_n, side="right")) - 1 if self._end_n < grid.length_n else self._size
        )
        steady = grid.steady and whole_bars
        self._step_n = grid.step_n * (grid.bar if steady else 1 if self._size < LARGE else max(1, grid.bar // 2))
        change_n = wish.length_n - (self._end_n - self._begin_n)
        room_n = min(max(ROOM * grid.length_n, ROOM_LEAST_N), ROOM_MOST_N)
        skipped_n = 0 if wish.keep_start and wish.keep_end else grid.length_n
        low_n, high_n = min(change_n, 0) - room_n - skipped_n - self._begin_n, max(change_n, 0) + room_n
        layers = MORE_LAYERS + 2 + 2 * max(0, round(wish.length_n / max(1, grid.length_n)) - 1)
        smallest_n = (high_n - low_n) * self._size * layers / CELLS
        if smallest_n > COARSEST_BARS * grid.bar * grid.step_n:
            raise Refused(
                f"{n_to_seconds(wish.length_n):.0f} s are too many for {n_to_seconds(grid.length_n):.0f} s of music in"
                " one piece. Make it shorter, and repeat the clip."
            )
        self._most = layers + MORE_FOLDS
        self._step_n = max(self._step_n, smallest_n)
        columns = int((high_n - low_n) / self._step_n) + 3
        self._columns, self._zero = columns, round(-low_n / self._step_n) + 1
        self._folds = self._candidates(whole_bars)
        self._groups = list(_grouped(self._folds, self._columns))
        self._layers: list[Floats] = []
        self._reaches: list[Floats] = []  # P of each layer

    def _segments(self) -> Indices:
        """For each place the number of the stretch it lies in that may be heard without a fold; the beginning of the
        piece lies in 0, its end in the last."""
        edges = np.concatenate(([0.0], self._at, [float(self._grid.length_n)]))
        barred = np.zeros(len(edges) - 1, bool)
        for start, stop in self._wish.leave_out:
            barred |= (edges[:-1] < stop) & (edges[1:] > start)
        return np.concatenate(([0], np.cumsum(barred)))

    def _candidates(self, whole_bars: bool) -> Folds:
        """The folds worth looking at: those that fit well, and the best of every shift."""
        grid, wish = self._grid, self._wish
        cost = grid.fit / 100
        cost += np.float32(BAD) * cost * cost
        number = np.arange(self._size, dtype=np.int16)
        shift = number - number[:, None]
        allowed = np.abs(shift) >= max(1, grid.bar if whole_bars else 1)
        if grid.bar > 1:
            off = shift % np.int16(grid.bar) != 0
            cost[off] = NEVER if whole_bars else cost[off] + np.float32(OFF_BAR)
        for start, stop in wish.protect:
            inside = (self._at > start) & (self._at < stop)
            skips = (self._at[:, None] < stop) & (self._at > start) & (shift > 0)
            allowed &= ~(skips | inside[:, None] | inside)
        for left, right in wish.forbidden:
            near = np.abs(self._at[:, None] - left) + np.abs(self._at - right) < 1.2 * grid.step_n
            allowed &= ~near
        del shift
        cost[~allowed] = NEVER
        for left, right in wish.chosen:
            if self._size:
                kept = grid.nearest(left), grid.nearest(right)
                cost[kept] = 0.0 if allowed[kept] else NEVER
        if wish.keep_start:
            cost[: self._least - 1] = NEVER
        if wish.keep_end:
            cost[:, self._size - self._least + 1 :] = NEVER
        good = np.zeros(cost.shape, bool)
        for offset in range(-self._size + 1, self._size):
            line = np.diagonal(cost, offset)
            best = (
                np.argpartition(line, BEST_OF_SHIFT)[:BEST_OF_SHIFT]
                if len(line) > BEST_OF_SHIFT
                else np.arange(len(line))
            )
            good[best + max(0, -offset), best + max(0, offset)] = True
        others = np.flatnonzero(~good & np.isfinite(cost) & (grid.fit < GOOD))
        if len(others) > MOST_FOLDS_SEEN:
            others = others[np.argpartition(cost.flat[others], MOST_FOLDS_SEEN)[:MOST_FOLDS_SEEN]]
        good.flat[others] = True
        good &= np.isfinite(cost)
        found_i, found_j = np.nonzero(good)
        won = np.round((self._at[found_i] - self._at[found_j]) / self._step_n).astype(np.intp)
        order = np.argsort(won, kind="stable")
        i, j = found_i[order], found_j[order]
        return Folds(i, j, np.asarray(cost[i, j] + self._price, np.float32), won[order])

    def nearest(self) -> list[Way]:
        """The best way for each number of folds, as near to the length as there is any."""
        for bars in NEAR_BARS[-1:] if self._wish.exact else NEAR_BARS:
            found = list(self._ways(self._tolerance_n(bars)))
            if found:
                return found
        return []

    def _ways(self, near_n: float) -> Iterator[Way]:
        """Of a length so near, until more folds bring nothing."""
        first = None
        for number in range(self._most):
            if number == len(self._layers):
                self._layers.append(self._next() if number else self._first())
                self._reaches.append(self._reached(self._layers[-1]))
            way = self._best(number, near_n)
            if way is not None:
                first = number if first is None else first
                yield way
            if not self._groups or (first is not None and number - first >= MORE_LAYERS):
                return
            if not np.isfinite(self._layers[-1]).any():
                return

    def _first(self) -> Floats:
        """Row 0 stands for the beginning of the piece, row j + 1 for place j."""
        layer = np.full((self._size + 1, self._columns), NEVER, np.float32)
        starts = [-1] if self._wish.keep_start else [-1, *range(self._grid.first_bar, self._size, self._grid.bar)]
        earliest_n = min((start for start, _ in self._wish.protect), default=self._grid.length_n)
        for place in starts:
            at_n = self._begin_n if place < 0 else self._at[place]
            row = self._begin_row if place < 0 else place + 1
            column = self._zero - round(at_n / self._step_n)
            if self._begin_n <= at_n <= earliest_n and row <= self._size and 0 <= column < self._columns:
                layer[row, column] = 0.0
        return layer

    def _reached(self, layer: Floats) -> Floats:
        """P of a layer: row i for place i, the last row for the end of the piece."""
        out = np.full((self._size + 1, self._columns), NEVER, np.float32)
        for number in np.unique(self._segment):
            rows = np.flatnonzero(self._segment == number)  # of `layer`: the beginning, then places, then the end
            starts, stops = rows[rows <= self._size], rows[rows >= 1]
            if not len(starts):
                continue
            running = np.minimum.accumulate(layer[starts], axis=0)
            sources = np.searchsorted(starts, stops - self._least, side="right") - 1
            there = sources >= 0
            out[stops[there] - 1] = running[sources[there]]
        return out

    def _next(self) -> Floats:
        reached, folds = self._reaches[-1], self._folds
        out = np.full((self._size + 1, self._columns), NEVER, np.float32)
        for part in self._groups:
            won = int(folds.won[part[0]])
            lo, hi = max(0, won), self._columns + min(0, won)
            value = reached[folds.i[part], lo - won : hi - won] + folds.cost[part, None]
            rows = folds.j[part] + 1
            out[rows, lo:hi] = np.minimum(out[rows, lo:hi], value)
        return out

    def _ends(self, number: int, tolerance_n: float) -> Iterator[tuple[float, int, int, int]]:
        """Where ways of so many folds may end: cost, row of P, column, sample of the recording."""
        reached = self._reaches[number]
        beat_n, wish_n = self._grid.step_n, self._wish.length_n
        if self._wish.keep_end:
            off_n = np.abs((np.arange(self._columns) - self._zero) * self._step_n + self._end_n - wish_n)
            near = np.flatnonzero(off_n <= tolerance_n)
            for column in near.tolist() if self._end_row >= 0 else ():
                cost = float(reached[self._end_row, column])
                if np.isfinite(cost):
                    yield cost + self._off_price * float(off_n[column]) / beat_n, self._end_row, column, self._end_n
            return
        latest_n = max((min(stop, self._grid.length_n) for _, stop in self._wish.protect), default=0)
        for column in range(self._columns):
            stop_n = wish_n - (column - self._zero) * self._step_n
            if not max(latest_n, 1) <= stop_n <= self._end_n:
                continue
            row = int(np.searchsorted(self._at, stop_n, side="right")) - 1
            if row >= 0 and self._heard_until(row, stop_n) and np.isfinite(reached[row, column]):
                yield float(reached[row, column]), row, column, round(stop_n)

    def _heard_until(self, row: int, stop_n: float) -> bool:
        return not any(start < stop_n and stop > self._at[row] for start, stop in self._wish.leave_out)

    def _tolerance_n(self, bars: float) -> float:
        """How far off the length an end may be that is so many bars off."""
        near_n = bars * self._grid.step_n * self._grid.bar
        if self._wish.exact:
            near_n = min(near_n, EXACT_SHARE * NEAR_EXACT * self._wish.length_n)
        return max(0.51 * self._step_n, near_n)

    def _best(self, number: int, near_n: float) -> Way | None:
        """The best way of so many folds; of those that are about as good, the nearest to the length."""
        found = sorted(self._ends(number, near_n))[:ENDS_TRIED]
        tried = [self._way(number, row, column, stop_n) for _, row, column, stop_n in found]
        good = [each for each in tried if each is not None]
        good = _close(good, self._wish) if self._wish.exact and self._wish.keep_end else good
        return min(good, key=lambda way: way.cost, default=None)

    def _way(self, number: int, row: int, column: int, stop_n: int) -> Way | None:
        """Back along the path that ends there."""
        folds: list[tuple[int, int]] = []
        total = 0.0
        for f in range(number, -1, -1):
            source = self._source(self._layers[f][:, column], row)
            if source < 0:
                return None
            if f == 0:
                break
            options = np.flatnonzero(self._folds.j == source - 1)
            before = self._reaches[f - 1]
            columns = column - self._folds.won[options]
            inside = (columns >= 0) & (columns < self._columns)
            options, columns = options[inside], columns[inside]
            value = before[self._folds.i[options], columns] + self._folds.cost[options]
            chosen = int(value.argmin())
            fold = int(options[chosen])
            total += float(self._folds.cost[fold])
            row, column = int(self._folds.i[fold]), int(columns[chosen])
            folds.append((row, source - 1))
        start_n = self._begin_n if source == self._begin_row else int(self._at[source - 1])
        folds.reverse()
        length_n = stop_n - start_n + sum(round(self._at[i] - self._at[j]) for i, j in folds)
        if not self._wish.keep_end:  # what the steps of time left over
            over_n = min(length_n - self._wish.length_n, stop_n - 1)
            stop_n, length_n = min(stop_n - over_n, self._end_n), length_n - max(over_n, stop_n - self._end_n)
        if not self._wish.keep_end and not self._holds(folds, start_n, stop_n):
            return None
        off = abs(length_n - self._wish.length_n) / self._grid.step_n
        return Way(tuple(folds), start_n, stop_n, length_n, total + self._off_price * off)

    def _holds(self, folds: list[tuple[int, int]], start_n: int, stop_n: int) -> bool:
        """Is what is promised kept though the end was moved to the sample?"""
        begins = [start_n, *(int(self._at[j]) for _, j in folds)]
        ends = [*(int(self._at[i]) for i, _ in folds), stop_n]
        pieces = list(zip(begins, ends, strict=True))
        return all(a < b for a, b in pieces) and all(promised(self._wish, pieces, self._grid.length_n))

    def _source(self, values: Floats, row: int) -> int:
        """The row of a layer that place `row` (or the end) is reached from at least cost, the latest of several; −1 for
        none."""
        number = self._segment[row + 1]
        rows = np.flatnonzero(self._segment[: self._size + 1] == number)
        rows = rows[rows <= row + 1 - self._least]
        if not len(rows):
            return -1
        best = float(values[rows].min())
        return int(rows[values[rows] == best][-1]) if np.isfinite(best) else -1


def _grouped(folds: Folds, columns: int) -> Iterator[Indices]:
    """Folds that win the same time and lead to places each once; those that win more than is reckoned with are left
    out."""
    order = np.lexsort((folds.j, folds.won))
    won, j = folds.won[order], folds.j[order]
    new = np.concatenate(([True], (won[1:] != won[:-1]) | (j[1:] != j[:-1]))) if len(order) else np.zeros(0, bool)
    starts = np.flatnonzero(new)
    rank = np.arange(len(order)) - np.repeat(starts, np.diff(np.append(starts, len(order))))
    again = np.lexsort((rank, won))
    edges = np.flatnonzero((np.diff(won[again]) != 0) | (np.diff(rank[again]) != 0)) + 1
    for part in np.split(order[again], edges):
        if len(part) and abs(int(folds.won[part[0]])) < columns:
            yield part
