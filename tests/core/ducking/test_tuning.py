"""The tuning map: figures of a place by hand, the sweet spot by tables, places as they are by themselves."""

from __future__ import annotations

import random
from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.ducking import tuning
from jaylantern.core.ducking.media_power import MediaPower
from jaylantern.core.ducking.tuning import Figures, figures, sweet, values
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.timeline.clip import Channels
from jaylantern.core.timeline.settings import KNOB, Mode, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue
from jaylantern.pipeline import MediaFacts, decide
from jaylantern.workspace.memo import Memo
from tests.build import clip, lane, media, project, voice_track

RATE = 48_000
TALK, BED = media(1, 60), media(2, 60)
FLAT = {"attack_ms": 0.0, "release_ms": 0.0, "lead_in_ms": 0.0, "hold_ms": 0.0, "least_rise_ms": 0.0,
        "last_release_ms": 0.0}  # fmt: skip


def facts(spans) -> dict[int, MediaFacts]:
    """Talk over a bed 6 LU softer."""
    quiet = VoiceTrack.not_listened(np.zeros(6000, np.float32), 60 * RATE)
    talk = MediaFacts(voice_track(spans, 60), MediaPower(np.full((600, 1), 0.5)))
    return {1: talk, 2: MediaFacts(quiet, MediaPower(np.full((600, 1), 0.5 * 10**-0.6)))}


def film(*, bed=None, **settings):
    return project(lane(1, Tag.DIALOGUE, clip(1, TALK)), lane(2, Tag.MUSIC, bed or clip(2, BED)), **settings)


@pytest.mark.parametrize(
    ("spans", "settings", "expected"),
    [
        ([(10, 20), (40, 50)], FLAT, (40 / 60, 2, 0, 20.0, 8)),
        ([(10, 20), (20.6, 30)], FLAT, (40.6 / 60, 2, 1, 20.0, 8)),  # up for 0.6 s: flutter
        ([(10, 20), (21.1, 30)], FLAT, (41.1 / 60, 2, 0, 20.0, 8)),
        ([(10, 20), (20.6, 30)], {**FLAT, "hold_ms": 700.0}, (39.3 / 60, 1, 0, 20.0, 4)),
        ([(10, 20), (40, 50)], {**FLAT, "amount_db": -4.0}, (40 / 60, 2, 0, 10.0, 8)),
        ([(10, 20), (40, 50)], {**FLAT, "amount_db": -0.4}, (1.0, 0, 0, 6.4, 8)),  # so little down is full
        ([], FLAT, (1.0, 0, 0, None, 0)),
        ([(10, 20)], {"mode": Mode.EVEN, "even_db": -12.0}, (0.0, 1, 0, 18.0, 1)),
    ],
)
def test_figures_of_a_place(spans, settings, expected):
    result = decide(film(**settings), facts(spans))
    found = figures(result.plan, result.clear)
    assert (found.dips, found.flutter) == expected[1:3]
    assert found.clear == (expected[3] and pytest.approx(expected[3], abs=1.9))  # a last step reaches beyond the dip
    assert found.full == pytest.approx(expected[0], abs=0.004)
    assert found.points in (expected[4], expected[4] + 1)


def test_only_the_musics_own_time_counts():
    """Music for 20 s, down for half of it."""
    result = decide(film(bed=clip(2, BED, start_s=10, length_s=20), **FLAT), facts([(0, 20)]))
    assert figures(result.plan, result.clear).full == pytest.approx(0.5, abs=0.01)


def place(full=0.5, flutter=0, clear=12.0, dips=5, points=20) -> Figures:
    return Figures(full, dips, flutter, clear, points)


@pytest.mark.parametrize(
    ("places", "settings", "expected"),
    [
        ([place(flutter=1, full=0.9), place(flutter=0)], {}, [1]),  # least flutter first of all
        ([place(clear=9.0, full=0.9), place(clear=12.0)], {}, [1]),  # then clear as wished: 10 LU
        ([place(clear=10.0, full=0.9), place(clear=20.0)], {}, [0]),
        ([place(clear=8.0), place(clear=7.6, full=0.9), place(clear=7.4, full=0.95)], {}, [1]),  # near the clearest, 8
        ([place(full=0.50), place(full=0.485), place(full=0.475)], {}, [0, 1]),  # within 2 %
        ([place(clear=None, full=0.4), place(clear=12.0, full=0.9)], {}, [1]),  # no passage hides nothing
        ([place(clear=0.74), place(clear=0.70, full=0.9)], {"clear_in": "intelligibility"}, [0]),
        ([place(clear=0.74), place(clear=0.725, full=0.9)], {"clear_in": "intelligibility"}, [1]),
        ([], {}, []),
    ],
)
def test_where_it_is_sweet(places, settings, expected):
    found = {(i, 0): each for i, each in enumerate(places)}
    assert sweet(found, Settings().changed(settings)) == [(i, 0) for i in expected]


