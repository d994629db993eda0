"""Who gives way to whom: perches, pairs, several keys at once, triggers, and what must hold whatever they are."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.pecking_order import Role, order_of
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding, over_level
from jaylantern.core.edit import order
from jaylantern.core.mixing import mix
from jaylantern.core.signal import intervals
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Trigger
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import Own
from jaylantern.core.timeline.settings import Band, Mode, Ramp
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, Refused
from tests.build import clip, lane, media, project

VOICE, TALK, HITS, BED, ROOM = (media(i, 60) for i in range(1, 6))
FILM = project(
    lane(1, Tag.DIALOGUE, clip(1, VOICE)),
    lane(2, Tag.DIALOGUE, clip(2, TALK)),
    lane(3, Tag.EFFECTS, clip(3, HITS)),
    lane(4, Tag.MUSIC, clip(4, BED)),
    lane(5, Tag.ATMOSPHERE, clip(5, ROOM)),
)


def s(*spans: tuple[float, float]) -> np.ndarray:
    return (np.array(spans, float).reshape(-1, 2) * RATE).round().astype(np.int64)


def at(plan, lane_id: int, *seconds: float) -> list[float]:
    """Gain of a lane's first clip at some seconds."""
    found = next(each for each in plan.project.lanes if each.id == lane_id)
    curve = plan.curve_of(found, found.clips[0])
    assert curve is not None
    return np.round(curve.at(np.array([round(each * RATE) for each in seconds])), 6).tolist()


def test_usually_music_and_ambience_give_way_to_dialogue_and_effects_stand_outside():
    found = order_of(FILM)
    assert [found.role(each, each.clips[0]) for each in FILM.lanes] == [
        Role.KEY, Role.KEY, Role.OUTSIDE, Role.YIELDS, Role.YIELDS,
    ]  # fmt: skip
    plan = make_plan(FILM, Sounding({1: s((10, 14))}))
    assert at(plan, 4, 5, 12) == [0, -14]
    assert at(plan, 5, 12) == [-4]


def test_voice_over_over_interview_over_music_does_not_add_up():
    """The narrator outranks the interview; music under both goes down to the deeper amount, never to their sum."""
    film = order.raise_lane(FILM, lane_id=1)
    assert film.perches[:3] == ("narration", "lane 1", "dialogue")
    film = order.set_pair(film, upper="lane 1", lower="music", values={"amount_db": -18})
    plan = make_plan(film, Sounding({1: s((10, 20)), 2: s((14, 40))}))
    assert order_of(film).role(film.lanes[1], film.lanes[1].clips[0]) is Role.BOTH
    assert at(plan, 2, 5, 15, 30) == [0, order.LEAST_OVER_DB, 0]
    assert at(plan, 4, 5, 15, 30) == [0, -18, -14]
    assert plan.curve_of(film.lanes[0], film.lanes[0].clips[0]) is None


def test_ducked_under_dialogue_and_effects_by_amounts_of_their_own():
    film = order.set_pair(FILM, upper="effects", lower="music", values={"amount_db": -6})
    film = replace(film, lanes=tuple(replace(x, trigger=Trigger.CLIP) if x.id == 3 else x for x in film.lanes))
    hits = replace(film.lanes[2], clips=(clip(3, HITS, start_s=30, length_s=5), clip(6, HITS, start_s=40, length_s=2)))
    film = replace(film, lanes=(*film.lanes[:2], hits, *film.lanes[3:]))
    plan = make_plan(film, Sounding({1: s((10, 14), (31, 33))}))
    assert at(plan, 4, 12, 25, 32, 34.5, 41) == [-14, 0, -14, -6, -6]


def test_a_short_rise_between_different_keys_is_bridged_at_the_shallower_amount():
    film = order.set_pair(FILM, upper="effects", lower="music", values={"amount_db": -6})
    plan = make_plan(film, Sounding({1: s((10, 14)), 3: s((14.8, 20))}))
    between = at(plan, 4, *np.arange(10.5, 19.5, 0.05))
    assert max(between) == -6
    assert len(plan.passages) == 1


def test_a_pair_of_its_own_times_and_ramps():
    film = order.set_pair(FILM, upper="dialogue", lower="atmosphere", values={"attack_ms": 1000, "fall": Ramp.EASED})
    plan = make_plan(film, Sounding({1: s((10, 14))}))
    down_s = 10 - 0.12
    assert at(plan, 5, down_s - 0.5) == [pytest.approx(-2, abs=0.01)]
    assert at(plan, 4, down_s - 0.5) == [0]


