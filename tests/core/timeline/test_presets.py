"""Presets: ours are sound, a file of them comes back as it went, and what is no preset is refused in words."""

from __future__ import annotations

import json

import pytest

from jaylantern.core.timeline import presets
from jaylantern.core.timeline.settings import Mode, Settings
from jaylantern.errors import InvalidValue


@pytest.mark.parametrize("preset", presets.OURS, ids=lambda preset: preset.name)
def test_ours_can_be_taken_over_and_leave_the_limiter_alone(preset):
    before = Settings(ceiling_dbtp=-3)
    after = before.changed(preset.settings)
    assert after.ceiling_dbtp == -3
    assert presets.checked(preset.settings)


def test_common_practice_stands_behind_them():
    """From the trade: −6 dB subtle, −12 moderate, −18 strong; 50 ms flutters, 300 ms is brisk, 1600 ms long."""
    amounts = {each.name: each.settings.get("amount_db") for each in presets.OURS}
    assert (amounts["Gentle"], amounts["Clear"], amounts["Strong"]) == (-6, -12, -18)
    drawn = [each.settings for each in presets.OURS if each.settings["mode"] is Mode.PASSAGE]
    assert all(100 <= each["attack_ms"] <= 1600 and 300 <= each["release_ms"] <= 1600 for each in drawn)
    assert all(each["last_release_ms"] > each["release_ms"] for each in drawn)


def test_an_even_bed_changes_nothing_but_the_mode():
    even = next(each for each in presets.OURS if each.name == "Even bed")
    assert dict(even.settings) == {"mode": Mode.EVEN}


def test_a_file_comes_back_as_it_went():
    kept = {"Ours, indoors": presets.of_settings(Settings(amount_db=-9, fall="eased"))}
    assert presets.from_json(presets.to_json(kept)) == kept


def a_file(name: str = "x", **settings) -> str:
    """A file with one preset."""
    body = {"format": presets.FORMAT, "version": 1, "presets": [{"name": name, "settings": settings}]}
    return json.dumps(body)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("no json", "not JSON"),
        ("[]", "does not say"),
        ('{"format": "jay-lantern-presets", "version": 9, "presets": []}', "version 9"),
        ('{"format": "jay-lantern-presets", "version": 1, "presets": [3]}', "no object"),
        (a_file(amount_db=5), "Duck amount must be between"),
        (a_file(colour=5), "can't hold 'colour'"),
        (a_file(), "needs settings"),
        (a_file("gentle", amount_db=-5), "comes with Jay Lantern"),
        (a_file(band_low_hz=3000, band_high_hz=3100), "half an octave"),
    ],
)
def test_what_is_no_file_of_presets_is_refused_in_words(text, said):
    with pytest.raises(InvalidValue, match=said):
        presets.from_json(text)
