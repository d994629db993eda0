"""Split, trim, slip, delete, ripple: on a film with linked sound, a narration in three pieces, and a bed."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

import numpy as np
import pytest

from jaylantern.core.edit import cutting, marks, pauses
from jaylantern.core.edit.cutting import Edge, Ripple
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound, Refused
from tests.build import clip, lane, media, project

FILM, TALK, BED = media(1, 60, "Film.mp4", has_picture=True), media(2, 30, "Talk.wav"), media(3, 60, "Bed.wav")


@pytest.fixture
def film():
    return project(
        Lane(10, "Picture", LaneKind.PICTURE, clips=(clip(1, FILM, link=5),)),
        lane(11, Tag.ATMOSPHERE, clip(2, FILM, link=5)),
        lane(
            12, Tag.DIALOGUE,
            clip(3, TALK, start_s=2, offset_s=1, length_s=4),
            clip(4, TALK, start_s=10, offset_s=8, length_s=5, tag=Tag.EFFECTS, gain_db=3.0, fade_in=Fade(RATE)),
            clip(5, TALK, start_s=20, offset_s=20, length_s=6),
        ),
        lane(13, Tag.MUSIC, clip(6, BED)),
    )  # fmt: skip


@pytest.fixture
def new_id():
    return count(100).__next__


def places(found, lane_id):
    """Start, media offset and length in seconds of a lane's clips."""
    (wanted,) = (each for each in found.lanes if each.id == lane_id)
    return [(c.start_n / RATE, c.offset_n / RATE, c.length_n / RATE) for c in wanted.clips]


def test_both_halves_of_a_split_keep_tag_and_gain_and_each_its_outer_fade(film, new_id):
    after = cutting.split(film, new_id, clip_ids=[4], at_n=12 * RATE)
    assert places(after, 12) == [(2, 1, 4), (10, 8, 2), (12, 10, 3), (20, 20, 6)]
    left, right = after.lanes[2].clips[1:3]
    assert (left.tag, right.tag, left.gain_db, right.gain_db) == (Tag.EFFECTS, Tag.EFFECTS, 3, 3)
    assert (left.fade_in.length_n, right.fade_in.length_n) == (RATE, 0)


def test_a_split_of_linked_clips_makes_two_linked_pairs(film, new_id):
    after = cutting.split(film, new_id, clip_ids=[1], at_n=7 * RATE)
    (left, right), (left_sound, right_sound) = after.lanes[0].clips, after.lanes[1].clips
    assert left.link == left_sound.link != right.link == right_sound.link


def test_a_split_of_all_lanes_cuts_what_lies_under_the_playhead(film, new_id):
    after = cutting.split(film, new_id, at_n=11 * RATE)
    assert [len(each.clips) for each in after.lanes] == [2, 2, 4, 2]


def test_a_split_where_nothing_lies_is_refused(film, new_id):
    with pytest.raises(Refused, match="Nothing to split"):
        cutting.split(film, new_id, clip_ids=[3], at_n=10 * RATE)


def test_a_trim_goes_as_far_as_the_media_reach_and_no_further(film):
    longer = cutting.trim(film, clip_ids=[3], edge=Edge.START, by_n=-9 * RATE)
    assert places(longer, 12)[0] == (1, 0, 5)
    with pytest.raises(Refused, match=r"Talk\.wav has nothing more before its start"):
        cutting.trim(longer, clip_ids=[3], edge=Edge.START, by_n=-1)
    shorter = cutting.trim(film, clip_ids=[5], edge=Edge.STOP, by_n=-100 * RATE)
    assert places(shorter, 12)[-1] == (20, 20, 0.01)
    with pytest.raises(Refused, match="can't be made any shorter"):
        cutting.trim(shorter, clip_ids=[5], edge=Edge.STOP, by_n=-5)


def test_a_trim_of_linked_clips_trims_both(film):
    after = cutting.trim(film, clip_ids=[2], edge=Edge.STOP, by_n=-10 * RATE)
    assert places(after, 10) == places(after, 11) == [(0, 0, 50)]


