import dataclasses
from itertools import product

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaylantern.core.tailoring import ways as module
from jaylantern.core.tailoring.ways import BAD, LEAST_FREE, OFF_LENGTH, fold_price, heard_between, ways
from jaylantern.core.tailoring.wish import Wish
from jaylantern.errors import InvalidValue, Refused
from tests.tailored import even_grid
from tests.tunes import RATE

STEP_N = RATE // 2


def random_grid(seed, size, *, bar=1):
    return even_grid(np.random.default_rng(seed).uniform(0, 100, (size, size)), bar=bar)


def pieces_of(grid, way):
    """Stretches heard, in samples of the recording."""
    lefts = [int(grid.places_n[i]) for i, _ in way.folds]
    rights = [int(grid.places_n[j]) for _, j in way.folds]
    return list(zip([way.start_n, *rights], [*lefts, way.stop_n], strict=True))


def cost_of(grid, folds, pieces):
    fits = [grid.fit[fold] / 100 for fold in folds]
    return sum(fit + BAD * fit**2 + fold_price(pieces) for fit in fits)


def brute(grid, wish, count):
    """The least cost of any way with so many folds that is just as long as wished."""
    size, least = len(grid.places_n), LEAST_FREE
    best = np.inf
    places = range(size)
    for folds in product(product(places, places), repeat=count):
        at, length, good = -1, 0, True
        for i, j in folds:
            good = good and i - at >= least and i != j
            length += i - at
            at = j
        length += size - at
        if good and size - at >= least and length * STEP_N == wish.length_n:
            best = min(best, cost_of(grid, folds, wish.pieces))
    return best


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("steps", [8, 10, 14, 17])
def test_the_best_ways_are_those_of_brute_force(seed, steps, monkeypatch):
    monkeypatch.setattr(module, "BEST_OF_SHIFT", 100)
    monkeypatch.setattr(module, "WORSE", np.inf)
    grid = random_grid(seed, 11)
    wish = Wish(steps * STEP_N, pieces=70)
    try:
        found = {len(way.folds): way.cost for way in ways(grid, wish) if way.length_n == wish.length_n}
    except Refused:
        found = {}
    for count in (0, 1, 2):
        known = brute(grid, wish, count)
        if np.isfinite(known) or count in found:
            assert found[count] == pytest.approx(known, abs=1e-5)


spans = st.tuples(st.integers(0, 80), st.integers(1, 12)).map(
    lambda each: (each[0] * STEP_N // 2, (each[0] + each[1]) * STEP_N // 2)
)


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    seed=st.integers(0, 5),
    steps=st.integers(8, 90),
    protect=st.lists(spans, max_size=2),
    leave_out=st.lists(spans, max_size=2),
    keep_start=st.booleans(),
    keep_end=st.booleans(),
    bar=st.sampled_from([1, 4]),
)
def test_what_is_promised_holds_whatever_is_wished(seed, steps, protect, leave_out, keep_start, keep_end, bar):
    grid = random_grid(seed, 44, bar=bar)
    wish = Wish(
        steps * STEP_N, keep_start=keep_start, keep_end=keep_end, protect=tuple(protect), leave_out=tuple(leave_out)
    )
    try:
        found = ways(grid, wish)
    except Refused:
        return
    for way in found:
        pieces = pieces_of(grid, way)
        assert sum(b - a for a, b in pieces) == way.length_n
        assert all(a < b for a, b in pieces)
        assert all((j - i) % bar == 0 for i, j in way.folds)
        for start, stop in wish.leave_out:
            assert not any(a < stop and start < b for a, b in pieces)
        for start, stop in wish.protect:
            assert any(a <= start and min(stop, grid.length_n) <= b for a, b in pieces)
        begin, end = heard_between(grid.length_n, wish.leave_out)
        if keep_start:
            assert pieces[0][0] == begin
        if keep_end:
            assert pieces[-1][1] == end
            assert abs(way.length_n - wish.length_n) <= 2.1 * bar * STEP_N  # the nearest there is
        else:
            assert way.length_n == wish.length_n or pieces[-1][1] == end


@pytest.mark.parametrize(("steps", "off"), [(40, 0), (41, 1), (42, 2), (43, 1), (44, 0)])
def test_on_the_beat_is_the_nearest_length_in_whole_bars(steps, off):
    grid = even_grid(np.zeros((63, 63)), bar=4)
    found = ways(grid, Wish(steps * STEP_N))[0]
    assert abs(found.length_n - steps * STEP_N) == off * STEP_N


def test_exact_may_leave_the_bar_where_speed_alone_would_not_do():
    grid = even_grid(np.zeros((63, 63)), bar=4)
    found = ways(grid, Wish(42 * STEP_N, exact=True))[0]
    assert found.length_n == 42 * STEP_N


@pytest.mark.parametrize(("pieces", "most"), [(0, 1), (100, 2)])
def test_few_long_pieces_or_many_short_ones(pieces, most):
    """One fold of 12 %, or two of 1 %: the knob decides."""
    fit = np.full((63, 63), 90.0)
    fit[30, 50] = 12.0
    fit[15, 25], fit[40, 50] = 1.0, 1.0
    assert len(ways(even_grid(fit), Wish(44 * STEP_N, pieces=pieces))[0].folds) == most


