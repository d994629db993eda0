"""Commands that cut music to a length, stretch it, or make it plain again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.command import Command, NewId, Param, maybe
from jaylantern.commands.provider import Provider
from jaylantern.core.edit import tailored_clips
from jaylantern.core.edit.draft import clip_of
from jaylantern.core.signal.timebase import RATE, clock
from jaylantern.core.tailoring.cut import Cut
from jaylantern.core.tailoring.tailor import moved_fold, stretched
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.kinds import ID, LENGTH, Choice, Flag, Integer
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tailoring import PIECES, SPANS, Tailoring, Until
from jaylantern.errors import Refused

Answer = tuple[str, Project]
TRIMMED_N = RATE // 20  # a clip that leaves out more of its beginning is tailored without it
STALE_N = RATE // 50  # what a clip's end follows has moved by more than this
FOLD = Integer(0, 500, remedy="Choose the fold again.")
AHEAD = Integer(-64, 64, "places")
WISHED: dict[str, Any] = {
    "length_n": maybe(LENGTH, called="The length"),
    "until": maybe(Choice(Until), called="What the end follows"),
    "pieces": maybe(PIECES, called="Few or many pieces"),
    "exact": maybe(Flag()),
    "keep_start": maybe(Flag()),
    "keep_end": maybe(Flag()),
    "protect": maybe(SPANS, called="What is protected"),
    "leave_out": maybe(SPANS, called="What is left out"),
    "chosen": maybe(SPANS, called="The folds to keep"),
    "forbidden": maybe(SPANS, called="The folds not to use"),
}


def wish_of(clip: Clip) -> Wish:
    """What is wished of a clip: as it is tailored, else as long as it is, without the beginning it leaves
    out."""
    if clip.media.tailored is not None:
        return clip.media.tailored.wish
    return Wish(max(clip.length_n, RATE), leave_out=((0, clip.offset_n),) if clip.offset_n > TRIMMED_N else ())


def until_of(clip: Clip) -> Until:
    """What a clip's end follows."""
    return Until.LENGTH if clip.media.tailored is None else clip.media.tailored.until


@dataclass(frozen=True)
class Fitted:
    """A clip cut to a length: its new medium, and what its end follows."""

    clip: Clip
    found: Media
    length_n: int
    until: Until
    fade_out: bool


def _until_and_length(
    project: Project, provider: Provider, clip: Clip, length_n: int | None, until: Until | None
) -> tuple[Until, int]:
    """What the end follows from now on, and how long that makes it."""
    if until:
        end_n = tailored_clips.end_of(project, clip, until, provider.plan(project), provider.seen_n)
        return until, end_n - tailored_clips.start_of(project, clip, until)
    if length_n is not None:
        return Until.LENGTH, length_n
    return until_of(clip), wish_of(clip).length_n


def _fitted(provider: Provider, clip: Clip, source: Media, wish: Wish, cut: Cut, until: Until) -> Fitted:
    found = provider.tailored(source, Tailoring(source.sha256, wish, cut, until), clip.name)
    return Fitted(clip, found, wish.length_n, until, not wish.keep_end)


def _with(project: Project, new_id: NewId, fitted: Fitted) -> Project:
    start_n = tailored_clips.start_of(project, fitted.clip, fitted.until)
    return tailored_clips.tailored(
        project, clip_id=fitted.clip.id, found=fitted.found, new_id=new_id, start_n=start_n, fade_out=fitted.fade_out
    )


def _to_tailor(project: Project, provider: Provider, values: Mapping[str, Any]) -> Fitted:
    """What is not said of the wish stays as it was. `number`: which of the solutions."""
    wished = {**values}
    clip = clip_of(project, wished.pop("clip_id"))[1]
    number, length_n, until = wished.pop("number"), wished.pop("length_n", None), wished.pop("until", None)
    source = provider.recording(clip.media)
    until, length_n = _until_and_length(project, provider, clip, length_n, until)
    spans: dict[str, Any] = {name: tuple(value) if isinstance(value, list) else value for name, value in wished.items()}
    wish = replace(wish_of(clip), length_n=length_n, **spans)
    found = provider.solutions(source, wish)
    return _fitted(provider, clip, source, wish, found[min(number, len(found) - 1)].cut, until)


def _tailor_clip(project: Project, new_id: NewId, *, fitted: Fitted, **_wished: Any) -> Answer:
    """Fold a clip to a length."""
    label = f"Tailor {fitted.clip.name} to {clock(fitted.length_n, decimals=1)}"
    return label, _with(project, new_id, fitted)


def _to_stretch(project: Project, provider: Provider, values: Mapping[str, Any]) -> Fitted:
    _, clip = clip_of(project, values["clip_id"])
    source = provider.recording(clip.media)
    until, length_n = _until_and_length(project, provider, clip, values.get("length_n"), values.get("until"))
    cut = stretched(source.length_n, length_n)
    return _fitted(provider, clip, source, Wish(length_n, exact=True), cut, until)


def _stretch_clip(project: Project, new_id: NewId, *, fitted: Fitted, **_wished: Any) -> Answer:
    """Stretch the whole recording in time: the poor way."""
    label = f"Stretch {fitted.clip.name} to {clock(fitted.length_n, decimals=1)}"
    return label, _with(project, new_id, fitted)


