"""What care needs to know of a voice, heard once: its noise where nobody speaks, its level, where it hisses and
breathes.

noise      power of each bin in frames in which nobody speaks: their median over ln 2, which clicks don't move
sibilant   frames whose band of HISS_HZ stands HISS_OVER_DB over that of VOICE_HZ; runs of 30 to 300 ms
breath     soft frames of even spectrum beside words; runs of 120 to 900 ms
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.care.frames import BINS, HOP_N, POWER, bins, spectra
from jaylantern.core.signal.arrays import Doubles, Samples
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import RATE

SILENT_DB = -90.0  # softer is no noise, but nothing
LEAST_NOISE_S = 0.4  # of frames in which nobody speaks: less is too little to learn from
VOICE_HZ, HISS_HZ, RUMBLE_HZ = (200.0, 3500.0), (4500.0, 11_000.0), (20.0, 70.0)
HISS_OVER_DB, HISS_UNDER_DB = 2.0, 30.0  # over the voice's band in the frame; under the level of speech, at most
HISS_N, BREATH_N = (RATE * 30 // 1000, RATE * 300 // 1000), (RATE * 120 // 1000, RATE * 900 // 1000)
BREATH_DB, BREATH_OVER_NOISE_DB = (-45.0, -12.0), 6.0  # from the level of speech; over the noise
BREATH_FLAT = 0.22  # geometric over arithmetic mean of the spectrum, BREATH_HZ, at least
BREATH_HZ = (400.0, 7000.0)
BESIDE_N = RATE // 2  # how near to words a breath lies
SPOKEN_DB = -20.0  # from the loudest tenth of speech: frames over it are words
PART_FRAMES = 256
MOST_QUIET = 4096  # frames kept of those in which nobody speaks, evenly spread over all of them


@dataclass(frozen=True, eq=False)
class Voice:
    """What was heard. `noise` (BINS,) is power in units of a frame's |X|², zeros where there was too little to learn
    from; `noise_s` seconds it was learnt from. Levels are dBFS: `speech_db` of words, `noise_db`, `rumble_db` of the
    lowest band where nobody speaks, `spread_db` between the louder and the softer words. `hisses` and
    `breaths` are spans of media time, (k, 2)."""

    noise: Doubles
    noise_s: float
    noise_db: float
    speech_db: float
    rumble_db: float
    spread_db: float
    hisses: Intervals
    breaths: Intervals

    @property
    def learnt(self) -> bool:
        """Was there enough to learn the noise from?"""
        return self.noise_s >= LEAST_NOISE_S and bool(self.noise.any())


class VoiceListener:
    """Hears a sound piece by piece, (n, channels); what it answers does not depend on the pieces."""

    def __init__(self, speech: Intervals) -> None:
        """`speech` in media time: elsewhere nobody speaks."""
        self._speech = speech
        self._rest: NDArray[np.float32] | None = None
        self._count = 0
        self._rows: list[NDArray[np.float32]] = []
        self._quiet = np.zeros((0, BINS), np.float32)
        self._quiet_count, self._quiet_every = 0, 1

    def add(self, samples: Samples) -> None:
        """Hear the next samples."""
        before = np.zeros((HOP_N, samples.shape[1]), np.float32) if self._rest is None else self._rest
        self._rest = np.concatenate((before, samples))
        size = (PART_FRAMES + 1) * HOP_N
        while len(self._rest) >= size:
            self._hear(self._rest[:size])
            self._rest = self._rest[PART_FRAMES * HOP_N :]

    def finish(self) -> Voice:
        """All that was heard."""
        rest = np.zeros((HOP_N, 1), np.float32) if self._rest is None else self._rest
        size = -(-len(rest) // HOP_N) * HOP_N + HOP_N
        self._hear(np.pad(rest, ((0, size - len(rest)), (0, 0))))
        total, low, hiss, flat, spoken = np.concatenate(self._rows).T
        loud = total[(total > SILENT_DB) & ((spoken > 0) if len(self._speech) else True)]
        speech_db = float(np.percentile(loud, 90)) if len(loud) else SILENT_DB
        noise, noise_db, rumble_db = _noise(self._quiet)
        noise_s = self._quiet_count * HOP_N / RATE
        hissing = (hiss > low + HISS_OVER_DB) & (hiss > speech_db - HISS_UNDER_DB) & (hiss > noise_db + 6)
        words = total > speech_db + SPOKEN_DB
        low_db, high_db = BREATH_DB
        soft = (total > max(speech_db + low_db, noise_db + BREATH_OVER_NOISE_DB)) & (total < speech_db + high_db)
        breath = soft & (flat > BREATH_FLAT) & ~hissing
        breaths = _runs(breath, BREATH_N)
        near = [k for k, (a, b) in enumerate((breaths // HOP_N).tolist()) if _beside(words, a, b)]
        spread_db = float(np.subtract(*np.percentile(total[words], (90, 30)))) if words.any() else 0.0
        return Voice(noise, noise_s, noise_db, speech_db, rumble_db, spread_db, _runs(hissing, HISS_N), breaths[near])

    def _hear(self, sound: NDArray[np.float32]) -> None:
        channels = range(sound.shape[1])
        each = [np.abs(spectra(sound, channel)) ** 2 for channel in channels]
        power = np.asarray(np.mean(each, axis=0), np.float32)
        at_n = (self._count + np.arange(len(power))) * HOP_N
        self._count += len(power)
        flat = power[:, bins(*BREATH_HZ)] + 1e-20
        place = np.searchsorted(self._speech[:, 0], at_n + HOP_N, side="right") - 1
        spoken = np.zeros(len(power), bool)
        if len(self._speech):
            spoken = (place >= 0) & (self._speech[np.maximum(place, 0), 1] > at_n - HOP_N)
        self._rows.append(
            np.stack(
                (
                    _db(power),
                    *(_db(power[:, bins(*band)]) for band in (VOICE_HZ, HISS_HZ)),
                    np.exp(np.log(flat).mean(axis=1)) / flat.mean(axis=1),
                    spoken,
                ),
                axis=1,
            ).astype(np.float32)
        )
        if len(self._speech):  # else nobody is known to speak, and nothing to be a pause
            self._keep(power[~spoken & (self._rows[-1][:, 0] > SILENT_DB)])

    def _keep(self, quiet: NDArray[np.float32]) -> None:
        """Keep every so many-th of the frames in which nobody speaks, so that room does not grow with duration."""
        first = -self._quiet_count % self._quiet_every
        self._quiet_count += len(quiet)
        self._quiet = np.concatenate((self._quiet, quiet[first :: self._quiet_every]))
        while len(self._quiet) > MOST_QUIET:
            self._quiet, self._quiet_every = self._quiet[::2], 2 * self._quiet_every


def _db(power: NDArray[np.floating]) -> NDArray[np.floating]:
    """Level in dBFS of rows of |X|² of one side of the spectrum."""
    return np.asarray(10 * np.log10(2 * power.sum(axis=1) / (POWER * 2 * (BINS - 1)) + 1e-12))


def _noise(quiet: NDArray[np.float32]) -> tuple[Doubles, float, float]:
    """The noise of frames in which nobody speaks: its power, its level, and that of its rumble."""
    if not len(quiet):
        return np.zeros(BINS), SILENT_DB, SILENT_DB
    noise = np.median(quiet, axis=0).astype(np.float64) / np.log(2)  # of what is spread like noise that is its mean
    rumbling = float(_db(noise[None, bins(*RUMBLE_HZ)])[0])
    return noise, float(_db(noise[None])[0]), rumbling


def _runs(there: NDArray[np.bool_], length_n: tuple[int, int]) -> Intervals:
    """Runs of frames that last from so long to so long, as spans of media time; a frame missing in between does not
    end one."""
    closed = there.copy()
    closed[1:-1] |= there[:-2] & there[2:]
    edges = np.flatnonzero(np.diff(np.concatenate(([0], closed.astype(np.int8), [0])))).reshape(-1, 2)
    spans = np.stack((edges[:, 0] * HOP_N - HOP_N // 2, edges[:, 1] * HOP_N - HOP_N // 2), axis=1)
    lasting = spans[:, 1] - spans[:, 0]
    return np.maximum(spans[(lasting >= length_n[0]) & (lasting <= length_n[1])], 0).astype(np.int64).reshape(-1, 2)


def _beside(words: NDArray[np.bool_], first: int, last: int) -> bool:
    reach = BESIDE_N // HOP_N
    return bool(words[max(0, first - reach) : first].any() or words[last : last + reach].any())
