"""The speech band alone gives way: its response, its exactness in any window, and what is taken away."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.signal

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.mix import Programme, Variant, Voice, render
from jaylantern.core.signal import speech_band
from jaylantern.core.signal.speech_band import REACH_N, SpeechBand
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from tests import sounds

SPEECH = SpeechBand(300, 3400)
DOWN = Curve(np.array([RATE, RATE + 9600, 3 * RATE, 3 * RATE + 9600]), np.array([0.0, -14.0, -14.0, 0.0]))
BED = np.repeat(sounds.music()[: 5 * RATE, None], 2, axis=1) * np.array([1.0, 0.6], np.float32)


def programme(curve: Curve | None, of: SpeechBand | None = SPEECH) -> Programme:
    return Programme(5 * RATE, (Voice(1, 0, 5 * RATE, 0, 1.0, Tag.MUSIC, curve, band=of),), -1.0)


def read(_: int, start_n: int, stop_n: int) -> np.ndarray:
    out = np.zeros((stop_n - start_n, 2), np.float32)
    part = BED[start_n:stop_n]
    out[: len(part)] = part
    return out


def test_inside_the_band_it_goes_down_by_the_amount_and_outside_by_nothing():
    found = speech_band.response_db(SPEECH, np.array([40, 100, 800, 1500, 2500, 6000, 12_000.0]), -14.0)
    assert found[2:5] == pytest.approx(-14, abs=0.05)
    assert found[[0, 1, 5, 6]] == pytest.approx(0, abs=0.05)
    assert speech_band.response_db(SPEECH, np.array([300.0, 3400.0]), -200.0) == pytest.approx(-6.02, abs=0.15)


def test_it_is_scipys_filter_with_the_same_taps():
    found = speech_band.BandFilter(SPEECH).of(BED[: RATE + 2 * REACH_N])
    other = scipy.signal.fftconvolve(BED[: RATE + 2 * REACH_N], speech_band.taps(SPEECH)[:, None], mode="valid", axes=0)
    assert np.abs(found - other).max() < 1e-5


def test_any_window_of_a_band_dip_is_the_same_to_the_last_bit():
    whole = render(programme(DOWN), read, 0, 5 * RATE, Variant.MUSIC)
    for start_n, stop_n in ((0, 100), (RATE - 5, RATE + 5), (70_000, 200_001), (4 * RATE + 1, 5 * RATE)):
        assert np.array_equal(render(programme(DOWN), read, start_n, stop_n, Variant.MUSIC), whole[start_n:stop_n])


def test_where_nothing_is_turned_down_the_bed_is_untouched():
    whole = render(programme(DOWN), read, 0, 5 * RATE, Variant.MUSIC)
    assert np.array_equal(whole[4 * RATE :], BED[4 * RATE :])


@pytest.mark.parametrize("of", [None, SPEECH])
def test_ducked_and_what_is_taken_away_add_up_to_plain(of):
    parts = [render(programme(DOWN, of), read, 0, 5 * RATE, v) for v in (Variant.MUSIC, Variant.TAKEN)]
    assert np.abs(parts[0] + parts[1] - BED).max() < 2e-6


def test_levels_of_bass_and_speech_band_measured_in_the_render():
    whole = render(programme(DOWN), read, 0, 5 * RATE, Variant.MUSIC)[round(1.5 * RATE) : round(2.9 * RATE)]
    plain = BED[round(1.5 * RATE) : round(2.9 * RATE)]
    bands = {(60, 180): 0.0, (700, 2500): -14.0}
    for edges, down_db in bands.items():
        sos = scipy.signal.butter(6, edges, "bandpass", fs=RATE, output="sos")
        level = [sounds.rms_db(scipy.signal.sosfilt(sos, each, axis=0)) for each in (whole, plain)]
        assert level[0] - level[1] == pytest.approx(down_db, abs=0.35)
