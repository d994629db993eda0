"""How well speech is found in hard sound, and the fit of the weights it is found with.

    ./jay bench hearing --material FOLDER      a table of the conditions, for both parts of the material
    python -m benchmarks.hearing FOLDER        the weights of core/speech/fusion.py, fitted on the part to choose by

The material: `voices.py`; the conditions: `hard_sound.py`. Beside ours: both networks alone at one half, their mean at
(.5, .3), a Gaussian-mixture detector and a level gate at their best settings for each condition, pauses under 0.3 s
joined in all.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import webrtcvad

from benchmarks.hard_sound import SILENT, SPOKEN, Case, Maker
from benchmarks.marks import Marks, marks, mask_of
from benchmarks.voices import HOP_N, RATE, levels
from jaylantern.core.signal import intervals
from jaylantern.core.signal.signal_level import HOP_N as BLOCK_N
from jaylantern.core.speech import fusion
from jaylantern.core.speech.prominence import prominence
from jaylantern.core.speech.singing import find_singing
from jaylantern.core.speech.voice_track import VoiceTrack, find_speech
from jaylantern.detect.ear import NetworkEar
from jaylantern.pipeline import LARGEST_BOOST_DB, TARGET_DB

JOIN = 30  # blocks of 10 ms
LEFT_OUT = "babble"  # speech too, so what counts as false is a matter of words: shown, not in the means, lightly fitted
PARTS = ("choose", "report")


@dataclass(frozen=True, eq=False)
class Answers:
    """A condition, and what both networks said of each 10 ms of it."""

    name: str
    case: Case
    voice: np.ndarray
    events: np.ndarray
    band_db: np.ndarray
    level_db: np.ndarray


@cache
def answers(folder: Path, part: str) -> list[Answers]:
    """All conditions of a part, heard."""
    maker, out = Maker(folder, part), []
    for i, (name, make) in enumerate({**SPOKEN, **SILENT}.items()):
        maker.random = np.random.default_rng(100 * PARTS.index(part) + i)
        case = make(maker)
        level = levels(case.sound)
        gain = 10 ** (min(TARGET_DB - float(np.percentile(level, 90)), LARGEST_BOOST_DB) / 20)
        ear = NetworkEar(len(level))
        for at in range(0, len(case.sound), 5 * RATE):
            ear.add((case.sound[at : at + 5 * RATE] * gain).astype(np.float32))
        voice, events, band_db = ear.answers()
        size = len(case.truth)
        out.append(Answers(name, case, voice[:size], events[:size], band_db[:size], level[:size]))
    return out


# — the fit —


def features(said: Answers) -> np.ndarray:
    """What `fusion` weighs, one column for each weight."""
    answered = np.concatenate((said.voice[:, None], said.events), axis=1).astype(np.float64)
    return fusion.columns(fusion.odds(answered))


def importance(said: Answers, truth: np.ndarray) -> np.ndarray:
    """How much each block counts in the fit: what must not be taken for speech counts more."""
    weight = np.full(len(truth), {"cries alone": 5.0, "music alone": 2.0}.get(said.name, 1.0))
    if said.name.startswith("sung"):
        weight *= 3
    if said.name == "acted, with cries":
        weight[~truth] *= 2.5
    if LEFT_OUT in said.name:
        weight[~truth] *= 0.1
    return weight


def fitted(folder: Path, ridge: float = 100.0) -> tuple[np.ndarray, float]:
    """Weights and bias of a logistic regression on the part to choose by, by Newton's method."""
    found = answers(folder, "choose")
    truths = [joined_mask(each.case.truth) for each in found]
    x = np.concatenate([features(each)[::3] for each in found])
    y = np.concatenate([truth[::3] for truth in truths]).astype(np.float64)
    w = np.concatenate([importance(each, truth)[::3] for each, truth in zip(found, truths, strict=True)])
    mean, scale = x.mean(axis=0), x.std(axis=0)
    z = np.concatenate(((x - mean) / scale, np.ones((len(x), 1))), axis=1)
    beta, held = np.zeros(z.shape[1]), np.diag([ridge] * x.shape[1] + [0.0])
    for _ in range(30):
        p = 1 / (1 + np.exp(-z @ beta))
        step = np.linalg.solve((z * (w * p * (1 - p))[:, None]).T @ z + held, z.T @ (w * (y - p)) - held @ beta)
        beta += step
    return beta[:-1] / scale, float(beta[-1] - (beta[:-1] * mean / scale).sum())


# — the marks —


def joined(spans: np.ndarray) -> np.ndarray:
    """Stretches with pauses under 0.3 s counted in."""
    return intervals.union(np.asarray(spans, np.int64).reshape(-1, 2), gap_n=JOIN - 1)


def joined_mask(truth: np.ndarray) -> np.ndarray:
    """A truth with pauses under 0.3 s counted in."""
    return mask_of(joined(intervals.runs(truth)) * BLOCK_N, len(truth))