def test_one_bad_fold_is_worse_than_two_good_ones():
    fit = np.full((63, 63), 90.0)
    fit[30, 50] = 25.0
    fit[15, 25], fit[40, 50] = 1.0, 1.0
    assert len(ways(even_grid(fit), Wish(44 * STEP_N))[0].folds) == 2


def test_a_forbidden_fold_is_not_used_and_a_chosen_one_is():
    fit = np.full((63, 63), 90.0)
    fit[30, 50], fit[20, 40], fit[25, 45] = 1.0, 3.0, 30.0
    grid = even_grid(fit)
    at = grid.places_n
    wish = Wish(44 * STEP_N)
    assert ways(grid, wish)[0].folds == ((30, 50),)
    forbidden = Wish(44 * STEP_N, forbidden=((int(at[30]), int(at[50])),))
    assert ways(grid, forbidden)[0].folds == ((20, 40),)
    chosen = Wish(44 * STEP_N, chosen=((int(at[25]), int(at[45])),))
    assert ways(grid, chosen)[0].folds == ((25, 45),)


def test_ways_differ_in_their_number_of_folds_and_the_best_comes_first():
    found = ways(random_grid(3, 60), Wish(40 * STEP_N))
    assert len({len(way.folds) for way in found}) == len(found)
    assert [way.cost for way in found] == sorted(way.cost for way in found)


def test_music_as_long_as_wished_is_left_as_it_is():
    found = ways(random_grid(1, 60), Wish(61 * STEP_N))[0]
    assert (found.folds, found.start_n, found.stop_n) == ((), 0, 61 * STEP_N)


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        ({"length_n": 10 * RATE, "protect": ((0, 20 * RATE),)}, "20.0 s are protected; that is longer than the 10.0 s"),
        ({"length_n": 20 * RATE, "protect": ((90 * RATE, 95 * RATE),)}, "nothing lies at 90.0 s"),
        (
            {"length_n": 20 * RATE, "protect": ((5 * RATE, 9 * RATE),), "leave_out": ((8 * RATE, 10 * RATE),)},
            "What is protected at 5.0 s is left out, too",
        ),
        ({"length_n": 2 * RATE}, "No way through the music comes near 2.0 s"),
    ],
    ids=str,
)
def test_wishes_that_cannot_be_met_are_refused_in_words(wish, said):
    with pytest.raises(Refused, match=said):
        ways(random_grid(1, 60), Wish(**wish))


def test_what_would_take_all_memory_is_refused():
    with pytest.raises(Refused, match="too many for 30 s of music"):
        ways(random_grid(1, 60), Wish(24 * 3600 * RATE))
    assert ways(even_grid(np.zeros((60, 60))), Wish(300 * RATE))[0].length_n == 300 * RATE


def test_a_piece_too_short_to_be_folded_is_not_searched_for_long(monkeypatch):
    tried = []
    monkeypatch.setattr(module._Search, "_best", lambda self, number, near_n: tried.append(number))
    with pytest.raises(Refused):
        ways(random_grid(1, 0), Wish(60 * RATE, keep_end=False))
    assert set(tried) == {0}


def test_a_piece_too_short_to_be_folded_says_so():
    with pytest.raises(Refused, match="too short to be folded"):
        ways(random_grid(1, 3), Wish(60 * RATE))


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        ({"length_n": RATE - 1}, "from 1 s to 24 hours"),
        ({"length_n": 25 * 3600 * RATE}, "from 1 s to 24 hours"),
        ({"length_n": RATE, "pieces": 101}, "0 to 100"),
        ({"length_n": RATE, "protect": ((5, 5),)}, "end after it begins"),
        ({"length_n": RATE, "leave_out": ((-1, 5),)}, "end after it begins"),
    ],
    ids=str,
)
def test_wishes_that_say_nothing_are_refused(wish, said):
    with pytest.raises(InvalidValue, match=said):
        Wish(**wish)


@pytest.mark.parametrize(
    ("leave_out", "found"),
    [
        ((), (0, 100 * RATE)),
        (((0, 10 * RATE),), (10 * RATE, 100 * RATE)),
        (((0, 10 * RATE), (9 * RATE, 12 * RATE)), (12 * RATE, 100 * RATE)),
        (((20 * RATE, 30 * RATE),), (0, 100 * RATE)),
        (((95 * RATE, 200 * RATE),), (0, 95 * RATE)),
    ],
)
def test_what_is_left_out_at_the_ends_moves_them(leave_out, found):
    assert heard_between(100 * RATE, leave_out) == found


def test_price_of_a_fold_falls_with_the_knob():
    assert [fold_price(each) for each in (0, 100)] == pytest.approx([0.25, 0.002])
    assert OFF_LENGTH > 0


def test_exactly_so_long_the_better_fit_is_taken_and_a_little_speed_does_the_rest():
    fit = np.full((400, 400), 60.0)
    fit[200, 101], fit[200, 103] = 1.0, 0.2  # the first is to the beat; the second, better, two beats short
    grid, wished = even_grid(fit), Wish(500 * STEP_N, keep_end=True)
    on_the_beat = ways(grid, wished)[0]
    exact = ways(grid, dataclasses.replace(wished, exact=True))[0]
    assert (on_the_beat.folds, on_the_beat.length_n) == (((200, 101),), 500 * STEP_N)
    assert (exact.folds, exact.length_n) == (((200, 103),), 498 * STEP_N)
