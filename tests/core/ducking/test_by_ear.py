"""Clearance of bands: beds of one loudness told apart, the speech band credited, ducking by the index."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from jaylantern.core.ducking import clearance
from jaylantern.core.ducking.just_enough import Bound, Stretches, depths
from jaylantern.core.ducking.media_power import MediaPower, Spectrum, Spoken, Yielding
from jaylantern.core.ducking.scales import MARKS, Intelligibility, Loudness
from jaylantern.core.edit import order
from jaylantern.core.signal import intelligibility as sii
from jaylantern.core.signal.sixth_octaves import EDGE_HZ, SIXTHS, k_of_bands
from jaylantern.core.signal.speech_band import SpeechBand, response_db
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.timeline.care import Care
from jaylantern.core.timeline.pin import DipPin, Own
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Band, ClearIn, DuckBy
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue
from jaylantern.pipeline import DuckingResult, MediaFacts, decide
from tests.build import clip, lane, media, project, voice_track

RATE = 48_000
STEPS = 600
TALK, BED, WORK = (media(number, 60) for number in (1, 2, 3))
SPOKEN = [(5.0, 9.0), (25.0, 29.0), (45.0, 49.0)]
MIDDLE_HZ = np.sqrt(EDGE_HZ[:-1] * EDGE_HZ[1:])
VOICE = np.zeros(SIXTHS)  # normal speech at −20 dB
VOICE[2 * sii.FIRST : 2 * sii.FIRST + 36] = np.repeat(
    10 ** ((sii.NORMAL_DB + sii.WIDTH_DB - sii.NORMAL_SPL_DB - 20) / 10) / 2, 2
)


def coloured(low_hz: float, high_hz: float, lufs_over_voice: float) -> np.ndarray:
    """As much in every sixth of an octave of a range, so many LU louder than the voice."""
    spectrum = np.where((low_hz / 1.12 < MIDDLE_HZ) & (high_hz * 1.12 > MIDDLE_HZ), 1.0, 0.0)
    weights = k_of_bands()
    return spectrum * (VOICE @ weights) / (spectrum @ weights) * 10 ** (lufs_over_voice / 10)


def fact(spectra: list[np.ndarray], track: VoiceTrack | None = None) -> MediaFacts:
    """Of a medium of a minute with these powers in its thirds, or all of it."""
    bands = np.repeat(spectra, STEPS // len(spectra), axis=0)[..., None] / 2
    known = Spectrum(bands)
    quiet = VoiceTrack.not_listened(np.zeros(6000, np.float32), 60 * RATE)
    return MediaFacts(track or quiet, MediaPower(bands[..., 0] @ k_of_bands()[:, None]), bands=lambda care: known)


def heard(made: Project, bed, work=(VOICE * 0,), spans=SPOKEN) -> DuckingResult:
    facts = {1: fact([VOICE], voice_track(spans, 60)), 2: fact(list(bed)), 3: fact(list(work))}
    return decide(made, facts)


def film(*more, **settings) -> Project:
    """A talk over a bed, by ear."""
    lanes = (lane(1, Tag.DIALOGUE, clip(1, TALK)), lane(2, Tag.MUSIC, clip(2, BED)), *more)
    by_ear = {"duck_by": "clearance", "clear_in": "intelligibility", "wish_sii": 0.8, "step_db": 60.0}
    return project(*lanes, **{**by_ear, "deepest_db": -60.0, **settings})


def amounts(result: DuckingResult) -> list[float]:
    return [dip.amount_db for dip in result.plan.dips]


def test_beds_of_one_loudness_are_told_apart():
    """A bed that booms, one that lies where speech does, one that hisses; each 6 LU under the voice."""
    beds = {"booms": (50, 160), "speaks": (500, 4000), "hisses": (10_000, 16_000)}
    found = {what: heard(film(duck_by="amount", amount_db=0.0), [coloured(*hz, -6)]) for what, hz in beds.items()}
    for each in found.values():
        assert each.clear_lu == pytest.approx([6, 6, 6], abs=0.01)
    index = {what: each.sii[0] for what, each in found.items()}
    assert index["speaks"] < 0.6 < index["booms"] < index["hisses"]
    assert index["hisses"] == pytest.approx(sii.index(sii.NORMAL_DB, np.full(18, -99.0)), abs=0.01)


@pytest.mark.parametrize(
    ("wish_sii", "hz"), [(0.6, (50, 16_000)), (0.8, (50, 16_000)), (0.9, (500, 4000)), (0.95, (50, 400))]
)
def test_every_passage_goes_as_deep_as_it_takes_to_be_made_out(wish_sii, hz):
    result = heard(film(wish_sii=wish_sii), [coloured(*hz, level) for level in (-30, 0, 8)])
    assert result.sii[1:] == pytest.approx([wish_sii, wish_sii], abs=0.002)
    assert result.sii[0] >= wish_sii - 0.002
    assert amounts(result)[2] == pytest.approx(amounts(result)[1] - 8, abs=0.05)  # 8 dB louder: 8 dB deeper
    assert [each and each.bound for each in result.plan.reach] == [None] * 3


def test_a_booming_bed_need_not_go_down_as_far_as_one_in_the_way():
    dips = [amounts(heard(film(), [coloured(*hz, 0)]))[0] for hz in ((50, 160), (50, 16_000), (500, 4000))]
    assert dips[0] == 0
    assert dips[0] > dips[1] > dips[2]


def test_it_is_the_index_of_the_standard_with_all_talk_at_the_level_of_normal_speech():
    """The voice is normal speech by its spectrum; the bed's spectrum level lies so many dB under it in each band."""
    under_db = 12.0
    bed = VOICE * 10 ** (-under_db / 10)
    for voice_gain_db in (0.0, -9.0):  # whoever listens turns it up
        made = film(duck_by="amount", amount_db=0.0)
        made = replace(made, lanes=tuple(replace(each, gain_db=voice_gain_db) for each in made.lanes))
        assert heard(made, [bed]).sii == pytest.approx(
            [sii.index(sii.NORMAL_DB, sii.NORMAL_DB - under_db)] * 3, abs=1e-3
        )


