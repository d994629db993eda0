"""What is done to a voice, against closed forms, made noise, and a library's measure of intelligibility."""

import numpy as np
import pytest
import scipy.signal
import soxr
from pystoi import stoi

from jaylantern.core.care import filters, frames, hush
from jaylantern.core.care import heard as heard_module
from jaylantern.core.care.evenness import evened
from jaylantern.core.care.frames import HOP_N
from jaylantern.core.care.heard import Voice, VoiceListener
from jaylantern.core.care.suggestions import suggested
from jaylantern.core.care.treatment import REACH_N, Treatment, lowered
from jaylantern.core.ducking.key_level import KeyListener
from jaylantern.core.signal import intervals
from jaylantern.core.timeline.care import Care
from jaylantern.errors import InvalidValue
from tests import sounds

RATE = 48_000
SIZE_N = 40 * HOP_N
TALK = sounds.talk({"vm-intro": 1.0, "demo-congrats": 9.0}, seconds=30)[:, :1].astype(np.float32)
ENVELOPE = np.sqrt(np.convolve(TALK[:, 0] ** 2, np.ones(4800) / 4800, "same")) > 0.003
EDGES = np.flatnonzero(np.diff(np.concatenate(([0], ENVELOPE.astype(int), [0])))).reshape(-1, 2)
SPEECH = intervals.union(np.stack((EDGES[:, 0] - 4800, EDGES[:, 1] + 4800), axis=1).astype(np.int64))
SPOKEN = np.zeros(len(TALK), bool)
for _start, _stop in SPEECH.tolist():
    SPOKEN[max(0, _start) : _stop] = True


def heard(sound, speech=SPEECH, piece_n=100_000) -> Voice:
    listener = VoiceListener(speech)
    for at in range(0, len(sound), piece_n):
        listener.add(sound[at : at + piece_n])
    return listener.finish()


