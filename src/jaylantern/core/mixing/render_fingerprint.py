"""What a stretch of a programme depends on, as something to compare: so what was worked out of it is kept while edits
change other stretches."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import replace

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Voice
from jaylantern.core.timeline.care import Source
from jaylantern.core.timeline.fades import NO_FADE

BEFORE_N, AFTER_N = 3 * BLOCK_N, 2 * BLOCK_N  # the limiter's reach, in whole blocks, and a block to begin meters with


def contents(prog: Programme, start_n: int, stop_n: int, sounds: Mapping[Source, Hashable] | None = None) -> Hashable:
    """Equal for two programmes whose rendered samples from one second before `start_n` up to `stop_n` are the same bits
    because all they are made of is the same. Media are told apart by their numbers and what `sounds` says of them."""
    lo, hi = start_n - BEFORE_N, stop_n + AFTER_N
    voices = [each for each in prog.voices if each.start_n < hi and each.stop_n > lo]
    media = tuple((sounds or {}).get(each.source) for each in voices)
    return tuple(_voice(each, lo, hi) for each in voices), media, prog.ceiling_dbtp, prog.release


def _voice(voice: Voice, lo: int, hi: int) -> Hashable:
    """What of a voice is heard in [lo, hi): where it begins or ends elsewhere does not matter."""
    there = voice
    if voice.start_n + voice.fade_in.length_n <= lo:
        there = replace(there, start_n=lo, offset_n=voice.offset_n + lo - voice.start_n, fade_in=NO_FADE)
    if voice.stop_n - voice.fade_out.length_n >= hi:
        there = replace(there, stop_n=hi, fade_out=NO_FADE)
    lines = (_curve(each, lo, hi) for each in (voice.curve, voice.ride, voice.line))
    return replace(there, curve=None, ride=None, line=None), *lines


def _curve(curve: Curve | None, lo: int, hi: int) -> Hashable:
    """The points in [lo, hi), one more on each side, and the ramps between them."""
    if curve is None:
        return None
    first = max(0, int(np.searchsorted(curve.time_n, lo, side="right")) - 1)
    last = int(np.searchsorted(curve.time_n, hi, side="left")) + 1
    ramps = curve.ramp[first : last - 1].tobytes()
    return curve.time_n[first:last].tobytes(), curve.gain_db[first:last].tobytes(), ramps
