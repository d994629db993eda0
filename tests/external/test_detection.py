"""Finding speech in real recordings, scored beside a GMM detector and a plain level gate on the same sound.

Speech: English prompts of Debian's asterisk-core-sounds-en-g722; music: asterisk-moh-opsound-g722.
Truth: where the clean prompts have sound, by their own level, pauses under 0.3 s counted as speech (common practice).
Scoring: mir_eval's voicing measures (recall and false alarm per frame) and its F-measure.
"""

from __future__ import annotations

from functools import cache

import mir_eval
import numpy as np
import pytest
import soxr
import webrtcvad

from jaylantern.core.ducking.passages import bridge
from jaylantern.core.signal import intervals
from jaylantern.core.signal.analysis import CHUNK_N, Analyser
from jaylantern.core.signal.signal_level import HOP_N, level_db, mean_squares
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import find_speech
from jaylantern.core.timeline.settings import Settings
from jaylantern.detect.ear import NetworkEar
from jaylantern.detect.gate import GateEar
from jaylantern.pipeline import hear
from tests import sounds

PROMPTS = ("vm-intro", "vm-opts", "vm-advopts", "tt-weasels", "agent-newlocation", "vm-options", "demo-congrats",
           "conf-adminmenu-18")  # fmt: skip
PAUSE_S = 2.5


@cache
def clean() -> np.ndarray:
    """All prompts one after another with pauses between them, mono."""
    pause = np.zeros(round(PAUSE_S * RATE), np.float32)
    return np.concatenate([pause, *(part for name in PROMPTS for part in (sounds.prompt(name), pause))])


@cache
def truth() -> np.ndarray:
    """Spoken stretches in samples: within 30 dB of the loud parts (their 95th percentile), pauses to 0.3 s filled."""
    level = level_db(mean_squares(clean()[:, None]))
    spoken = level > np.percentile(level[level > -70], 95) - 30
    edges = np.flatnonzero(np.diff(np.concatenate(([0], spoken.astype(int), [0])))).reshape(-1, 2) * HOP_N
    joined = intervals.union(edges, gap_n=round(0.3 * RATE))
    return joined[joined[:, 1] - joined[:, 0] > 0.1 * RATE]


def with_music(under_db: float) -> np.ndarray:
    """The prompts with music on hold so many dB under them (by RMS over the spoken parts)."""
    music = np.resize(sounds.music("macroform-the_simplicity"), len(clean()))
    spoken = np.concatenate([clean()[a:b] for a, b in truth()])
    gain = 10 ** ((sounds.rms_db(spoken) + under_db - sounds.rms_db(music)) / 20)
    return (clean() + gain * music).astype(np.float32)


def with_noise(amplitude: float) -> np.ndarray:
    """The prompts with white noise of this RMS amplitude."""
    return clean() + sounds.noise(seconds=len(clean()) / RATE + 1, amplitude=amplitude)[: len(clean()), 0]


CONDITIONS = {
    "clean": lambda: clean(),
    "music −20 dB": lambda: with_music(-20),
    "music −12 dB": lambda: with_music(-12),
    "very quiet": lambda: (clean() * 10 ** (-30 / 20)).astype(np.float32),
    "noise −33 dBFS": lambda: (
        clean() + sounds.noise(seconds=len(clean()) / RATE + 1, amplitude=0.022)[: len(clean()), 0]
    ),
}