def treated(sound, care, voice, evenness=None, size_n=SIZE_N):
    """The whole of a sound, stretch by stretch."""
    treatment = Treatment(care, voice, evenness, size_n=size_n)
    whole_n = -(-len(sound) // size_n) * size_n
    around = np.pad(sound, ((REACH_N, whole_n - len(sound) + REACH_N), (0, 0)))
    parts = [treatment.of(around[k : k + size_n + 2 * REACH_N], k) for k in range(0, whole_n, size_n)]
    return np.concatenate(parts)[: len(sound)]


def level_db(sound):
    return 10 * np.log10(np.mean(np.square(sound, dtype=np.float64)))


def noise(kind, length_n=30 * RATE):
    """Noise of power 1."""
    found = np.random.default_rng(1).standard_normal(length_n)
    if kind == "pink":
        spectrum = np.fft.rfft(found)
        found = np.fft.irfft(spectrum / np.sqrt(np.maximum(50, np.arange(len(spectrum)))), length_n)
    return (found / found.std())[:, None]


# — what is heard —


def test_what_is_heard_does_not_depend_on_the_pieces_nor_take_more_room_for_longer(monkeypatch):
    sound = np.tile(TALK, (3, 1)) + (noise("white", 3 * len(TALK)) * 1e-3).astype(np.float32)
    speech = np.concatenate([SPEECH + k * len(TALK) for k in range(3)])
    all_kept = heard(sound, speech)
    monkeypatch.setattr(heard_module, "MOST_QUIET", 200)
    few = [heard(sound, speech, piece_n) for piece_n in (7_000, 500_000)]
    for name in ("noise_s", "speech_db", "noise_db", "hisses", "breaths"):
        assert np.array_equal(getattr(few[0], name), getattr(few[1], name)), name
    assert few[0].noise_s == all_kept.noise_s
    assert few[0].noise_db == pytest.approx(all_kept.noise_db, abs=0.5)


def test_the_level_of_words_is_not_that_of_long_pauses():
    """Two seconds of talk in two minutes of noise 30 dB under it."""
    sound = (noise("white", 120 * RATE) * 0.003).astype(np.float32)
    sound[60 * RATE : 62 * RATE] += TALK[2 * RATE : 4 * RATE]
    voice = heard(sound, np.array([[60 * RATE, 62 * RATE]], np.int64))
    assert voice.speech_db - voice.noise_db > 20


# — the form —


def test_nothing_switched_on_changes_nothing():
    voice = heard(TALK)
    assert np.array_equal(treated(TALK, Care(), voice), TALK)
    assert not Care().on
    assert Care(hush=10).on


@pytest.mark.parametrize(
    ("plain", "said"),
    [
        ({"hush": 99}, "Hush must be a number from 1 to 24 dB"),
        ({"polish": 3}, "Nothing called 'polish'"),
        ({"spared": [0.5]}, "media times"),
        ({"low_cut": "deep"}, "Low cut must be"),
    ],
)
def test_what_can_not_be_done_is_refused(plain, said):
    with pytest.raises(InvalidValue, match=said):
        Care.of(plain)


ALL = Care(low_cut=80, presence=3, hush=12, evenness=4, soft_s=6, breaths=9)


@pytest.mark.parametrize("channels", [1, 2])
def test_any_stretch_is_the_same_whatever_is_computed_beside_it(channels):
    """Stretches of two sizes, all parts on: the same to the rounding of the transforms, and time is never shifted."""
    sound = np.repeat(TALK, channels, axis=1) + (noise("white") * 1e-3).astype(np.float32)
    voice = heard(sound)
    even = evened(key_of(sound), speech_db=voice.speech_db, amount_db=4)
    one, other = (treated(sound, ALL, voice, even, size_n) for size_n in (SIZE_N, 4 * SIZE_N))
    assert np.abs(one - other).max() < 2e-6
    again = treated(sound, ALL, voice, even)
    assert np.array_equal(one, again)


@pytest.mark.parametrize("seconds", [0.0005, 0.3, 1.0])
@pytest.mark.parametrize("kind", ["silence", "clipped", "speech from the first sample"])
def test_odd_sounds_behave(seconds, kind):
    length_n = round(seconds * RATE)
    sound = {
        "silence": np.zeros((length_n, 1), np.float32),
        "clipped": np.sign(noise("white", max(length_n, 1))).astype(np.float32)[:length_n],
        "speech from the first sample": TALK[2 * RATE : 2 * RATE + length_n],
    }[kind]
    voice = heard(sound, np.array([[0, length_n]], np.int64))
    even = evened(key_of(sound), speech_db=voice.speech_db, amount_db=4)
    found = treated(sound, ALL, voice, even)
    assert found.shape == sound.shape
    assert np.isfinite(found).all()
    assert not voice.learnt
    assert kind != "silence" or not found.any()


# — low cut and presence —


@pytest.mark.parametrize(
    "care", [Care(low_cut=30), Care(low_cut=80), Care(low_cut=250), Care(presence=-9), Care(low_cut=100, presence=6)]
)
def test_the_response_is_the_drawn_one(care):
    """Within 0.5 dB wherever it is not 40 dB down."""
    hz = np.geomspace(20, 20_000, 300)
    drawn = filters.wanted_db(care, hz)
    off = np.abs(filters.response_db(filters.taps(care), hz) - drawn)
    assert off[drawn > -40].max() < 0.5


@pytest.mark.parametrize(("hz", "gain_db"), [(40, -12.3), (80, -3.01), (160, -0.26), (1000, 0.0)])
def test_a_tone_is_lowered_as_a_second_order_high_pass_lowers_it(hz, gain_db):
    """Butterworth 1930: −10·log10(1 + (80 ∕ f)⁴)."""
    tone = (0.3 * np.sin(2 * np.pi * hz * np.arange(4 * RATE) / RATE))[:, None].astype(np.float32)
    found = treated(tone, Care(low_cut=80), heard(tone, intervals.none()))
    assert level_db(found[RATE : 3 * RATE]) - level_db(tone[RATE : 3 * RATE]) == pytest.approx(gain_db, abs=0.15)


# — hush —


def test_frames_come_together_as_the_sound_they_were_taken_from():
    sound = noise("white", 20 * HOP_N).astype(np.float32)
    found = frames.put_together(frames.spectra(sound, 0))
    assert np.abs(found - sound[HOP_N : HOP_N + len(found), 0]).max() < 1e-5


@pytest.mark.parametrize("kind", ["white", "pink"])
@pytest.mark.parametrize("snr_db", [20, 10, 5])
@pytest.mark.parametrize("amount_db", [6, 12])
def test_noise_goes_down_by_the_amount_and_speech_does_not(kind, snr_db, amount_db):
    """Real speech with made noise. STOI: Taal et al., IEEE Trans. Audio, Speech and Language Processing 19(7), 2011."""
    spoken_db = level_db(TALK[ENVELOPE])
    sound = (TALK + noise(kind) * 10 ** ((spoken_db - snr_db) / 20)).astype(np.float32)
    voice = heard(sound)
    assert voice.learnt
    assert voice.noise_db == pytest.approx(spoken_db - snr_db, abs=1.5)
    found = treated(sound, Care(hush=amount_db), voice)
    pause = ~SPOKEN
    pause[: RATE // 5] = False
    assert level_db(found[pause]) - level_db(sound[pause]) == pytest.approx(-amount_db, abs=1.0)
    clean = TALK[ENVELOPE, 0].astype(np.float64)
    kept = np.dot(found[ENVELOPE, 0], clean) / np.dot(clean, clean)
    assert 20 * np.log10(kept) == pytest.approx(0, abs=0.5)
    before, after = (intelligible(each) for each in (sound, found))
    print(f"{kind} {snr_db} dB, hush {amount_db} dB: STOI {before:.3f} → {after:.3f}")
    assert snr_db < 10 or after >= before


def intelligible(sound):
    return stoi(*(soxr.resample(each[:, 0].astype(np.float64), RATE, 10_000) for each in (TALK, sound)), 10_000)


def test_too_little_silence_is_said_and_nothing_is_hushed():
    whole = np.array([[0, len(TALK)]], np.int64)
    voice = heard(TALK, whole)
    assert (voice.learnt, voice.noise_s) == (False, 0.0)
    assert np.array_equal(treated(TALK, Care(hush=12), voice), TALK)


def test_noise_alone_is_lowered_to_the_floor_and_no_further():
    sound = (noise("white", 8 * RATE) * 0.01).astype(np.float32)
    power = np.abs(frames.spectra(sound, 0)) ** 2
    found = hush.hushed(frames.spectra(sound, 0), power.mean(axis=0).astype(np.float64), 12)
    inner = frames.spectra(sound, 0)[hush.SMOOTH_FRAMES : -hush.SMOOTH_FRAMES]
    ratio = np.abs(found) / np.maximum(np.abs(inner), 1e-12)
    assert ratio.min() == pytest.approx(10 ** (-12 / 20), rel=1e-4)
    assert np.median(ratio) == pytest.approx(10 ** (-12 / 20), rel=1e-4)


# — evenness —


def key_of(sound):
    listener = KeyListener()
    listener.add(sound)
    return listener.finish()


@pytest.mark.parametrize(("over_db", "lowered_db"), [(-12, 0.0), (2, 4.0), (20, 4.0)])
def test_loud_words_are_lowered_by_the_law_and_at_most_by_the_amount(over_db, lowered_db):
    """A tone at −20 dBFS, then so much louder; threshold 4 dB under the words: 3:1 of what is over it, at most 4 dB."""
    amplitude = np.repeat([0.1, 0.1 * 10 ** (over_db / 20)], 3 * RATE)
    sound = (np.sqrt(2) * amplitude * np.sin(2 * np.pi * 500 * np.arange(6 * RATE) / RATE))[:, None]
    curve = evened(key_of(sound.astype(np.float32)), speech_db=-20, amount_db=4)
    first, second = curve.at(np.array([2 * RATE, 5 * RATE]))
    lowered_first = 4 * (1 - 1 / 3)
    assert (first - second) == pytest.approx(lowered_db - lowered_first, abs=0.4)


def test_evenness_keeps_the_loudness_of_the_words():
    voice = heard(TALK)
    even = evened(key_of(TALK), speech_db=voice.speech_db, amount_db=6)
    found = treated(TALK, Care(evenness=6), voice, even)
    assert level_db(found[ENVELOPE]) == pytest.approx(level_db(TALK[ENVELOPE]), abs=0.3)
    spread = [np.subtract(*np.percentile(key_of(each).rms[ENVELOPE[::48]] / 100, (95, 40))) for each in (found, TALK)]
    assert spread[0] < spread[1] - 1


# — softer s, fewer breaths —


def test_hisses_are_found_and_lowered_and_can_be_spared():
    """Two bursts of noise over 5 kHz between vowels: what is lowered is the hiss alone."""
    t = np.arange(4 * RATE) / RATE
    vowel = 0.2 * np.sin(2 * np.pi * 200 * t) + 0.1 * np.sin(2 * np.pi * 800 * t)
    spectrum = np.fft.rfft(noise("white", 4 * RATE)[:, 0])
    spectrum[: (5000 * 4)] = 0
    hiss = np.fft.irfft(spectrum)
    hiss *= 0.1 / hiss.std()
    at = [(1.0, 1.1), (2.5, 2.62)]
    sound = vowel.copy()
    for start, stop in at:
        there = slice(round(start * RATE), round(stop * RATE))
        sound[there] = hiss[there]
    sound = sound[:, None].astype(np.float32)
    voice = heard(sound, np.array([[0, len(sound)]], np.int64))
    assert voice.hisses / RATE == pytest.approx(np.array(at), abs=0.02)
    found = treated(sound, Care(soft_s=6), voice)
    first, second = (slice(round((a + 0.02) * RATE), round((b - 0.02) * RATE)) for a, b in at)
    assert level_db(found[first]) - level_db(sound[first]) == pytest.approx(-6, abs=0.4)
    between = slice(round(1.3 * RATE), round(2.3 * RATE))
    assert np.abs(found[between] - sound[between]).max() < 1e-6
    spared = treated(sound, Care(soft_s=6, spared=(int(voice.hisses[0, 0]),)), voice)
    assert np.array_equal(spared[first], sound[first])
    assert level_db(spared[second]) - level_db(sound[second]) == pytest.approx(-6, abs=0.4)


def test_a_breath_before_words_is_found_and_noise_far_from_words_is_none():
    rng = np.random.default_rng(5)
    sound = 1e-4 * rng.standard_normal(8 * RATE)
    sound[2 * RATE : 3 * RATE] = 0.2 * np.sin(2 * np.pi * 300 * np.arange(RATE) / RATE)
    for start_s in (1.6, 6.0):  # beside the words; far from any
        first = round(start_s * RATE)
        breath = rng.standard_normal(RATE * 3 // 10)
        sound[first : first + len(breath)] += 0.01 * scipy.signal.lfilter(
            [1, 2, 1], [1, -0.3], breath
        )  # softer upwards
    voice = heard(sound[:, None].astype(np.float32), np.array([[2 * RATE, 3 * RATE]], np.int64))
    assert voice.breaths / RATE == pytest.approx(np.array([[1.6, 1.9]]), abs=0.03)
    assert not len(voice.hisses)


@pytest.mark.parametrize(
    ("at_n", "gain_db"), [(0, 0), (900, 0), (950, -5), (1000, -10), (1500, -10), (2000, -10), (2050, -5), (2100, 0)]
)
def test_places_are_lowered_with_ramps_straight_in_db_outside_them(at_n, gain_db):
    spans = np.array([[1000, 2000], [9000, 9100]], np.int64)
    gains = lowered(spans, 0, 3000, amount_db=10, ramp_n=100)
    assert 20 * np.log10(gains[at_n]) == pytest.approx(gain_db, abs=0.01)
    assert lowered(spans, 4000, 5000, amount_db=10, ramp_n=100) is None


# — suggestions —


def voice(**changed):
    usual = {
        "noise": np.ones(frames.BINS), "noise_s": 10.0, "noise_db": -80.0, "speech_db": -20.0, "rumble_db": -100.0,
        "spread_db": 5.0, "hisses": intervals.none(), "breaths": intervals.none(),
    }  # fmt: skip
    return Voice(**{**usual, **changed})


MANY = np.arange(60).reshape(-1, 2).astype(np.int64)


@pytest.mark.parametrize(
    ("measured", "care"),
    [
        ({}, Care()),
        ({"noise_db": -60.0}, Care(hush=8)),
        ({"noise_db": -44.0}, Care(hush=12)),
        ({"noise_db": -44.0, "noise_s": 0.1}, Care()),  # too little to learn from
        ({"noise_db": -58.0, "rumble_db": -60.0}, Care(low_cut=80, hush=8)),
        ({"spread_db": 12.0}, Care(evenness=4)),
        ({"hisses": MANY}, Care(soft_s=4)),
        ({"breaths": MANY}, Care(breaths=8)),
    ],
)
def test_what_is_measured_is_what_is_suggested(measured, care):
    found = suggested(voice(**measured), spoken_n=60 * RATE)
    assert found.care == care
    assert len(found.reasons) == len(care.plain)


def test_what_is_done_already_is_not_suggested_again():
    found = suggested(voice(noise_db=-44.0, spread_db=12.0), spoken_n=60 * RATE)
    left = found.beside(Care(hush=6))
    assert left.care == Care(evenness=4)
    assert left.reasons == ("Evenness: loud and soft words differ by 12 dB.",)
    assert found.beside(Care(hush=6, evenness=1)) is None
