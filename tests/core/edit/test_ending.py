"""Where a film ends, what is cut off then, and what is said of it before."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.edit.ending import Ending, consequence, ended, ends_of, span
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from tests.build import clip, lane, media, project

FILM = media(1, 120, "film.mp4", has_picture=True)
BED = media(2, 135, "bed.wav")
TALK = media(3, 30, "talk.wav")


def film(*, bed_s: float = 135, talk_at_s: float = 10):
    picture = replace(lane(1, Tag.UNTAGGED, clip(1, FILM)), kind=LaneKind.PICTURE)
    return project(
        picture,
        lane(2, Tag.DIALOGUE, clip(3, TALK, start_s=talk_at_s)),
        lane(3, Tag.MUSIC, clip(2, BED, length_s=bed_s)),
    )


@pytest.mark.parametrize(
    ("ending", "stop_s"), [(Ending.PICTURE, 120), (Ending.HELD, 135), (Ending.BLACK, 135), (Ending.RANGE, 90)]
)
def test_where_a_film_ends(ending, stop_s):
    made = replace(film(), in_n=30 * RATE, out_n=90 * RATE)
    assert span(made, ending) == (30 * RATE if ending is Ending.RANGE else 0, stop_s * RATE)


def test_a_range_that_is_not_there_is_refused_with_the_remedy():
    with pytest.raises(Refused, match="Set the in point before the out point"):
        span(film(), Ending.RANGE)
    with pytest.raises(Refused, match="Bring in the film"):
        span(project(lane(3, Tag.MUSIC, clip(2, BED))), Ending.PICTURE)


def test_music_that_is_cut_off_fades_before_and_talk_does_not():
    after = ended(film(talk_at_s=100), 120 * RATE, 2 * RATE)
    (talk,), (bed,) = after.lanes[1].clips, after.lanes[2].clips
    assert (bed.stop_n, bed.fade_out.length_n) == (120 * RATE, 2 * RATE)
    assert (talk.stop_n, talk.fade_out.length_n) == (120 * RATE, RATE // 100)


def test_what_ends_before_is_left_as_it_is():
    made = film(bed_s=100)
    assert ended(made, 120 * RATE, 2 * RATE) == made


def test_what_begins_later_is_left_out_and_pictures_stay():
    after = ended(film(talk_at_s=125), 120 * RATE, 0)
    assert [len(each.clips) for each in after.lanes] == [1, 0, 1]
    assert after.lanes[0] == film().lanes[0]


@pytest.mark.parametrize(
    ("ending", "words"),
    [
        (
            Ending.PICTURE,
            "The film ends with its picture at 02:00.0: "
            "the last 15.0 s of bed.wav is cut off, faded out over 2 s before.",
        ),
        (Ending.HELD, "The film ends with the mix at 02:15.0; its last frame is held for 15.0 s."),
        (Ending.BLACK, "The film ends with the mix at 02:15.0; it is black for the last 15.0 s."),
        (Ending.RANGE, "There is no in and out point yet: set them under Lay out, Markers."),
    ],
)  # fmt: skip
def test_the_consequence_stands_in_words(ending, words):
    assert consequence(film(), ending, 2.0) == words


@pytest.mark.parametrize(
    ("bed_s", "words"),
    [
        (120, "Picture and mix both end at 02:00.0."),
        (110, "The film ends with its picture at 02:00.0; its last 10.0 s are silent."),
    ],
)
def test_a_mix_that_is_no_longer_is_said_too(bed_s, words):
    assert consequence(film(bed_s=bed_s), Ending.HELD, 2.0) == words


def test_a_muted_clip_does_not_make_the_mix_longer():
    made = film()
    quiet = replace(made.lanes[2], muted=True)
    assert ends_of(replace(made, lanes=(*made.lanes[:2], quiet))).mix_n == 40 * RATE
