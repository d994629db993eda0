"""How likely each 10 ms is spoken, from what two networks heard: a weighted sum of their log odds, now and around.

    odds(p) = ln((p + ε) / (1 − p + ε))
    x = BIAS + Σ over windows w, networks' answers a of WEIGHT[w, a] · mean over w of odds(a)
             + Σ of LARGEST[w, a] · largest over w of odds(a)
    probability = 1 / (1 + e^−x)

One network is restrained, the other hears more: what both hear near in time counts for speech, singing that goes on
for seconds counts against it. The weights are those of a logistic regression (Cox 1958) on material of our own making;
`benchmarks/hearing.py` makes it, fits them and says how they do on other material.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

VOICE, SPEECH, SINGING, MUSIC = range(4)  # answers: of the one network, and three of the other
EPSILON = 1e-4
WINDOWS = (5, 31, 101, 401)  # blocks of 10 ms, around the one that is weighed
WEIGHT = (  # a row for each window
    (0.1359, 0.2692, 0.0908, 0.0465),
    (0.1602, 0.1983, 0.0742, 0.0422),
    (0.0629, 0.2472, 0.0366, 0.0251),
    (-0.0428, -0.0498, -0.3604, 0.0213),
)
LARGEST = ((VOICE, 101, 0.0544), (SPEECH, 101, -0.1749), (VOICE, 401, -0.0614))
BIAS = 0.0499
REACH = max(WINDOWS) // 2  # blocks to each side that a block's answer depends on
PART = 6000  # blocks worked out at once

Floats = NDArray[np.float32]


def per_block(voice: Floats, blocks: int, *, frame_blocks: float) -> Floats:
    """Probabilities (frames,), each `frame_blocks` blocks long, as (blocks,): straight lines between their middles."""
    if not len(voice):
        return np.zeros(blocks, np.float32)
    middles = (np.arange(len(voice)) + 0.5) * frame_blocks
    out = np.empty(blocks, np.float32)
    for at in range(0, blocks, PART):
        here = out[at : at + PART]
        here[:] = np.interp(np.arange(at, at + len(here)) + 0.5, middles, voice)
    return out


def speech_probability(voice: Floats, events: Floats) -> Floats:
    """Probability of speech (blocks,), from probabilities of voice (blocks,) and of speech, singing and music
    (blocks, 3). A long sound is worked out in parts, whose answers are those of the whole."""
    out = np.zeros(len(voice), np.float32)
    for at in range(0, len(voice), PART):
        first, last = max(0, at - REACH), min(len(voice), at + PART + REACH)
        answers = np.concatenate((voice[first:last, None], events[first:last]), axis=1)
        found = _weighed(odds(answers.astype(np.float64)))
        out[at : at + PART] = found[at - first : at - first + PART]
    return out


def _weighed(voices: NDArray[np.float64]) -> NDArray[np.float64]:
    """The answer for (blocks, 4) log odds."""
    weights = np.array([*(each for row in WEIGHT for each in row), *(share for _, _, share in LARGEST)])
    return 1.0 / (1.0 + np.exp(-(columns(voices) @ weights + BIAS)))


def columns(voices: NDArray[np.float64]) -> NDArray[np.float64]:
    """What is weighed, a column for each weight of WEIGHT and LARGEST, for (blocks, 4) log odds; what lies beyond
    either end is as the last there."""
    padded, size = np.pad(voices, ((REACH, REACH), (0, 0)), mode="edge"), len(voices)
    summed = np.concatenate((np.zeros((1, 4)), np.cumsum(padded, axis=0)))
    first = {window: REACH - window // 2 for window in WINDOWS}
    means = [(summed[first[w] + w :][:size] - summed[first[w] :][:size]) / w for w in WINDOWS]
    peaks = [_largest(padded[first[w] :, answer][: size + w - 1], w)[:, None] for answer, w, _ in LARGEST]
    return np.concatenate((*means, *peaks), axis=1)


def _largest(values: NDArray[np.float64], window: int) -> NDArray[np.float64]:
    """The largest of each `window` values in a row, by halves: of twice as many is the larger of two."""
    have, done = values, 1
    while done * 2 <= window:
        have, done = np.maximum(have[:-done], have[done:]), done * 2
    rest = window - done
    return np.maximum(have[: len(have) - rest], have[rest:]) if rest else have


def odds(p: NDArray[np.float64]) -> NDArray[np.float64]:
    """Log odds of probabilities, bounded by ε."""
    return np.log((p + EPSILON) / (1.0 - p + EPSILON))
