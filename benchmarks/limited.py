"""The limiter on hot music: how far over its ceiling the finished mix goes, told by another resampler, and what it
leaves alone."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import soxr

from benchmarks import material, ours
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Renderer, Variant, Voice
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag

CEILING_DBTP = -1.0
GAIN = 2.0  # +6 dB over music that peaks at -0.4 dBFS


def measure(folder: Path, say: Callable[[str, str, str], None], *, minutes: int) -> None:
    """Renders, upsamples four-fold with soxr (very high quality), and compares with the mix before the limiter."""
    path = material.write_programme(folder / f"hot {minutes}.wav", minutes=minutes, gain=1.9)
    sound = ours.to_raw(path, folder / "limited.raw")
    voice = Voice(1, 0, sound.length_n, 0, GAIN, Tag.MUSIC, None)
    programme = Programme(sound.length_n, (voice,), CEILING_DBTP)

    def read(media_id: int, start_n: int, stop_n: int) -> np.ndarray:
        return sound.read(start_n, stop_n)

    limited, plain = (Renderer(programme, read, variant) for variant in (Variant.DUCKED, Variant.UNLIMITED))
    up = soxr.ResampleStream(RATE, 4 * RATE, 2, dtype="float64", quality="VHQ")
    peak, untouched, changed, worked = 0.0, 0, 0, 0
    for k in range(-(-sound.length_n // BLOCK_N)):
        gains, block = limited.limiter_gains(k), limited.block(k)
        wide = up.resample_chunk(block.astype(np.float64))
        peak = max(peak, float(np.abs(wide).max(initial=0.0)))
        alone = np.ones(BLOCK_N, bool) if gains is None else gains == 1.0
        before = np.rint(plain.block(k).astype(np.float64) * 2**23)[alone]
        after = np.rint(block.astype(np.float64) * 2**23)[alone]
        untouched += int(alone.sum())
        worked += int((~alone).sum())
        changed += int((before != after).any(axis=1).sum())
    peak = max(peak, float(np.abs(up.resample_chunk(np.zeros((0, 2)), last=True)).max(initial=0.0)))
    over = 20 * np.log10(peak) - CEILING_DBTP
    say(
        f"limiter on {minutes} min of hot music: true peak over its ceiling, by soxr at 4 ×",
        f"{over:+.3f} dB",
        "≤ +0.05",
    )
    share = 100 * worked / (worked + untouched)
    say(
        "   samples changed at 24 bit where it does not work",
        f"{changed} of {untouched} (it works at {share:.0f} %)",
        "0",
    )