def marked(found: np.ndarray, truth: np.ndarray) -> Marks:
    """How well stretches in blocks fit a truth."""
    return marks(found * BLOCK_N, joined(intervals.runs(truth)) * BLOCK_N, len(truth))


# — the ways —


def ours(said: Answers, sensitivity: float = 50) -> np.ndarray:
    """As the application finds it, in blocks."""
    speech = fusion.speech_probability(said.voice, said.events)
    over = prominence(said.band_db.copy(), speech, frame_blocks=1.0)
    size = len(speech)
    track = VoiceTrack(speech, said.level_db.astype(np.float32), size * BLOCK_N, over)
    return find_speech(track, sensitivity=sensitivity) // BLOCK_N


def at_half(p: np.ndarray) -> np.ndarray:
    """A network alone: one half or more."""
    return joined(intervals.runs(p >= 0.5))


def mean(said: Answers) -> np.ndarray:
    """The mean of both, from .5 on and down to .3."""
    p = (said.voice + said.events[:, 0]) / 2
    return joined(intervals.runs_reaching(p, enter=0.5, stay=0.3))


def gmm(said: Answers) -> np.ndarray:
    """A Gaussian-mixture detector at the best of its settings for this condition."""
    sound = (said.case.sound / max(1e-6, np.abs(said.case.sound).max()) * 20_000).astype(np.int16)

    def found(mode: int) -> np.ndarray:
        detector, step = webrtcvad.Vad(mode), HOP_N
        heard = [detector.is_speech(sound[at : at + step].tobytes(), RATE) for at in range(0, len(sound) - step, step)]
        return joined(intervals.runs(np.array(heard)))

    return best([found(mode) for mode in range(4)], said)


def gate(said: Answers) -> np.ndarray:
    """A level gate at the best of a few thresholds for this condition."""
    return best([joined(intervals.runs(said.level_db > db)) for db in range(-66, -17, 4)], said)


def best(ways: list[np.ndarray], said: Answers) -> np.ndarray:
    """The one of most F1; of sound without speech the one that takes least for it is no use, so the middle one."""
    if not said.case.truth.any():
        return ways[len(ways) // 2]
    return max(ways, key=lambda found: marked(found, said.case.truth).f1)


OTHERS: dict[str, Callable[[Answers], np.ndarray]] = {
    "voice": lambda said: at_half(said.voice),
    "events": lambda said: at_half(said.events[:, 0]),
    "mean": mean,
    "GMM": gmm,
    "gate": gate,
}


def lines(folder: Path, part: str) -> Iterator[str]:
    """The table of one part."""
    yield f"— {part} —".ljust(26) + "    F1   late  false missed  flutter a min" + "".join(f"{n:>9}" for n in OTHERS)
    rows, of_others = [], []
    for said in answers(folder, part):
        truth = said.case.truth
        if not truth.any():
            continue
        mine = marked(ours(said), truth)
        row = [mine.f1, mine.late, mine.false, mine.missed, mine.flutters / (len(truth) / 6000)]
        others = [marked(way(said), truth).f1 for way in OTHERS.values()]
        if LEFT_OUT not in said.name:
            rows.append(row)
            of_others.append(others)
        yield _line(said.name, row, others)
    yield _line("mean, without babble", list(np.mean(rows, axis=0)), list(np.mean(of_others, axis=0)))
    for said in answers(folder, part):
        if not said.case.truth.any():
            size = len(said.case.truth)
            shares = [mask_of(way(said) * BLOCK_N, size).mean() for way in (ours, *OTHERS.values())]
            sung = mask_of(find_singing(said.events[:, 1], length_n=size * BLOCK_N), size).mean()
            told = "".join(f"{share:>9.1%}" for share in shares[1:])
            yield f"{said.name:<26}called speech: {shares[0]:.1%}, sung: {sung:.0%}".ljust(66) + told


def _line(name: str, mine: list[float], others: list[float]) -> str:
    f1, late, false, missed, flutter = mine
    figures = f"{f1:>6.3f} {late:>6.1%} {false:>6.1%} {missed:>6.1%} {flutter:>14.2f}"
    return f"{name:<26}{figures}" + "".join(f"{each:>9.3f}" for each in others)


def run(folder: Path) -> None:
    """Print the tables of both parts."""
    for part in PARTS:
        for line in lines(folder, part):
            print(line, flush=True)


def main() -> None:
    """Print the weights as they stand in the code."""
    weights, bias = fitted(Path(sys.argv[1]))
    count = 4 * len(fusion.WINDOWS)
    for row in weights[:count].reshape(-1, 4):
        print("    (" + ", ".join(f"{each:.4f}" for each in row) + "),")
    print("largest", [round(float(each), 4) for each in weights[count:]], "bias", round(bias, 4))


if __name__ == "__main__":
    main()
