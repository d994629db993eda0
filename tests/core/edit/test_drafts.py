"""Two drafts: what belongs to one, what is the same in both, what differs; letters, lanes that went meanwhile."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.edit import drafts
from jaylantern.core.edit.relinking import relink
from jaylantern.core.timeline.held_draft import HeldDraft, Letter
from jaylantern.core.timeline.imported import stand_in
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from tests.build import RATE, clip, lane, media, project

OWN = Own({"amount_db": -3})
WAYS = {  # what belongs to a draft: how it is changed, and what the change is called
    "amount_db": lambda p: replace(p, settings=p.settings.changed({"amount_db": -3})),
    "mode": lambda p: replace(p, settings=p.settings.changed({"mode": "compressor"})),
    "target_lufs": lambda p: replace(p, settings=p.settings.changed({"target_lufs": -16})),
    "perches": lambda p: replace(p, perches=p.perches[::-1]),
    ("dialogue", "music"): lambda p: replace(p, pairs=(Pair("dialogue", "music", OWN),)),
    "speech_pins": lambda p: replace(p, speech_pins=(SpeechPin(70, 1, Heard.SPEECH, 0, RATE),)),
    "dip_pins": lambda p: replace(p, dip_pins=(DipPin(71, 1, 0, RATE, OWN),)),
    "point_pins": lambda p: replace(p, point_pins=(PointPin(72, 2, 0, -6.0),)),
    "frozen": lambda p: replace(p, lanes=(p.lanes[0], replace(p.lanes[1], frozen=True))),
}


@pytest.fixture
def film():
    talk, bed = media(1, 10), media(2, 10)
    return project(lane(1, Tag.DIALOGUE, clip(1, talk)), lane(2, Tag.MUSIC, clip(2, bed)))


def alike(one, other) -> bool:
    """The same but for what is held."""
    return replace(one, held=None, beside=False) == replace(other, held=None, beside=False)


@pytest.mark.parametrize("what", WAYS, ids=str)
def test_each_part_of_a_draft_differs_is_taken_back_and_swapped(film, what):
    held = drafts.hold(film)
    changed = WAYS[what](held)
    assert [each.what for each in drafts.differences(drafts.as_project(changed), changed)] == [what]
    assert alike(drafts.as_project(changed), film)
    assert alike(drafts.choose(changed, letter=Letter.A), film)
    assert alike(drafts.choose(changed, letter=Letter.B), WAYS[what](film))
    swapped = drafts.swap(changed)
    assert alike(swapped, film)
    assert alike(drafts.as_project(swapped), changed)
    assert drafts.swap(swapped) == changed


def test_what_is_cut_tagged_and_muted_is_the_same_in_both(film):
    held = drafts.hold(film)
    one, two = held.lanes
    cut = replace(held, lanes=(replace(one, muted=True), replace(two, tag=Tag.EFFECTS, clips=())), name="Other")
    assert drafts.as_project(cut).lanes == cut.lanes
    assert list(drafts.differences(drafts.as_project(cut), cut)) == []
    assert drafts.as_project(cut).lanes is cut.lanes  # so that what was worked out for them still holds


def test_letters(film):
    assert drafts.present(film) is Letter.A
    held = drafts.hold(film)
    assert (held.held.letter, drafts.present(held)) == (Letter.A, Letter.B)
    assert drafts.present(drafts.hold(held)) is Letter.B  # held anew, under the same letter
    swapped = drafts.swap(held)
    assert (swapped.held.letter, drafts.present(swapped)) == (Letter.B, Letter.A)
    assert drafts.hold(swapped).held.letter is Letter.B  # under whichever it was
    assert drafts.present(drafts.choose(swapped, letter=Letter.B)) is Letter.A  # none is held: the next is A again


def test_holding_anew_takes_what_is_set_now(film):
    second = WAYS["amount_db"](drafts.hold(film))
    assert drafts.hold(second).held.settings.amount_db == -3


@pytest.mark.parametrize("what", [drafts.swap, drafts.as_project, lambda p: drafts.choose(p, letter=Letter.A)])
def test_without_a_held_draft_there_is_nothing_to_choose(film, what):
    with pytest.raises(Refused, match="No draft is held"):
        what(film)


def test_a_lane_that_went_meanwhile_is_not_spoken_of(film):
    order = ("lane 2", *film.perches)
    pair = Pair("dialogue", "lane 2", OWN)
    held = drafts.hold(replace(film, perches=order, pairs=(pair,)))
    assert drafts.as_project(held).perches == order
    gone = replace(held, lanes=held.lanes[:1], perches=film.perches, pairs=())
    assert drafts.as_project(gone).perches == film.perches
    assert drafts.as_project(gone).pairs == ()


def test_a_lane_that_lost_its_perch_has_it_in_the_held_draft(film):
    order = ("lane 2", *film.perches)
    lowered = replace(drafts.hold(replace(film, perches=order)), perches=film.perches)
    assert drafts.as_project(lowered).perches == order
    raised = replace(drafts.hold(film), perches=order)
    assert drafts.as_project(raised).perches == film.perches


def test_pins_that_say_the_same_under_other_numbers_do_not_differ(film):
    pinned = WAYS["dip_pins"](film)
    held = drafts.hold(pinned)
    other = replace(held, dip_pins=(replace(held.dip_pins[0], id=999),))
    assert list(drafts.differences(drafts.as_project(other), other)) == []


def test_a_draft_comes_back_whole_from_its_text(film):
    for way in WAYS.values():
        film = way(film)
    held = drafts.hold(film).held
    assert HeldDraft.of_text(held.text) == held


def test_pins_of_a_held_draft_go_along_when_a_missing_file_is_found():
    gone, found = stand_in(9, "Reel.wav", 3700 * RATE), media(3, 60)
    made = project(lane(1, Tag.MUSIC, clip(1, gone, offset_s=3602, length_s=5)))
    made = replace(
        made,
        speech_pins=(SpeechPin(20, 9, Heard.SPEECH, 3603 * RATE, 3604 * RATE),),
        dip_pins=(DipPin(22, 9, 3603 * RATE, 3604 * RATE, OWN),),
        point_pins=(PointPin(23, 1, 3603 * RATE, -6.0),),
    )
    held = replace(drafts.hold(made), speech_pins=(), dip_pins=(), point_pins=())
    after = relink(held, missing_id=9, found=found, origins=[3600 * RATE]).project.held
    assert [(pin.media_id, pin.start_n) for pin in (*after.speech_pins, *after.dip_pins)] == [(3, 3 * RATE)] * 2
    assert after.point_pins[0].at_n == 3 * RATE
