"""Evenness: loud words lowered by a gentle compressor keyed by the voice itself, and made up for, so that
the whole stays as loud as it was. The law is that of `ducking/compressor.py`."""

from __future__ import annotations

import numpy as np

from jaylantern.core.ducking.compressor import Law, followed
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.key_level import CENTI, STEP_N, KeyTrack, padded
from jaylantern.core.ducking.sidechain import BLOCK, in_pieces

RATIO, KNEE_DB = 3.0, 6.0
UNDER_DB = 4.0  # the threshold lies so far under the level of words
ATTACK_MS, HOLD_MS, RELEASE_MS = 8.0, 30.0, 140.0
LARGEST_DB = 0.1
WORDS_DB = 25.0  # what lies no more under the level of words counts for loudness


def evened(track: KeyTrack, *, speech_db: float, amount_db: float) -> Curve:
    """The gain over media time of a voice whose words have the level `speech_db` dBFS: lowered by at most `amount_db`,
    within 0.1 dB, and raised by what keeps its mean power."""
    level = padded(track.rms * CENTI, BLOCK)
    law = Law(speech_db - UNDER_DB, RATIO, KNEE_DB, -amount_db)
    reduction = followed(
        law.reduction_db(level), attack_ms=ATTACK_MS, hold_ms=HOLD_MS, release_ms=RELEASE_MS, step_ms=1
    )
    words = level > speech_db - WORDS_DB
    power = 10.0 ** (level[words].astype(np.float64) / 10)
    lowered = float((power * 10 ** (-reduction[words] / 10)).sum())
    up_db = 10 * np.log10(float(power.sum()) / lowered) if lowered > 0 else 0.0
    active = np.flatnonzero(reduction.reshape(-1, BLOCK).any(axis=1))
    found = in_pieces(-reduction, active, largest_db=LARGEST_DB)
    return Curve(found.time_n - STEP_N // 2, found.gain_db + up_db)
