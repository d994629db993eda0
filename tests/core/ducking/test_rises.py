"""Rises that end on the beat: which beat is taken, and when none is."""

import numpy as np
import pytest

from jaylantern.core.ducking.dips import Dip
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.rises import on_the_beat
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

RATE = 48_000


def dip(rise_n=1000, up_n=2000, from_n=0):
    return Dip(from_n, from_n + 100, rise_n, up_n, -12.0)


@pytest.mark.parametrize(
    ("beats", "rise_n", "up_n"),
    [
        ([2000], 1000, 2000),  # already there
        ([1800], 1000, 1800),  # earlier: a shorter release
        ([1500], 1000, 1500),  # by half at most
        ([1499], 1000, 2000),  # not by more
        ([2300], 1300, 2300),  # later: a longer hold
        ([3000], 2000, 3000),  # by a release at most
        ([3001], 1000, 2000),  # not by more
        ([1700, 2250], 1250, 2250),  # the nearer one
        ([1800, 2250], 1000, 1800),
        ([500, 9000], 1000, 2000),
        ([], 1000, 2000),
    ],
)
def test_the_nearest_beat_within_what_hold_and_release_allow(beats, rise_n, up_n):
    (found,) = on_the_beat([dip()], np.array(beats, np.int64))
    assert (found.rise_n, found.up_n) == (rise_n, up_n)
    assert (found.from_n, found.down_n, found.amount_db) == (0, 100, -12.0)


@pytest.mark.parametrize(("next_n", "up_n"), [(2600, 2500), (2500, 2500), (2400, 2000)])
def test_a_rise_does_not_meet_the_next_dip(next_n, up_n):
    found = on_the_beat([dip(), dip(next_n + 1000, next_n + 2000, from_n=next_n)], np.array([2500]))
    assert found[0].up_n == up_n


@pytest.mark.parametrize(("rise_on", "grid"), [("anywhere", None), ("beat", 0.5), ("bar", 2.0)])
def test_the_plan_puts_rises_on_the_musics_own_grid(rise_on, grid):
    """Beats each half second of the medium, which begins 0.2 s into the timeline; a bar has four."""
    talk, music = media(1, 40), media(2, 40)
    film = project(
        lane(1, Tag.DIALOGUE, clip(1, talk)),
        lane(2, Tag.MUSIC, clip(2, music, start_s=0.2)),
        rise_on=rise_on,
        release_ms=2000,
        last_release_ms=2000,
    )
    speech = {1: np.array([(5 * RATE, 7 * RATE), (20 * RATE, 23 * RATE)])}
    every = {"beat": RATE // 2, "bar": 2 * RATE, "anywhere": RATE}[rise_on]

    def beats(media_id):
        return np.arange(0, 40 * RATE, every) if media_id == 2 else np.zeros(0, np.int64)

    plan = make_plan(film, Sounding(speech), beats)
    ends = plan.leading.time_n[3::4]
    assert [each.up_n for each in plan.dips] == ends.tolist()
    off_s = (ends / RATE - 0.2) % grid if grid else (ends / RATE - 7.65) % 1
    if grid:
        assert off_s == pytest.approx([0, 0], abs=1e-6)
    else:
        assert ends.tolist() == [round(each * RATE) for each in (9.65, 25.65)]
    shortest = (ends - plan.leading.time_n[2::4]).min()
    assert shortest >= RATE  # half of the release at least


def test_music_whose_beats_are_not_known_rises_as_ever():
    talk, music = media(1, 40), media(2, 40)
    film = project(lane(1, Tag.DIALOGUE, clip(1, talk)), lane(2, Tag.MUSIC, clip(2, music)), rise_on="beat")
    speech = Sounding({1: np.array([(5 * RATE, 7 * RATE)])})
    usual = make_plan(project(*film.lanes), speech)
    assert make_plan(film, speech).dips == usual.dips
