"""The mix as objects: what gives way apart from what stands still, its ducking as gain over time beside plain sound.

voices of music   [────a────][──b──]        one object while one sounds at a time
                       [───c───]            what sounds at the same time and gives way by itself: a further one

What gives way in a band alone can't be said as a gain, and is printed: its sound is as the mix has it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.mix import STEMS, Programme, Voice
from jaylantern.core.signal.arrays import Doubles, Times
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag

STRAIGHT_DB = 0.01  # so far bent ramps may be off
ALIKE_DB = 0.001  # gains that meet so nearly are one
APART_N = RATE // 500  # where one ends and the next begins so much later, the gain has time to change
GRID_N = 12  # points of a gain over time lie on quarters of a millisecond
NEAR_DB = 0.02  # so far straight lines in amplitude may be off


@dataclass(frozen=True)
class SoundObject:
    """One object: what it holds, its voices alone as a programme, and a gain over time to be applied to their sound;
    None where there is none to apply."""

    stem: str
    tags: frozenset[Tag]
    programme: Programme
    gain: Curve | None = None


def objects(prog: Programme, *, printed: bool = False) -> list[SoundObject]:
    """All that sounds, in the order of the stems; with `printed` the ducking is in the sound. Together they are the mix
    before its limiter."""
    found = []
    for stem in STEMS:
        voices = [voice for voice in prog.voices if voice.tag.row.stem == str(stem)]
        moved = [] if printed else [voice for voice in voices if _moves(voice)]
        still = [voice for voice in voices if voice not in moved]
        if still:
            found.append(_object(prog, str(stem), still, None))
        for row in _rows(moved):
            plain = [replace(voice, curve=None) for voice in row]
            found.append(_object(prog, str(stem), plain, _joined(row)))
    return found


def in_band(prog: Programme) -> int:
    """How many voices give way in a band alone."""
    return sum(voice.band is not None and voice.curve is not None for voice in prog.voices)


def _object(prog: Programme, stem: str, voices: Sequence[Voice], gain: Curve | None) -> SoundObject:
    tags = frozenset(voice.tag for voice in voices)
    return SoundObject(stem, tags, replace(prog, voices=tuple(voices)), gain)


def _moves(voice: Voice) -> bool:
    return voice.curve is not None and voice.band is None and bool(np.any(voice.curve.gain_db != 0.0))


def _own(voice: Voice) -> Curve:
    """The curve of a voice over its stretch, straight in dB."""
    assert voice.curve is not None
    return voice.curve.straightened(largest_db=STRAIGHT_DB).within(voice.start_n, voice.stop_n)


def _rows(voices: Sequence[Voice]) -> list[list[Voice]]:
    """Voices one after another, as few rows as it takes."""
    rows: list[list[Voice]] = []
    for voice in sorted(voices, key=lambda voice: (voice.start_n, voice.stop_n)):
        row = next((row for row in rows if _follows(row[-1], voice)), None)
        if row is None:
            rows.append([voice])
        else:
            row.append(voice)
    return rows


def _follows(before: Voice, voice: Voice) -> bool:
    gap_n = voice.start_n - before.stop_n
    if gap_n < 0:
        return False
    return gap_n >= APART_N or abs(_own(before).gain_db[-1] - _own(voice).gain_db[0]) <= ALIKE_DB


def _joined(voices: Sequence[Voice]) -> Curve:
    curves = [_own(voice) for voice in voices]
    return Curve(np.concatenate([each.time_n for each in curves]), np.concatenate([each.gain_db for each in curves]))


def lines(curve: Curve, start_n: int, stop_n: int) -> tuple[Times, Doubles]:
    """A curve that is straight in dB as lines straight in amplitude: times (n,) in quarters of a millisecond from
    `start_n` on, the first 0, the last the end or just after it, and amplitudes (n,). Off by at most NEAR_DB, at a bend
    within the quarter that it lies in by half of what the gain does there."""
    last = max(1, -(-(stop_n - start_n) // GRID_N))
    at = (curve.time_n - start_n) / GRID_N
    inside = at[(at > 0) & (at < last)]
    knots = np.unique(np.concatenate(([0.0, last], np.floor(inside), np.ceil(inside)))).astype(np.int64)
    times = [knots[:1]]
    for a, b in zip(knots[:-1].tolist(), knots[1:].tolist(), strict=True):
        times.append(_divided(curve, start_n, a, b))
    found = np.concatenate(times)
    gains = curve.at(start_n + found * GRID_N)
    keep = _needed(found, gains)
    return found[keep], 10.0 ** (gains[keep] / 20.0)


def _needed(times: Times, gains_db: Doubles) -> list[int]:
    """Which of the ends of lines are needed where lines may leave out those that they pass by nearly enough."""
    amplitudes, kept = 10.0 ** (gains_db / 20.0), [0]
    for j in range(2, len(times) + 1):
        a = kept[-1]
        inner = slice(a + 1, j)
        if j < len(times):
            share = (times[inner] - times[a]) / (times[j] - times[a])
            line = amplitudes[a] + share * (amplitudes[j] - amplitudes[a])
            if np.abs(20.0 * np.log10(line) - gains_db[inner]).max() <= NEAR_DB / 2:
                continue
        kept.append(j - 1)
    return kept


def _divided(curve: Curve, start_n: int, a: int, b: int) -> Times:
    """Ends of as few lines between two places of the grid as come near enough to the curve; a itself not among them."""
    grid = np.arange(a, b + 1)
    wanted = curve.at(start_n + grid * GRID_N)
    parts = 1
    while True:
        ends = np.unique(np.linspace(a, b, parts + 1).round().astype(np.int64))
        amplitudes = np.interp(grid, ends, 10.0 ** (wanted[ends - a] / 20.0))
        if len(ends) == len(grid) or np.abs(20.0 * np.log10(amplitudes) - wanted).max() <= NEAR_DB / 2:
            return ends[1:]
        parts *= 2


def names(found: Sequence[SoundObject]) -> Iterator[str]:
    """What the objects are called: by their stem, numbered where it has several."""
    stems = [each.stem for each in found]
    for i, stem in enumerate(stems):
        several = stems.count(stem) > 1
        yield f"{stem.capitalize()} {stems[: i + 1].count(stem)}" if several else stem.capitalize()
