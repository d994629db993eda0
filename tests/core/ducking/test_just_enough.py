"""Ducking by clearance: how deep a dip has to go, worked by hand, and what keeps it from that."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from jaylantern.core.ducking.dips import Dip
from jaylantern.core.ducking.just_enough import Bound, Stretches, depths, eased, followed, gently
from jaylantern.core.ducking.media_power import MediaPower, Yielding
from jaylantern.core.ducking.scales import MARKS, Loudness
from jaylantern.core.edit import order
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.timeline.perch import Pair, perch_of_lane
from jaylantern.core.timeline.pin import DipPin, Own, PointPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import ClearIn, DuckBy, Mode
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, Refused
from jaylantern.pipeline import DuckingResult, MediaFacts, decide
from tests.build import clip, lane, media, project, voice_track

RATE = 48_000
TALK, BED, WORK, NARRATOR = (media(number, 60) for number in (1, 2, 3, 4))
SPOKEN = [(5.0, 9.0), (25.0, 29.0), (45.0, 49.0)]  # pauses of 16 s
NEAR = [(5.0, 9.0), (16.0, 20.0), (27.0, 31.0)]  # pauses of 7 s


@pytest.mark.parametrize(
    ("speech", "fixed", "yielding", "shares", "wish_lu", "expected"),
    [
        (1000, 0, [100], [1], 10, 0.0),  # 10 LU clear as it is
        (1000, 0, [100], [1], 9, 0.0),
        (1000, 0, [100], [1], 16, -6.0),  # 6 LU more: 6 dB
        (1000, 0, [60, 40], [1, 1], 16, -6.0),
        (1000, 5, [100], [1], 20, -13.0103),  # room for 10, of which 5 are taken: 10·log10(5 / 100)
        (1000, 20, [100], [1], 20, -16.9897),  # no room: a tenth of what is there anyway, 10·log10(2 / 100)
        (1000, 9.9, [100], [1], 20, -20.0436),  # hardly any room: a tenth of 9.9
        (1000, 0, [100], [0.5], 16, -12.0),  # goes down half as far
        (1000, 0, [100, 100], [1, 0.5], 10, -3.7638),  # y² + y = 1 for y = 10^(x/20): 20·log10(0.618)·… by hand below
        (0, 0, [100], [1], 10, 0.0),  # nobody speaks
        (1000, 0, [0], [1], 10, 0.0),
        (1000, 0, [], [], 10, 0.0),
    ],
)
def test_how_deep_a_dip_has_to_go(speech, fixed, yielding, shares, wish_lu, expected):
    if shares == [1, 0.5]:  # 100·g + 100·√g = 100: √g = (√5 − 1) / 2
        expected = 20 * np.log10((np.sqrt(5) - 1) / 2)
    parts = [
        (float(share), Yielding.whole(np.array([float(power)]))) for share, power in zip(shares, yielding, strict=True)
    ]
    stretch = Stretches(np.array([float(speech)]), np.array([float(fixed)]), parts)
    found = depths(Loudness(), stretch, np.array([float(wish_lu)]))
    assert found == pytest.approx([expected], abs=1e-4)


@pytest.mark.parametrize(
    ("pauses_s", "deep", "step", "expected"),
    [
        ((2, 2), (0, -12, 0), 6, (-6, -12, -6)),
        ((2, 2), (-12, 0, 0), 5, (-12, -7, -2)),
        ((2, 2), (-12, -3, -12), 60, (-12, -3, -12)),
        ((12, 2), (-12, 0, 0), 6, (-12, 0, 0)),  # 12 s apart: not held
        ((10, 2), (-12, 0, 0), 6, (-12, 0, 0)),
        ((9.99, 2), (-12, 0, 0), 6, (-12, -6, 0)),
        ((2, 2), (-12, 0, -20), 0, (-20, -20, -20)),
    ],
)
def test_neighbours_change_by_no_more_than_a_step_and_only_ever_go_deeper(pauses_s, deep, step, expected):
    starts = np.cumsum([0, 4 + pauses_s[0], 4 + pauses_s[1]])
    spans = np.rint(np.stack((starts, starts + 4), axis=1) * RATE).astype(np.int64)
    assert eased(spans, np.array(deep, float), float(step)).tolist() == list(expected)


@pytest.mark.parametrize(
    ("seconds", "follow_s", "lengths_s"),
    [(4, 0, [4]), (60, 0, [60]), (4, 4, [4]), (5.9, 4, [5.9]), (6, 4, [3, 3]), (12, 4, [4, 4, 4]), (4, 0.5, [2, 2])],
)
def test_long_passages_are_followed_in_equal_stretches(seconds, follow_s, lengths_s):
    found = followed((RATE, RATE + round(seconds * RATE)), follow_s)
    assert [(b - a) / RATE for a, b in found] == pytest.approx(lengths_s)
    assert found[0][0] == RATE
    assert found[-1][1] == RATE + round(seconds * RATE)
    assert all(before[1] == after[0] for before, after in pairwise(found))


def test_within_a_followed_passage_it_goes_by_three_decibels_a_second():
    dip = Dip(0, 100, 10 * RATE + 500, 12 * RATE, -12.0)
    whole = (100, 10 * RATE)
    assert gently(dip, whole, whole) == dip
    first, inner = gently(dip, (100, 4 * RATE), whole), gently(dip, (4 * RATE, 7 * RATE), whole)
    assert (first.from_n, first.down_n, first.rise_n, first.up_n) == (0, 100, 4 * RATE, 8 * RATE)
    assert (inner.from_n, inner.down_n, inner.rise_n, inner.up_n) == (0, 4 * RATE, 7 * RATE, 11 * RATE)


def power(*levels: float) -> MediaPower:
    """K-weighted power of a minute, its thirds (or all of it) so many LU loud against some level."""
    steps = np.repeat([10 ** (level / 10) / 2 for level in levels], 600 // len(levels))
    return MediaPower(steps[:, None])


def heard(made: Project, spans=SPOKEN, **loud: tuple[float, ...]) -> DuckingResult:
    """What follows from a project whose talk is at 0 and whose other media are so loud."""
    facts = {number: MediaFacts(VoiceTrack.not_listened(np.zeros(6000, np.float32), 60 * RATE), power(*levels))
             for number, levels in ((2, loud.get("bed", (-6, -6, -6))), (3, loud.get("work", (-90,))))}  # fmt: skip
    facts[1] = MediaFacts(voice_track(spans, 60), power(0))
    facts[4] = MediaFacts(voice_track(loud.get("narrates", []), 60), power(0))
    return decide(made, facts)


def film(*more, **settings) -> Project:
    """A talk over a bed, by clearance."""
    lanes = (lane(1, Tag.DIALOGUE, clip(1, TALK)), lane(2, Tag.MUSIC, clip(2, BED)), *more)
    return project(*lanes, **{"duck_by": "clearance", "wish_lu": 10.0, "step_db": 60.0, **settings})


def amounts(result: DuckingResult, lane_id: int = 2) -> list[float]:
    """How deep what a lane holds lies in the middle of each passage."""
    [curve] = [each for key, each in result.plan.curves.items() if key[0] == lane_id]
    return [round(float(curve.at(np.array([(a + b) // 2]))[0]), 3) for a, b in result.plan.spans.tolist()]


@pytest.mark.parametrize(
    ("settings", "bed", "expected", "clear_lu"),
    [
        ({}, (-6, -6, -6), [-4, -4, -4], [10, 10, 10]),
        ({}, (-12, -6, 2), [0, -4, -12], [12, 10, 10]),  # none where it is soft, more where it swells
        ({"wish_lu": 15.0}, (-12, -6, 2), [-3, -9, -17], [15, 15, 15]),
        ({"deepest_db": -8.0}, (-12, -6, 2), [0, -4, -8], [12, 10, 6]),
        ({"slightest_db": -5.0}, (-12, -6, 2), [-5, -5, -12], [17, 11, 10]),
        ({"slightest_db": -20.0, "deepest_db": -8.0}, (-6, -6, -6), [-8, -8, -8], [14, 14, 14]),
        ({"wish_lu": 0.0}, (-12, -6, 2), [0, 0, -2], [12, 6, 0]),
        ({"amount_db": 0.0}, (-6, -6, -6), [-4, -4, -4], [10, 10, 10]),  # the duck amount says nothing here
    ],
)
def test_each_passage_gets_the_dip_that_lets_speech_stand_clear(settings, bed, expected, clear_lu):
    result = heard(film(**settings), bed=bed)
    assert amounts(result) == pytest.approx(expected, abs=1e-3)
    assert result.clear_lu == pytest.approx(clear_lu, abs=0.01)
    assert [dip.amount_db for dip in result.plan.dips] == pytest.approx(expected, abs=1e-3)


def test_passages_near_each_other_are_held_to_the_largest_step():
    result = heard(film(step_db=3.0), NEAR, bed=(-6, 6, -6))  # 12 dB louder from 20 s on
    assert amounts(result) == pytest.approx([-10, -13, -16], abs=1e-3)
    far = heard(film(step_db=3.0), bed=(-6, 6, -6))
    assert amounts(far) == pytest.approx([-4, -16, -4], abs=1e-3)


@pytest.mark.parametrize(("follow_s", "spread"), [(0.0, 0.0), (4.0, 12.0)])
def test_a_long_passage_is_followed_where_that_is_wanted(follow_s, spread):
    made = film(follow_s=follow_s)
    result = heard(made, [(5.0, 55.0)], bed=(-12, -6, 0))
    curve = result.plan.leading
    at = curve.at(np.arange(6, 54) * RATE)
    assert float(at.max() - at.min()) == pytest.approx(spread, abs=2.1)
    assert np.abs(np.diff(at)).max() <= 3.001  # by 3 dB a second at most
    assert result.clear_lu[0] >= 9.99
    if follow_s:
        for second, wanted in ((10, 0.0), (30, -4.0), (50, -10.0)):
            assert float(curve.at(np.array([second * RATE]))[0]) == pytest.approx(wanted, abs=0.01)


def test_what_a_passage_has_of_its_own_wins():
    def own(**values):
        pins = (DipPin(9, 1, 25 * RATE, 29 * RATE, Own(values)),)
        return heard(replace(film(), dip_pins=pins))

    assert amounts(own(amount_db=-2.0)) == pytest.approx([-4, -2, -4], abs=1e-3)
    assert amounts(own(wish_lu=18.0)) == pytest.approx([-4, -12, -4], abs=1e-3)
    assert [each and each.wish for each in own(amount_db=-2.0).plan.reach] == [10.0, None, 10.0]
    by_amount = replace(film(duck_by="amount"), dip_pins=(DipPin(9, 1, 25 * RATE, 29 * RATE, Own({"wish_lu": 18.0})),))
    assert amounts(heard(by_amount)) == pytest.approx([-14, -12, -14], abs=1e-3)
    none = replace(film(), dip_pins=(DipPin(9, 1, 25 * RATE, 29 * RATE, Own(none=True)),))
    assert amounts(heard(none)) == pytest.approx([-4, 0, -4], abs=1e-3)


def test_of_an_amount_and_a_clearance_of_its_own_the_one_set_last_counts():
    assert dict(Own({"amount_db": -3.0}).changed({"wish_lu": 8.0}).values) == {"wish_lu": 8.0}
    assert dict(Own({"wish_lu": 8.0}).changed({"amount_db": -3.0}).values) == {"amount_db": -3.0}
    assert Own({"wish_lu": 8.0}).changed({"wish_lu": None}).empty


def test_a_point_set_by_hand_wins():
    pins = (PointPin(9, 2, 27 * RATE, -20.0, None, True),)
    assert amounts(heard(replace(film(), point_pins=pins)))[1] == -20


def test_a_pair_may_wish_for_more_or_go_by_an_amount():
    narrator = lane(4, Tag.NARRATION, clip(4, NARRATOR, start_s=34, offset_s=34, length_s=6))
    plain = film(narrator)
    wishing = replace(plain, pairs=(Pair("narration", "music", Own({"wish_lu": 16.0})),))
    fixed = replace(plain, pairs=(Pair("narration", "music", Own({"amount_db": -7.0})),))
    alone = {"narrates": [(35.0, 38.0)]}
    both_lu = 10 * np.log10(1 + 10**-0.6)  # dialogue under narration gives way by 6 dB, and is speech too
    for made, dip in ((plain, -4 + both_lu), (wishing, -10 + both_lu), (fixed, -7)):
        assert amounts(heard(made, **alone)) == pytest.approx([-4, -4, dip, -4], abs=0.01)


def test_talk_gives_way_to_talk_by_an_amount_and_counts_as_speech():
    result = heard(film(lane(4, Tag.NARRATION, clip(4, NARRATOR))), narrates=SPOKEN)
    assert amounts(result, 1) == pytest.approx([-6, -6, -6], abs=1e-3)
    assert result.clear_lu == pytest.approx([10, 10, 10], abs=0.01)


def test_what_else_gives_way_goes_down_in_proportion():
    """Atmosphere gives way by 4 of the music's 14 dB."""
    result = heard(film(lane(3, Tag.ATMOSPHERE, clip(3, WORK))), work=(-12,))
    music, atmosphere = amounts(result), amounts(result, 3)
    assert atmosphere == pytest.approx([4 / 14 * each for each in music], abs=2e-3)
    assert result.clear_lu == pytest.approx([10, 10, 10], abs=0.01)
    assert -8 < music[0] < -4


