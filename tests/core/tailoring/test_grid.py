import numpy as np
import pytest

from jaylantern.core.tailoring import bars, likeness
from jaylantern.core.tailoring.grid import AHEAD_S, FREE_STEP_S, grid_of
from tests import sounds, tailored
from tests.tunes import RATE, tune


@pytest.mark.parametrize(("sections", "drums"), [("AABA", True), ("VABA", False)])
@pytest.mark.parametrize(("bpm", "meter"), [(84, 3), (110, 3), (128, 3), (84, 4), (110, 4), (128, 4)])
def test_bars_are_found(bpm, meter, sections, drums):
    made = tune(sections, bpm=bpm, meter=meter, drums=drums)
    grid = grid_of(tailored.heard(made.sound))
    assert grid.bar == meter
    off_s = np.abs(grid.bars_n[:, None] - made.bars_n).min(axis=1) / RATE
    assert off_s.max() < 0.05


def test_folds_lie_just_ahead_of_the_beats():
    grid = grid_of(tailored.heard(tune("AA", bpm=100).sound))
    assert (grid.beats_n - grid.places_n) / RATE == pytest.approx(AHEAD_S, abs=1e-4)


def test_music_at_one_tempo_is_steady_and_music_that_speeds_up_is_not():
    assert grid_of(tailored.heard(tune("AABA", bpm=110).sound)).steady
    assert not grid_of(tailored.heard(tune("AABA", bpm=96, until_bpm=120).sound)).steady


def test_music_without_a_beat_has_places_all_the_same():
    grid = grid_of(tailored.heard(sounds.noise(seconds=20)))
    assert grid.free
    assert grid.bar == 1
    assert np.diff(grid.places_n) / RATE == pytest.approx(FREE_STEP_S, abs=1e-4)


@pytest.mark.parametrize("samples", [1, 480, 24_000])
def test_a_sound_too_short_has_no_places(samples):
    assert not len(grid_of(tailored.heard(sounds.noise(seconds=samples / RATE))).places_n)


def test_a_repeat_fits_best_and_an_unlike_place_does_not():
    """AABA: the second A is the first again, four bars of four beats later."""
    grid = grid_of(tailored.heard(tune("AABA", bpm=110).sound))
    again = [grid.fit[i, i + 16] for i in range(8, 12)]
    unlike = [grid.fit[i, i + 22] for i in range(8, 12)]
    assert max(again) < 3
    assert min(unlike) > 12


def test_fits_are_the_share_of_folds_that_cost_less():
    """Six beats; what every fold costs is given, those next to each other count as none."""
    cost = np.arange(36, dtype=np.float32).reshape(6, 6)
    fit = likeness.fits(cost, least=2)
    every = sorted(cost[i, j] for i in range(6) for j in range(6) if abs(i - j) >= 2)
    assert fit[0, 2] == 0
    assert fit[5, 0] == pytest.approx(100 * sum(each < cost[5, 0] for each in every) / len(every))


def test_the_cost_of_a_fold_weighs_what_is_near_it_most():
    distance = np.zeros((40, 40), np.float32)
    distance[20, 30] = 1.0
    cost = likeness.costs(distance)
    assert cost[20, 30] > 5 * cost[14, 24] > 0
    assert cost[21, 31] == pytest.approx(likeness.BEFORE * cost[20, 30])  # what was before the fold counts less
    assert cost[20, 29] == 0


@pytest.mark.parametrize("level_db", [0.0, -20.0, -35.0])
def test_quiet_music_is_told_apart_as_well_as_loud(level_db):
    """Two sections of soft noise, 10 dB apart, in a piece whose end is louder: by how much they lie under it says
    nothing."""
    noise = sounds.noise(seconds=30)[:, 0] * 10 ** (-30 / 20)
    gains = np.repeat([level_db, level_db - 10, level_db, 0.0], len(noise) // 4 + 1)[: len(noise)]
    heard = tailored.heard((noise * 10 ** (gains / 20))[:, None].astype(np.float32))
    distance = likeness.distances(heard, np.arange(0.0, 30.0, 0.5))
    soft, softer, soft_again = 5, 20, 35
    assert distance[soft, soft_again] < 0.25 * distance[soft, softer]


@pytest.mark.parametrize(("meter", "lag"), [(3, 3), (4, 4)])
def test_a_bar_is_what_comes_back(meter, lag):
    kinds = np.arange(48) % lag
    distance = (kinds[:, None] != kinds).astype(np.float32)
    assert bars.beats_in_a_bar(distance) == meter