def _folded(project: Project, clip_id: int) -> tuple[Clip, Tailoring]:
    _, clip = clip_of(project, clip_id)
    if clip.media.tailored is None:
        raise Refused(f"{clip.name} is not tailored. Say how long it is to be first.")
    return clip, clip.media.tailored


def _folds(cut: Cut) -> tuple[tuple[int, int], ...]:
    return tuple((left, right) for _, left, right in cut.folds)


def _without_fold(project: Project, provider: Provider, values: Mapping[str, Any]) -> Fitted:
    (clip, now), fold = _folded(project, values["clip_id"]), values["fold"]
    folds = _folds(now.cut)
    if fold >= len(folds):
        raise Refused("That fold is not there any more.")
    wish = replace(now.wish, forbidden=(*now.wish.forbidden, folds[fold]), chosen=(*folds[:fold], *folds[fold + 1 :]))
    source = provider.recording(clip.media)
    return _fitted(provider, clip, source, wish, provider.solutions(source, wish)[0].cut, now.until)


def _forbid_fold(project: Project, new_id: NewId, *, clip_id: int, fold: int, fitted: Fitted) -> Answer:
    """Take the next best in the place of a fold; the others stay where they can."""
    return f"Another fold in {fitted.clip.name}", _with(project, new_id, fitted)


def _with_fold_moved(project: Project, provider: Provider, values: Mapping[str, Any]) -> Fitted:
    clip, now = _folded(project, values["clip_id"])
    source = provider.recording(clip.media)
    grid, sound = provider.grid(source), provider.sound(source)
    cut = moved_fold(grid, now.cut, now.wish, sound, fold=values["fold"], by=values["by"])
    return _fitted(provider, clip, source, replace(now.wish, chosen=_folds(cut)), cut, now.until)


def _move_fold(project: Project, new_id: NewId, *, clip_id: int, fold: int, by: int, fitted: Fitted) -> Answer:
    """Move a fold along the music by some of its places."""
    return f"Move a fold of {fitted.clip.name}", _with(project, new_id, fitted)


def _plain(project: Project, provider: Provider, values: Mapping[str, Any]) -> Media:
    return provider.recording(_folded(project, values["clip_id"])[0].media)


def _plain_clip(project: Project, new_id: NewId, *, clip_id: int, recording: Media) -> Answer:
    """The recording as it is."""
    clip, _ = _folded(project, clip_id)
    after = tailored_clips.tailored(project, clip_id=clip.id, found=recording, new_id=new_id)
    return f"Make {clip.name} plain again", after


def moved_ends(project: Project, provider: Provider) -> list[tuple[Clip, int]]:
    """Tailored clips whose end follows something that has moved, each with the length it should have."""
    found = []
    for _, clip in project.placed():
        until = until_of(clip)
        if not until:
            continue
        try:
            end_n = tailored_clips.end_of(project, clip, until, provider.plan(project), provider.seen_n)
        except Refused:
            continue
        length_n = end_n - tailored_clips.start_of(project, clip, until)
        if abs(length_n - wish_of(clip).length_n) > STALE_N:
            found.append((clip, length_n))
    return found


def _to_refit(project: Project, provider: Provider, values: Mapping[str, Any]) -> list[Fitted]:
    """Protected stretches and folds stay where they can."""
    fitted = []
    for clip, length_n in moved_ends(project, provider):
        now = clip.media.tailored
        assert now is not None
        source = provider.recording(clip.media)
        if now.stretched:
            cut, wish = stretched(source.length_n, length_n), replace(now.wish, length_n=length_n)
        else:
            wish = replace(now.wish, length_n=length_n, chosen=_folds(now.cut))
            cut = provider.solutions(source, wish)[0].cut
        fitted.append(_fitted(provider, clip, source, wish, cut, now.until))
    return fitted


def _refit(project: Project, new_id: NewId, *, fitted: list[Fitted]) -> Answer:
    """Fit tailored clips anew to what their ends follow."""
    after = project
    for each in fitted:
        after = _with(after, new_id, each)
    what = fitted[0].clip.name if len(fitted) == 1 else f"{len(fitted)} clips"
    return f"Fit {what} anew" if fitted else "Fit anew", after


COMMANDS = (
    Command("tailor_clip", _tailor_clip, prepare={"fitted": _to_tailor}, clip_id=ID, number=Param(Integer(0, 20), 0),
            **WISHED),
    Command("stretch_clip", _stretch_clip, prepare={"fitted": _to_stretch}, clip_id=ID, length_n=WISHED["length_n"],
            until=WISHED["until"]),
    Command("forbid_fold", _forbid_fold, prepare={"fitted": _without_fold}, clip_id=ID, fold=FOLD),
    Command("move_fold", _move_fold, prepare={"fitted": _with_fold_moved}, clip_id=ID, fold=FOLD, by=AHEAD),
    Command("plain_clip", _plain_clip, prepare={"recording": _plain}, clip_id=ID),
    Command("refit", _refit, prepare={"fitted": _to_refit}),
)  # fmt: skip