def test_where_others_alone_leave_too_little_it_says_so_and_which_lane():
    others = (lane(3, Tag.EFFECTS, clip(3, WORK)), lane(4, Tag.UNTAGGED, clip(4, NARRATOR, gain_db=-15.0)))
    result = heard(film(*others), work=(-90, -6, -90))
    reach = result.plan.reach
    assert [each and each.bound for each in reach] == [None, Bound.OTHERS, None]
    assert reach[1].lane_id == 3
    assert reach[1].left == pytest.approx(-10 * np.log10(10**-0.6 + 10**-1.5), abs=0.01)
    assert amounts(result)[1] == pytest.approx(10 * np.log10(0.1 * (10**-0.6 + 10**-1.5) / 10**-0.6), abs=0.01)
    assert result.clear_lu[1] > reach[1].left - 0.5
    [about] = [each for each in result.findings if each.at_n == result.plan.passages[1].start_n]
    assert "lane 3" in about.text
    assert "10 LU" in about.text


def test_a_dip_that_may_not_go_as_deep_as_it_takes_says_so():
    result = heard(film(deepest_db=-2.0))
    assert [each and each.bound for each in result.plan.reach] == [Bound.DEEPEST] * 3
    [about] = [each for each in result.findings if each.at_n == result.plan.passages[0].start_n]
    assert "deepest dip" in about.text


