"""Matching levels: by how much clips go up or down, and what is said of it."""

import math

import numpy as np
import pytest

from jaylantern.core.mixing.matching import By, Level, match, shift, too_soft
from jaylantern.core.signal.loudness import KWeighting
from jaylantern.core.signal.true_peak import TruePeakMeter
from jaylantern.errors import InvalidValue
from tests import sounds


def level(number: int, db: float, *, gain_db: float = 0.0, seconds: float = 4.0) -> Level:
    """A tone of 1 kHz on both sides: its loudness in LUFS is its level in dBFS (EBU Tech 3341 case 1)."""
    tone = sounds.sine(hz=1000, seconds=seconds, amplitude=10 ** (db / 20), channels=2)
    peak = TruePeakMeter(2)
    peak.add(tone)
    return Level(number, gain_db, KWeighting(2).powers(tone), float(np.abs(tone).max()), peak.finish())


def test_each_clip_goes_to_the_target_by_itself():
    found = match([level(1, -30), level(2, -17, gain_db=2)], target=-23, by=By.LOUDNESS, each=True, ceiling_dbtp=-1)
    assert [each.change_db for each in found] == pytest.approx([7, -6], abs=0.1)
    assert [each.gain_db for each in found] == pytest.approx([7, -4], abs=0.1)
    assert [each.then for each in found] == pytest.approx([-23, -23], abs=0.01)
    assert not any(each.over for each in found)


def test_by_one_amount_their_differences_stay():
    """Together: two tones of the same length, power averaged; the gate of −10 LU lets both in."""
    found = match([level(1, -26), level(2, -20)], target=-23, by=By.LOUDNESS, each=False, ceiling_dbtp=-1)
    together = 10 * math.log10((10**-2.6 + 10**-2.0) / 2)
    assert found[0].change_db == found[1].change_db == pytest.approx(-23 - together, abs=0.1)
    assert found[1].then - found[0].then == pytest.approx(6, abs=0.1)


@pytest.mark.parametrize("by", [By.TRUE_PEAK, By.SAMPLE_PEAK])
def test_peaks_are_matched_to_the_loudest(by):
    found = match([level(1, -26), level(2, -20)], target=-3, by=by, each=False, ceiling_dbtp=-1)
    assert found[1].then == pytest.approx(-3, abs=0.05)
    assert found[0].change_db == found[1].change_db == pytest.approx(17, abs=0.05)


def test_what_would_pass_the_ceiling_is_said_and_may_be_kept_under_it():
    free = match([level(1, -20)], target=-0.5, by=By.LOUDNESS, each=True, ceiling_dbtp=-6)[0]
    assert free.over
    kept = match([level(1, -20)], target=-3, by=By.LOUDNESS, each=True, ceiling_dbtp=-6, keep_under=True)[0]
    assert not kept.over
    assert kept.true_peak_dbtp == pytest.approx(-6, abs=0.01)
    assert "ceiling" in kept.word
    hot = match([level(1, -2)], target=-1, by=By.LOUDNESS, each=True, ceiling_dbtp=-6, keep_under=True)[0]
    assert hot.change_db == 0


def test_a_gain_stays_within_its_limits():
    found = match([level(1, -60, gain_db=20)], target=-20, by=By.LOUDNESS, each=True, ceiling_dbtp=0)[0]
    assert found.gain_db == 24
    assert found.then == pytest.approx(-56, abs=0.1)
    assert "gain goes" in found.word


def test_silence_and_a_blink_are_left_alone():
    silent = Level(1, 0.0, np.zeros(50), 0.0, 0.0)
    for each in (silent, level(2, -20, seconds=0.2)):
        found = match([each], target=-23, by=By.LOUDNESS, each=True, ceiling_dbtp=-1)[0]
        assert found.change_db == 0
        assert "to measure" in found.word
    assert match([silent], target=-3, by=By.TRUE_PEAK, each=False, ceiling_dbtp=-1)[0].word == "nothing to measure"


def test_all_are_shifted_by_the_same():
    found = shift([level(1, -30), level(2, -20)], -2.5, by=By.LOUDNESS, ceiling_dbtp=-1)
    assert [each.change_db for each in found] == [-2.5, -2.5]


def test_soft_speech_is_what_nobody_raised_and_lies_far_under():
    levels = [level(1, -30), level(2, -25), level(3, -30, gain_db=1.0), Level(4, 0.0, np.zeros(50), 0.0, 0.0)]
    assert [each.clip_id for each in too_soft(levels, target_lufs=-23)] == [1]


@pytest.mark.parametrize("target", [1.0, -101.0, math.nan])
def test_a_target_must_be_a_level(target):
    with pytest.raises(InvalidValue):
        match([level(1, -20)], target=target, by=By.LOUDNESS, each=True, ceiling_dbtp=-1)
