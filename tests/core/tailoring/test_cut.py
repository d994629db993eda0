from itertools import pairwise

import numpy as np
import pytest

from jaylantern.core.tailoring import seam as seams
from jaylantern.core.tailoring.cut import FADE_N, HALF_N, Cut, Piece, Speed, assembled, fold_gains, of_recording
from jaylantern.core.tailoring.grid import grid_of
from jaylantern.core.tailoring.seam import exactly, seam
from jaylantern.core.tailoring.tailor import solutions, stretched
from jaylantern.core.tailoring.wish import Wish
from jaylantern.errors import InvalidValue, Refused
from tests import sounds, tailored
from tests.tunes import RATE, tune


def piece(start_s, stop_s):
    return Piece(round(start_s * RATE), round(stop_s * RATE), round(stop_s * RATE) - round(start_s * RATE))


def sound_of(cut, sound, start_n=0, stop_n=None):
    read = of_recording(cut, tailored.source_of(sound))
    return assembled(cut, read, start_n, cut.length_n if stop_n is None else stop_n, sound.shape[1])


@pytest.mark.parametrize(("likeness", "middle"), [(1.0, 0.5), (0.0, 0.7071), (0.5, 0.57735), (-0.6, 0.7071)])
def test_gains_of_a_fold_are_equal_gain_for_like_sounds_and_equal_power_for_unlike_ones(likeness, middle):
    """Common practice; at the middle of the crossfade both sides count alike."""
    out, into = fold_gains(likeness, 0, FADE_N)
    assert out[HALF_N] == pytest.approx(middle, abs=2e-3)
    assert into == pytest.approx(out[::-1], abs=1e-6)
    r = max(likeness, 0.0)
    assert out**2 + into**2 + 2 * r * out * into == pytest.approx(np.ones(FADE_N), abs=1e-5)


def test_outside_the_crossfades_the_samples_are_those_of_the_recording():
    sound = sounds.noise(seconds=12, channels=2)
    cut = Cut((piece(0, 4), piece(7, 10), piece(5, 12)), (0.2, 0.9))
    found = sound_of(cut, sound)
    assert len(found) == 14 * RATE
    for at_n, (first, last) in zip(cut.starts_n, ((0, 4), (7, 10), (5, 12)), strict=True):
        inner = slice(first * RATE + HALF_N, last * RATE - HALF_N)
        assert np.array_equal(found[at_n + HALF_N :][: inner.stop - inner.start], sound[inner])
    assert np.array_equal(found[: 4 * RATE - HALF_N], sound[: 4 * RATE - HALF_N])
    assert np.array_equal(found[7 * RATE + HALF_N :], sound[5 * RATE + HALF_N :])


def test_any_window_is_part_of_the_whole():
    sound = sounds.noise(seconds=12)
    cut = Cut((piece(0, 4), piece(7, 10), piece(5, 12)), (0.2, 0.9))
    whole = sound_of(cut, sound)
    random = np.random.default_rng(1)
    edges = np.sort(random.integers(0, len(whole), 40))
    edges = np.unique(np.concatenate((edges, [4 * RATE - 5, 4 * RATE + 5, 4 * RATE + HALF_N])))
    for start, stop in pairwise(edges):
        assert np.array_equal(sound_of(cut, sound, int(start), int(stop)), whole[start:stop])


@pytest.mark.parametrize("late_n", [0, 1, 7, 500, 1100, -1, -900])
def test_a_fold_is_set_to_the_sample_where_both_sides_are_the_same(late_n):
    """A second of noise said twice, 3 s apart; the place that follows was guessed some samples off."""
    sound = np.concatenate([sounds.noise(seconds=3, seed=4)] * 3)
    place, likeness = seam(tailored.source_of(sound), 2 * RATE, 5 * RATE + late_n)
    assert place == 5 * RATE
    assert likeness == pytest.approx(1.0, abs=1e-5)


def test_in_silence_a_fold_stays_where_it_is():
    assert seam(tailored.source_of(np.zeros((9 * RATE, 1), np.float32)), 2 * RATE, 5 * RATE) == (5 * RATE, 0.0)


def test_unlike_sounds_are_folded_near_where_it_was_asked():
    sound = sounds.noise(seconds=9)
    place, likeness = seam(tailored.source_of(sound), 2 * RATE, 5 * RATE)
    assert abs(place - 5 * RATE) <= seams.SEARCH_N
    assert abs(likeness) < 0.3