def f1(spans: np.ndarray) -> float:
    """Frame F1 of found stretches against the truth, 10 ms frames, by mir_eval's voicing measures."""
    if not len(spans):
        return 0.0  # mir_eval warns of nothing found
    known, found = (mask(each, -(-len(clean()) // HOP_N)).astype(float) for each in (truth(), spans))
    recall, _ = mir_eval.melody.voicing_measures(known, found)
    precision, _ = mir_eval.melody.voicing_measures(found, known)
    return float(mir_eval.util.f_measure(precision, recall))


def mask(spans: np.ndarray, size: int) -> np.ndarray:
    out = np.zeros(size, bool)
    for start, stop in np.asarray(spans).tolist():
        out[round(start / HOP_N) : round(stop / HOP_N)] = True
    return out


def track_of(sound: np.ndarray, make_ear=NetworkEar):
    analyser = Analyser(1)
    chunks = [sound[at : at + CHUNK_N, None] for at in range(0, len(sound), CHUNK_N)]
    for chunk in chunks:
        analyser.add(np.ascontiguousarray(chunk))
    return hear(iter(chunks), analyser.finish().level_db, length_n=len(sound), make_ear=make_ear)


def ours(sound: np.ndarray) -> np.ndarray:
    return find_speech(track_of(sound), sensitivity=50)


def gmm(sound: np.ndarray) -> np.ndarray:
    """WebRTC's Gaussian-mixture detector at its middle setting, 30 ms frames at 16 kHz, the same joining of pauses."""
    detector = webrtcvad.Vad(2)
    narrow = (soxr.resample(sound, RATE, 16_000).clip(-1, 1) * 32767).astype(np.int16)
    step = 480
    voiced = [detector.is_speech(narrow[at : at + step].tobytes(), 16_000) for at in range(0, len(narrow) - step, step)]
    edges = np.flatnonzero(np.diff(np.concatenate(([0], np.array(voiced, int), [0])))).reshape(-1, 2) * 3 * step
    return intervals.union(edges, gap_n=round(0.3 * RATE))


def gate(sound: np.ndarray) -> np.ndarray:
    """A plain level gate at −35 dBFS, its stretches set and joined as ours are."""
    level = level_db(mean_squares(sound[:, None]))
    edges = np.flatnonzero(np.diff(np.concatenate(([0], (level > -35).astype(int), [0])))).reshape(-1, 2) * HOP_N
    return intervals.union(edges, gap_n=round(0.3 * RATE))


@pytest.mark.parametrize("name", CONDITIONS)
def test_ours_is_ahead_of_a_gmm_and_of_a_gate_on_the_same_sound(name, record_property):
    sound = CONDITIONS[name]()
    scores = {"ours": f1(ours(sound)), "GMM": f1(gmm(sound)), "gate": f1(gate(sound))}
    record_property("f1", scores)
    print(name, {key: round(value, 4) for key, value in scores.items()})
    assert scores["ours"] > (0.98 if name == "music −12 dB" else 0.985)
    assert scores["ours"] > scores["GMM"]
    if name != "clean":  # on clean recordings a gate is nearly the definition of the truth
        assert scores["ours"] > scores["gate"]


@pytest.mark.parametrize("name", CONDITIONS)
def test_no_word_begins_more_than_100_ms_late(name):
    """Soft first sounds in noise are found in the band they stand out in."""
    found, late_n, late = ours(CONDITIONS[name]()), round(0.1 * RATE), 0
    for start_n, stop_n in truth().tolist():
        over = found[(found[:, 0] < stop_n) & (found[:, 1] > start_n)]
        assert len(over)
        late += int(over[0, 0]) > start_n + late_n
    assert late <= (2 if name == "music −12 dB" else 0)  # there music hides some first sounds


@pytest.mark.parametrize("piece", ["macroform-the_simplicity", "macroform-robot_dity", "reno_project-system"])
def test_music_alone_is_not_speech(piece):
    music = sounds.music(piece)[: 60 * RATE]
    spoken = ours(music)
    assert intervals.total_n(spoken) < 0.02 * len(music)


def test_pauses_within_a_prompt_do_not_flutter():
    """Common practice: the music does not come up in breaths. With default hold every prompt is one passage."""
    passages = bridge(ours(clean()), Settings())
    for start_n, stop_n in passages.tolist():
        inside = [(a, b) for a, b in truth().tolist() if start_n <= a < stop_n]
        assert inside
    assert len(passages) <= len(PROMPTS) + 1


def test_a_level_gate_can_take_the_networks_place():
    track = track_of(clean(), GateEar)
    assert f1(find_speech(track, sensitivity=50)) > 0.8


def test_more_sensitivity_never_loses_what_less_of_it_found():
    track = track_of(with_noise(0.03))
    before, totals = intervals.none(), []
    for sensitivity in range(0, 101):
        found = find_speech(track, sensitivity=sensitivity)
        assert intervals.total_n(intervals.without(before, found)) == 0
        before = found
        totals.append(intervals.total_n(found))
    assert totals[0] < totals[50] < totals[100]