def test_other_modes_and_frozen_lanes_know_nothing_of_it():
    even = heard(film(mode=Mode.EVEN))
    assert amounts(even) == [-12, -12, -12]
    assert even.plan.reach == (None, None, None)
    frozen = replace(film(), lanes=tuple(replace(each, frozen=each.id == 2) for each in film().lanes))
    assert amounts(heard(frozen)) == [0, 0, 0]


def test_a_lane_of_music_on_a_perch_of_its_own_goes_all_the_way():
    made = order.raise_lane(film(), lane_id=2)
    assert perch_of_lane(2) in made.perches
    assert amounts(heard(made)) == pytest.approx([-4, -4, -4], abs=1e-3)


@pytest.mark.parametrize(
    ("upper", "lower", "own", "settings", "pairs"),
    [
        ("dialogue", "music", {"wish_lu": 8.0}, {"wish_lu": 8.0}, []),  # the project's own wish
        ("dialogue", "music", {"amount_db": -5.0}, {"amount_db": -14.0}, [{"amount_db": -5.0}]),
        ("narration", "music", {"wish_lu": 8.0}, {"wish_lu": 10.0}, [{"wish_lu": 8.0}]),
        ("dialogue", "atmosphere", {"wish_lu": 8.0}, {"wish_lu": 10.0}, [{"wish_lu": 8.0}]),
    ],
)
def test_a_pair_is_given_a_clearance(upper, lower, own, settings, pairs):
    after = order.set_pair(film(), upper=upper, lower=lower, values=own)
    assert {name: getattr(after.settings, name) for name in settings} == settings
    assert [dict(pair.own.values) for pair in after.pairs] == pairs