def test_more_depth_never_makes_speech_less_clear_on_either_scale():
    rng = np.random.default_rng(5)
    for scale, width in ((Loudness(), ()), (Intelligibility(80.0), (18,))):
        speech, power = rng.uniform(1e-6, 1e-2, (2, 8, *width))
        once = power * rng.uniform(0, 1, power.shape)
        found = Stretches(
            speech, power * 0.01, [(1.0, Yielding(power, once, once * 0.9)), (0.3, Yielding.whole(power))]
        )
        clear = [found.clear(scale, np.full(8, depth_db)) for depth_db in np.arange(0.0, -60, -2)]
        assert all((after >= before - 1e-9).all() for before, after in pairwise(clear))


@pytest.mark.parametrize(
    ("gain_db", "once", "twice", "expected"),
    [
        (0.0, 1.0, 1.0, 1.0),
        (-20.0, 1.0, 1.0, 0.01),  # all of it in the band: a tenth of the amplitude
        (-20.0, 0.0, 0.0, 1.0),  # none of it
        (-20.0, 0.5, 0.5, 0.505),  # half of the power wholly in it: 0.5 + 0.5·0.01
        (-20.0, 0.5, 0.25, 0.3025),  # all of it at an edge, where half of the amplitude is: (1 − 0.9/2)²
        (-200.0, 1.0, 1.0, 0.0),
    ],
)
def test_what_is_left_of_a_sound_whose_band_goes_down(gain_db, once, twice, expected):
    found = Yielding(np.ones(1), np.full(1, once), np.full(1, twice)).at(np.array([gain_db]))
    assert found == pytest.approx([expected], abs=1e-9)


@pytest.mark.parametrize(
    ("hz", "clear_lu"),
    [
        ((630, 2000), 20.0),  # inside 250 Hz to 4 kHz: the whole 14 dB
        ((8000, 16_000), 6.0),  # outside: nothing
        ((50, 125), 6.0),
    ],
)
def test_a_dip_of_the_speech_band_is_credited_with_what_it_does(hz, clear_lu):
    made = film(duck_by="amount", amount_db=-14.0, band=Band.SPEECH, band_low_hz=250.0, band_high_hz=4000.0)
    found = heard(made, [coloured(*hz, -6)])
    assert found.clear_lu == pytest.approx([clear_lu] * 3, abs=0.1)
    whole = heard(replace(made, settings=replace(made.settings, band=Band.WHOLE)), [coloured(*hz, -6)])
    assert whole.clear_lu == pytest.approx([20.0] * 3, abs=0.01)


@pytest.mark.parametrize("sixth", [0, 1])
def test_at_the_edge_of_the_band_what_is_left_is_the_mean_of_what_the_filter_leaves(sixth):
    """The sixth of an octave under 251 Hz, and the one above: |1 + (g − 1)·H|² over its frequencies."""
    band = SpeechBand(250.0, 4000.0)
    first = int(np.argmin(np.abs(EDGE_HZ - 250))) - 1 + sixth
    hz = np.linspace(EDGE_HZ[first], EDGE_HZ[first + 1], 200)
    expected = 10 * np.log10(np.mean(10 ** (response_db(band, hz, -30.0) / 10)))
    made = film(duck_by="amount", amount_db=-30.0, band=Band.SPEECH, band_low_hz=250.0, band_high_hz=4000.0)
    bed = np.where(np.arange(SIXTHS) == first, 1.0, 0.0)
    plain, found = heard(film(duck_by="amount", amount_db=0.0), [bed]), heard(made, [bed])
    assert plain.clear_lu[0] - found.clear_lu[0] == pytest.approx(expected, abs=0.6)


