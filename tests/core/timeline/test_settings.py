"""The table of settings is what the dataclass, the fields and the limits are made of."""

from dataclasses import fields

import pytest

from jaylantern.core.timeline.settings import KNOB, KNOBS, OPTIONS, Ramp, Settings
from jaylantern.errors import InvalidValue


def test_every_field_is_a_row_and_every_row_a_field():
    assert sorted(each.name for each in fields(Settings)) == sorted(each.name for each in (*KNOBS, *OPTIONS))


@pytest.mark.parametrize("option", OPTIONS, ids=lambda option: option.name)
def test_every_choice_has_words_for_all_that_can_be_chosen(option):
    assert set(option.words) == set(option.kind)
    assert option.default in option.words
    assert option.help.endswith(".")


def test_a_choice_that_is_none_is_refused_with_what_there_is():
    with pytest.raises(InvalidValue, match="Way down must be one of decibel, amplitude, eased; 'bent' is not"):
        Settings().changed({"fall": "bent"})
    assert Settings().changed({"fall": "eased"}).fall is Ramp.EASED


def test_a_band_of_no_width_is_refused():
    with pytest.raises(InvalidValue, match="at least half an octave"):
        Settings().changed({"band_low_hz": 3000, "band_high_hz": 3100})


@pytest.mark.parametrize("knob", KNOBS, ids=lambda knob: knob.name)
def test_defaults_and_sliders_lie_within_limits(knob):
    assert knob.low <= knob.slide_low < knob.slide_high <= knob.high
    assert knob.slide_low <= knob.default <= knob.slide_high
    assert knob.help.endswith(".")


@pytest.mark.parametrize("value", [-61, 1, "loud", None, float("nan"), float("inf")])
def test_a_bad_duck_amount_is_refused_with_its_limits(value):
    with pytest.raises(InvalidValue, match=r"Duck amount must be between -60 and 0 dB"):
        Settings().changed({"amount_db": value})


def test_an_unknown_setting_is_named():
    with pytest.raises(InvalidValue, match="no setting called 'loudness'"):
        Settings().changed({"loudness": 3})


def test_the_amount_default_is_about_a_fifth_of_the_amplitude():
    assert 100 * 10 ** (KNOB["amount_db"].default / 20) == pytest.approx(19.95, abs=0.01)
