"""Which settings a pair of perches has: whose own values count, and for which music. Worked by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.ducking.pecking_order import order_of, pair_settings
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.perch import Pair, completed
from jaylantern.core.timeline.pin import Own
from jaylantern.core.timeline.tag import Tag
from tests.build import clip, lane, media, project

VOICE, BED, OTHER, SHOUT = media(1, 60), media(2, 60), media(3, 60), media(4, 60)
NARRATOR, SCORE = lane(1, Tag.DIALOGUE, clip(1, VOICE)), lane(2, Tag.MUSIC, clip(2, BED))
RADIO = lane(3, Tag.MUSIC, clip(3, OTHER))
TAGS = {"lane 1": Tag.DIALOGUE, "lane 3": Tag.MUSIC}


def amounts(**own: float) -> dict[tuple[str, str], float]:
    """Amounts of pairs, named "upper>lower" with blanks as underscores."""
    return {tuple(name.replace("_", " ").split(">")): db for name, db in own.items()}


@pytest.mark.parametrize(
    ("own", "expected_db"),
    [
        ({}, -14.0),
        ({("dialogue", "music"): -5}, -5.0),
        ({("dialogue", "music"): -5, ("lane 1", "music"): -6}, -6.0),
        ({("dialogue", "music"): -5, ("dialogue", "lane 3"): -7}, -7.0),
        # the perch above counts before the one below: the narrator's own amount over all music wins over what the
        # radio has under all dialogue
        ({("lane 1", "music"): -6, ("dialogue", "lane 3"): -7}, -6.0),
        ({("lane 1", "lane 3"): -8, ("lane 1", "music"): -6, ("dialogue", "lane 3"): -7}, -8.0),
    ],
)
def test_the_pair_that_is_said_most_closely_counts_the_one_above_first(own, expected_db):
    pairs = tuple(Pair(upper, lower, Own({"amount_db": db})) for (upper, lower), db in own.items())
    film = replace(project(NARRATOR, SCORE, RADIO), pairs=pairs, perches=("lane 1", "dialogue", "lane 3", "music"))
    assert pair_settings(film, "lane 1", "lane 3", TAGS).amount_db == expected_db


def test_what_one_music_has_of_its_own_is_not_taken_for_another():
    """Bed −14 dB with its usual attack of 350 ms; the radio, on a perch of its own, −20 dB within 100 ms."""
    pairs = (Pair("dialogue", "lane 3", Own({"amount_db": -20, "attack_ms": 100})),)
    film = replace(project(NARRATOR, SCORE, RADIO), pairs=pairs, perches=("dialogue", "lane 3", "music"))
    plan = make_plan(film, Sounding({1: _spans((10, 14))}))
    down_n = round((10 - 0.12) * RATE)
    bed, radio = (plan.curve_of(each, each.clips[0]) for each in (SCORE, RADIO))
    assert bed.time_n[:2].tolist() == [down_n - round(0.35 * RATE), down_n]
    assert bed.gain_db.min() == -14
    assert radio.time_n[:2].tolist() == [down_n - round(0.1 * RATE), down_n]
    assert radio.gain_db.min() == -20


def test_the_dips_that_are_shown_are_those_of_the_first_music():
    """The picture of the dip shows the pair of the first lane of music, whatever stands lower down."""
    pairs = (Pair("dialogue", "lane 3", Own({"amount_db": -20})), Pair("dialogue", "music", Own({"amount_db": -9})))
    film = replace(project(NARRATOR, SCORE, RADIO), pairs=pairs, perches=("dialogue", "lane 3", "music"))
    [dip] = make_plan(film, Sounding({1: _spans((10, 14))})).dips
    assert dip.amount_db == -9


def _spans(*seconds: tuple[float, float]):
    import numpy as np

    return (np.array(seconds, float).reshape(-1, 2) * RATE).round().astype(np.int64)


# — narration, which is laid over everything —


def narrated(**settings: float):
    """Narration over dialogue over music, and atmosphere."""
    return project(
        lane(1, Tag.NARRATION, clip(1, VOICE)),
        lane(2, Tag.DIALOGUE, clip(2, BED)),
        lane(3, Tag.MUSIC, clip(3, OTHER)),
        lane(4, Tag.ATMOSPHERE, clip(4, SHOUT)),
        **settings,
    )


@pytest.mark.parametrize(
    ("upper", "lower", "expected_db"),
    [
        ("narration", "dialogue", -6.0),
        ("narration", "music", -14.0),
        ("dialogue", "music", -14.0),
        ("narration", "atmosphere", -4.0),
        ("narration", "effects", 0.0),
        ("dialogue", "narration", 0.0),
        ("effects", "music", 0.0),
    ],
)
def test_what_each_tag_usually_gives_way_by(upper, lower, expected_db):
    assert pair_settings(narrated(), upper, lower, {}).amount_db == expected_db


def test_dialogue_gives_way_to_narration_by_six_decibels_and_music_to_both_by_one_amount():
    film = narrated()
    plan = make_plan(film, Sounding({1: _spans((10, 14)), 2: _spans((9, 30))}))

    def at(number: int, second: float) -> float:
        found = film.lanes[number - 1]
        curve = plan.curve_of(found, found.clips[0])
        return round(float(curve.at(_spans((second, second)).ravel()[:1])[0]), 6)

    assert [at(2, second) for second in (5, 12, 25)] == [0, -6, 0]
    assert [at(3, second) for second in (12, 25, 50)] == [-14, -14, 0]  # amounts never add up
    assert [at(4, second) for second in (12, 25, 50)] == [-4, -4, 0]
    assert plan.curve_of(film.lanes[0], film.lanes[0].clips[0]) is None


def test_while_nobody_narrates_dialogue_follows_no_curve():
    film = project(lane(1, Tag.DIALOGUE, clip(1, VOICE)), lane(2, Tag.MUSIC, clip(2, BED)))
    assert film.perches[0] == "narration"
    assert set(order_of(film).above) == {"music", "atmosphere"}
    assert list(order_of(film).above["music"]) == ["dialogue"]


@pytest.mark.parametrize(
    ("old", "expected"),
    [
        (["dialogue", "effects", "music", "ambience"], ["narration", "dialogue", "effects", "music", "atmosphere"]),
        (["lane 7", "dialogue", "effects", "music", "ambience"],
         ["lane 7", "narration", "dialogue", "effects", "music", "atmosphere"]),
        (["music", "dialogue"], ["effects", "music", "narration", "dialogue", "atmosphere"]),
        ([], ["narration", "dialogue", "effects", "music", "atmosphere"]),
        (["narration", "ambience", "atmosphere", "dialogue", "effects", "music"],
         ["narration", "atmosphere", "dialogue", "effects", "music"]),
    ],
)  # fmt: skip
def test_an_order_of_an_older_version_has_the_words_and_the_tags_of_today(old, expected):
    assert list(completed(old)) == expected