def test_the_mix_taken_apart_credits_it_too():
    made = film(duck_by="amount", amount_db=-14.0, band=Band.SPEECH)
    for hz, left_db in (((630, 2000), -14.0), ((8000, 16_000), 0.0)):
        found = heard(made, [coloured(*hz, 0)])
        parts = clearance.parts(made, found.plan, {2: found.facts[2].power}, found.levels())
        assert 10 * np.log10(parts.music[70] / parts.music[400]) == pytest.approx(left_db, abs=0.15)


def test_what_lies_outside_the_band_may_be_what_keeps_speech_from_standing_clear():
    hiss, tune = coloured(8000, 16_000, -12), coloured(630, 2000, -6)
    settings = {"clear_in": "loudness", "wish_lu": 14.0, "band": Band.SPEECH}
    kept = heard(film(**settings), [hiss + tune])
    assert [each and each.bound for each in kept.plan.reach] == [Bound.BAND] * 3
    assert [each.left for each in kept.plan.reach if each] == pytest.approx([12.0] * 3, abs=0.1)
    assert kept.clear_lu[0] > 12.0 - 0.5
    assert amounts(kept)[0] > -30  # no deeper than half an LU is worth
    assert any("speech band leaves" in each.text for each in kept.findings)
    free = heard(film(**{**settings, "wish_lu": 11.0}), [hiss + tune])
    assert [each and each.bound for each in free.plan.reach] == [None] * 3
    assert free.clear_lu == pytest.approx([11.0] * 3, abs=0.02)


@pytest.mark.parametrize(
    ("work", "deepest_db", "bound"),
    [
        (coloured(500, 4000, -90), -60.0, None),
        (coloured(500, 4000, 0), -60.0, Bound.OTHERS),
        (coloured(50, 125, 0), -60.0, None),  # it booms, and masks little
        (coloured(500, 4000, -90), -3.0, Bound.DEEPEST),
    ],
)
def test_what_keeps_a_passage_from_being_made_out(work, deepest_db, bound):
    made = film(lane(3, Tag.EFFECTS, clip(3, WORK)), deepest_db=deepest_db)
    result = heard(made, [coloured(50, 16_000, 0)], [work])
    assert [each and each.bound for each in result.plan.reach] == [bound] * 3
    texts = [each.text for each in result.findings if not each.fine and "SII 0.80" in each.text]
    assert bool(texts) == (bound is Bound.OTHERS)
    if bound is Bound.DEEPEST:
        assert any(re.search(r"clear( at the least)?, not 0\.80", each.text) for each in result.findings)


def test_a_wish_of_its_own_and_of_a_pair():
    own = replace(film(), dip_pins=(DipPin(9, 1, 25 * RATE, 29 * RATE, Own({"wish_sii": 0.9})),))
    assert heard(own, [coloured(50, 16_000, 0)]).sii == pytest.approx([0.8, 0.9, 0.8], abs=0.002)
    after = order.set_pair(film(), upper="dialogue", lower="music", values={"wish_sii": 0.6})
    assert (after.settings.wish_sii, after.pairs) == (0.6, ())
    by_amount = replace(own, settings=replace(own.settings, duck_by=DuckBy.AMOUNT, amount_db=-3.0))
    assert amounts(heard(by_amount, [coloured(50, 16_000, 0)])) == pytest.approx(
        [-3, amounts(heard(own, [coloured(50, 16_000, 0)]))[1], -3]
    )


@pytest.mark.parametrize(
    ("clear_in", "value", "said", "wished"),
    [
        (ClearIn.LOUDNESS, -3.04, "−3.0 LU", "-3.04 LU"),
        (ClearIn.LOUDNESS, 10.0, "10.0 LU", "10 LU"),
        (ClearIn.INTELLIGIBILITY, 0.749, "SII 0.75", "SII 0.75"),
        (ClearIn.INTELLIGIBILITY, 0.7, "SII 0.70", "SII 0.70"),
    ],
)
def test_figures_of_both_scales_in_words(clear_in, value, said, wished):
    assert (MARKS[clear_in].in_words(value), MARKS[clear_in].wished(value)) == (said, wished)


