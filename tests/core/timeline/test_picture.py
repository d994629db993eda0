"""Which clip of the picture lanes is seen when."""

from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.picture import between_frames, on_frame, on_frames, out_of_step, pieces, uncut, why_anew
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

FILM = media(1, 10, "film.mp4", has_picture=True)
OTHER = media(2, 4, "other.mp4", has_picture=True)


def picture(number: int, *clips):
    made = lane(number, Tag.UNTAGGED, *clips)
    return type(made)(**{**vars(made), "kind": LaneKind.PICTURE})


def seen(made) -> list[tuple[float, float, int | None]]:
    return [(p.start_n / RATE, p.stop_n / RATE, p.clip.id if p.clip else None) for p in pieces(made)]


def test_gaps_are_black_and_the_first_lane_is_in_front():
    made = project(
        picture(1, clip(1, OTHER, start_s=3)),
        picture(2, clip(2, FILM, start_s=1, length_s=8)),
        lane(3, Tag.MUSIC, clip(3, media(3, 12))),
    )
    assert seen(made) == [(0, 1, None), (1, 3, 2), (3, 7, 1), (7, 9, 2), (9, 12, None)]
    assert why_anew(made) == "there are 2 picture clips on the timeline"


def test_one_whole_clip_is_uncut_wherever_it_lies():
    made = project(picture(1, clip(1, FILM, start_s=2)))
    assert uncut(made).id == 1
    assert why_anew(made) == ""
    cut = project(picture(1, clip(1, FILM, start_s=2, offset_s=1)))
    assert uncut(cut) is None
    assert why_anew(cut) == "the picture is cut"


def test_without_a_picture_all_is_black():
    made = project(lane(3, Tag.MUSIC, clip(3, media(3, 12))))
    assert seen(made) == [(0, 12, None)]
    assert (uncut(made), why_anew(made)) == (None, "")


def test_a_stretch_of_the_timeline_has_only_its_own_pieces():
    made = project(picture(1, clip(1, OTHER, start_s=3)), picture(2, clip(2, FILM, start_s=1, length_s=8)))
    found = [
        (p.start_n / RATE, p.stop_n / RATE, p.clip.id if p.clip else None) for p in pieces(made, 4 * RATE, 10 * RATE)
    ]
    assert found == [(4, 7, 1), (7, 9, 2), (9, 10, None)]


@pytest.mark.parametrize(
    ("offset_n", "length_n", "between"),
    [
        (0, 10 * RATE, []),  # whole: the ends of a file are no cuts
        (round(100 * 1601.6), round(200 * 1601.6) - round(100 * 1601.6), []),
        (round(100 * 1601.6) + 5, 160_160 - 5, ["start"]),
        (160_160, 800, ["stop"]),
        (160_160 + 700, 160_160, ["start", "stop"]),
    ],
)
def test_cuts_between_frames_are_found_at_29_97(offset_n, length_n, between):
    """1601.6 samples to a frame: 48000 · 1001 / 30000."""
    made = replace(clip(1, FILM), start_n=5 * RATE, offset_n=offset_n, length_n=length_n)
    found = between_frames(project(picture(1, made)), lambda media: 30000 / 1001)
    assert found == [{"start": made.start_n, "stop": made.stop_n}[each] for each in between]


def test_pauses_are_cut_out_of_a_linked_picture_on_its_frames():
    """At 29.97 frame k begins at round(1601.6 k); sound that no picture is linked with is cut where it was asked."""
    film = replace(clip(1, FILM, link=7), start_n=0, offset_n=16_016, length_n=5 * RATE)  # frame 10 is at 0
    made = project(picture(1, film), lane(2, Tag.DIALOGUE, clip(2, FILM, link=7), clip(3, FILM, start_s=20)))
    spans = np.array([[10_000, 30_100], [40_000, 40_300]], np.int64)
    fps = 30000 / 1001
    assert on_frames(made, spans, {2}, lambda media: fps).tolist() == [[9610, 30430]]  # frames 6 and 19 later
    assert on_frames(made, spans, {9}, lambda media: fps).tolist() == spans.tolist()


STEPS = [  # where the sound of a film lies beside its picture, which is seen from 2 to 8 s: start, offset, length in s
    ((2, 0, 6), None),  # in step
    ((4, 2, 3), None),  # a part of it, in step
    ((2.5, 0, 5), 0.5),  # slipped: heard later
    ((2, 0.25, 5), -0.25),
    ((20, 0, 5), None),  # somewhere else, where its picture is not
]


@pytest.mark.parametrize(("sound", "late_s"), STEPS)
def test_a_sound_that_left_its_picture_says_by_how_much(sound, late_s):
    start_s, offset_s, length_s = sound
    made = project(
        picture(1, clip(1, FILM, start_s=2, length_s=6)),
        lane(2, Tag.DIALOGUE, clip(2, FILM, start_s=start_s, offset_s=offset_s, length_s=length_s)),
        lane(3, Tag.MUSIC, clip(3, media(3, 12))),
    )
    assert out_of_step(made) == ({} if late_s is None else {2: round(late_s * RATE)})


@pytest.mark.parametrize(
    ("at_s", "lanes", "found_s"),
    [
        (3.01, {1}, 3.0),  # of a picture that is cut: to the nearest of its frames
        (3.03, {1}, 3.04),
        (3.01, {2}, 3.0),  # linked with what is cut
        (3.01, {3}, 3.01),  # no picture is cut
        (0.0, {1}, 0.0),
        (9.99, {1}, 9.99),  # it has ended
    ],
)
def test_a_cut_is_brought_to_a_frame_of_the_picture_it_goes_through(at_s, lanes, found_s):
    made = project(
        picture(1, clip(1, FILM, link=5, length_s=8)),
        lane(2, Tag.DIALOGUE, clip(2, FILM, link=5, length_s=8)),
        lane(3, Tag.MUSIC, clip(3, media(3, 12))),
    )
    assert on_frame(made, round(at_s * RATE), lanes, lambda _: 25.0) == round(found_s * RATE)
