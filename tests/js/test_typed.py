"""What is typed into a field is understood in the field's unit, or refused. Conversions are definitions: 20·log10 of an
amplitude ratio, 1000 ms to the second; timecode counts whole frames (SMPTE ST 12-1, non-drop, from memory)."""

from __future__ import annotations

import pytest

FRAME_25, FRAME_2997 = 1 / 25, 1001 / 30000

UNDERSTOOD = [
    ("350", "ms", 350), ("1 s", "ms", 1000), ("0.5s", "ms", 500), ("0,5 s", "ms", 500), ("350 ms", "ms", 350),
    ("12 frames", "ms", 480), ("12f", "ms", 480), ("1 min", "ms", 60_000), ("−120", "ms", -120),
    ("-120 ms", "ms", -120),
    ("250 ms", "s", 0.25), ("2", "s", 2), ("00:01.5", "s", 1.5), ("01:02:03", "s", 3723), ("00:00:02:12", "s", 2.48),
    ("−6", "dB", -6), ("50 %", "dB", -6.0206), ("100%", "dB", 0), ("-6 dB", "dB", -6), ("0 %", "dB", -90),
    ("70", "%", 70), ("−6 dB", "%", 50.1187), ("-16 LUFS", "LUFS", -16), ("-1 dB", "dBTP", -1), ("4 kHz", "Hz", 4000),
    ("4:1", ":1", 4), ("4", ":1", 4), ("62", "", 62), (" 62 ", "", 62),
]  # fmt: skip
REFUSED = [
    ("1 s", "dB"), ("1 Hz", "ms"), ("-6 dB", "ms"), ("50 %", "ms"), ("12 frames", "dB"), ("1 s", ""), ("abc", "ms"),
    ("", "ms"),
    ("1 2", "ms"), ("1.2.3", "ms"), ("00:61", "s"), ("00:00:00:25", "s"), ("-16 dB", "LUFS"), ("5 LUFS", "dB"),
    ("NaN", "dB"),
    ("1e3", "ms"), ("--5", "ms"), ("5 parsecs", "ms"), ("Infinity", "ms"), ("1:2:3:4:5", "s"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "unit", "value"), UNDERSTOOD)
def test_units_that_can_be_brought_to_the_fields_are_understood(module, text, unit, value):
    assert module("typed.js").call("typed", text, unit, FRAME_25) == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize(("text", "unit"), REFUSED)
def test_everything_else_is_refused(module, text, unit):
    assert module("typed.js").call("typed", text, unit, FRAME_25) == "NaN"


def test_frames_are_those_of_the_film(module):
    assert module("typed.js").call("typed", "30 frames", "s", FRAME_2997) == pytest.approx(1.001, abs=1e-6)
    assert module("typed.js").call("typed", "00:00:01:00", "s", FRAME_2997) == pytest.approx(1.001, abs=1e-6)


@pytest.mark.parametrize("unit", ["ms", "s", "dB", "%", "LUFS", "Hz", ""])
def test_what_is_refused_is_answered_with_what_is_understood(module, unit):
    words = module("typed.js").call("understood", unit)
    assert words
    assert (unit in words) or unit == ""