def test_a_slip_shows_other_media_in_the_same_place(film):
    assert places(cutting.slip(film, clip_ids=[4], by_n=2 * RATE), 12)[1] == (10, 10, 5)
    assert places(cutting.slip(film, clip_ids=[4], by_n=-100 * RATE), 12)[1] == (10, 0, 5)
    with pytest.raises(Refused, match="no more media after"):
        cutting.slip(film, clip_ids=[6], by_n=1)


def test_deleting_leaves_a_gap_unless_asked_to_close_it(film, new_id):
    assert places(cutting.delete(film, new_id, clip_ids=[4]), 12) == [(2, 1, 4), (20, 20, 6)]
    assert places(cutting.delete(film, new_id, clip_ids=[4], close=Ripple.LANE), 12) == [(2, 1, 4), (15, 20, 6)]


def test_closing_up_all_lanes_moves_what_begins_later_with_the_markers(film, new_id):
    marked = marks.add(marks.set_in(film, 30 * RATE), new_id, time_n=25 * RATE, name="Noon")
    late = replace(marked.lanes[3], clips=(clip(6, BED, start_s=18, length_s=9),))
    after = cutting.delete(replace(marked, lanes=(*marked.lanes[:3], late)), new_id, clip_ids=[4], close=Ripple.ALL)
    assert places(after, 13) == [(13, 0, 9)]
    assert places(after, 10) == [(0, 0, 60)]  # begins before: stays, uncut
    assert (after.markers[0].time_n, after.in_n) == (20 * RATE, 25 * RATE)


CUTS = [  # a stretch of picture from 10 to 20 s goes: what is on another lane then, (start, offset, length) in s
    (Tag.DIALOGUE, (12, 3, 20), [(10, 11, 12)]),  # begins inside: what of it lay there goes, the rest keeps step
    (Tag.NARRATION, (12, 3, 20), [(10, 11, 12)]),
    (Tag.UNTAGGED, (12, 3, 20), [(10, 11, 12)]),
    (Tag.MUSIC, (12, 3, 20), [(10, 3, 20)]),  # music begins where all closes up, and is whole
    (Tag.ATMOSPHERE, (12, 3, 20), [(10, 3, 20)]),
    (Tag.DIALOGUE, (12, 3, 5), [(10, 3, 5)]),  # wholly inside: kept
    (Tag.DIALOGUE, (5, 0, 20), [(5, 0, 5), (10, 15, 5)]),  # reaches over it: cut as the picture is
    (Tag.EFFECTS, (5, 0, 20), [(5, 0, 5), (10, 15, 5)]),
    (Tag.MUSIC, (5, 0, 20), [(5, 0, 20)]),
    (Tag.DIALOGUE, (5, 0, 10), [(5, 0, 10)]),  # ends in it: nothing after it has to keep step
    (Tag.DIALOGUE, (20, 0, 9), [(10, 0, 9)]),  # begins with what comes later
    (Tag.DIALOGUE, (25, 0, 9), [(15, 0, 9)]),
]  # fmt: skip


@pytest.mark.parametrize(("tag", "was", "found"), CUTS)
def test_what_begins_in_a_stretch_that_closes_up_keeps_step_with_the_picture(new_id, tag, was, found):
    start_s, offset_s, length_s = was
    shots = [clip(k, FILM, start_s=10 * k - 10, offset_s=10 * k - 10, length_s=10) for k in (1, 2, 3, 4)]
    other = clip(9, BED, start_s=start_s, offset_s=offset_s, length_s=length_s)
    before = project(Lane(10, "Picture", LaneKind.PICTURE, clips=tuple(shots)), lane(11, tag, other))
    after = cutting.delete(before, new_id, clip_ids=[2], close=Ripple.ALL)
    assert places(after, 10) == [(0, 0, 10), (10, 20, 10), (20, 30, 10)]
    assert places(after, 11) == found


