"""Latency found by correlation: exact on known delays, through noise, echo and a dull microphone."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from jaylantern.core.signal import latency
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue, Refused


def heard(delay_n: int, *, gain: float = 0.3, noise: float = 0.0, echo: float = 0.0) -> np.ndarray:
    sent = latency.probe()
    out = np.random.default_rng(1).standard_normal(len(sent) + RATE).astype(np.float32) * np.float32(noise)
    out[delay_n : delay_n + len(sent)] += gain * sent
    if echo:
        late = delay_n + round(0.021 * RATE)
        out[late : late + len(sent)] += echo * sent
    return out


@pytest.mark.parametrize("delay_n", [0, 1, 137, 5760, 24_000, 47_999])
def test_a_known_delay_is_found_to_the_sample(delay_n):
    assert latency.measure(heard(delay_n)) == delay_n


def test_noise_ten_decibels_under_the_clicks_and_an_echo_change_nothing():
    assert latency.measure(heard(4321, gain=0.1, noise=0.01, echo=0.07)) == 4321


def test_a_dull_microphone_moves_it_by_less_than_a_tenth_of_a_millisecond():
    sos = signal.butter(2, (300, 3400), "bandpass", fs=RATE, output="sos")  # a telephone's band: ITU-T G.712, 1996
    dull = signal.sosfilt(sos, heard(9000)).astype(np.float32)
    assert latency.measure(dull) == pytest.approx(9000, abs=0.0002 * RATE)


def test_a_phase_turned_over_is_found_as_well():
    assert latency.measure(-heard(700)) == 700


@pytest.mark.parametrize("level", [0.0, 0.1])
def test_clicks_that_were_not_heard_are_said_to_be_so(level):
    noise = np.random.default_rng(3).standard_normal(2 * RATE).astype(np.float32)
    with pytest.raises(Refused, match="not heard"):
        latency.measure(noise * np.float32(level))


def test_a_recording_shorter_than_the_clicks_is_refused():
    with pytest.raises(InvalidValue):
        latency.measure(np.zeros(100, np.float32))
