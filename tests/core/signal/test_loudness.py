"""Loudness against the standard's own figures, published test cases and two reference libraries."""

import numpy as np
import pyloudnorm
import pytest

from jaylantern.core.mixing.metering import FLOOR_DB, meter
from jaylantern.core.signal.loudness import STEP_N, KWeighting, integrated_lufs, sliding, to_lufs
from jaylantern.core.signal.timebase import RATE
from tests import sounds


def integrated(samples: np.ndarray) -> float:
    return integrated_lufs(KWeighting(samples.shape[1]).powers(samples))


def test_a_full_scale_sine_of_997_hz_in_one_channel_reads_minus_3_01():
    """ITU-R BS.1770-5 Annex 1, note after equation 2."""
    assert integrated(sounds.sine(hz=997, seconds=5, amplitude=1.0)) == pytest.approx(-3.01, abs=0.01)


# EBU Tech 3341:2023 table 1, cases 1 to 3, made from their descriptions
def steps_of(*parts: tuple[float, float]) -> np.ndarray:
    return np.concatenate([sounds.sine(hz=1000, seconds=s, amplitude=10 ** (db / 20), channels=2) for db, s in parts])


@pytest.mark.parametrize(
    ("parts", "lufs"),
    [
        (((-23, 20),), -23.0),
        (((-33, 20),), -33.0),
        (((-36, 10), (-23, 60), (-36, 10)), -23.0),
        (((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)), -23.0),
    ],
)
def test_ebu_tech_3341_cases(parts, lufs):
    assert integrated(steps_of(*parts)) == pytest.approx(lufs, abs=0.1)


@pytest.mark.parametrize("material", ["music", "speech"])
def test_two_reference_libraries_agree_on_real_sound(material):
    sound = sounds.music()[: 40 * RATE] if material == "music" else sounds.prompt("demo-congrats")
    stereo = np.stack((sound, np.roll(sound, 300)), axis=1)
    ours = integrated(stereo)
    assert ours == pytest.approx(by_pyebur128(stereo), abs=0.02)
    assert ours == pytest.approx(pyloudnorm.Meter(RATE).integrated_loudness(stereo), abs=0.1)


def by_pyebur128(stereo: np.ndarray) -> float:
    pyebur128 = pytest.importorskip("pyebur128", reason="no wheel for this system")
    state = pyebur128.R128State(2, RATE, pyebur128.MeasurementMode.MODE_I)
    state.add_frames(np.ascontiguousarray(stereo).ravel(), len(stereo))
    return pyebur128.get_loudness_global(state)


def test_chunks_give_what_the_whole_gives():
    sound = sounds.noise(seconds=7.3, channels=2)
    whole = KWeighting(2).powers(sound)
    parts = KWeighting(2)
    cut = np.concatenate([parts.powers(sound[at : at + 2 * STEP_N]) for at in range(0, len(sound), 2 * STEP_N)])
    assert np.allclose(whole, cut, rtol=1e-5)


def test_silence_and_nothing_have_no_loudness():
    assert integrated(np.zeros((RATE, 2), np.float32)) == float("-inf")
    assert integrated(np.zeros((0, 2), np.float32)) == float("-inf")
    assert len(sliding(np.ones(3), 4)) == 0


def test_the_meter_of_a_second_reads_momentary_loudness_and_true_peak():
    tone = sounds.sine(hz=997, seconds=2, amplitude=0.5, channels=2)
    found = meter(tone[:RATE], tone[RATE:], start_n=RATE)
    assert found.lufs == pytest.approx((-6.02,) * 10, abs=0.1)  # two channels: 3.01 dB more than one
    assert found.dbtp == pytest.approx(-6.02, abs=0.1)


def test_the_meter_rises_within_400_ms_after_silence():
    tone = sounds.sine(hz=997, seconds=1, amplitude=0.5, channels=2)
    found = meter(np.zeros_like(tone), tone, start_n=0)
    assert found.lufs[0] == pytest.approx(found.lufs[3] - 6.02, abs=0.3)
    silence = meter(np.zeros_like(tone), np.zeros_like(tone), start_n=0)
    assert silence.lufs[0] == silence.dbtp == FLOOR_DB


def test_power_of_a_block_is_the_sum_over_channels():
    tone = sounds.sine(hz=997, seconds=1, channels=2)
    one, two = KWeighting(1).powers(tone[:, :1]), KWeighting(2).powers(tone)
    assert np.allclose(to_lufs(two) - to_lufs(one), 3.01, atol=0.01)