def test_the_order_can_be_turned_round_and_a_lane_go_back_to_its_tag():
    film = order.move_perch(FILM, perch="dialogue", to=4)
    assert make_plan(film, Sounding({1: s((10, 14))})).curves == {}
    raised = order.raise_lane(FILM, lane_id=2)
    assert order.lower_lane(raised, lane_id=2).perches == FILM.perches
    assert order.lower_lane(raised, lane_id=2).pairs == ()
    with pytest.raises(Refused, match="already"):
        order.raise_lane(raised, lane_id=2)
    with pytest.raises(InvalidValue, match="sits lower"):
        order.set_pair(FILM, upper="music", lower="dialogue", values={"amount_db": -3})


def test_only_the_chosen_music_gives_way_and_all_again():
    film = replace(FILM, lanes=(*FILM.lanes, lane(6, Tag.MUSIC, clip(7, media(6, 60)))))
    some = order.duck_only(film, clip_ids=[7])
    plan = make_plan(some, Sounding({1: s((10, 14))}))
    assert plan.curve_of(some.lanes[3], some.lanes[3].clips[0]) is None
    assert at(plan, 6, 12) == [-14]
    assert order.duck_only(some, clip_ids=None) == film
    with pytest.raises(Refused, match="None of the chosen clips is music"):
        order.duck_only(film, clip_ids=[1])


def test_an_even_bed_lies_at_one_level_and_loses_nothing():
    even = replace(FILM, settings=FILM.settings.changed({"mode": Mode.EVEN, "even_db": -9}))
    plan = make_plan(even, Sounding({1: s((10, 14))}))
    assert at(plan, 4, 1, 12, 50) == [-9, -9, -9]
    again = replace(even, settings=even.settings.changed({"mode": Mode.PASSAGE}))
    assert at(make_plan(again, Sounding({1: s((10, 14))})), 4, 1, 12) == [0, -14]


EVEN = [  # what lies on a lane, and where an even bed of −9 dB puts it
    (Tag.MUSIC, -9), (Tag.ATMOSPHERE, -9), (Tag.DIALOGUE, 0), (Tag.NARRATION, None), (Tag.EFFECTS, None),
]  # fmt: skip


@pytest.mark.parametrize(("tag", "gain_db"), EVEN)
def test_an_even_bed_lowers_music_and_atmosphere_and_nothing_that_speaks(tag, gain_db):
    """Dialogue gives way to narration, so it has a curve; an even bed leaves that at 0 dB. None: it has none."""
    film = project(lane(1, Tag.NARRATION, clip(1, VOICE)), lane(2, tag, clip(2, TALK)))
    even = replace(film, settings=film.settings.changed({"mode": Mode.EVEN, "even_db": -9}))
    plan = make_plan(even, Sounding({1: s((10, 14)), 2: s((12, 20))}))
    curve = plan.curve_of(even.lanes[1], even.lanes[1].clips[0])
    assert (None if curve is None else curve.at(np.array([0, 12 * RATE])).tolist()) == (
        None if gain_db is None else [gain_db] * 2
    )


def test_a_lane_of_music_with_someone_speaking_on_it_is_no_bed():
    film = project(
        lane(1, Tag.NARRATION, clip(1, VOICE)),
        lane(2, Tag.MUSIC, clip(2, BED), clip(3, TALK, start_s=70, tag=Tag.DIALOGUE)),
    )
    film = order.lower_lane(order.raise_lane(film, lane_id=2), lane_id=2)
    even = replace(film, settings=film.settings.changed({"mode": Mode.EVEN}))
    plan = make_plan(even, Sounding({1: s((10, 14))}))
    talking = plan.curve_of(even.lanes[1], even.lanes[1].clips[1])
    assert talking is None or talking.at(np.array([75 * RATE])).tolist() == [0]


def test_a_band_that_an_even_bed_does_not_show_does_nothing_there():
    band = FILM.settings.changed({"band": Band.SPEECH})
    assert mix.band_of(band) is not None
    assert mix.band_of(band.changed({"mode": Mode.COMPRESSOR})) is not None  # it is shown there
    assert mix.band_of(band.changed({"mode": Mode.EVEN})) is None


def test_for_each_passage_it_is_known_whose_pair_is_in_force():
    """Two voices of their own perches over music: the first asks for −18 dB, the other for the film's −14."""
    film = order.raise_lane(FILM, lane_id=1)
    film = order.set_pair(film, upper="lane 1", lower="music", values={"amount_db": -18})
    plan = make_plan(film, Sounding({1: s((10, 14)), 2: s((30, 34), (50, 54))}))
    assert plan.uppers == ("lane 1", "dialogue", "dialogue")
    assert [dip.amount_db for dip in plan.dips] == [-18, -14, -14]  # what the list shows is what the curve does
    assert at(plan, 4, 12, 32, 52) == [-18, -14, -14]
    both = make_plan(film, Sounding({1: s((10, 14)), 2: s((13, 16))}))
    assert (both.uppers, [dip.amount_db for dip in both.dips]) == (("lane 1",), [-18])


