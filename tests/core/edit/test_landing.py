"""How files land: beside what is there, pushing along, over it."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

import pytest

from jaylantern.core.edit import landing
from jaylantern.core.edit.landing import Landing, land, lanes_for
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

OLD, NEW = media(1, 10, "old.wav"), media(2, 4, "new.wav")
FILM = media(3, 4, "film.mp4", has_picture=True)


def ids():
    numbers = count(100)
    return lambda: next(numbers)


def lying(found):
    return [(c.media.id, c.start_n / RATE, c.stop_n / RATE, c.offset_n / RATE) for c in found.clips]


def landed(how, at_s, *, lanes=None):
    made = lanes or project(
        lane(1, Tag.DIALOGUE, clip(1, OLD), clip(2, OLD, start_s=10)), lane(2, Tag.MUSIC, clip(3, OLD))
    )
    after = land(made, ids(), media=NEW, name="new.wav", at_n=round(at_s * RATE), how=how, lane_ids=(1,))
    return after, landing.landed(made, after, NEW)


TABLE = [
    (Landing.INSERT, 3, [(1, 0, 3, 0), (2, 3, 7, 0), (1, 7, 14, 3), (1, 14, 24, 0)]),
    (Landing.INSERT, 10, [(1, 0, 10, 0), (2, 10, 14, 0), (1, 14, 24, 0)]),
    (Landing.INSERT, 25, [(1, 0, 10, 0), (1, 10, 20, 0), (2, 25, 29, 0)]),
    (Landing.OVERWRITE, 3, [(1, 0, 3, 0), (2, 3, 7, 0), (1, 7, 10, 7), (1, 10, 20, 0)]),
    (Landing.OVERWRITE, 8, [(1, 0, 8, 0), (2, 8, 12, 0), (1, 12, 20, 2)]),
    (Landing.OWN, 20, [(1, 0, 10, 0), (1, 10, 20, 0), (2, 20, 24, 0)]),
]


@pytest.mark.parametrize(("how", "at_s", "expected"), TABLE)
def test_what_becomes_of_the_lane(how, at_s, expected):
    after, place = landed(how, at_s)
    assert lying(after.lanes[0]) == expected
    assert lying(after.lanes[1]) == [(1, 0, 10, 0)]  # other lanes stay
    assert (place.lane_ids, place.stop_n) == ((1,), round((at_s + 4) * RATE))


def test_where_there_is_no_room_it_gets_a_lane_of_its_own():
    after, place = landed(Landing.OWN, 5)
    assert len(after.lanes) == 3
    assert lying(after.lanes[0]) == [(1, 0, 10, 0), (1, 10, 20, 0)]
    assert place.lane_ids == (after.lanes[2].id,)


def test_a_film_lands_on_both_its_lanes_and_stays_linked():
    picture = replace(lane(1, Tag.UNTAGGED, clip(1, FILM, link=9)), kind=LaneKind.PICTURE)
    made = project(picture, lane(2, Tag.DIALOGUE, clip(2, OLD)), lane(3, Tag.ATMOSPHERE, clip(3, FILM, link=9)))
    assert set(lanes_for(made, FILM, None)) == {1, 3}
    after = land(made, ids(), media=FILM, name="f", at_n=2 * RATE, how=Landing.INSERT, lane_ids=(1, 3))
    place = landing.landed(made, after, FILM)
    assert lying(after.lanes[0]) == lying(after.lanes[2]) == [(3, 0, 2, 0), (3, 2, 6, 0), (3, 6, 8, 2)]
    assert lying(after.lanes[1]) == [(1, 0, 10, 0)]
    fresh = [next(c for c in after.lanes[i].clips if c.start_n == 2 * RATE) for i in (0, 2)]
    assert fresh[0].link == fresh[1].link not in (None, 9)
    assert set(place.lane_ids) == {1, 3}


def test_what_is_linked_to_what_moves_along_moves_too():
    picture = replace(lane(1, Tag.UNTAGGED, clip(1, FILM, start_s=6, link=9)), kind=LaneKind.PICTURE)
    made = project(picture, lane(2, Tag.DIALOGUE, clip(2, FILM, start_s=6, link=9)))
    after = land(made, ids(), media=NEW, name="n", at_n=RATE, how=Landing.INSERT, lane_ids=(2,))
    assert lying(after.lanes[0]) == [(3, 10, 14, 0)]


MOVES = [  # the second clip of lane 1, from 10 to 20 s: how, by how many seconds, what lies on the lane then
    (Landing.OVERWRITE, -4, [(1, 0, 6, 0), (1, 6, 16, 0)]),
    (Landing.OVERWRITE, -10, [(1, 0, 10, 0)]),  # the first is gone under it
    (Landing.OVERWRITE, 5, [(1, 0, 10, 0), (1, 15, 25, 0)]),
    (Landing.INSERT, -6, [(1, 0, 4, 0), (1, 4, 14, 0), (1, 14, 20, 4)]),
    (Landing.INSERT, -10, [(1, 0, 10, 0), (1, 10, 20, 0)]),  # they have changed places
    (Landing.OWN, 5, [(1, 0, 10, 0), (1, 15, 25, 0)]),
]


@pytest.mark.parametrize(("how", "by_s", "expected"), MOVES)
def test_a_clip_that_is_moved_is_laid_over_or_inserted(how, by_s, expected):
    made = project(lane(1, Tag.DIALOGUE, clip(1, OLD), clip(2, OLD, start_s=10)), lane(2, Tag.MUSIC, clip(3, OLD)))
    after = landing.move_onto(made, ids(), clip_ids=[2], by_n=by_s * RATE, how=how)
    assert lying(after.lanes[0]) == expected
    assert lying(after.lanes[1]) == [(1, 0, 10, 0)]
    assert any(each.id == 2 for each in after.lanes[0].clips)