@pytest.mark.parametrize(("values", "under", "least"), [([0.74, 0.754, 0.746, 0.2], 2, (3, 0, 1, 2)), ([], 0, ())])
def test_passages_under_the_index_wished_for_are_counted_as_they_are_shown(values, under, least):
    nothing = clearance.Powers(np.zeros(10), np.zeros(10), np.zeros(10))
    found = clearance.standing(nothing, values, film(wish_sii=0.75).settings)
    assert (found.under, found.least, found.clear_in) == (under, least, ClearIn.INTELLIGIBILITY)


@pytest.mark.parametrize(("name", "value"), [("wish_sii", 1.0), ("wish_sii", -0.1), ("clear_in", "phons")])
def test_settings_out_of_their_limits_are_refused(name, value):
    with pytest.raises(InvalidValue):
        film(**{name: value})


def test_means_over_spoken_steps_alone():
    """Power k in step k; spoken from 1.0 to 1.15 s and from 3.0 to 3.05 s."""
    spoken = Spoken(np.array([[RATE, RATE * 115 // 100], [3 * RATE, RATE * 305 // 100]]), 40)
    total = spoken.total(np.arange(40.0))
    spans = np.array([[0, RATE * 11 // 10], [RATE, 2 * RATE], [RATE, 4 * RATE], [2 * RATE, 3 * RATE]])
    assert spoken.means(total, spans) == pytest.approx([10.0, 10.5, 17.0, 0.0])
    assert spoken.count == 3
    wide = spoken.means(spoken.total(np.outer(np.arange(40.0), [1.0, 2.0])), spans)
    assert wide == pytest.approx(np.outer([10.0, 10.5, 17.0, 0.0], [1, 2]))


def test_a_depth_is_found_to_a_thousandth_of_a_decibel():
    scale = Intelligibility(0.0)
    speech = 10 ** ((sii.NORMAL_DB + sii.WIDTH_DB) / 10)[None]
    found = Stretches(speech, speech * 0, [(1.0, Yielding.whole(speech))])
    wish = sii.index(sii.NORMAL_DB, sii.NORMAL_DB - 11.5)
    assert depths(scale, found, np.array([wish])) == pytest.approx([-11.5], abs=0.002)


def test_what_was_not_heard_by_band_goes_down_whole_and_care_is_heard_where_it_is_known():
    """Of media without bands nothing is known but their loudness; treated sound has bands of its own."""
    made = film(duck_by="amount", amount_db=-14.0, band=Band.SPEECH)
    facts = {1: fact([VOICE], voice_track(SPOKEN, 60)), 2: replace(fact([coloured(8000, 16_000, -6)]), bands=None)}
    assert decide(made, facts).clear_lu == pytest.approx([20.0] * 3, abs=0.01)
    asked = []
    cared = replace(made, lanes=(replace(made.lanes[0], care=Care(hush=12)), made.lanes[1]))
    facts[1] = replace(facts[1], bands=lambda care: asked.append(care) or Spectrum(np.full((STEPS, SIXTHS, 1), 1e-9)))
    decide(cared, facts).bands()
    assert asked == [None, Care(hush=12)]


def test_whatever_the_film_speech_is_made_out_as_wished_or_it_is_said_why():
    rng = random.Random(23)
    kinds = set()
    for _ in range(20):
        starts = sorted(rng.sample(range(1, 54, 7), rng.randint(1, 6)))
        spans = [(at, at + rng.uniform(0.6, 4.0)) for at in starts]
        settings = {"wish_sii": rng.randint(20, 98) / 100, "deepest_db": -float(rng.randint(6, 40)),
                    "step_db": float(rng.choice([3, 60])), "band": rng.choice(list(Band))}  # fmt: skip
        tag = rng.choice([None, Tag.EFFECTS, Tag.ATMOSPHERE, Tag.MUSIC])
        more = [] if tag is None else [lane(3, tag, clip(3, WORK))]
        bed, work = (
            [
                coloured(low := rng.choice([50, 200, 800]), low * rng.choice([2, 8, 20]), rng.uniform(-30, 6))
                for _ in range(6)
            ]
            for _ in range(2)
        )
        result = heard(film(*more, **settings), bed, work, spans)
        for index, reach, dip in zip(result.sii, result.plan.reach, result.plan.dips, strict=True):
            assert reach is not None
            kinds.add(reach.bound)
            if reach.bound is None:
                assert index >= settings["wish_sii"] - 0.011
                free = settings["step_db"] == 60 and dip.amount_db < -0.01
                assert not free or index <= settings["wish_sii"] + 0.011
            else:
                assert index < settings["wish_sii"] + 0.001
                assert reach.bound is not Bound.DEEPEST or dip.amount_db == settings["deepest_db"]
    assert kinds == {None, *Bound}