@pytest.mark.parametrize(
    ("name", "count", "expected"),
    [("sensitivity", 5, [0, 25, 50, 75, 100]), ("hold_ms", 3, [0, 1000, 2000]), ("amount_db", 4, [-30, -20, -10, 0]),
     ("wish_sii", 3, [0.3, 0.62, 0.95]), ("hold_ms", 4, [0, 670, 1330, 2000])],
)  # fmt: skip
def test_values_cover_what_the_slider_does_on_its_steps(name, count, expected):
    assert values(KNOB[name], count) == pytest.approx(expected)


@pytest.mark.parametrize("mode", list(Mode))
def test_what_a_map_begins_with_is_among_its_choices(mode):
    settings = Settings(mode=mode)
    names = [knob.name for knob in tuning.choices(settings)]
    assert set(tuning.usual(settings)) <= set(names) or not names
    assert len(set(names)) == len(names)


def test_settings_that_can_not_stand_together_are_refused():
    with pytest.raises(InvalidValue):
        tuning.at(Settings(), ("band_low_hz", "band_high_hz"), (4000.0, 1000.0))


def test_a_place_is_what_deciding_it_by_itself_gives_to_the_last_figure():
    """Random places of random maps, worked out one after the other with what is known kept, and each alone."""
    rng = random.Random(11)
    spans = [(at, at + rng.uniform(0.5, 4)) for at in range(2, 55, 6)]
    narrator = lane(3, Tag.ATMOSPHERE, clip(3, media(2, 60), start_s=3))
    for base in ({}, {"duck_by": "clearance"}, {"mode": Mode.COMPRESSOR}, {"band": "speech"}, {"even_out_db": 6.0}):
        made = film(**base)
        made = replace(made, lanes=(*made.lanes, narrator))
        memo = Memo()
        for _ in range(5):
            names = tuple(rng.sample(tuning.KNOBS[made.settings.mode], 2))
            at = tuple(rng.choice(values(KNOB[name], 24)) for name in names)
            tuned = replace(made, settings=tuning.at(made.settings, names, at))
            shared = decide(tuned, facts(spans), memo)
            alone = decide(replace(tuned, settings=Settings(**vars(tuned.settings))), facts(spans))
            assert figures(shared.plan, shared.clear) == figures(alone.plan, alone.clear)
            assert shared.clear_lu == alone.clear_lu


CHANGES = {
    "a fader": lambda film, facts: (replace(film, lanes=(film.lanes[0], replace(film.lanes[1], gain_db=-7.0))), facts),
    "what sounds": lambda film, facts: (
        film,
        {**facts, 2: replace(facts[2], power=MediaPower(np.full((600, 1), 0.1)))},
    ),
    "who gives way": lambda film, facts: (replace(film, perches=("music", "dialogue")), facts),
    "a knob": lambda film, facts: (replace(film, settings=film.settings.changed({"amount_db": -5.0})), facts),
    "sensitivity": lambda film, facts: (replace(film, settings=film.settings.changed({"sensitivity": 80.0})), facts),
    "where a clip lies": lambda film, facts: (
        replace(film, lanes=(film.lanes[0], lane(2, Tag.MUSIC, clip(2, BED, start_s=3)))),
        facts,
    ),
    "a channel": lambda film, facts: (
        replace(film, lanes=(film.lanes[0], lane(2, Tag.MUSIC, clip(2, BED, channels=Channels.LEFT)))),
        facts,
    ),
    "another voice": lambda film, facts: (film, {**facts, 1: replace(facts[1], track=voice_track([(30, 33)], 60))}),
    "the leveller": lambda film, facts: (replace(film, settings=film.settings.changed({"even_out_db": 6.0})), facts),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
@pytest.mark.parametrize("settings", [{}, {"duck_by": "clearance"}], ids=["by amount", "by clearance"])
def test_with_what_is_kept_of_another_project_one_is_decided_as_without(change, settings):
    memo, before = Memo(), (film(**settings), facts([(10, 14), (20, 31)]))
    decide(*before, memo).clear_lu  # noqa: B018 – so that all of it is known
    after = change(*before)
    found, alone = decide(*after, memo), decide(*after)
    assert found.plan.dips == alone.plan.dips
    assert (found.clear_lu, found.match_db) == (alone.clear_lu, alone.match_db)