def test_a_linked_pair_that_is_cut_along_stays_linked_part_by_part(new_id):
    """A film's picture and sound begin in the stretch that goes; what is left of both moves up together."""
    shots = [clip(k, FILM, start_s=10 * k - 10, offset_s=10 * k - 10, length_s=10) for k in (1, 2, 3)]
    pair = [clip(7, FILM, start_s=12, length_s=30, link=5), clip(8, FILM, start_s=12, length_s=30, link=5)]
    before = project(
        Lane(10, "Picture", LaneKind.PICTURE, clips=tuple(shots)),
        Lane(12, "B-roll", LaneKind.PICTURE, clips=(pair[0],)),
        lane(13, Tag.EFFECTS, pair[1]),
    )
    after = cutting.delete(before, new_id, clip_ids=[2], close=Ripple.ALL)
    assert places(after, 12) == places(after, 13) == [(10, 8, 22)]
    assert after.lanes[1].clips[0].link == after.lanes[2].clips[0].link


def test_where_talk_goes_the_picture_that_reaches_over_it_stays(new_id):
    talk = [clip(k, TALK, start_s=10 * k, length_s=5) for k in (1, 2)]
    before = project(Lane(10, "Picture", LaneKind.PICTURE, clips=(clip(7, FILM),)), lane(11, Tag.DIALOGUE, *talk))
    after = cutting.delete(before, new_id, clip_ids=[1], close=Ripple.ALL)
    assert places(after, 10) == [(0, 0, 60)]
    assert places(after, 11) == [(15, 0, 5)]


def test_gaps_are_closed_on_one_lane_or_where_nothing_lies_at_all(film):
    assert places(cutting.close_gaps(film, lane_id=12), 12) == [(2, 1, 4), (6, 8, 5), (11, 20, 6)]
    with pytest.raises(Refused, match="no gap that goes through all lanes"):
        cutting.close_gaps(film)
    alone = replace(film, lanes=(film.lanes[2],))
    assert places(cutting.close_gaps(alone), 12) == [(2, 1, 4), (6, 8, 5), (11, 20, 6)]


def test_cutting_a_stretch_out_goes_through_all_lanes(film, new_id):
    after = cutting.cut_out(film, new_id, spans=np.array([[12 * RATE, 22 * RATE]]))
    assert places(after, 10) == places(after, 11) == places(after, 13) == [(0, 0, 12), (12, 22, 38)]
    assert places(after, 12) == [(2, 1, 4), (10, 8, 2), (12, 22, 4)]
    assert after.length_n == film.length_n - 10 * RATE


def test_what_is_gone_or_not_chosen_is_said(film, new_id):
    with pytest.raises(NotFound, match="not there any more"):
        cutting.delete(film, new_id, clip_ids=[99])
    with pytest.raises(Refused, match="No clip is chosen"):
        cutting.delete(film, new_id, clip_ids=[])


SPEECH = {2: np.array([[2, 4], [4.5, 6], [9, 11], [14, 15]]) * RATE, 7: np.array([[7, 8], [20, 21]]) * RATE}


def whole_talk():
    return project(
        Lane(10, "Picture", LaneKind.PICTURE, clips=(clip(1, media(2, 30, has_picture=True), link=5),)),
        lane(11, Tag.DIALOGUE, clip(2, media(2, 30, has_picture=True), link=5)),
        lane(12, Tag.MUSIC, clip(3, BED), clip(4, BED, start_s=70, length_s=9)),
    )


def find(found, *, longest_s=1.0, breath_s=0.4, all_lanes=True):
    return pauses.find(
        found,
        {number: spans.astype(np.int64) for number, spans in SPEECH.items()},
        clip_ids=[2],
        longest_n=int(longest_s * RATE),
        breath_n=int(breath_s * RATE),
        all_lanes=all_lanes,
    )


