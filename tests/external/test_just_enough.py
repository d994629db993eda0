"""Ducking by clearance measured from outside: files in, files out, real speech over real music, and the K-weighting of
ITU-R BS.1770-5 from the coefficients of its tables 1 and 2 (48 kHz); or third octaves and ANSI S3.5-1997."""

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile
import soxr
from pystoi import stoi
from scipy.signal import butter, lfilter, sosfilt
from scipy.stats import spearmanr

from jaylantern.cli.main import main
from jaylantern.core.ducking.media_power import MediaPower, Spectrum
from jaylantern.core.ducking.scales import Intelligibility
from jaylantern.core.mixing.mix import Variant, render
from jaylantern.core.signal.intelligibility import bands_of_speech
from jaylantern.core.signal.sixth_octaves import SixthOctaves, unpacked
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.library import ingest
from jaylantern.media.sound import Reading, SoundStore
from jaylantern.pipeline import MediaFacts, decide
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


# — by ear —

CENTRES = 1000 * 10 ** (np.arange(-8, 10) / 10)  # 160 Hz to 8 kHz (IEC 61260-1, from memory)


def spectra(sound: np.ndarray) -> np.ndarray:
    """Mean square per Hz in third octaves of both sides together, by Butterworth filters, per 100 ms, (steps, 18)."""
    mono = sound.mean(axis=1) + np.random.default_rng(0).normal(0, 1e-9, len(sound))  # silence is slow
    found = []
    for centre in CENTRES:
        edges = centre * 10**-0.05, centre * 10**0.05
        part = sosfilt(butter(4, edges, btype="band", fs=RATE, output="sos"), mono)
        power = (part[: len(part) // STEP_N * STEP_N] ** 2).reshape(-1, STEP_N).mean(axis=1)
        found.append(2 * power / (edges[1] - edges[0]))
    return np.stack(found, axis=1)


def intelligibility(speech: np.ndarray, noise: np.ndarray, of_talk: np.ndarray) -> float:
    """The index by ANSI S3.5-1997, its third-octave procedure, one equation after the other (from memory), all talk
    together being at 62.35 dB SPL."""
    width = CENTRES * (10**0.05 - 10**-0.05)
    scale = 62.35 - 10 * np.log10((of_talk * width).sum())
    speech_db, noise_db = (10 * np.log10(np.maximum(each, 1e-16)) + scale for each in (speech, noise))
    total = 0.0
    for i, hz in enumerate(CENTRES):
        masked = np.maximum(noise_db, speech_db - 24)
        slope = -80 + 0.6 * (masked + 10 * np.log10(CENTRES) - 6.353)
        spread = 10 ** ((masked[:i] + 3.32 * slope[:i] * np.log10(0.89 * hz / CENTRES[:i])) / 10)
        mask_db = masked[0] if i == 0 else 10 * np.log10(10 ** (noise_db[i] / 10) + spread.sum())
        disturbance = max(mask_db, INTERNAL[i])
        level = min(1.0, 1 - (speech_db[i] - NORMAL[i] - 10) / 160)
        total += IMPORTANCE[i] * level * np.clip((speech_db[i] - disturbance + 15) / 30, 0, 1)
    return total


# S3.5-1997, table 3 (from memory)
IMPORTANCE = (0.0083, 0.0095, 0.0150, 0.0289, 0.0440, 0.0578, 0.0653, 0.0711, 0.0818, 0.0844, 0.0882, 0.0898, 0.0868,
              0.0844, 0.0771, 0.0527, 0.0364, 0.0185)  # fmt: skip
NORMAL = (32.41, 34.48, 34.75, 33.98, 34.59, 34.27, 32.06, 28.30, 25.01, 23.00, 20.15, 17.32, 13.18, 11.55, 9.33, 5.31,
          2.59, 1.13)  # fmt: skip
INTERNAL = (0.6, -1.7, -3.9, -6.1, -8.2, -9.7, -10.8, -11.9, -12.5, -13.5, -15.4, -17.7, -21.2, -24.2, -25.9, -23.6,
            -15.8, -7.1)  # fmt: skip


@pytest.mark.parametrize("wish", [0.65, 0.75, 0.9])
def test_speech_is_made_out_as_wished_when_its_stems_are_measured_from_outside(capsys, files, tmp_path, wish):
    """Music much louder than the talk."""
    talk, bed, ducked = files / "talk.wav", tmp_path / "bed.wav", tmp_path / "music.wav"
    soundfile.write(bed, 5 * soundfile.read(files / "bed.wav")[0], RATE, subtype="FLOAT")
    duck = ("duck", "--dialogue", talk, "--music", bed, "--sii", wish, "--deepest-db", -50)
    found = printed(capsys, *duck, "--out-music", ducked, "--json")["passages"]
    spoken = np.zeros(10 * SECONDS, bool)
    for start_s, stop_s in printed(capsys, "detect", talk, "--json")["segments"]:
        spoken[int(start_s * 10) : int(np.ceil(stop_s * 10))] = True
    speech, music = (spectra(soundfile.read(path, always_2d=True)[0]) for path in (talk, ducked))
    of_talk = speech[spoken].mean(axis=0)
    free = 0
    for each in found:
        inside = np.zeros(10 * SECONDS, bool)
        inside[int(each["start_s"] * 10) : int(np.ceil(each["stop_s"] * 10))] = True
        inside &= spoken
        measured = intelligibility(speech[inside].mean(axis=0), music[inside].mean(axis=0), of_talk)
        at_s, said, dip_db = (each[name] for name in ("start_s", "sii", "amount_db"))
        print(f"{at_s:.1f} s: wished {wish}, said {said:.3f}, measured {measured:.3f}, {dip_db} dB")
        assert each["sii"] == pytest.approx(measured, abs=0.02)
        assert measured >= wish - 0.02
        if each["amount_db"] < 0:
            free += measured <= wish + 0.02
    assert free >= 2


def test_the_index_ranks_real_mixtures_as_the_short_time_objective_measure_does(tmp_path):
    """Nine beds at six levels under real speech: the index against STOI (Taal et al. 2011; pystoi), which compares
    the mixture with the speech itself, by rank."""
    speech = np.concatenate([sounds.prompt(name) for name in ("vm-intro", "vm-options", "vm-opts", "vm-goodbye")])
    speech = speech[: len(speech) // STEP_N * STEP_N]
    spoken = power(speech[:, None]) > 1e-5
    rng = np.random.default_rng(4)
    pieces = ["macroform-the_simplicity", "macroform-robot_dity", "macroform-cold_day", "manolo_camp-morning_coffee"]
    beds = [sounds.music(piece)[10 * RATE : 10 * RATE + len(speech)] for piece in pieces]
    white = rng.normal(0, 0.1, len(speech))
    low, high = butter(2, 400, fs=RATE, output="sos"), butter(2, 3000, btype="high", fs=RATE, output="sos")
    beds += [white, sosfilt(low, white), sosfilt(high, white), sosfilt(low, beds[0]), sosfilt(high, beds[1])]
    found = []
    for bed in beds:
        at_zero_db = bed * np.sqrt(power(speech[:, None])[spoken].sum() / power(bed[:, None])[spoken].sum())
        bands = [spectrum_of(each[:, None], spoken) for each in (speech, at_zero_db)]
        clean, under = (soxr.resample(each, RATE, 10_000) for each in (speech, at_zero_db))  # what STOI hears
        for level_db in range(-30, 21, 10):
            mixed = clean + under * 10 ** (level_db / 20)
            noise = bands[1] * 10 ** (level_db / 10)
            index = Intelligibility(62.35 - 10 * np.log10(bands[0].sum())).of(bands[0][None], noise[None])
            found.append((index[0], stoi(clean, mixed, 10_000, extended=False)))
    ranks = spearmanr(*np.array(found).T).statistic
    print(f"rank correlation of SII and STOI over {len(found)} mixtures: {ranks:.3f}")
    assert ranks >= 0.9


def spectrum_of(sound: np.ndarray, spoken: np.ndarray) -> np.ndarray:
    """Powers in the bands of speech, as the application keeps them."""
    octaves = SixthOctaves(1)
    octaves.add(sound.astype(np.float32))
    return bands_of_speech(unpacked(octaves.finish())[spoken])[..., 0].mean(axis=0)


@pytest.mark.parametrize("wish_lu", [14.0, 17.0])
def test_a_dip_of_the_speech_band_alone_lets_speech_stand_clear_by_the_wish(files, tmp_path, wish_lu):
    """Only 250 Hz to 4 kHz of the music goes down; what is left of it is measured whole."""
    lanes, stores, facts = [], {}, {}
    for number, (name, tag) in enumerate((("talk", Tag.DIALOGUE), ("bed", Tag.MUSIC)), 1):
        found = ingest.read(files / f"{name}.wav", name=name, folder=tmp_path, listen=tag is Tag.DIALOGUE)
        stores[number] = SoundStore.written(tmp_path / f"{number}.raw", found.store.chunks(96_000))
        weighed, bands = ingest.weighed(stores[number])
        spectrum = Spectrum(bands)
        facts[number] = MediaFacts(found.track, MediaPower(weighed), bands=lambda _, spectrum=spectrum: spectrum)
        of_it = Media(number, "", name, found.length_n, True, False)
        lanes.append(Lane(number, name, LaneKind.SOUND, tag, clips=(Clip(number, name, of_it, 0, 0, found.length_n),)))
    settings = {"duck_by": "clearance", "wish_lu": wish_lu, "deepest_db": -50, "band": "speech", "band_low_hz": 250}
    result = decide(Project(1, "band", 0, tuple(lanes), Settings().changed(settings)), facts)
    music = render(result.programme, Reading(stores), 0, result.project.length_n, Variant.MUSIC)
    heard, left = power(soundfile.read(files / "talk.wav", always_2d=True)[0]), power(music)
    said = result.plan.speech // STEP_N + np.array([0, 1])
    free = 0
    spans, reached, dips = result.plan.spans.tolist(), result.plan.reach, result.plan.dips
    for (start_n, stop_n), reach, dip in zip(spans, reached, dips, strict=True):
        first, last = start_n // STEP_N, -(-stop_n // STEP_N)
        inside = [k for a, b in said.tolist() for k in range(max(a, first), min(b, last))]
        measured = 10 * np.log10(heard[inside].sum() / left[inside].sum())
        dip_db = f"{dip.amount_db:.1f} dB, {reach.bound}"
        print(f"{start_n / RATE:.1f} s: wished {wish_lu}, stands {measured:.2f} LU, {dip_db}")
        if dip.amount_db < 0 and reach.bound is None:
            free += 1
            assert measured == pytest.approx(wish_lu, abs=0.5)
    assert free >= 2