def test_an_amount_typed_where_the_project_goes_by_amount_takes_the_place_of_a_pairs_own_clearance():
    made = replace(film(duck_by="amount"), pairs=(Pair("dialogue", "music", Own({"wish_lu": 8.0})),))
    after = order.set_pair(made, upper="dialogue", lower="music", values={"amount_db": -5.0})
    assert (after.settings.amount_db, after.pairs) == (-5.0, ())


@pytest.mark.parametrize("pair", [("narration", "dialogue"), ("effects", "music")])
def test_only_speech_is_wished_clear_of_what_does_not_speak(pair):
    with pytest.raises(Refused, match="Only speech"):
        order.set_pair(film(), upper=pair[0], lower=pair[1], values={"wish_lu": 8.0})


@pytest.mark.parametrize(("name", "value"), [("wish_lu", 41), ("wish_lu", -1), ("deepest_db", 1), ("duck_by", "ear")])
def test_settings_out_of_their_limits_are_refused(name, value):
    with pytest.raises(InvalidValue):
        film(**{name: value})


def test_whatever_the_project_speech_stands_as_clear_as_wished_or_it_is_said_why():
    """Random films. Never half an LU less than wished for without a reason; never so much more unless the dip is the
    slightest, or held to a neighbour's step."""
    rng = random.Random(17)
    kinds = set()
    for _ in range(25):
        starts = sorted(rng.sample(range(1, 54, 7), rng.randint(1, 6)))
        spans = [(at, at + rng.uniform(0.6, 4.0)) for at in starts]
        settings = {"wish_lu": float(rng.randint(0, 20)), "deepest_db": -float(rng.randint(6, 40)),
                    "slightest_db": -float(rng.choice([0, 0, 3])), "step_db": float(rng.choice([3, 60]))}  # fmt: skip
        tag = rng.choice([None, Tag.EFFECTS, Tag.ATMOSPHERE, Tag.MUSIC])
        more = [] if tag is None else [lane(3, tag, clip(3, WORK))]
        bed, work = (tuple(rng.uniform(-30, 6) for _ in range(6)) for _ in range(2))
        result = heard(film(*more, **settings), spans, bed=bed, work=work)
        found = zip(result.clear_lu, result.plan.reach, result.plan.dips, strict=True)
        for clear_lu, reach, dip in found:
            assert reach is not None
            kinds.add(reach.bound)
            if reach.bound is None:
                assert clear_lu >= settings["wish_lu"] - 0.5
                free = settings["step_db"] == 60 and dip.amount_db < min(settings["slightest_db"], -0.01)
                assert not free or clear_lu <= settings["wish_lu"] + 0.5
            else:
                assert clear_lu < settings["wish_lu"] + 0.01
                assert reach.bound is not Bound.DEEPEST or dip.amount_db == settings["deepest_db"]
    assert kinds == {None, Bound.OTHERS, Bound.DEEPEST}