def test_pauses_are_found_between_words_and_leave_half_a_breath_on_either_side():
    assert (find(whole_talk()).spans / RATE).tolist() == [[6.2, 8.8], [11.2, 13.8]]
    assert find(whole_talk(), longest_s=0.3, breath_s=0.1).removed_n == pytest.approx(6.2 * RATE)


def test_cutting_the_pauses_takes_the_linked_picture_along_and_leaves_the_music_whole(new_id):
    after = pauses.cut(whole_talk(), new_id, find(whole_talk()), all_lanes=True)
    assert places(after, 10) == places(after, 11)
    assert [start for start, *_ in places(after, 11)] == pytest.approx([0, 6.2, 8.6])
    assert places(after, 12) == [(0, 0, 60), (pytest.approx(64.8), 0, 9)]
    assert [(c.fade_in.length_n, c.fade_out.length_n) for c in after.lanes[1].clips] == [(0, 240), (240, 240), (240, 0)]
    alone = pauses.cut(whole_talk(), new_id, find(whole_talk()), all_lanes=False)
    assert places(alone, 12) == places(whole_talk(), 12)


def test_where_someone_else_talks_is_no_pause_if_all_lanes_close_up_and_their_lane_is_cut_along(new_id):
    two = whole_talk()
    two = replace(two, lanes=(*two.lanes, lane(13, Tag.DIALOGUE, clip(8, media(7, 30)))))
    assert (find(two).spans / RATE).tolist() == [[11.2, 13.8]]
    after = pauses.cut(two, new_id, find(two), all_lanes=True)
    assert places(after, 13) == [(0, 0, 11.2), (11.2, pytest.approx(13.8), pytest.approx(16.2))]
    assert (find(two, all_lanes=False).spans / RATE).tolist() == [[6.2, 8.8], [11.2, 13.8]]
    alone = pauses.cut(two, new_id, find(two, all_lanes=False), all_lanes=False)
    assert places(alone, 13) == [(0, 0, 30)]


def test_a_breath_longer_than_the_pause_is_refused_and_no_pause_says_so(new_id):
    with pytest.raises(InvalidValue, match="breath that stays must be shorter"):
        find(whole_talk(), breath_s=1.0)
    with pytest.raises(Refused, match="no pause as long as that"):
        pauses.cut(whole_talk(), new_id, find(whole_talk(), longest_s=5), all_lanes=True)


def test_in_and_out_with_nothing_left_between_them_go(film, new_id):
    out_only = replace(film, out_n=RATE)
    whole = cutting.delete(out_only, new_id, clip_ids=[1, 3, 4, 5, 6], close=Ripple.ALL)
    assert (whole.in_n, whole.out_n) == (None, None)
    marked = replace(film, in_n=61 * RATE, out_n=70 * RATE)
    after = cutting.delete(marked, new_id, clip_ids=[1, 3, 4, 5, 6], close=Ripple.ALL)
    assert (after.in_n, after.out_n) == (RATE, 10 * RATE)


@pytest.mark.parametrize(
    ("cuts_s", "roots"),
    [((12,), [4, 4]), ((12, 13), [4, 4, 4]), ((13, 12), [4, 4, 4]), ((12, 13, 14), [4, 4, 4, 4])],
)
def test_every_part_of_a_split_clip_remembers_what_it_was_split_off(film, new_id, cuts_s, roots):
    """Points set by hand belong to the root: a part that forgot it would lose them."""
    for at_s in cuts_s:
        film = cutting.split(film, new_id, at_n=at_s * RATE)
    parts = [each for each in film.lanes[2].clips if 10 * RATE <= each.start_n < 15 * RATE]
    assert [each.origin for each in parts] == roots
    assert len({each.id for each in parts}) == len(parts)


def test_what_is_left_of_a_clip_after_a_cut_through_it_remembers_it_too(film, new_id):
    after = cutting.cut_out(film, new_id, spans=np.array([[11 * RATE, 12 * RATE]]))
    assert [each.origin for each in after.lanes[2].clips] == [3, 4, 4, 5]
