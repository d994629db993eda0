"""Music that lasts until the picture ends: where it is seen no more, though the film's sound goes on."""

from __future__ import annotations

import pytest

from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.edit.tailored_clips import end_of
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Until
from tests.build import clip, lane, media, project

FILM, BED = media(1, 40, "film.mp4", has_picture=True), media(2, 100, "bed.wav")


@pytest.mark.parametrize(
    ("shown", "seen_s", "end_s"),
    [
        ({}, 34, 34),
        ({}, 0, 40),  # not known: all of the clip
        ({"start_s": 5}, 34, 39),
        ({"offset_s": 10}, 34, 24),
        ({"length_s": 20}, 34, 20),  # cut before its picture ends
        ({"offset_s": 36}, 34, 4),  # it shows nothing, which is over when it begins: Refused below a second
    ],
)
def test_where_the_picture_ends(shown, seen_s, end_s):
    film = Lane(1, "Film", LaneKind.PICTURE, Tag.UNTAGGED, clips=(clip(1, FILM, **shown),))
    bed = clip(2, BED)
    made = project(film, lane(2, Tag.MUSIC, bed))
    plan = make_plan(made, Sounding({}))
    if shown.get("offset_s", 0) > seen_s:
        with pytest.raises(Exception, match="less than a second"):
            end_of(made, bed, Until.PICTURE, plan, lambda of: seen_s * RATE)
        return
    assert end_of(made, bed, Until.PICTURE, plan, lambda of: seen_s * RATE) == end_s * RATE
