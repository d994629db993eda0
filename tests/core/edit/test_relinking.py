"""A missing medium found: clips, pins and points go along, also where media time was counted from a timecode."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.edit.relinking import relink
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.imported import stand_in
from jaylantern.core.timeline.pin import DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

HOUR_N = 3600 * RATE
GONE = stand_in(9, "Reel.wav", HOUR_N + 100 * RATE)
FOUND = media(3, 60, "Reel.wav")
OTHER = media(4, 60)


def film(offset_s: float):
    """Ten seconds of the missing medium from `offset_s` on, split in two; and a clip of another medium."""
    made = project(
        lane(
            1, Tag.MUSIC,
            clip(1, GONE, offset_s=offset_s, length_s=5),
            clip(2, GONE, start_s=5, offset_s=offset_s + 5, length_s=5, root=1),
        ),
        lane(2, Tag.MUSIC, clip(5, OTHER)),
    )  # fmt: skip
    at = round(offset_s * RATE)
    return replace(
        made,
        speech_pins=(SpeechPin(20, 9, Heard.SPEECH, at + RATE, at + 2 * RATE), SpeechPin(21, 4, Heard.SPEECH, 0, 5)),
        dip_pins=(DipPin(22, 9, at, at + RATE, Own({"amount_db": -3})),),
        point_pins=(
            PointPin(23, 1, at + 3 * RATE, -6.0, at + 4 * RATE),
            PointPin(24, 1, at + 3 * RATE, -6.0),
            PointPin(25, 5, 7 * RATE, -6.0, 8 * RATE),
        ),
    )


@pytest.mark.parametrize(("offset_s", "origin_n"), [(2.0, 0), (3602.0, HOUR_N)])
def test_clips_pins_and_points_are_counted_from_the_first_sample_of_what_was_found(offset_s, origin_n):
    after = relink(film(offset_s), missing_id=9, found=FOUND, origins=[HOUR_N]).project
    one, two = after.lanes[0].clips
    assert (one.media, two.media) == (FOUND, FOUND)
    assert (one.offset_n, two.offset_n) == (2 * RATE, 7 * RATE)
    speech, others = after.speech_pins
    assert (speech.media_id, speech.start_n, speech.stop_n) == (3, 3 * RATE, 4 * RATE)
    assert (others.media_id, others.start_n) == (4, 0)
    [dip] = after.dip_pins
    assert (dip.media_id, dip.start_n, dip.stop_n) == (3, 2 * RATE, 3 * RATE)
    moved, added, elsewhere = after.point_pins
    assert (moved.at_n, moved.instead_n) == (5 * RATE, 6 * RATE)
    assert (added.at_n, added.instead_n) == (5 * RATE, None)
    assert (elsewhere.at_n, elsewhere.instead_n) == (7 * RATE, 8 * RATE)  # of another clip: it stays


@pytest.mark.parametrize(
    ("offset_s", "origins", "first_s", "short"),
    [
        (0.0, [], 0.0, 0),
        (50.0, [], 50.0, 0),
        (55.0, [], 55.0, 1),  # the second clip reaches beyond the end of the file
        (3655.0, [HOUR_N], 55.0, 1),  # so it does by the file's own count
        (3602.0, [], 0.0, 0),  # nothing says where it begins
    ],
)
def test_where_a_file_is_taken_to_begin(offset_s, origins, first_s, short):
    found = relink(film(offset_s), missing_id=9, found=FOUND, origins=origins)
    assert found.project.lanes[0].clips[0].offset_n == round(first_s * RATE)
    assert found.short == short


def test_what_is_not_missing_is_left_alone():
    made = film(2.0)
    assert relink(made, missing_id=77, found=FOUND).project == made
