"""How far a sound stands out, band by band, over what is there when nobody speaks.

A word's first and last sounds are soft, and each lives in a band of its own: in the whole sound's level they drown in
noise or music that one band of them still rises over. Where a word begins and ends is read from this.
"""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

BANDS_HZ = (150, 400, 800, 1400, 2200, 3200, 4500, 7000)  # edges: voice bar, formants, hiss
SMOOTH = 3  # blocks of 10 ms
CALM = 0.15  # a frame less likely to be speech than this shows what is there when nobody speaks
CALM_SHARE = 90  # per cent of the calm blocks around that a sound must be louder than
OVER_DB = 3.0  # and by how much
REACH_DB = 30.0  # sound so far under the loud moments of the speech around is no part of it
NEAR, SPEECH_NEAR = 300, 3000  # blocks to each side that count as around
FEW = 30  # fewer calm blocks around than this say nothing; the whole medium's are taken
STRIDE = 100
PART = 10_000
SPOKEN = 0.5

Rows = NDArray[np.float32]
Levels = NDArray[np.float16]


def band_weights(hz: NDArray[np.float64], raised: NDArray[np.float64]) -> Rows:
    """What adds up powers at these frequencies (bins,) to the powers of BANDS_HZ, shape (bins, bands); by how much
    each bin's power was `raised` before (bins,) is taken back."""
    inside = [(hz >= low) & (hz < high) for low, high in pairwise(BANDS_HZ)]
    return (np.stack(inside, axis=1) / raised[:, None]).astype(np.float32)


def levels_of(power: Rows) -> Levels:
    """Power as level in dB, half precision; silence as −120."""
    return _db(power).astype(np.float16)


def prominence(level_db: Levels, probability: Rows, *, frame_blocks: float) -> Rows:
    """How far each 10 ms stands over its surroundings in its best band, dB, shape (blocks,); over 0 it is heard.

    `level_db` (blocks, bands); `probability` of speech (frames,), each `frame_blocks` blocks long. A band's line is
    OVER_DB above what CALM_SHARE of the calm blocks around reach, and no lower than REACH_DB under the speech around.
    `level_db` is used up: it holds smoothed levels afterwards.
    """
    if not len(level_db):
        return np.zeros(0, np.float32)
    band_db, whole_db = level_db, _smooth(level_db)
    calm, spoken = _likelihood(probability, len(level_db), frame_blocks)
    everywhere = (
        np.array([np.percentile(band[calm].astype(np.float32), CALM_SHARE) for band in band_db.T])
        if calm.sum() >= FEW
        else np.full(band_db.shape[1], -300)
    )
    loudest = float(np.percentile(whole_db[spoken], 95)) if spoken.any() else float(whole_db.max())
    out = np.empty(len(level_db), np.float32)
    for at in range(0, len(level_db), STRIDE):
        here = slice(at, at + STRIDE)
        near, wide = (slice(max(0, at - reach), at + STRIDE + reach) for reach in (NEAR, SPEECH_NEAR))
        quiet, talk = band_db[near][calm[near]].astype(np.float32), whole_db[wide][spoken[wide]]
        line = np.percentile(quiet, CALM_SHARE, axis=0) if len(quiet) >= FEW else everywhere
        loud = float(np.percentile(talk, 95)) if len(talk) >= FEW else loudest
        out[here] = (band_db[here] - np.maximum(line + OVER_DB, loud - REACH_DB)).max(axis=1)
    return out


def _likelihood(probability: Rows, blocks: int, frame_blocks: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """For every block: is it calm, is it speech?"""
    if not len(probability):
        return np.ones(blocks, np.bool_), np.zeros(blocks, np.bool_)
    edges = np.ceil(np.arange(len(probability) + 1) * frame_blocks).astype(np.int32)  # the first block of each frame
    edges[-1] = max(blocks, edges[-1])
    counts = np.diff(np.minimum(edges, blocks))
    return np.repeat(probability < CALM, counts), np.repeat(probability > SPOKEN, counts)


def _smooth(level_db: Levels) -> Rows:
    """Give every block the level of the mean power of SMOOTH blocks, in place and little by little, as an hour is long;
    answers the levels of all bands together."""
    whole_db, side = np.empty(len(level_db), np.float32), SMOOTH // 2
    before = level_db[:1].repeat(side, axis=0)  # the rows before a part, as they were
    for at in range(0, len(level_db), PART):
        part = level_db[at : at + PART]
        after = np.arange(at + len(part), at + len(part) + side)
        around = np.concatenate((before, part, level_db[np.minimum(after, len(level_db) - 1)])).astype(np.float32)
        before = part[-side:].copy()
        mean = np.lib.stride_tricks.sliding_window_view(np.power(10.0, around / 10.0), SMOOTH, axis=0).mean(axis=-1)
        part[:], whole_db[at : at + PART] = levels_of(mean), _db(mean.sum(axis=1))
    return whole_db


def _db(power: Rows) -> Rows:
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-12)), np.float32)