def test_by_amount_nothing_is_weighed_for_it(monkeypatch):
    """Powers are asked for only where something goes by clearance."""
    result = heard(film(duck_by=DuckBy.AMOUNT))
    assert amounts(result) == [-14, -14, -14]
    assert result.levels.cache_info().currsize == 0
    assert heard(film()).levels.cache_info().currsize == 1
    assert film().settings.wish_lu == MARKS[ClearIn.LOUDNESS].clear


@pytest.mark.parametrize(("between_lu", "said"), [(3.0, False), (12.0, True)])
def test_a_whole_much_louder_than_its_talk_is_looked_at(between_lu, said):
    """Talk in a tenth of the film over a bed that is so much louder than it."""
    result = heard(film(wish_lu=0.0), [(5.0, 11.0)], bed=(between_lu,))
    assert any("louder than its talk" in finding.text for finding in result.findings) == said
    assert (result.standing.ratio_lu > 5) == said


@pytest.mark.parametrize(
    ("work_lu", "deepest_db", "bound"),
    [
        (-8.5, -24.0, Bound.OTHERS),  # alone they leave 8.5 of the 10 LU wished for
        (-9.9, -24.0, Bound.OTHERS),
        (-10.5, -24.0, None),  # 10.5: 10·log10((0.1 − 0.0891) / 0.2512) = −13.6 dB of the bed do it
        (-10.5, -13.0, Bound.DEEPEST),
        (-10.5, -14.0, None),
    ],
)
def test_what_keeps_a_passage_from_its_wish(work_lu, deepest_db, bound):
    result = heard(film(lane(3, Tag.EFFECTS, clip(3, WORK)), deepest_db=deepest_db), work=(work_lu,))
    assert [each and each.bound for each in result.plan.reach] == [bound] * 3


def test_a_passage_that_wishes_for_more_leaves_talk_under_talk_as_it_is():
    narrated = film(lane(4, Tag.NARRATION, clip(4, NARRATOR)), duck_by="amount")
    made = replace(narrated, dip_pins=(DipPin(9, 1, 25 * RATE, 29 * RATE, Own({"wish_lu": 18.0})),))
    assert amounts(heard(made, narrates=SPOKEN), 1) == [-6, -6, -6]
