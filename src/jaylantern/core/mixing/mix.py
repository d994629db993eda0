"""Rendering: the one function that listening, meters and export all call.

The timeline is cut into blocks of one second at fixed places. A block is always computed whole, in the same
way, from finite surroundings; a window is cut out of its blocks. So whatever windows are asked for, the
samples are the same to the last bit, and memory does not grow with duration.

    mix k  ←  clips × gains                      peaks k  ←  mix k−1 … k+1
    limited k  ←  mix k × gain(peaks k−1 … k+1)
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.gain_line import line_of
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.signal import limiter
from jaylantern.core.signal.arrays import Samples, add_to, mono, scaled
from jaylantern.core.signal.speech_band import REACH_N, BandFilter, SpeechBand
from jaylantern.core.signal.timebase import RATE, db_to_amplitude
from jaylantern.core.signal.true_peak import SUB_N, sub_peaks
from jaylantern.core.timeline import tag as tag_table
from jaylantern.core.timeline.care import Care, Source
from jaylantern.core.timeline.clip import Channels, Clip
from jaylantern.core.timeline.fades import NO_FADE, Fade, envelope
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Band, Mode, Settings
from jaylantern.core.timeline.tag import Tag

BLOCK_N = RATE
CHANNELS = 2
PEAKS_A_BLOCK = 20
_SUB_BLOCKS = BLOCK_N // SUB_N
_SILENCE = np.zeros((BLOCK_N, CHANNELS), np.float32)
_SILENCE.flags.writeable = False


class Variant(StrEnum):
    """What is rendered."""

    DUCKED = "ducked"  # the mix with the music giving way
    PLAIN = "plain"  # the mix as it would be without
    MUSIC = "music"  # the ducked music alone, not limited
    SPEECH = "speech"  # the talk alone, not limited
    TAKEN = "taken"  # only what is being taken away: plain less ducked, not limited
    MUSIC_PLAIN = "music-plain"  # the music alone as it would be without, not limited
    EFFECTS = "effects"  # what is tagged so alone, not limited; so the next two
    ATMOSPHERE = "atmosphere"
    UNTAGGED = "untagged"
    BARE = "bare"  # the ducked mix with nothing done to voices
    UNLIMITED = "unlimited"  # the ducked mix before the limiter


LIMITED = frozenset((Variant.DUCKED, Variant.PLAIN, Variant.BARE))
STEMS = tuple(Variant(stem) for stem in tag_table.STEMS)  # add up to UNLIMITED
ALONE = {variant: tag_table.of_stem(variant) for variant in STEMS} | {Variant.MUSIC_PLAIN: tag_table.of_stem("music")}


class Reader(Protocol):
    """Gives the sound of a medium, or of one that is taken care of, (n, 1 or 2) float32, for media samples
    [start_n, stop_n), as an array of its own."""

    def __call__(self, source: Source, start_n: int, stop_n: int, /) -> Samples: ...


@dataclass(frozen=True)
class Voice:
    """One clip as it sounds: media [offset_n, …) at [start_n, stop_n), a fixed gain, a curve where it yields, fades.

    With a `band`, only that gives way.
    """

    media_id: int
    start_n: int
    stop_n: int
    offset_n: int
    amplitude: float
    tag: Tag
    curve: Curve | None
    lane_id: int = 0
    channels: Channels = Channels.BOTH
    fade_in: Fade = NO_FADE
    fade_out: Fade = NO_FADE
    band: SpeechBand | None = None
    ride: Curve | None = None  # the leveller's
    line: Curve | None = None  # drawn by hand
    care: Care | None = None  # what is done to its medium's sound first

    @property
    def source(self) -> Source:
        """What its sound is read by."""
        return self.media_id if self.care is None else (self.media_id, self.care)

    def in_variant(self, variant: Variant) -> bool:
        """Is this clip part of the variant?"""
        if variant is Variant.TAKEN:
            return self.curve is not None
        return variant not in ALONE or self.tag in ALONE[variant]


@dataclass(frozen=True)
class Programme:
    """All that rendering needs to know, resolved from a project and its plan."""

    length_n: int
    voices: tuple[Voice, ...]
    ceiling_dbtp: float
    release: int = limiter.release_of(limiter.RELEASE_MS)  # in sub-blocks


def programme(project: Project, plan: Plan) -> Programme:
    """Resolve tags, gains and curves of every clip that is heard."""
    faded = project.fades()
    voices = tuple(_voice(lane, clip, plan, *faded[clip.id]) for lane, clip in project.heard())
    settings = project.settings
    return Programme(project.length_n, voices, settings.ceiling_dbtp, limiter.release_of(settings.limiter_release_ms))


def band_of(settings: Settings) -> SpeechBand | None:
    """The band that alone gives way, None where all of the sound does: an even bed is one level of all of it, and shows
    no band."""
    only = settings.band is Band.SPEECH and settings.mode is not Mode.EVEN
    return SpeechBand(settings.band_low_hz, settings.band_high_hz) if only else None


def _voice(lane: Lane, clip: Clip, plan: Plan, fade_in: Fade, fade_out: Fade) -> Voice:
    tag = lane.tag_of(clip)
    return Voice(
        media_id=clip.media.id,
        start_n=clip.start_n,
        stop_n=clip.stop_n,
        offset_n=clip.offset_n,
        amplitude=db_to_amplitude(lane.gain_db + clip.gain_db),
        tag=tag,
        curve=plan.curve_of(lane, clip),
        lane_id=lane.id,
        channels=clip.channels,
        fade_in=fade_in,
        fade_out=fade_out,
        band=band_of(plan.project.settings),
        ride=plan.rides.get(clip.id),
        line=line_of(clip),
        care=lane.care_of(clip),
    )


def picked(sound: Samples, channels: Channels) -> Samples:
    """The channels a clip plays of its medium's sound (n, 1 or 2); one channel goes to both sides later."""
    if channels is Channels.BOTH or sound.shape[1] == 1:
        return sound
    if channels is Channels.MONO:
        return mono(sound)[:, None]
    side = 0 if channels is Channels.LEFT else 1
    return np.ascontiguousarray(sound[:, side : side + 1])