@pytest.mark.parametrize("wished_s", [24, 40, 56, 88])
def test_tailored_music_equals_the_music_with_its_bars_laid_by_hand(wished_s):
    """A fold joins bars that were made alike: what is heard is the recording's own loop."""
    made = tune("AAAAAAAA", bpm=120)
    grid = grid_of(tailored.heard(made.sound))
    found = solutions(grid, Wish(wished_s * RATE), tailored.source_of(made.sound))[0]
    cut = found.cut
    section_n = len(made.sound) // 8
    assert all((left - right) % section_n == 0 for _, left, right in cut.folds)
    by_hand = np.resize(made.sound[:section_n], (cut.length_n, 1))
    assert np.abs(sound_of(cut, made.sound) - by_hand).max() < 1e-4


@pytest.mark.parametrize("meter", [3, 4])
@pytest.mark.parametrize("wished_s", [25, 41.3, 90])
def test_folds_are_whole_bars_apart_and_near_the_beat(wished_s, meter):
    made = tune("VABAAVBA", bpm=104, meter=meter)
    found = solutions(
        grid_of(tailored.heard(made.sound)), Wish(round(wished_s * RATE)), tailored.source_of(made.sound)
    )[0]
    bar_n = made.bars_n[1]
    assert found.cut.folds
    for _, left, right in found.cut.folds:
        assert (left - right) / bar_n == pytest.approx(round((left - right) / bar_n), abs=0.02)
        assert np.abs(made.beats_n - left).min() < 0.040 * RATE
    assert abs(found.cut.length_n - wished_s * RATE) <= bar_n * 0.55
    assert np.mean(found.fits) <= 6
    assert found.worst <= 20


@pytest.mark.parametrize("wished_s", [20.0, 33.333, 61.07, 100.0])
@pytest.mark.parametrize("how", [{"exact": True}, {"keep_end": False}], ids=["exact", "fade out"])
def test_lengths_that_are_promised_are_kept_to_the_sample(wished_s, how):
    made = tune("VABAAVBA", bpm=104)
    wish = Wish(round(wished_s * RATE), **how)
    for each in solutions(grid_of(tailored.heard(made.sound)), wish, tailored.source_of(made.sound)):
        assert each.cut.length_n == wish.length_n
        assert all(abs(part.rate - 1) <= 0.0101 for part in each.cut.pieces)


@pytest.mark.parametrize(
    ("lengths", "wished", "found"),
    [
        ((50, 30), 80, (50, 30)),
        ((50, 30), 80.4, (50.4, 30)),
        ((50, 30), 79.6, (49.6, 30)),
        ((50, 30), 80.7, (50.4375, 30.2625)),
    ],
)
def test_the_longest_pieces_take_up_the_rest(lengths, wished, found):
    pieces = [piece(0, length) for length in lengths]
    made = exactly(pieces, round(wished * RATE))
    assert [each.length_n / RATE for each in made] == pytest.approx(found, abs=1e-4)
    assert sum(each.length_n for each in made) == round(wished * RATE)


def test_more_than_one_per_cent_of_speed_is_refused():
    with pytest.raises(Refused, match="more than 1 % of speed"):
        exactly([piece(0, 50), piece(0, 30)], 81 * RATE)


@pytest.mark.parametrize(
    ("source_s", "near_s", "heard_s"),
    [(1, 0, 1), (3.5, 0, 3.5), (4.5, 0, None), (8, 0, 5), (8, 9, 10), (6, 0, 8), (12, 0, None)],
)
def test_where_a_place_of_the_recording_is_heard(source_s, near_s, heard_s):
    cut = Cut((piece(0, 4), piece(7, 10), piece(5, 12)), (0.2, 0.9))
    found = cut.heard_at(round(source_s * RATE), near_n=near_s * RATE)
    assert found == (None if heard_s is None else heard_s * RATE)


@pytest.mark.parametrize(("at_s", "played_s"), [(0, 0), (4, 7), (6.5, 9.5), (7, 5), (20, 18), (-1, -1)])
def test_which_place_is_heard_at_a_time(at_s, played_s):
    cut = Cut((piece(0, 4), piece(7, 10), piece(5, 12)), (0.2, 0.9))
    assert cut.played_at(round(at_s * RATE)) == played_s * RATE


@pytest.mark.parametrize(
    "bad",
    [
        lambda: Piece(5, 5, 5),
        lambda: Piece(0, 10, 9),
        lambda: Piece(0, 10, 10, Speed.SPEED),
        lambda: Cut(()),
        lambda: Cut((Piece(0, 10, 10),), (0.5,)),
        lambda: stretched(100, 201),
        lambda: stretched(100, 49),
    ],
)
def test_bad_pieces_are_refused(bad):
    with pytest.raises(InvalidValue):
        bad()
