"""Suggested tags: what a clip probably is, from its sound, with the reason. The person decides.

people talk in much of it                               → dialogue; over music already mixed in, it is said so
people sing in much of it                               → music
its pitches stay and its spectrum is full of lines      → music; or it is heard as music nearly throughout
it sounds nearly throughout, evenly                     → atmosphere
it comes in bursts, or is short                         → effects

Thresholds: measured on speech, music, effects and atmosphere from free packages; the table stands in the change that
set them.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal import intervals
from jaylantern.core.signal.arrays import Doubles
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag

EXCERPT_N = RATE  # a second is looked at
EVERY_N = 3 * RATE  # every three seconds at most
MOST_EXCERPTS = 100
FFT_N, STRIDE_N = 4096, 2048
LOW_HZ, HIGH_HZ = 150.0, 5000.0
LINE_DB = 9.0  # a bin stands so far over its neighbourhood to be a line of the spectrum
NEAR_BINS = 12
QUIET_DB = -70.0
NARRATION = re.compile(r"narrat|voice.?over|(?<![a-z])v\.?o(?![a-z])", re.IGNORECASE)
TALK_SHARE = 0.3
SUNG_SHARE, SUNG_ALONE_SHARE, SUNG_OVER = 0.1, 0.5, 0.5  # of what sounds: over music, without it; how much music
HEARD_AS_MUSIC, MIXED_SHARE = 0.5, 0.3  # probability; share of talk that lies over music
MUSIC_SHARE = 0.7
LONG_S, LINES_SHARE, MUSIC_SOUNDS = 8.0, 0.1, 0.6  # a piece of music: effects so long have next to no lines
SHORT_S, MANY_LINES_SHARE, SHORT_SOUNDS = 5.0, 0.4, 0.8  # a short stretch of music sounds all the time
ATMOSPHERE = (
    (5.0, 0.95, 10.0),
    (8.0, 0.8, 16.0),
    (20.0, 0.9, 20.0),
)  # least s, least share that sounds, most dB spread
BELOW_LOUD_DB = 25.0  # what lies further under the loud moments counts as pause


@dataclass(frozen=True, eq=False)
class Character:
    """Excerpts of a medium: `time_n` (k,) media times, `lines` (k,) share of energy in lasting lines of the spectrum,
    0–1, NaN where it is quiet."""

    time_n: NDArray[np.int64]
    lines: Doubles


def excerpt_places(length_n: int) -> NDArray[np.int64]:
    """Where in a medium excerpts are taken, media time in samples, spread evenly."""
    count = max(1, min(MOST_EXCERPTS, length_n // EVERY_N))
    last = max(0, length_n - EXCERPT_N)
    return np.unique(np.linspace(last * 0.5 / count, last * (1 - 0.5 / count), count).astype(np.int64))


def listen(read: Callable[[int, int], NDArray[np.float32]], length_n: int) -> Character:
    """Character of a medium of `length_n` samples. `read(start_n, stop_n)` answers mono sound (n,) at 48 kHz."""
    time_n = excerpt_places(length_n)
    lines = [lines_share(read(start_n, min(start_n + EXCERPT_N, length_n))) for start_n in time_n.tolist()]
    return Character(time_n, np.array(lines))


def lines_share(sound: NDArray[np.float32]) -> float:
    """Share of the energy between 150 Hz and 5 kHz that lies in lines which last, of mono sound (n,) at 48 kHz.

    A line is a bin that stands 9 dB over the median of its neighbourhood, in three frames of 43 ms in a row: held
    notes have them, noise and knocks have not, and speech has few, because its pitch moves. NaN for quiet sound.
    """
    if len(sound) < FFT_N + 2 * STRIDE_N or 10 * np.log10(np.mean(sound**2, dtype=np.float64) + 1e-30) < QUIET_DB:
        return float("nan")
    frames = np.lib.stride_tricks.sliding_window_view(sound, FFT_N)[::STRIDE_N]
    power = np.abs(np.fft.rfft(frames * np.hanning(FFT_N).astype(np.float32), axis=1)) ** 2 + 1e-12
    low, high = (round(hz * FFT_N / RATE) for hz in (LOW_HZ, HIGH_HZ))
    around = np.lib.stride_tricks.sliding_window_view(
        power[:, low - NEAR_BINS : high + NEAR_BINS], 2 * NEAR_BINS, axis=1
    )
    floor = np.median(around, axis=2)[:, : high - low]
    band = power[:, low:high]
    stands = band > floor * 10 ** (LINE_DB / 10)
    lasting = stands[:-2] & stands[1:-1] & stands[2:]
    return float(band[1:-1][lasting].sum() / band[1:-1].sum())


@dataclass(frozen=True)
class Suggestion:
    """A tag and why."""

    tag: Tag
    reason: str


@dataclass(frozen=True)
class Evidence:
    """What a suggestion is made from.

    `talk` is the share of what sounds that is speech, `sounding` the share of the stretch that sounds, `lines` the
    share of energy in lasting lines, `spread_db` how far the level goes up and down where it sounds, `loud_db` its
    loud moments; `sung` the share of what sounds that is sung, `music` the share of it heard as music, `mixed` the
    share of its talk that lies over music; these are 0 where they were not listened for.
    """

    seconds: float
    talk: float
    sounding: float
    lines: float
    spread_db: float
    loud_db: float
    sung: float = 0.0
    music: float = 0.0
    mixed: float = 0.0


def evidence(
    character: Character,
    speech: Intervals,
    level_db: NDArray[np.float32],
    *,
    offset_n: int,
    length_n: int,
    singing: Intervals | None = None,
    music: NDArray[np.floating] | None = None,
) -> Evidence:
    """Evidence from the stretch of a medium that a clip shows. `level_db` and the probability of `music` are per 10 ms
    of the whole medium, `speech` and `singing` in its samples."""
    start_n, stop_n = offset_n, offset_n + length_n
    blocks = slice(start_n // HOP_N, -(-stop_n // HOP_N))
    level = level_db[blocks]
    level = level if len(level) else np.array([-90.0], np.float32)
    loud_db = float(np.percentile(level, 95))
    sounds = level > max(loud_db - BELOW_LOUD_DB, QUIET_DB)
    there_n = max(length_n * float(sounds.mean()), 1.0)
    talk = intervals.clipped(speech, start_n=start_n, stop_n=stop_n)
    sung = intervals.clipped(intervals.none() if singing is None else singing, start_n=start_n, stop_n=stop_n)
    heard = np.zeros(len(level), bool)
    if music is not None:
        heard[: len(music[blocks])] = music[blocks] >= HEARD_AS_MUSIC
    talking = np.zeros(len(level), bool)
    for first, last in ((talk - start_n) // HOP_N).tolist():
        talking[first:last] = True
    here = (character.time_n + EXCERPT_N > offset_n) & (character.time_n < offset_n + length_n)
    lines = character.lines[here]
    lines = lines[~np.isnan(lines)]
    spread = level[sounds] if sounds.any() else level
    low, high = np.percentile(spread, (10, 90))
    return Evidence(
        seconds=length_n / RATE,
        talk=min(1.0, intervals.total_n(talk) / there_n),
        sounding=float(sounds.mean()),
        lines=float(np.median(lines)) if len(lines) else 0.0,
        spread_db=float(high - low),
        loud_db=loud_db,
        sung=min(1.0, intervals.total_n(sung) / there_n),
        music=float(heard[sounds].mean()) if sounds.any() else 0.0,
        mixed=float(heard[talking].mean()) if talking.any() else 0.0,
    )


def suggest(found: Evidence, *, name: str = "") -> Suggestion | None:
    """What a stretch of sound probably is, with the reason in plain words; None where nothing is clear. Whether speech
    is narration can't be heard; its file's `name` may say so."""
    if found.loud_db < QUIET_DB:
        return None
    if found.talk >= TALK_SHARE and found.mixed >= MIXED_SHARE:
        said = f"speech in {found.talk:.0%} of what sounds, over music already mixed in: it can't be ducked apart"
        return Suggestion(Tag.DIALOGUE, said)
    if found.talk >= TALK_SHARE and NARRATION.search(name):
        return Suggestion(Tag.NARRATION, f"speech in {found.talk:.0%} of what sounds; its name says so")
    if found.talk >= TALK_SHARE:
        return Suggestion(Tag.DIALOGUE, f"speech in {found.talk:.0%} of what sounds")
    if found.sung >= SUNG_SHARE and found.music >= SUNG_OVER:
        return Suggestion(Tag.MUSIC, f"singing over music, in {found.sung:.0%} of what sounds")
    if found.sung >= SUNG_ALONE_SHARE:
        return Suggestion(Tag.MUSIC, f"sung in {found.sung:.0%} of what sounds")
    long = found.seconds >= LONG_S and found.lines >= LINES_SHARE and found.sounding >= MUSIC_SOUNDS
    short = found.seconds >= SHORT_S and found.lines >= MANY_LINES_SHARE and found.sounding >= SHORT_SOUNDS
    if long or short:
        return Suggestion(Tag.MUSIC, f"held notes carry {found.lines:.0%} of its energy")
    if found.music >= MUSIC_SHARE and found.seconds >= SHORT_S and found.sounding >= MUSIC_SOUNDS:
        return Suggestion(Tag.MUSIC, f"heard as music in {found.music:.0%} of what sounds")
    if any(found.seconds >= s and found.sounding >= share and found.spread_db <= db for s, share, db in ATMOSPHERE):
        return Suggestion(Tag.ATMOSPHERE, f"sounds on and on, within {found.spread_db:.0f} dB")
    return Suggestion(Tag.EFFECTS, "short, or comes in bursts")