T = TypeVar("T")
K = TypeVar("K")


class _Recent(OrderedDict[int, T]):
    """The few results made last, by block number."""

    def made(self, key: int, make: Callable[[int], T], *, most: int) -> T:
        """The result of a key, made if it is not held."""
        if key not in self:
            self[key] = make(key)
            while len(self) > most:
                self.popitem(last=False)
        return self[key]


def summed(sounds: Iterable[tuple[K, Samples]]) -> dict[K, Samples]:
    """Sounds of the same length added up by what they belong to."""
    found: dict[K, Samples] = {}
    for key, sound in sounds:
        found[key] = found[key] + sound if key in found else sound
    return found


def _add_part(parts: dict[tuple[int, Tag], Samples], voice: Voice, place: slice, sound: Samples) -> None:
    """Add a voice's sound to the part of a block that it belongs to."""
    part = parts.setdefault((voice.lane_id, voice.tag), np.zeros((BLOCK_N, CHANNELS), np.float32))
    add_to(part[place], sound)


class Renderer:
    """Renders one variant of one programme; holds a handful of blocks, whatever the length."""

    def __init__(self, prog: Programme, read: Reader, variant: Variant, *, keep_apart: bool = False) -> None:
        """`keep_apart` is for one that is asked for blocks and for what makes them up: then nothing is made twice."""
        self._prog, self._read, self._variant = prog, read, variant
        self.voices = [v for v in prog.voices if v.in_variant(variant)]
        self._apart = _Recent[dict[tuple[int, Tag], Samples]]() if keep_apart else None
        self._limited = variant in LIMITED
        self._mixed: _Recent[Samples] = _Recent()
        self._needed: _Recent[NDArray[np.float32]] = _Recent()
        self._filters: dict[SpeechBand, BandFilter] = {}

    def render(self, start_n: int, stop_n: int) -> Samples:
        """Samples [start_n, stop_n), shape (n, 2). Beyond the programme there is silence."""
        out = np.empty((stop_n - start_n, CHANNELS), np.float32)
        for k in range(start_n // BLOCK_N, -(-stop_n // BLOCK_N)):
            lo, hi = max(start_n, k * BLOCK_N), min(stop_n, (k + 1) * BLOCK_N)
            out[lo - start_n : hi - start_n] = self.block(k)[lo - k * BLOCK_N : hi - k * BLOCK_N]
        return out

    def blocks(self, start_n: int, stop_n: int) -> Iterator[Samples]:
        """The same samples as `render`, in blocks of at most one second."""
        for k in range(start_n // BLOCK_N, -(-stop_n // BLOCK_N)):
            yield self.block(k)[max(start_n - k * BLOCK_N, 0) : stop_n - k * BLOCK_N]

    def block(self, k: int) -> Samples:
        """Block k whole, shape (48000, 2)."""
        mixed = self._mix(k)
        return limiter.apply(mixed, self.limiter_gains(k)) if self._limited else mixed

    def limiter_gains(self, k: int) -> NDArray[np.float32] | None:
        """Limiter gain of every sample of block k, or None where it is 1 throughout."""
        before, here, after = (self._need(j) for j in (k - 1, k, k + 1))
        back = limiter.reach_back(self._prog.release)
        needed = np.concatenate((before[-back:], here, after[: limiter.REACH_AHEAD]))
        return limiter.gains(needed, release=self._prog.release)

    def lane_peaks(self, k: int) -> dict[int, NDArray[np.float32]]:
        """Largest absolute sample of each lane that sounds in block k, over every 50 ms: (20,) by lane number."""
        mixed = summed((lane_id, sound) for (lane_id, _), sound in self.apart(k).items())
        return {lane_id: np.abs(lane.reshape(PEAKS_A_BLOCK, -1)).max(axis=1) for lane_id, lane in mixed.items()}

    def apart(self, k: int) -> dict[tuple[int, Tag], Samples]:
        """What makes up block k before the limiter, by lane and tag, (48000, 2) each."""
        if self._apart is not None:
            self._mix(k)
            if k in self._apart:
                return self._apart[k]
        mixed = dict[tuple[int, Tag], Samples]()
        for voice, place, sound in self._sounding(k):
            _add_part(mixed, voice, place, sound)
        return mixed

    def by_stem(self, start_n: int, stop_n: int) -> Iterator[dict[str, Samples]]:
        """What makes up the mix before the limiter by stem, in blocks of at most one second; a stem that is silent in a
        block is not in it."""
        for k in range(start_n // BLOCK_N, -(-stop_n // BLOCK_N)):
            part = slice(max(start_n - k * BLOCK_N, 0), min(stop_n - k * BLOCK_N, BLOCK_N))
            stems = summed((tag.row.stem, sound[part]) for (_, tag), sound in self.apart(k).items())
            yield stems or {Tag.UNTAGGED.row.stem: np.zeros((part.stop - part.start, CHANNELS), np.float32)}

    def _need(self, k: int) -> NDArray[np.float32]:
        return self._needed.made(k, self._make_need, most=4)

    def _make_need(self, k: int) -> NDArray[np.float32]:
        mixed = self._mix(k)
        if mixed is _SILENCE:
            return np.zeros(_SUB_BLOCKS, np.float32)
        floor = db_to_amplitude(self._prog.ceiling_dbtp - limiter.MARGIN_DB)
        peaks = sub_peaks(self._mix(k - 1), mixed, self._mix(k + 1), floor=floor)
        return limiter.reductions_db(peaks, ceiling_dbtp=self._prog.ceiling_dbtp)

    def _mix(self, k: int) -> Samples:
        return self._mixed.made(k, self._make_mix, most=6)

    def _make_mix(self, k: int) -> Samples:
        out, parts = _SILENCE, dict[tuple[int, Tag], Samples]()
        for voice, place, sound in self._sounding(k):
            if self._apart is not None:
                _add_part(parts, voice, place, sound)
            if out is not _SILENCE:
                add_to(out[place], sound)
            elif sound.shape == (BLOCK_N, CHANNELS):
                out = sound  # it was made for this block alone
            else:
                out = np.zeros((BLOCK_N, CHANNELS), np.float32)
                add_to(out[place], sound)
        if self._apart is not None:
            self._apart.made(k, lambda _: parts, most=6)
        return out

    def _sounding(self, k: int) -> Iterator[tuple[Voice, slice, Samples]]:
        """The voices that sound in block k: where in it, and what; shape (n, 1 or 2)."""
        begin = k * BLOCK_N
        for voice in self.voices:
            lo, hi = max(voice.start_n, begin, 0), min(voice.stop_n, begin + BLOCK_N)
            if lo < hi:
                yield voice, slice(lo - begin, hi - begin), self._sound(voice, lo, hi)

    def _sound(self, voice: Voice, lo: int, hi: int) -> Samples:
        """The clip's sound at timeline [lo, hi) with its gains; shape (n, 1 or 2)."""
        shift = voice.offset_n - voice.start_n
        ducked = self._ducked(voice, lo, hi)
        sound = picked(self._read(self._source(voice), lo + shift, hi + shift), voice.channels)
        if voice.band is not None and (isinstance(ducked, np.ndarray) or ducked != 1.0):
            return self._faded(voice, self._band_ducked(voice, sound, ducked, lo, hi), lo, hi) * np.float32(
                voice.amplitude
            )
        return self._faded(voice, self._with_gain(voice, sound, ducked), lo, hi)

    def _source(self, voice: Voice) -> Source:
        return voice.media_id if self._variant is Variant.BARE else voice.source

    def _ducked(self, voice: Voice, lo: int, hi: int) -> NDArray[np.float32] | float:
        """Amplitudes that the curve asks for; of what is taken away, what is left to 1."""
        if voice.curve is None or self._variant in (Variant.PLAIN, Variant.MUSIC_PLAIN):
            return 1.0
        found = voice.curve.amplitudes(lo, hi)
        return 1.0 - found if self._variant is Variant.TAKEN else found

    def _band_ducked(
        self, voice: Voice, sound: Samples, ducked: NDArray[np.float32] | float, lo: int, hi: int
    ) -> Samples:
        """The sound with its band alone turned down, or only what is taken away of it."""
        assert voice.band is not None
        shift = voice.offset_n - voice.start_n
        first, last = max(lo + shift - REACH_N, 0), hi + shift + REACH_N
        around = picked(self._read(self._source(voice), first, last), voice.channels)
        missing = REACH_N - (lo + shift - first)
        inner = self._filter(voice.band).of(np.pad(around, ((missing, 0), (0, 0))) if missing else around)
        if self._variant is Variant.TAKEN:
            return scaled(inner, ducked) if isinstance(ducked, np.ndarray) else inner * np.float32(ducked)
        if isinstance(ducked, np.ndarray):
            return sound + scaled(inner, ducked - np.float32(1.0))
        return sound + inner * np.float32(ducked - 1.0)

    def _filter(self, band: SpeechBand) -> BandFilter:
        if band not in self._filters:
            self._filters[band] = BandFilter(band)
        return self._filters[band]

    def _with_gain(self, voice: Voice, sound: Samples, ducked: NDArray[np.float32] | float) -> Samples:
        if isinstance(ducked, np.ndarray):
            return scaled(sound, ducked * np.float32(voice.amplitude))
        amplitude = voice.amplitude * ducked
        return sound if amplitude == 1.0 else sound * np.float32(amplitude)

    def _faded(self, voice: Voice, sound: Samples, lo: int, hi: int) -> Samples:
        fades = envelope(
            voice.fade_in,
            voice.fade_out,
            length_n=voice.stop_n - voice.start_n,
            first_n=lo - voice.start_n,
            last_n=hi - voice.start_n,
        )
        sound = sound if fades is None else scaled(sound, fades)
        for curve in (voice.ride, voice.line):
            if curve is not None:
                gains = curve.amplitudes(lo, hi)
                sound = scaled(sound, gains) if isinstance(gains, np.ndarray) else sound * np.float32(gains)
        return sound


def render(prog: Programme, read: Reader, start_n: int, stop_n: int, variant: Variant) -> Samples:
    """Samples [start_n, stop_n) of a variant, shape (n, 2), the same whatever windows are asked for."""
    return Renderer(prog, read, variant).render(start_n, stop_n)