# — triggers —


def test_a_hammer_blow_counts_by_level_with_hysteresis_and_hold():
    """On from −30, off below −36, held 200 ms: 10 ms blocks, worked by hand."""
    level = np.full(200, -60, np.float32)
    level[50:60], level[60:70], level[100] = -20, -33, -34
    found = over_level(level, on_db=-30, off_db=-36, hold_n=round(0.2 * RATE))
    assert (found / 480).tolist() == [[50, 90]]


def test_level_counts_with_the_faders_and_the_clip_can_have_a_trigger_of_its_own():
    level = np.full(6000, -70, np.float32)
    level[1000:1100] = -40
    quiet = lane(3, Tag.EFFECTS, clip(3, HITS), trigger=Trigger.LEVEL, level_db=-36.0)
    film = order.set_pair(
        replace(FILM, lanes=(*FILM.lanes[:2], quiet, *FILM.lanes[3:])), upper="effects", lower="music",
        values={"amount_db": -8},
    )  # fmt: skip
    sounding = Sounding({}, {3: level})
    assert make_plan(film, sounding).passages == ()
    louder = replace(quiet, gain_db=6.0)
    film = replace(film, lanes=(*film.lanes[:2], louder, *film.lanes[3:]))
    assert [(p.start_n, p.stop_n) for p in make_plan(film, sounding).passages] == [(10 * RATE, round(11.25 * RATE))]
    spoken = replace(louder, clips=(clip(3, HITS, trigger=Trigger.VOICE),))
    film = replace(film, lanes=(*film.lanes[:2], spoken, *film.lanes[3:]))
    assert make_plan(film, sounding).passages == ()


# — whatever they are —

AMOUNTS = st.sampled_from([0.0, -3.0, -6.0, -9.5, -14.0, -24.0])
SPEECH = st.lists(st.tuples(st.integers(0, 55 * RATE), st.integers(1, 8 * RATE)), max_size=12)


def spans_of(found) -> np.ndarray:
    return intervals.clipped(
        intervals.union(np.array([(a, a + n) for a, n in found], np.int64).reshape(-1, 2)), start_n=0, stop_n=60 * RATE
    )


@settings(deadline=None, max_examples=150)
@given(
    st.tuples(SPEECH, SPEECH, SPEECH),
    st.tuples(AMOUNTS, AMOUNTS, AMOUNTS),
    st.floats(0, 3000), st.floats(0, 3000), st.floats(-1000, 1000), st.floats(0, 2000), st.floats(0, 4000),
    st.sampled_from(list(Ramp)), st.sampled_from(list(Ramp)),
)  # fmt: skip
def test_any_curve_is_ordered_continuous_and_between_nothing_and_the_deepest_amount(
    talk, amounts, attack, release, lead, hold, least, fall, rise
):
    values = {
        "amount_db": amounts[0], "attack_ms": attack, "release_ms": release, "lead_in_ms": lead, "hold_ms": hold,
        "least_rise_ms": least, "fall": fall, "rise": rise,
    }  # fmt: skip
    film = replace(order.raise_lane(FILM, lane_id=1), settings=FILM.settings.changed(values))
    film = replace(film, pairs=(*film.pairs, Pair("lane 1", "music", Own({"amount_db": amounts[1]})),
                                Pair("effects", "music", Own({"amount_db": amounts[2]}))))  # fmt: skip
    plan = make_plan(film, Sounding({i + 1: spans_of(each) for i, each in enumerate(talk)}))
    deepest = min(amounts)
    for key, curve in plan.curves.items():
        assert (np.diff(curve.time_n) > 0).all() or len(curve.time_n) == 1
        low = deepest if key[1] == "music" else min(order.LEAST_OVER_DB, film.settings.atmosphere_db, deepest)
        assert curve.gain_db.max() <= 1e-9
        assert curve.gain_db.min() >= low - 1e-9
        fine = curve.at(np.arange(0, 60 * RATE, 48))
        steepest = 60 / 5 * 4  # dB a ms: no ramp is shorter than 5 ms; bent ones are steeper in their middle
        assert np.abs(np.diff(fine)).max(initial=0) <= steepest
        assert low - 1e-6 <= fine.min(initial=0)
        assert fine.max(initial=0) <= 1e-6
    if talk[1] and lead >= 0 and amounts[0] < 0 and any(key[1] == "music" for key in plan.curves):
        spoken = spans_of(talk[1]).mean(axis=1).astype(np.int64)
        gains = plan.curve_of(film.lanes[3], film.lanes[3].clips[0]).at(spoken)
        assert gains.max() <= amounts[0] + 1e-6
