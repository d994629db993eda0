"""The flow, as a handful of functions. Read this first.

file ─ sound_chunks ─▶ Analysis ─ hear ─▶ VoiceTrack          once per medium, independent of any setting
project + speech ─ decide ─▶ DuckingResult (plan, clearance, check-up, programme)      on every change
programme ─ render ─▶ samples ─▶ listen, meters, export                          any window, on demand
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache, cached_property

import numpy as np
import soxr

from jaylantern.core.captions import comparing, placing
from jaylantern.core.ducking import check_up, clearance
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import STRAIGHT_DB
from jaylantern.core.ducking.key_level import KeyTrack, key_level
from jaylantern.core.ducking.media_power import MediaPower, Spectrum, Undipped, undipped
from jaylantern.core.ducking.passages import Passage, key_clips
from jaylantern.core.ducking.pecking_order import order_of
from jaylantern.core.ducking.plan import BeatsOf, Plan, make_plan, no_beats
from jaylantern.core.ducking.triggers import Sounding, spoken_in
from jaylantern.core.memo import Memo, Same, anew
from jaylantern.core.mixing import leveller, mix
from jaylantern.core.signal import intervals
from jaylantern.core.signal.arrays import mono
from jaylantern.core.signal.intelligibility import BANDS as SPEECH_BANDS
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.sixth_octaves import SIXTHS
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.prominence import prominence
from jaylantern.core.speech.singing import find_singing
from jaylantern.core.speech.voice_track import VoiceTrack, find_speech
from jaylantern.core.tailoring.features import Listener, MusicFeatures
from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.care import Care, Source
from jaylantern.core.timeline.clip import Clip, Trigger
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import ClearIn, Mode, RiseOn
from jaylantern.detect import protocol
from jaylantern.detect.ear import NetworkEar
from jaylantern.detect.protocol import Ear

TARGET_DB = -23.0  # level the 90th percentile is brought to before the network hears it
LARGEST_BOOST_DB = 50.0


@dataclass(frozen=True, eq=False)
class MediaFacts:
    """What decisions need of one medium: its voice track (None while unheard), its K-weighted powers, its true peak as
    an amplitude; read when they are first asked for: its level as a key, its beats or (True) bars, (n,) samples; its
    powers with some care, None while it is not treated; the powers of its bands, with some care or none."""

    track: VoiceTrack | None
    power: MediaPower
    true_peak: float = 0.0
    key: Callable[[], KeyTrack] | None = None
    beats: Callable[[bool], np.ndarray] | None = None
    cared: Callable[[Care], MediaPower | None] | None = None
    bands: Callable[[Care | None], Spectrum | None] | None = None

    def speech(self, sensitivity: float, memo: Memo = anew) -> Intervals:
        """The speech of the medium in media time; none where it was not listened to."""
        track = self.track
        if track is None:
            return intervals.none()
        return memo(
            ("speech", Same(track), sensitivity), lambda: find_speech(track, sensitivity=sensitivity, memo=memo)
        )

    @cached_property
    def singing(self) -> Intervals:
        """Where in the medium somebody sings, media time; nowhere where it was not listened for."""
        if self.track is None or self.track.singing is None:
            return intervals.none()
        return find_singing(self.track.singing, length_n=self.track.length_n)


@dataclass(frozen=True)
class DuckingResult:
    """All that follows from a project and its media's facts."""

    project: Project
    plan: Plan
    sounding: Sounding
    facts: Mapping[int, MediaFacts]
    levels: Callable[[], Undipped]
    bands: Callable[[], Undipped]
    troubles: tuple[check_up.Finding, ...] = ()  # what of it could not be worked out

    @cached_property
    def power(self) -> clearance.Powers:
        """What sounds, step by step; worked out when something is first weighed."""
        return clearance.powers(self.levels(), self.plan)

    @cached_property
    def clear_lu(self) -> list[float]:
        """By how many LU speech stands above the rest in each passage."""
        return clearance.per_passage(self.plan, self.power, ClearIn.LOUDNESS)

    @cached_property
    def sii(self) -> list[float]:
        """How well speech is made out in each passage, 0 to 1."""
        powers = clearance.powers(self.bands(), self.plan)
        return clearance.per_passage(self.plan, powers, ClearIn.INTELLIGIBILITY)

    @property
    def clear(self) -> list[float]:
        """How clear speech stands in each passage, in what clearance is measured in."""
        return self.sii if self.project.settings.clear_in is ClearIn.INTELLIGIBILITY else self.clear_lu

    @property
    def speech_lufs(self) -> float:
        """Gated loudness of all dialogue."""
        return self.standing.speech_lufs

    @cached_property
    def standing(self) -> clearance.Standing:
        """How speech stands in the whole programme."""
        return clearance.standing(self.power, self.clear, self.project.settings)

    @property
    def match_db(self) -> float:
        """What makes the plain mix as loud as the ducked one."""
        return self.power.match_db

    @cached_property
    def programme(self) -> mix.Programme:
        """What rendering needs; worked out when something is first heard."""
        return mix.programme(self.project, self.plan)

    @cached_property
    def findings(self) -> list[check_up.Finding]:
        """The check-up; worked out when it is first looked at."""
        plan, sounding = self.plan, self.sounding
        peaks = {number: fact.true_peak for number, fact in self.facts.items()}
        singing = {number: fact.singing for number, fact in self.facts.items()}
        found = check_up.findings(self.project, plan, sounding.speech, self.clear, self.speech_lufs, peaks, singing,
                                  self.standing, self.captioned)  # fmt: skip
        return [*self.troubles, *found]

    @cached_property
    def captioned(self) -> list[tuple[Captions, comparing.Comparison]]:
        """How captions agree with the talk that is heard, of those that are to be compared."""
        if not any(captions.checked for captions in self.project.captions):
            return []
        speaking = [clip for lane, clip in self.project.sounding() if lane.tag_of(clip).speaks]
        talk = spoken_in(self.project, speaking, self.sounding.speech)
        if not len(talk):
            return []
        both = zip(self.project.captions, _cues(self.project, self.sounding.memo), strict=True)
        return [(captions, comparing.compared(talk, cues)) for captions, cues in both if captions.checked]

    @property
    def talk_n(self) -> int:
        """Samples of timeline that lie in passages."""
        return sum(passage.stop_n - passage.start_n for passage in self.plan.passages)

    def key_level(self) -> np.ndarray | None:
        """Level of the compressor's key each millisecond, dBFS; None where no compressor is at work."""
        leading = self.plan.leading_key
        if self.project.settings.mode is not Mode.COMPRESSOR or leading is None:
            return None
        uppers = frozenset(self.plan.order.above[leading[1]])
        return key_level(self.project, uppers, self.sounding.key, memo=self.sounding.memo)

    def dip_db(self, passage: Passage) -> float:
        """Gain of the music in the middle of a passage."""
        middle = np.array([(passage.start_n + passage.stop_n) // 2])
        key = self.plan.leading_key
        return 0.0 if key is None else float(self.plan.curves.gain_at(key, middle)[0])


def hear(
    chunks: Iterator[np.ndarray], levels: np.ndarray, *, length_n: int, make_ear: Callable[[int], Ear] = NetworkEar
) -> VoiceTrack:
    """Voice track of a medium from its sound in float32 chunks (n, channels) at 48 kHz and its level each 10 ms,
    (blocks,) dBFS."""
    ear = make_ear(len(levels))
    for part in _narrow(chunks, _gain_of(levels)):
        ear.add(part)
    heard = ear.finish()
    over = prominence(heard.band_db, heard.speech, frame_blocks=1.0)
    return VoiceTrack(heard.speech, levels.astype(np.float32, copy=False), length_n, over, heard.singing, heard.music)


def music_features(chunks: Iterator[np.ndarray], levels: np.ndarray, *, length_n: int) -> MusicFeatures:
    """What tailoring needs to hear of a medium; as `hear`."""
    listener = Listener()
    for part in _narrow(chunks, _gain_of(levels), quality="MQ"):
        listener.add(part)
    return listener.finish(length_n)


def _gain_of(levels: np.ndarray) -> np.float32:
    """What brings a sound of these levels to the loudness it is heard at."""
    loud = float(np.percentile(levels, 90)) if len(levels) else TARGET_DB
    return np.float32(10 ** (min(TARGET_DB - loud, LARGEST_BOOST_DB) / 20))


def _narrow(chunks: Iterator[np.ndarray], gain: np.float32, *, quality: str = "HQ") -> Iterator[np.ndarray]:
    """The sound as mono at 16 kHz, brought to a level, piece by piece."""
    stream = soxr.ResampleStream(RATE, protocol.RATE, 1, dtype="float32", quality=quality)
    for chunk in chunks:
        yield stream.resample_chunk(mono(chunk) * gain)
    yield stream.resample_chunk(np.zeros(0, np.float32), last=True)


def decide(project: Project, facts: Mapping[int, MediaFacts], memo: Memo = anew) -> DuckingResult:
    """Speech → passages → duck plan → gain curves; their worth when it is asked for. `facts` by media number."""
    sounding = sounding_of(project, facts, memo)
    rides = leveller.rides(project, {number: fact.power for number, fact in facts.items()}, sounding.speech, memo)
    settings, band = project.settings, mix.band_of(project.settings)
    order = order_of(project)
    depends = (Same(project.lanes), order.perches, frozenset(order.above))

    def before(what: str, powers: Callable[[], dict[Source, MediaPower]], bands: int | None) -> Callable[[], Undipped]:
        """What sounds before anything gives way, worked out when it is first asked for; what the leveller does is anew
        each time."""

        def make() -> Undipped:
            known = powers()
            of = tuple((source, Same(power)) for source, power in known.items())
            kept = anew if rides else memo
            return kept(("undipped", what, bands, *depends, of),
                        lambda: undipped(project, known, rides, bands=bands, memo=memo))  # fmt: skip

        return cache(make)

    plain = before("plain", lambda: powers_of(project, facts), None)
    if band is None:
        levels, bands = plain, before("speech", lambda: bands_of(project, facts, _speech), SPEECH_BANDS)
    else:
        sixths = before("sixths", lambda: bands_of(project, facts, _sixths), SIXTHS)
        fine = cache(lambda: sixths().in_band(band))
        levels, bands = cache(lambda: plain().as_in(fine())), cache(lambda: fine().of_speech())
    weighed = bands if settings.clear_in is ClearIn.INTELLIGIBILITY else levels
    plan = replace(make_plan(project, sounding, _beats_of(project, facts), weighed), rides=rides)
    return DuckingResult(project, plan, sounding, facts, levels, bands)


def _beats_of(project: Project, facts: Mapping[int, MediaFacts]) -> BeatsOf:
    """The beats or bars that rises may end on."""
    bars = project.settings.rise_on is RiseOn.BAR

    def beats(media_id: int) -> np.ndarray:
        found = facts[media_id].beats if media_id in facts else None
        return no_beats(media_id) if found is None else found(bars)

    return beats


def sounding_of(project: Project, facts: Mapping[int, MediaFacts], memo: Memo = anew) -> Sounding:
    """What triggers need of the media that are given way to; the compressor's part only where it is at work."""
    tracks = {number: fact.track for number, fact in facts.items() if fact.track is not None}
    used = {clip.media.id for _, clip in project.sounding()} & tracks.keys()
    keyed = {clip.media.id for _, clip in key_clips(project)} if project.settings.mode is Mode.COMPRESSOR else set()
    captioned = any(lane.trigger_of(clip) is Trigger.CAPTIONS for lane, clip in project.sounding())
    return Sounding(
        {number: facts[number].speech(project.settings.sensitivity, memo) for number in used},
        {number: tracks[number].level_db for number in used},
        {number: made() for number in keyed if number in facts and (made := facts[number].key) is not None},
        placing.covered(_cues(project, memo)) if captioned else intervals.none(),
        memo,
    )


def _cues(project: Project, memo: Memo) -> tuple[Intervals, ...]:
    """Where the cues of each captions stand; settings have no say in it."""
    depends = ("cues", Same(project.lanes), Same(project.captions))
    return memo(depends, lambda: placing.all_stretches(project))


def powers_of(project: Project, facts: Mapping[int, MediaFacts]) -> dict[Source, MediaPower]:
    """The powers of a project's media, and of those that are taken care of, where they were treated."""
    return _powers(project, facts, lambda fact: fact.power, lambda fact, care: fact.cared(care) if fact.cared else None)


def bands_of(
    project: Project, facts: Mapping[int, MediaFacts], which: Callable[[Spectrum], MediaPower]
) -> dict[Source, MediaPower]:
    """The same of some of their bands, of media in which they are known."""

    def bands(fact: MediaFacts, care: Care | None) -> MediaPower | None:
        found = fact.bands(care) if fact.bands else None
        return None if found is None else which(found)

    return _powers(project, facts, lambda fact: bands(fact, None), bands)


def _sixths(found: Spectrum) -> MediaPower:
    return found.sixths


def _speech(found: Spectrum) -> MediaPower:
    return found.speech


def _powers(
    project: Project,
    facts: Mapping[int, MediaFacts],
    plain: Callable[[MediaFacts], MediaPower | None],
    cared: Callable[[MediaFacts, Care], MediaPower | None],
) -> dict[Source, MediaPower]:
    """What is known of the media that sound in a project, and of those that are taken care of."""
    found: dict[Source, MediaPower | None] = {}
    for lane, clip in project.sounding():
        care, fact = lane.care_of(clip), facts.get(clip.media.id)
        if fact is None:
            continue
        if clip.media.id not in found:
            found[clip.media.id] = plain(fact)
        if care is not None and (clip.media.id, care) not in found:
            found[clip.media.id, care] = cared(fact, care)
    return {source: power for source, power in found.items() if power is not None}


def keyframes(curve: Curve, clip: Clip) -> Curve:
    """The curve over a clip as points that are straight in dB between them, bent ramps within 0.05 dB."""
    return curve.straightened(largest_db=STRAIGHT_DB).within(clip.start_n, clip.stop_n)
