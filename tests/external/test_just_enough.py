"""Ducking by clearance measured from outside: files in, files out, real speech over real music, and the K-weighting of
ITU-R BS.1770-5 from the coefficients of its tables 1 and 2 (48 kHz)."""

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile
from scipy.signal import lfilter

from jaylantern.cli.main import main
from tests import sounds

RATE = 48_000
STEP_N = RATE // 10
SECONDS = 72
SHELF = ((1.53512485958697, -2.69169618940638, 1.19839281085285), (1.0, -1.69065929318241, 0.73248077421585))
HIGH_PASS = ((1.0, -2.0, 1.0), (1.0, -1.99004745483398, 0.99007225036621))


def power(sound: np.ndarray) -> np.ndarray:
    """K-weighted mean square of both sides together, per 100 ms."""
    left_right = np.broadcast_to(sound, (len(sound), 2)) if sound.shape[1] == 1 else sound
    weighted = lfilter(*HIGH_PASS, lfilter(*SHELF, left_right, axis=0), axis=0)
    return (weighted[: len(weighted) // STEP_N * STEP_N] ** 2).reshape(-1, STEP_N, 2).mean(axis=1).sum(axis=1)


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """Four stretches of talk, too far apart to be held to a step, over music that is 6 dB louder in the middle."""
    folder = tmp_path_factory.mktemp("clear")
    at = {"vm-intro": 2.0, "vm-options": 18.0, "vm-opts": 44.0, "vm-goodbye": 66.0}
    talk = sounds.talk(at, seconds=SECONDS)
    bed = sounds.music()[: SECONDS * RATE]
    bed = bed / np.abs(bed).max() * 0.25
    bed[17 * RATE : 58 * RATE] *= 2.0
    soundfile.write(folder / "talk.wav", talk, RATE, subtype="FLOAT")
    soundfile.write(folder / "bed.wav", bed, RATE, subtype="FLOAT")
    return folder


def printed(capsys, *args) -> dict:
    assert main([str(arg) for arg in args]) == 0
    return json.loads(capsys.readouterr().out)


@pytest.mark.parametrize("wish_lu", [14.0, 20.0, 26.0])
def test_speech_stands_clear_by_the_wish_wherever_the_limits_allow(capsys, files, wish_lu):
    talk, bed, ducked = files / "talk.wav", files / "bed.wav", files / "music.wav"
    duck = ("duck", "--dialogue", talk, "--music", bed, "--clearance-lu", wish_lu, "--deepest-db", -40)
    found = printed(capsys, *duck, "--out-music", ducked, "--json")["passages"]
    spoken = np.zeros(10 * SECONDS, bool)
    for start_s, stop_s in printed(capsys, "detect", talk, "--json")["segments"]:
        spoken[int(start_s * 10) : int(np.ceil(stop_s * 10))] = True
    speech, plain, music = (power(soundfile.read(path, always_2d=True)[0]) for path in (talk, bed, ducked))
    assert len(found) == 4
    free = 0
    for each in found:
        inside = np.zeros(10 * SECONDS, bool)
        inside[int(each["start_s"] * 10) : int(np.ceil(each["stop_s"] * 10))] = True
        inside &= spoken
        measured, undipped = (10 * np.log10(speech[inside].sum() / p[inside].sum()) for p in (music, plain))
        print(f"{each['start_s']:.1f} s: wished {wish_lu}, stands {measured:.2f} LU, {undipped:.2f} without")
        assert each["clearance_lu"] == pytest.approx(measured, abs=0.2)
        assert measured >= wish_lu - 0.5
        if each["amount_db"] < 0:
            free += measured <= wish_lu + 0.5
        else:
            assert undipped >= wish_lu - 0.5
    assert free >= 2


def test_a_bed_of_one_loudness_is_lowered_as_closed_form_says(capsys, files, tmp_path):
    """Noise of one loudness: the dip is the wish less what there is, to a tenth."""
    noise = sounds.noise(seconds=SECONDS, amplitude=0.05, channels=1)
    soundfile.write(tmp_path / "noise.wav", noise, RATE, subtype="FLOAT")
    base = ("duck", "--dialogue", files / "talk.wav", "--music", tmp_path / "noise.wav", "--json")
    shallow, deep = (printed(capsys, *base, "--clearance-lu", wish)["passages"] for wish in (14, 19))
    for a, b in zip(shallow, deep, strict=True):
        if a["amount_db"] < 0:
            assert a["amount_db"] - b["amount_db"] == pytest.approx(5.0, abs=0.02)
    limited = printed(capsys, *base, "--clearance-lu", 40, "--deepest-db", -9, "--slightest-db", -3)["passages"]
    assert {each["amount_db"] for each in limited} == {-9.0}
    least = printed(capsys, *base, "--clearance-lu", 0, "--slightest-db", -3)["passages"]
    assert {each["amount_db"] for each in least} == {-3.0}
