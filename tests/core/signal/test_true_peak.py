"""True peak against published cases and an independent resampler."""

import numpy as np
import pytest
import scipy.signal

from jaylantern.core.signal.timebase import RATE, amplitude_to_db
from jaylantern.core.signal.true_peak import AFTER_N, BEFORE_N, SUB_N, TruePeakMeter, sub_peaks
from tests import sounds


def true_peak_db(samples: np.ndarray) -> float:
    meter = TruePeakMeter(samples.shape[1])
    meter.add(samples)
    return amplitude_to_db(meter.finish())


# EBU Tech 3341:2023 table 1, cases 15 to 18 (sines at fs/4, fs/4 at 45°, fs/6 at 60°, fs/8 at 67.5°, amplitude 0.5)
@pytest.mark.parametrize(("divisor", "degrees"), [(4, 0), (4, 45), (6, 60), (8, 67.5)])
def test_ebu_tech_3341_true_peak_cases(divisor, degrees):
    tone = sounds.sine(hz=RATE / divisor, seconds=1, amplitude=0.5, channels=2, phase=np.radians(degrees))
    fade = np.minimum(1, np.minimum(np.arange(RATE), np.arange(RATE)[::-1]) / 2400)[:, None]
    assert -6.4 <= true_peak_db((tone * fade).astype(np.float32)) <= -5.8


def test_real_music_reads_as_a_long_independent_resampler_reads_it():
    music = sounds.music()[: 10 * RATE]
    reference = np.abs(scipy.signal.resample_poly(music.astype(np.float64), 4, 1, window=("kaiser", 12.0))).max()
    assert true_peak_db(music[:, None]) == pytest.approx(amplitude_to_db(reference), abs=0.03)


def test_blocks_of_any_length_give_what_the_whole_gives():
    sound = sounds.noise(seconds=0.5, channels=2)
    parts = TruePeakMeter(2)
    for at, size in zip(range(0, 24_000, 777), [777] * 31, strict=False):
        parts.add(sound[at : at + size])
    whole = TruePeakMeter(2)
    whole.add(sound)
    assert parts.finish() == pytest.approx(whole.finish(), rel=1e-6)


def peaks_of(sound: np.ndarray, floor: float) -> np.ndarray:
    return sub_peaks(sound[:BEFORE_N], sound[BEFORE_N:-AFTER_N], sound[-AFTER_N:], floor=floor)


def test_skipping_quiet_stretches_never_misses_what_is_over_the_floor():
    random = np.random.default_rng(5)
    for _ in range(20):
        sound = (random.standard_normal((BEFORE_N + 64 * SUB_N + AFTER_N, 1)) * 0.3).astype(np.float32)
        exact, quick = peaks_of(sound, 0.0), peaks_of(sound, 0.7)
        over = exact > 0.7
        assert np.allclose(quick[over], exact[over], rtol=1e-5)
        assert (quick[~over] <= 0.7).all()


KINDS = ("noise", "low tone", "high tone", "music", "impulses")


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("floor", [0.05, 0.3, 0.6, 0.9])
def test_what_is_skipped_could_not_have_passed_the_floor(kind, floor):
    """Against the same filter everywhere: what lies over the floor is told exactly, whatever was skipped around it."""
    n = BEFORE_N + 500 * SUB_N + AFTER_N
    random = np.random.default_rng(int(floor * 100))
    t = np.arange(n)
    sound = {
        "noise": random.standard_normal(n) * 0.25,
        "low tone": 0.61 * np.sin(t * 0.02 + 0.3),
        "high tone": 0.61 * np.sin(t * np.pi / 2 + np.pi / 4) * np.sin(t * 0.001),
        "music": sounds.music()[5 * RATE : 5 * RATE + n] * 2.5,
        "impulses": np.where(random.random(n) < 0.002, 0.8, 0.0),
    }[kind]
    stereo = np.stack((sound, sound[::-1]), axis=1).astype(np.float32)
    exact, quick = peaks_of(stereo, 0.0), peaks_of(stereo, floor)
    over = exact > floor * 1.0001
    assert np.allclose(quick[over], exact[over], rtol=1e-5)
    assert (quick[~over] <= floor * 1.0002).all()
