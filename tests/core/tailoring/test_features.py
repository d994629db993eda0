import numpy as np
import pytest

from jaylantern.core.tailoring import features
from jaylantern.core.tailoring.features import RATE, Listener


def heard(sound, piece_n=5000):
    listener = Listener()
    for at in range(0, len(sound), piece_n):
        listener.add(sound[at : at + piece_n].astype(np.float32))
    return listener.finish(3 * len(sound))


def sine(hz, seconds=1.0):
    return 0.5 * np.sin(2 * np.pi * hz * np.arange(round(seconds * RATE)) / RATE)


def test_the_answer_does_not_depend_on_the_pieces():
    sound = np.random.default_rng(1).standard_normal(5 * RATE + 77) * 0.1
    whole, pieces = heard(sound, len(sound)), heard(sound, 333)
    for name in ("onset", "low_onset", "colour", "harmony"):
        assert np.array_equal(getattr(whole, name), getattr(pieces, name)), name


@pytest.mark.parametrize(
    ("samples", "hops", "colours", "harmonies"),
    [(0, 0, 0, 0), (1, 1, 1, 1), (160, 1, 1, 1), (161, 2, 1, 1), (2561, 17, 9, 2)],
)
def test_how_many_rows_there_are(samples, hops, colours, harmonies):
    found = heard(np.zeros(samples))
    assert [len(each) for each in (found.onset, found.low_onset, found.colour, found.harmony)] == [
        hops, hops, colours, harmonies,
    ]  # fmt: skip


def test_silence_begins_nothing_and_has_no_harmony():
    found = heard(np.zeros(RATE))
    assert not found.onset.any()
    assert not found.harmony.any()


@pytest.mark.parametrize("at_s", [0.5, 1.0, 1.237])
def test_an_onset_lies_where_something_begins(at_s):
    sound = np.zeros(2 * RATE)
    sound[round(at_s * RATE) :] = sine(1000, 2.0)[: len(sound) - round(at_s * RATE)]
    assert (heard(sound).onset.argmax() + 0.5) / 100 == pytest.approx(at_s, abs=0.015)


@pytest.mark.parametrize(("hz", "pitch"), [(261.63, 0), (440.0, 9), (493.88, 11), (2 * 293.66, 2)])
def test_a_note_is_its_pitch_class(hz, pitch):
    """Equal temperament at A4 = 440 Hz (ISO 16:1975)."""
    assert heard(sine(hz)).harmony[6].argmax() == pitch


@pytest.mark.parametrize(("hz", "low"), [(60, True), (200, True), (3000, False)])
def test_bass_and_drum_begin_low(hz, low):
    sound = np.concatenate((np.zeros(RATE // 2), sine(hz, 0.5)))
    found = heard(sound)
    assert (found.low_onset.max() > 2 * found.onset.max()) == low


def test_bands_cover_what_lies_between_them_evenly():
    """O'Shaughnessy, Speech Communication, 1987: mel = 2595 log10(1 + f/700); 1000 mel at 1000 Hz."""
    bands = features.mel_bands()
    hz = np.arange(features.FRAME_N // 2 + 1) * RATE / features.FRAME_N
    inside = (hz > 150) & (hz < 7000)
    assert bands[inside].sum(axis=1) == pytest.approx(1.0, abs=1e-5)
    middles = hz[bands.argmax(axis=0)]
    steps = np.diff(2595 * np.log10(1 + middles / 700))
    assert steps.mean() == pytest.approx((2840.0 - 60.6) / (features.BANDS + 1), rel=0.03)
