"""What a lane is called by what its clips are, and when accepting suggestions tags the lane."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.ducking.pecking_order import Role, order_of
from jaylantern.core.edit.clip_sound import gathered
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

SOUND, SILENT = media(1, 5), media(2, 5, has_sound=False)
D, M, U = Tag.DIALOGUE, Tag.MUSIC, Tag.UNTAGGED


def made(lane_tag, *tags, silent=0):
    """A lane whose clips have these tags of their own, and so many clips without sound."""
    clips = [replace(clip(i, SOUND, start_s=10 * i), tag=tag) for i, tag in enumerate(tags, 1)]
    clips += [clip(50 + i, SILENT, start_s=500 + 10 * i) for i in range(silent)]
    return lane(9, lane_tag, *clips)


@pytest.mark.parametrize(
    ("found", "common", "main"),
    [
        (made(U), U, U),
        (made(D), D, D),
        (made(U, D, D), D, D),
        (made(U, D, None), None, U),
        (made(D, None, None), D, D),
        (made(D, None, M), None, D),
        (made(U, M, silent=2), M, M),
        (made(M, silent=1), M, M),
    ],
)
def test_what_a_lane_is_called(found, common, main):
    assert (found.common_tag, found.main_tag) == (common, main)


@pytest.mark.parametrize(
    ("before", "ids", "lane_tag", "own"),
    [
        (made(U, D, D), {1, 2}, D, [None, None]),  # all of it: the lane
        (made(U, D, D), {1}, D, [None, None]),  # the last one that was missing
        (made(U, D, None), {1}, U, [D, None]),  # not all
        (made(U, D, M), {1, 2}, U, [D, M]),  # not alike
        (made(U, D, D), {7}, U, [D, D]),  # another lane was meant
        (made(U, M, silent=1), {1}, M, [None, None]),  # what is silent is not asked
    ],
)
def test_what_all_clips_of_a_lane_are_the_lane_becomes(before, ids, lane_tag, own):
    (after,) = gathered(project(before), ids).lanes
    assert (after.tag, [each.tag for each in after.clips]) == (lane_tag, own)
    tags = [before.tag_of(each) for each in before.clips if each.media.has_sound]
    assert [after.tag_of(each) for each in after.clips if each.media.has_sound] == tags  # nothing sounds otherwise


def test_a_perch_of_its_own_is_that_of_what_its_clips_are():
    """An untagged lane whose clips are dialogue, raised: music gives way to it as to dialogue."""
    talk, bed = made(U, D), lane(3, M, clip(80, SOUND))
    found = replace(project(talk, bed), perches=(perch_of_lane(9), D, M))
    order = order_of(found)
    assert order.role(talk, talk.clips[0]) is Role.KEY
    assert order.above[M][perch_of_lane(9)].amount_db == order.above[M][D].amount_db < 0
