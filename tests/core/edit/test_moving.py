"""Moving within and across lanes, overlaps, copies, placing media and takes."""

from __future__ import annotations

from dataclasses import replace
from itertools import count

import pytest

from jaylantern.core.edit import clip_sound, lanes, marks, moving
from jaylantern.core.edit.moving import Copied
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Channels
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import NotFound, Refused
from tests.build import clip, lane, media, project

FILM, TALK = media(1, 20, "Film.mp4", has_picture=True), media(2, 30, "Talk.wav")


@pytest.fixture
def new_id():
    return count(100).__next__


@pytest.fixture
def film():
    return project(
        Lane(10, "Picture", LaneKind.PICTURE, clips=(clip(1, FILM, link=5), clip(7, FILM, start_s=40))),
        lane(11, Tag.ATMOSPHERE, clip(2, FILM, link=5)),
        lane(
            12, Tag.DIALOGUE,
            clip(3, TALK, start_s=2, length_s=4),
            clip(4, TALK, start_s=10, length_s=5),
            clip(5, TALK, start_s=20, length_s=6),
        ),
        lane(13, Tag.MUSIC),
    )  # fmt: skip


def starts(found, lane_id):
    (wanted,) = (each for each in found.lanes if each.id == lane_id)
    return [(c.id, c.start_n / RATE) for c in wanted.clips]


def test_linked_clips_move_together_and_not_before_the_start(film):
    after = moving.move(film, clip_ids=[2], by_n=5 * RATE)
    assert (starts(after, 10)[0], starts(after, 11)) == ((1, 5), [(2, 5)])
    assert starts(moving.move(after, clip_ids=[1], by_n=-9 * RATE), 11) == [(2, 0)]
    with pytest.raises(Refused, match="no room to move"):
        moving.move(film, clip_ids=[1], by_n=-1)


def test_clips_go_to_the_lane_below_and_their_linked_picture_stays_on_its_own(film):
    after = moving.move(film, clip_ids=[3, 5], by_n=0, leader_id=3, lanes_by=1)
    assert (starts(after, 12), starts(after, 13)) == ([(4, 10)], [(3, 2), (5, 20)])
    sound_down = moving.move(film, clip_ids=[2], by_n=0, leader_id=2, lanes_by=2)
    assert (starts(sound_down, 13), starts(sound_down, 10)[0]) == ([(2, 0)], (1, 0))


def test_neighbours_on_a_sound_lane_may_overlap_and_then_cross_over(film):
    after = moving.move(film, clip_ids=[4], by_n=-5 * RATE)
    fades = {c.id: (coming, going) for c, coming, going in after.lanes[2].fades()}
    assert fades[3][1].length_n == fades[4][0].length_n == RATE
    assert fades[4][1].length_n == fades[5][0].length_n == 0


@pytest.mark.parametrize(
    ("clip_id", "by_s", "said"),
    [(7, -25, "Pictures can't overlap"), (4, -8, "wholly over each other")],
)
def test_what_can_neither_be_seen_nor_heard_is_refused_in_words(film, clip_id, by_s, said):
    with pytest.raises(Refused, match=said):
        moving.move(film, clip_ids=[clip_id], by_n=by_s * RATE)


def test_three_clips_at_once_on_a_lane_are_refused(film):
    close = moving.move(moving.move(film, clip_ids=[4], by_n=-5 * RATE), clip_ids=[5], by_n=-11 * RATE)
    with pytest.raises(Refused, match="Three clips would sound at once"):
        moving.move(close, clip_ids=[5], by_n=int(-3.5 * RATE))


def test_a_copy_keeps_its_tag_whatever_lane_it_lands_on(film, new_id):
    copied = Copied(film.lanes[2].clips[0], 999, "Narrator", LaneKind.SOUND, Tag.DIALOGUE)
    after = moving.paste(film, new_id, copied=[copied], at_n=0)
    made = after.lanes[-1]
    assert (made.name, made.tag, made.tag_of(made.clips[0])) == ("Narrator", Tag.DIALOGUE, Tag.DIALOGUE)
    elsewhere = replace(copied, lane_id=13)
    onto = moving.paste(film, new_id, copied=[elsewhere], at_n=0).lanes[3]
    assert (onto.tag, onto.tag_of(onto.clips[0])) == (Tag.MUSIC, Tag.DIALOGUE)


def test_a_paste_where_something_lies_goes_onto_a_new_lane_below(film, new_id):
    copied = [Copied(film.lanes[2].clips[0], 12, "Talk", LaneKind.SOUND, Tag.DIALOGUE)]
    after = moving.paste(film, new_id, copied=copied, at_n=11 * RATE)
    assert [each.id for each in after.lanes[:3]] == [10, 11, 12]
    assert after.lanes[3].clips[0].start_n == 11 * RATE


