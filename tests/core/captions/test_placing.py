"""Where captions stand: tied when they come, moved by every cut, whole again when the cut is taken back."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

import numpy as np
import pytest

from jaylantern.core.captions import placing
from jaylantern.core.edit import captions as edit
from jaylantern.core.edit import cutting, moving
from jaylantern.core.edit.relinking import relink
from jaylantern.core.timeline.captions import CaptionForm, Part
from jaylantern.core.timeline.imported import stand_in
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.tag import Tag
from tests.build import RATE, clip, lane, media, project

SPANS_S = [(1.0, 2.0), (4.5, 5.5), (8.0, 9.0), (13.0, 14.0)]  # the last beyond the film


def film(*, talk: bool = True):
    """Ten seconds of picture, talk from 0 to 12 s."""
    picture = Lane(1, "Picture", LaneKind.PICTURE, Tag.UNTAGGED, clips=(
        clip(1, media(1, 60, "film.mp4", has_picture=True, has_sound=False), length_s=10, offset_s=20),))  # fmt: skip
    return project(picture, *([lane(2, Tag.DIALOGUE, clip(2, media(2, 60), length_s=12))] if talk else []))


def captioned(made, spans_s=SPANS_S):
    cues = [(round(a * RATE), round(b * RATE), f"cue {i}", "") for i, (a, b) in enumerate(spans_s)]
    return edit.add(made, count(100).__next__, name="film.srt", form=CaptionForm.SRT, cues=cues)


def seen(made) -> list[tuple[float, float, int]]:
    """Cues on the timeline: begin and end in seconds, which one."""
    return [(each.start_n / RATE, each.stop_n / RATE, each.index) for each in placing.shown(made, made.captions[0])]


new_id = count(500).__next__


def split(made, at_s: float):
    return cutting.split(made, new_id, clip_ids=[c.id for _, c in made.placed()], at_n=round(at_s * RATE))


def test_captions_are_where_they_were_brought_in_and_tied_to_what_is_under_them():
    made = captioned(film())
    assert seen(made) == [(*span, i) for i, span in enumerate(SPANS_S)]
    parts = [cue.parts for cue in made.captions[0].cues]
    assert parts[0] == (Part(1, 21 * RATE, 22 * RATE),)  # the picture's own time
    assert parts[3] == (Part(0, 13 * RATE, 14 * RATE),)  # nothing is there: the timeline's
    assert placing.loose(made.captions[0]) == 1


def test_where_there_is_no_picture_they_are_tied_to_the_talk():
    made = film()
    made = captioned(replace(made, lanes=made.lanes[1:]))
    assert [cue.parts[0].root for cue in made.captions[0].cues] == [2, 2, 2, 0]


def test_a_cue_over_the_end_of_the_picture_is_tied_to_the_talk_behind_it():
    made = captioned(film(), [(9.5, 11.0)])
    assert made.captions[0].cues[0].parts == (
        Part(1, round(29.5 * RATE), 30 * RATE),
        Part(2, 10 * RATE, 11 * RATE),
    )
    assert seen(made) == [(9.5, 11.0, 0)]  # and still one


def test_the_picture_moved_takes_them_along():
    made = captioned(film(talk=False))
    made = moving.move(made, clip_ids=[1], by_n=3 * RATE)
    assert seen(made) == [(4.0, 5.0, 0), (7.5, 8.5, 1), (11.0, 12.0, 2), (13.0, 14.0, 3)]


def test_a_split_alone_changes_nothing():
    made = captioned(film())
    assert seen(split(split(made, 5.0), 1.3)) == seen(made)


def test_what_is_cut_out_takes_its_captions_and_the_rest_moves_up():
    made = captioned(film(talk=False))
    cut = cutting.cut_out(made, new_id, spans=np.array([[1.5, 4.7]]).__mul__(RATE).astype(np.int64))
    # some of a cue is left on both sides of the cut; they touch now, but are two cues; the last is tied to nothing
    assert seen(cut) == [(1.0, 1.5, 0), (1.5, 2.3, 1), (4.8, 5.8, 2), (9.8, 10.8, 3)]


def test_what_is_tied_to_nothing_closes_up_and_what_stood_in_the_gap_is_gone():
    made = captioned(film(talk=False), [(11, 12), (12.5, 13.5), (14, 15)])
    cut = cutting.cut_out(made, new_id, spans=np.array([[11 * RATE, 13 * RATE]]))
    assert seen(cut) == [(11.0, 11.5, 1), (12.0, 13.0, 2)]


def test_a_cue_cut_in_two_stands_with_both_pieces_and_slivers_are_not_shown():
    made = split(captioned(film(talk=False)), 5.0)
    behind = [c.id for _, c in made.placed() if c.start_n == 5 * RATE]
    apart = moving.move(made, clip_ids=behind, by_n=2 * RATE)
    assert seen(apart)[1:3] == [(4.5, 5.0, 1), (7.0, 7.5, 1)]
    made = split(captioned(film(talk=False)), 5.4)  # a tenth of a second is left behind it
    behind = [c.id for _, c in made.placed() if c.start_n == round(5.4 * RATE)]
    apart = moving.move(made, clip_ids=behind, by_n=2 * RATE)
    assert seen(apart)[1] == (4.5, 5.4, 1)
    assert [index for _, _, index in seen(apart)] == [0, 1, 2, 3]


def test_a_cue_that_is_short_from_the_beginning_is_shown():
    assert seen(captioned(film(), [(1.0, 1.1)])) == [(1.0, 1.1, 0)]


@pytest.mark.parametrize(("gap_s", "pieces"), [(0.0, 1), (0.04, 1), (0.05, 2)])
def test_pieces_that_almost_touch_are_one(gap_s, pieces):
    """A 25th of a second, a frame: nobody sees a caption go for it. From memory."""
    made = split(captioned(film(talk=False), [(4.0, 6.0)]), 5.0)
    behind = [c.id for _, c in made.placed() if c.start_n == 5 * RATE]
    assert len(seen(moving.move(made, clip_ids=behind, by_n=round(gap_s * RATE)))) == pieces


def test_captions_of_a_clip_that_is_gone_are_not_shown_and_not_lost():
    made = captioned(film(talk=False))
    gone = replace(made, lanes=(replace(made.lanes[0], clips=()),))
    assert seen(gone) == [(13.0, 14.0, 3)]
    assert seen(replace(gone, lanes=made.lanes)) == seen(made)


def test_moved_ones_are_tied_anew_and_hidden_ones_move_in_their_own_time():
    made = captioned(film(talk=False))
    trimmed = replace(made, lanes=(replace(made.lanes[0], clips=(
        clip(1, made.lanes[0].clips[0].media, length_s=5, offset_s=20),)),))  # fmt: skip
    moved = edit.put(trimmed, placing.moved(trimmed, trimmed.captions[0], 2 * RATE))
    assert seen(moved) == [(3.0, 4.0, 0), (15.0, 16.0, 3)]  # the second is cut at 5 s, and its rest moved out
    assert seen(replace(moved, lanes=made.lanes)) == [(3.0, 4.0, 0), (6.5, 7.5, 1), (15.0, 16.0, 3)]
    back = edit.put(moved, placing.moved(moved, moved.captions[0], -2 * RATE))
    assert seen(replace(back, lanes=made.lanes)) == seen(made)


@pytest.mark.parametrize(("by_s", "first"), [(-1.5, (0.0, 0.5, 0)), (-3.0, (1.5, 2.5, 1))])
def test_moved_before_the_beginning_they_are_not_seen_and_come_back_whole(by_s, first):
    made = captioned(film())
    before = edit.put(made, placing.moved(made, made.captions[0], round(by_s * RATE)))
    assert seen(before)[0] == first
    back = edit.put(before, placing.moved(before, before.captions[0], round(-by_s * RATE)))
    assert seen(back) == seen(made)


def test_tied_anew_they_follow_a_picture_that_came_later():
    made = film(talk=False)
    first = captioned(replace(made, lanes=()))
    assert placing.loose(first.captions[0]) == 4
    late = replace(first, lanes=made.lanes)
    tied = edit.put(late, placing.tied_anew(late, late.captions[0]))
    assert placing.loose(tied.captions[0]) == 1
    assert seen(tied) == seen(first)
    assert seen(moving.move(tied, clip_ids=[1], by_n=RATE))[0] == (2.0, 3.0, 0)


def test_a_picture_that_comes_later_takes_what_is_tied_to_nothing():
    made = film(talk=False)
    first = captioned(replace(made, lanes=()))
    late = placing.tied_where_loose(replace(first, lanes=made.lanes))
    assert [cue.parts[0].root for cue in late.captions[0].cues] == [1, 1, 1, 0]
    assert seen(late) == seen(first)
    assert placing.tied_where_loose(late).captions == late.captions  # nothing is left to be done
    talking = captioned(replace(film(), lanes=film().lanes[1:]))  # what is tied to talk stays so
    assert placing.tied_where_loose(replace(talking, lanes=film().lanes)).captions[0].cues[0].parts[0].root == 2


def test_they_go_along_when_a_missing_film_is_found_whose_time_counts_from_an_hour():
    hour_n = 3600 * RATE
    gone = stand_in(9, "Reel.mov", hour_n + 100 * RATE)
    made = captioned(project(lane(1, Tag.DIALOGUE, clip(1, gone, offset_s=3602, length_s=10))), [(1.0, 2.0)])
    after = relink(made, missing_id=9, found=media(3, 60), origins=[hour_n]).project
    assert seen(after) == seen(made) == [(1.0, 2.0, 0)]


def test_where_any_stand_is_the_union_of_all():
    made = captioned(captioned(film(), [(1.0, 2.0), (5.0, 6.0)]), [(1.5, 3.0)])
    assert (placing.covered(placing.all_stretches(made)) / RATE).tolist() == [[1.0, 3.0], [5.0, 6.0]]
    assert placing.covered(placing.all_stretches(film())).shape == (0, 2)
