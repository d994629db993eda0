"""Check-up: plain-language findings about this project, each with its place and remedy."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise

import numpy as np

from jaylantern.core.captions.comparing import Comparison
from jaylantern.core.ducking.clearance import Standing
from jaylantern.core.ducking.dips import Dip
from jaylantern.core.ducking.gain_line import over_media
from jaylantern.core.ducking.just_enough import Bound, Reach
from jaylantern.core.ducking.plan import Plan, yielding
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.signal.intervals import Intervals, clipped, none, total_n
from jaylantern.core.signal.timebase import RATE, amplitude_to_db, clock
from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip, Trigger
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Mode
from jaylantern.core.timeline.tag import SPEAKING, Tag

SOFT_LUFS = -30.0  # common practice: talk under −30 LUFS is too soft to raise without care
FLUTTER_DB = 3.0  # a rise of less is hardly heard
LEAP_DB_PER_S = 30.0  # common practice: faster rises are heard as a leap
MUSIC = (Tag.MUSIC,)
WORDS_N = RATE  # less than a second of speech over singing is no matter
MOST_SUNG = 5
MOST_NAMED = 6
MOST_RATIO_LU = 5.0  # loudness-to-dialogue ratio that EBU R 128 s4 asks not to pass (from memory)
HIGH_SENSITIVITY = 70.0  # beyond it, more sensitivity is no remedy


class Missing(StrEnum):
    """What keeps ducking from working; each has its remedy."""

    CLIPS = "clips"  # the timeline is empty
    KEY = "key"  # nothing is tagged dialogue
    YIELDING = "yielding"  # nothing is tagged music
    KEY_IN_ORDER = "key in order"  # all that is tagged dialogue stands outside the pecking order
    YIELDING_IN_ORDER = "yielding in order"
    FILE = "file"  # clips whose file is not here
    SOUND = "sound"  # a clip tagged dialogue has none
    UNMUTED = "unmuted"  # it is muted, or its lane is
    SPEECH = "speech"  # none is found in it
    TOGETHER = "together"  # speech and music never sound at the same time
    AMOUNT = "amount"  # the music goes down by nothing


@dataclass(frozen=True)
class Finding:
    """One line of the check-up. `fine` or to look at; `at_n` is where on the timeline, if anywhere.

    `also_n`: further places it is about. `missing` names what keeps ducking from working, `clip_id` the clip it is
    about, `sung_n` the stretch of timeline in which that clip sings; `captions_id` the captions it is about, `shift_n`
    by how much they are to be moved.
    """

    fine: bool
    text: str
    at_n: int | None = None
    also_n: tuple[int, ...] = field(default=(), kw_only=True)
    missing: Missing | None = None
    clip_id: int | None = None
    sung_n: tuple[int, int] | None = None
    captions_id: int | None = None
    shift_n: int = 0


def findings(
    project: Project,
    plan: Plan,
    speech: Mapping[int, Intervals],
    clear: Sequence[float],
    speech_lufs: float,
    true_peaks: Mapping[int, float] | None = None,
    singing: Mapping[int, Intervals] | None = None,
    standing: Standing | None = None,
    captioned: Sequence[tuple[Captions, Comparison]] = (),
) -> list[Finding]:
    """All findings, the things to look at first. `clear`: how clear speech stands in each passage, in what the project
    measures it in; `true_peaks`: amplitudes, and `singing`: sung stretches in media time,
    by number of the medium; `standing`: how speech stands in the whole; `captioned`: how
    captions agree with the talk."""
    found = [
        *_why_nothing_moves(project, plan, speech),
        *_about_dips(project, plan, clear, speech_lufs, standing),
        *_too_loud(project, plan, true_peaks or {}),
        *_about_singing(project, plan, singing or {}),
        *_about_captions(project, captioned),
        *_about_pins(plan),
    ]
    return sorted(found, key=lambda f: f.fine)


def _tagged(project: Project, tags: Collection[Tag]) -> list[tuple[Lane, Clip]]:
    """Sound clips of some tags, bystanders too."""
    sound = ((lane, clip) for lane, clip in project.placed() if lane.kind is LaneKind.SOUND)
    return [(lane, clip) for lane, clip in sound if lane.tag_of(clip) in tags]


def _in_order(tagged: list[tuple[Lane, Clip]]) -> list[tuple[Lane, Clip]]:
    return [(lane, clip) for lane, clip in tagged if not lane.outside(clip)]


def _why_nothing_moves(project: Project, plan: Plan, speech: Mapping[int, Intervals]) -> Iterator[Finding]:
    """Reasons why ducking does nothing, or not all it might."""
    if not any(lane.clips for lane in project.lanes):
        text = "The timeline is empty. Bring in a film, narration and music."
        yield Finding(False, text, missing=Missing.CLIPS)
        return
    yield from _files_missing(project)
    all_talk, all_music = _tagged(project, SPEAKING), _tagged(project, MUSIC)
    talk, music = _in_order(all_talk), _in_order(all_music)
    order = plan.order
    others = [lane for lane, clip in project.placed() if order.perch(lane, clip) in order.keys]
    if not all_talk and not others:
        text = "Nothing is tagged dialogue or narration, so nothing makes the music give way. Tag a lane under Tag."
        yield Finding(False, text, missing=Missing.KEY)
    elif not talk and not others:
        tags = " and ".join(dict.fromkeys(lane.tag_of(clip) for lane, clip in all_talk))
        text = f"All {tags} stands outside the pecking order, so nothing makes the music give way."
        yield Finding(False, text, missing=Missing.KEY_IN_ORDER)
    if not all_music:
        text = "Nothing is tagged music, so nothing gives way. Tag the music's lane under Tag."
        yield Finding(False, text, missing=Missing.YIELDING)
    elif not music:
        text = "All music stands outside the pecking order, so nothing gives way."
        yield Finding(False, text, missing=Missing.YIELDING_IN_ORDER)
    for lane, clip in talk:
        if clip.media.missing:
            continue
        yield from _why_silent(project, lane, clip, speech)
    if plan.passages and music and not _overlap(plan, music):
        text = "Speech and music never sound at the same time: there is nothing to lower."
        yield Finding(False, text, missing=Missing.TOGETHER)


def _files_missing(project: Project) -> Iterator[Finding]:
    """Files that have yet to be found, with all the clips that wait for them."""
    clips = [clip for _, clip in project.placed() if clip.media.missing]
    names = list(dict.fromkeys(clip.media.name for clip in clips))
    if names:
        more = f" and {len(names) - 1} more" if len(names) > 1 else ""
        waiting = f"{len(clips)} clips are" if len(clips) > 1 else "a clip is"
        text = f"{names[0]}{more} missing: {waiting} silent or black. Find the files under Lay out."
        at_n = min(clip.start_n for clip in clips)
        yield Finding(False, text, at_n, Missing.FILE)


def _why_silent(project: Project, lane: Lane, clip: Clip, speech: Mapping[int, Intervals]) -> Iterator[Finding]:
    """Why a clip of talk causes no dips."""
    missing, tag = None, lane.tag_of(clip)
    if not clip.media.has_sound:
        missing, text = Missing.SOUND, f"{clip.name} is tagged {tag} but has no sound."
    elif lane.muted or clip.muted:
        missing, text = Missing.UNMUTED, f"{clip.name} is tagged {tag} but muted: it causes no dips."
    elif lane.trigger_of(clip) is Trigger.VOICE and clip.media.id in speech and not total_n(speech[clip.media.id]):
        hint = "Raise the sensitivity." if project.settings.sensitivity < HIGH_SENSITIVITY else "Is it the right clip?"
        missing, text = Missing.SPEECH, f"No speech is found in {clip.name}. {hint}"
    if missing:
        yield Finding(False, text, clip.start_n, missing, clip.id)


def _about_captions(project: Project, captioned: Sequence[tuple[Captions, Comparison]]) -> Iterator[Finding]:
    """Talk without captions, captions without talk, captions that stand beside the talk they belong to."""
    if not project.captions:
        waiting = (clip for lane, clip in project.sounding() if lane.trigger_of(clip) is Trigger.CAPTIONS)
        for clip in list(waiting)[:1]:
            text = f"{clip.name} counts where captions stand, but there are none. Bring in a file of captions."
            yield Finding(False, text, clip.start_n, clip_id=clip.id)
    for captions, found in captioned:
        if found.shift_n:
            way = "later" if found.shift_n > 0 else "earlier"
            text = f"The captions {captions.name} fit the talk best {abs(found.shift_n) / RATE:.2f} s {way}."
            yield Finding(False, text, captions_id=captions.id, shift_n=found.shift_n)
            continue
        for what, spans in (("Talk without captions", found.bare), ("Captions without talk", found.mute)):
            if not len(spans):
                continue
            places = "" if len(spans) == 1 else f" at {len(spans)} places, in all"
            text = f"{what}{places} for {total_n(spans) / RATE:.1f} s ({captions.name})."
            yield _at(spans[:, 0].tolist(), text)
        if not len(found.bare) and not len(found.mute):
            yield Finding(True, f"Talk and captions agree ({captions.name}).")


def _overlap(plan: Plan, music: list[tuple[Lane, Clip]]) -> bool:
    return any(p.start_n < clip.stop_n and clip.start_n < p.stop_n for _, clip in music for p in plan.passages)


def _about_dips(
    project: Project, plan: Plan, clear: Sequence[float], speech_lufs: float, standing: Standing | None
) -> Iterator[Finding]:
    """How well the dips do their work."""
    settings, marks = project.settings, MARKS[project.settings.clear_in]
    music = _in_order(_tagged(project, MUSIC))
    if not plan.passages or not music:
        return
    if settings.mode is Mode.EVEN:
        yield Finding(True, f"No ducking: music and atmosphere lie at {_figure(settings.even_db)} dB throughout.")
    elif settings.mode is Mode.PASSAGE and settings.amount_db == 0 and plan.leading_outline.deepest_db == 0:
        yield Finding(False, "Duck amount is 0 dB: the music does not give way.", missing=Missing.AMOUNT)
    elif settings.mode is Mode.COMPRESSOR and plan.leading_outline.deepest_db > settings.output_db - 1:
        text = "The compressor hardly works: speech stays under its threshold. Lower the threshold."
        yield Finding(False, text, plan.passages[0].start_n)
    short = {i: reach for i, reach in enumerate(plan.reach) if reach is not None and reach.bound is not None}
    by_reason: dict[tuple[Bound, int | None], list[int]] = {}
    for i, reach in short.items():
        assert reach.bound is not None
        by_reason.setdefault((reach.bound, reach.lane_id), []).append(i)
    for alike in by_reason.values():
        places = [plan.passages[i].start_n for i in alike]
        worst = min(alike, key=lambda i: clear[i])
        yield _at(places, _why_short(project, alike, short[worst], clear[worst]))
    masked = [i for i, each in enumerate(clear) if each < marks.masked and i not in short]
    soft = [i for i in masked if np.isfinite(clear[i])]
    silent = [i for i in masked if not np.isfinite(clear[i])]
    if soft:
        how = f"only {marks.in_words(min(clear[i] for i in soft))} clear of the music"
        text = f"{_passages(soft, 'stands', 'stand')} {how}{_at_least(soft)}. Duck further, or raise the speech."
        yield _at([plan.passages[i].start_n for i in soft], text)
    if silent:
        text = f"What speaks in {_named(silent)} is silent there. Raise its level, or take its tag away."
        yield _at([plan.passages[i].start_n for i in silent], text)
    if not masked and not short:
        yield Finding(True, "Every passage stands clear of the music.")
    yield from _about_rises(plan, settings.mode)
    said = f"{speech_lufs:.0f}".replace("-", "−")
    if speech_lufs < SOFT_LUFS:
        yield Finding(False, f"Speech is soft at {said} LUFS. Raise the fader of its lane.")
    else:
        yield Finding(True, f"Speech is loud enough at {said} LUFS.")
    yield from _about_ratio(standing)


def _about_ratio(standing: Standing | None) -> Iterator[Finding]:
    """Is the whole much louder than its talk? Whoever turns it up to follow the talk is then blown away by the rest."""
    if standing is not None and standing.ratio_lu > MOST_RATIO_LU:
        text = (
            f"The whole is {standing.ratio_lu:.1f} LU louder than its talk. Beyond {MOST_RATIO_LU:g} LU people turn"
            " it up to follow the talk, and down again. Raise the speech, or lower what is loud between."
        )
        yield Finding(False, text)


def _at(places: list[int], text: str) -> Finding:
    """One finding to look at, however many places it is about."""
    return Finding(False, text, places[0], also_n=tuple(places[1:]))


def _named(indexes: list[int]) -> str:
    """Passages by their numbers, the first few of them."""
    if len(indexes) == 1:
        return f"passage {indexes[0] + 1}"
    numbers = [str(i + 1) for i in indexes]
    if len(numbers) > MOST_NAMED:
        return f"{len(numbers)} passages"
    return f"passages {', '.join(numbers[:-1])} and {numbers[-1]}"


def _passages(indexes: list[int], one: str, more: str) -> str:
    """The same as the beginning of a sentence."""
    named = _named(indexes)
    return f"{named[0].upper()}{named[1:]} {one if len(indexes) == 1 else more}"


def _at_least(indexes: list[int]) -> str:
    """Behind the figure of the worst, where there are others."""
    return "" if len(indexes) == 1 else " at the least"


def _why_short(project: Project, indexes: list[int], reach: Reach, clear: float) -> str:
    """Why passages stand less clear than is wished for, with the figures of the worst."""
    marks = MARKS[project.settings.clear_in]
    wish, left, can = marks.wished(reach.wish), marks.in_words(reach.left), "can't"
    if reach.bound is Bound.OTHERS:
        names = {lane.id: lane.name for lane in project.lanes}
        return (
            f"{_passages(indexes, can, can)} stand {wish} clear: {names.get(reach.lane_id or 0, 'the rest')} gives"
            f" way to nothing so far, and leaves {left}. Let it give way, or raise the speech."
        )
    if reach.bound is Bound.BAND:
        return (
            f"{_passages(indexes, can, can)} stand {wish} clear: what the music has outside its speech band leaves"
            f" {left}. Let the whole sound give way, widen the band, or raise the speech."
        )
    return (
        f"{_passages(indexes, 'stands', 'stand')} {marks.in_words(clear)} clear{_at_least(indexes)}, not"
        f" {marks.bare(reach.wish)}: the deepest dip is not deep enough. Let it go deeper, or raise the speech."
    )


def _figure(gain_db: float) -> str:
    return f"{gain_db:g}".replace("-", "−")


def _about_rises(plan: Plan, mode: Mode) -> Iterator[Finding]:
    """Does the music leap up, or flutter?"""
    if mode is Mode.EVEN:
        return
    if mode is Mode.COMPRESSOR:
        times = _ups_and_downs(plan)
        if times:
            text = f"The music comes up for under a second {len(times)} times. Lengthen the hold of the compressor."
            yield Finding(False, text, times[0])
        else:
            yield Finding(True, "No flutter: the music never comes up for under a second.")
        return
    leap = next((dip for dip in plan.dips if _leaps(dip)), None)
    if leap:
        rise = f"{-leap.amount_db:g} dB in {(leap.up_n - leap.rise_n) / RATE:.2g} s"
        text = f"The music rises {rise}: a leap. Lengthen the {'last release' if leap.last else 'release'}."
        yield Finding(False, text, leap.rise_n)
    times = _flutter(plan)
    if times:
        yield Finding(False, "The music comes up for under a second between passages. Lengthen hold or least rise.",
                      plan.passages[times[0]].stop_n)  # fmt: skip
    else:
        yield Finding(True, "No flutter: the music never comes up for under a second.")


def _leaps(dip: Dip) -> bool:
    return (dip.up_n - dip.rise_n) / RATE < -dip.amount_db / LEAP_DB_PER_S


def _flutter(plan: Plan) -> list[int]:
    """Passages after which the music is up for less than a second before it goes down again."""
    dips = [(i, dip) for i, dip in enumerate(plan.dips) if dip.amount_db < 0]
    return [i for (i, dip), (_, after) in pairwise(dips) if 0 <= after.from_n - dip.up_n < RATE]


def flutter(plan: Plan) -> int:
    """How often the music comes up for less than a second."""
    mode = plan.project.settings.mode
    if mode is Mode.EVEN:
        return 0
    return len(_ups_and_downs(plan) if mode is Mode.COMPRESSOR else _flutter(plan))


def _ups_and_downs(plan: Plan) -> list[int]:
    """Where the curve of the music comes up by 3 dB or more and goes down again within a second."""
    time_n, gain_db = plan.leading_outline.time_n, plan.leading_outline.gain_db
    found: list[int] = []
    low, low_n, high, high_n = float(gain_db[0]), int(time_n[0]), float(gain_db[0]), int(time_n[0])
    for now_n, gain in zip(time_n.tolist(), gain_db.tolist(), strict=True):
        if gain > high:
            high, high_n = gain, now_n
        elif high - low >= FLUTTER_DB and high - gain >= FLUTTER_DB:
            if now_n - low_n < RATE:
                found.append(high_n)
            low, low_n, high, high_n = gain, now_n, gain, now_n
        if gain <= low + 0.05:
            low, low_n = min(low, gain), now_n
            high, high_n = gain, now_n
    return found


def _too_loud(project: Project, plan: Plan, true_peaks: Mapping[int, float]) -> Iterator[Finding]:
    """Music that the output gain lifts over full scale."""
    if project.settings.mode is not Mode.COMPRESSOR or project.settings.output_db <= 0:
        return
    for lane, _, clips in yielding(project, plan.order):
        for clip in clips:
            key = plan.key_of(lane, clip)
            if key is None or clip.muted or lane.muted:
                continue
            over = amplitude_to_db(true_peaks.get(clip.media.id, 0.0)) + lane.gain_db + clip.gain_db
            over += float(plan.curves.outline(key).gain_db.max()) + float(over_media(clip.line).gain_db.max())
            if over > 0:
                text = (
                    f"An output gain of +{project.settings.output_db:g} dB lifts {clip.name} {over:.1f} dB over full"
                    " scale. Two or three dB are plenty; lower it."
                )
                yield Finding(False, text, clip.start_n, clip_id=clip.id)
                return


def _about_singing(project: Project, plan: Plan, singing: Mapping[int, Intervals]) -> Iterator[Finding]:
    """Words against words: music that sings while somebody speaks; and talk that sings, which counts for nothing."""
    spoken = np.array([(p.start_n, p.stop_n) for p in plan.passages], np.int64).reshape(-1, 2)
    against: list[Finding] = []
    for lane, clip in _tagged(project, (*MUSIC, *SPEAKING)):
        if clip.muted or lane.muted or lane.outside(clip):
            continue
        media_n = clip.offset_n, clip.offset_n + clip.length_n
        sung = clipped(singing.get(clip.media.id, none()), start_n=media_n[0], stop_n=media_n[1]) + clip.shift_n
        for start_n, stop_n in sung.tolist():
            where = f"from {clock(start_n, decimals=0)} to {clock(stop_n, decimals=0)}"
            stretch = (start_n, stop_n)
            if lane.tag_of(clip).speaks:
                text = f"{clip.name} is sung {where}: singing does not count as speech."
                yield Finding(True, text, start_n, clip_id=clip.id, sung_n=stretch)
            elif total_n(clipped(spoken, start_n=start_n, stop_n=stop_n)) >= WORDS_N:
                text = f"{clip.name} is sung {where}: words against words."
                against.append(Finding(False, text, start_n, clip_id=clip.id, sung_n=stretch))
    yield from against[:MOST_SUNG]
    if len(against) > MOST_SUNG:
        more = len(against) - MOST_SUNG
        yield Finding(False, f"Sung in {more} more places: words against words.", against[MOST_SUNG].at_n)


def _about_pins(plan: Plan) -> Iterator[Finding]:
    """Pins that rest."""
    there = {passage.pin.id for passage in plan.passages if passage.pin}
    dips = [pin for pin in plan.project.dip_pins if pin.id not in there]
    count = len(dips) + len(plan.resting.resting)
    if count:
        pins, they = ("1 pin rests", "it") if count == 1 else (f"{count} pins rest", "they")
        yield Finding(True, f"{pins}: what {they} corrected is not there just now. With it {they} will come back.")