def test_duplicates_lie_behind_the_originals_where_there_is_room_and_are_linked_anew(film, new_id):
    assert starts(moving.duplicate(film, new_id, clip_ids=[4]), 12)[2][1] == 15
    assert starts(moving.duplicate(film, new_id, clip_ids=[3]), 12)[1][1] == 6
    pair = moving.duplicate(film, new_id, clip_ids=[1])
    assert pair.lanes[0].clips[1].link == pair.lanes[1].clips[1].link not in (None, 5)


def test_a_take_makes_room_for_itself(film, new_id):
    take = media(9, 6, "Take 1.wav")
    after = moving.lay_take(film, new_id, media=take, name="Take 1", at_n=12 * RATE, offset_n=RATE, lane_id=12)
    lying = [(c.name, c.start_n / RATE, c.length_n / RATE) for c in after.lanes[2].clips]
    assert lying[1:3] == [("Talk.wav", 10, 2), ("Take 1", 12, 5)]
    inside = moving.lay_take(film, new_id, media=take, name="Take 2", at_n=21 * RATE, offset_n=4 * RATE, lane_id=12)
    lying = [(c.start_n / RATE, c.offset_n / RATE, c.length_n / RATE) for c in inside.lanes[2].clips[2:]]
    assert lying == [(20, 0, 1), (21, 4, 2), (23, 3, 3)]
    told = replace(film, lanes=(*film.lanes, lane(20, Tag.NARRATION, clip(90, take))))
    narrated = moving.lay_take(told, new_id, media=take, name="Take 3", at_n=0, offset_n=0, lane_id=None)
    assert narrated.lanes[-1].tag is Tag.NARRATION  # where a narration is, a take belongs to it
    onto = moving.lay_take(told, new_id, media=take, name="Take 3", at_n=50 * RATE, offset_n=0, lane_id=20)
    assert onto.lanes[-1].tag_of(onto.lanes[-1].clips[-1]) is Tag.NARRATION
    own = moving.lay_take(film, new_id, media=take, name="Take 3", at_n=0, offset_n=0, lane_id=None)
    assert own.lanes[-1].tag_of(own.lanes[-1].clips[0]) is Tag.DIALOGUE


def test_lanes_are_added_ordered_and_removed_and_what_was_linked_stays_for_itself(film, new_id):
    made = lanes.with_lane(film, Lane(99, "More", LaneKind.SOUND), below=11)
    assert [each.id for each in made.lanes] == [10, 11, 99, 12, 13]
    assert [each.id for each in lanes.order(made, lane_id=13, to=1).lanes] == [10, 13, 11, 99, 12]
    without = lanes.remove(film, lane_id=11)
    assert without.lanes[0].clips[0].link is None
    with pytest.raises(NotFound):
        lanes.remove(without, lane_id=11)


def test_links_are_cut_and_made_again_between_lanes_only(film, new_id):
    apart = lanes.unlink(film, clip_ids=[2])
    assert starts(moving.move(apart, clip_ids=[2], by_n=RATE), 10)[0] == (1, 0)
    again = lanes.link(apart, new_id, clip_ids=[1, 2])
    assert again.lanes[0].clips[0].link == again.lanes[1].clips[0].link
    with pytest.raises(Refused, match="one clip on each"):
        lanes.link(film, new_id, clip_ids=[3, 4])
    with pytest.raises(Refused, match="None of these clips is linked"):
        lanes.unlink(film, clip_ids=[3])


def test_sound_of_many_clips_is_set_at_once_and_copied(film):
    loud = clip_sound.change(film, clip_ids=[3, 1], gain_db=6.0, channels=Channels.LEFT)
    assert [c.gain_db for each in loud.lanes for c in each.clips] == [0, 0, 6, 6, 0, 0]  # the picture's own sound
    raised = clip_sound.raise_gain(loud, clip_ids=[3, 4], by_db=20, low_db=-90, high_db=24)
    assert [c.gain_db for c in raised.lanes[2].clips] == [24, 20, 0]
    faded = clip_sound.fade(raised, clip_ids=[3], end="fade_in", length_n=99 * RATE, shape=Shape.EASED)
    assert faded.lanes[2].clips[0].fade_in == Fade(4 * RATE, Shape.EASED)
    same = clip_sound.copy(faded, from_id=3, clip_ids=[3, 4, 5])
    assert {(c.gain_db, c.channels, c.fade_in.shape) for c in same.lanes[2].clips} == {(24, Channels.LEFT, Shape.EASED)}
    with pytest.raises(Refused, match="no sound to set"):
        clip_sound.change(film, clip_ids=[7], gain_db=1.0)


def test_markers_stand_in_order_and_in_stays_before_out(film, new_id):
    marked = marks.add(marks.add(film, new_id, time_n=9, name="b"), new_id, time_n=3, name="a")
    assert [each.name for each in marked.markers] == ["a", "b"]
    with pytest.raises(Refused, match="stands here already"):
        marks.add(marked, new_id, time_n=9, name="c")
    ranged = marks.set_out(marks.set_in(film, 10), 20)
    assert (ranged.in_n, ranged.out_n) == (10, 20)
    assert (marks.set_in(ranged, 20).out_n, marks.set_out(ranged, 10).in_n) == (None, None)
