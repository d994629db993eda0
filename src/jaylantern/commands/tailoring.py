"""Commands that cut music to a length, stretch it, or make it plain again."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from jaylantern.commands.at_hand import AtHand
from jaylantern.commands.command import Command, Param, maybe
from jaylantern.core.edit import tailoring
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


def _until_and_length(
    project: Project, at_hand: AtHand, clip: Clip, length_n: int | None, until: Until | None
) -> tuple[Until, int]:
    """What the end follows from now on, and how long that makes it."""
    if until:
        end_n = tailoring.end_of(project, clip, until, at_hand.plan(project), at_hand.seen_n)
        return until, end_n - tailoring.start_of(project, clip, until)
    if length_n is not None:
        return Until.LENGTH, length_n
    return until_of(clip), wish_of(clip).length_n


def _tailor_clip(
    project: Project,
    at_hand: AtHand,
    *,
    clip_id: int,
    number: int,
    length_n: int | None = None,
    until: Until | None = None,
    **wished: Any,
) -> Answer:
    """Fold a clip to a length; what is not said of the wish stays as it was. `number`: which of the solutions."""
    _, clip = clip_of(project, clip_id)
    source = at_hand.recording(clip.media)
    until, length_n = _until_and_length(project, at_hand, clip, length_n, until)
    spans: dict[str, Any] = {name: tuple(value) if isinstance(value, list) else value for name, value in wished.items()}
    wish = replace(wish_of(clip), length_n=length_n, **spans)
    found = at_hand.solutions(source, wish)
    return f"Tailor {clip.name} to {clock(length_n, decimals=1)}", _with(
        project, at_hand, clip, source, wish, found[min(number, len(found) - 1)].cut, until
    )


def _with(project: Project, at_hand: AtHand, clip: Clip, source: Media, wish: Wish, cut: Cut, until: Until) -> Project:
    found = at_hand.tailored(source, Tailoring(source.sha256, wish, cut, until), clip.name)
    start_n = tailoring.start_of(project, clip, until)
    fade_out = not wish.keep_end
    return tailoring.tailored(
        project, clip_id=clip.id, found=found, new_id=at_hand.new_id, start_n=start_n, fade_out=fade_out
    )


def _stretch_clip(
    project: Project, at_hand: AtHand, *, clip_id: int, length_n: int | None = None, until: Until | None = None
) -> Answer:
    """Stretch the whole recording in time: the poor way."""
    _, clip = clip_of(project, clip_id)
    source = at_hand.recording(clip.media)
    until, length_n = _until_and_length(project, at_hand, clip, length_n, until)
    cut = stretched(source.length_n, length_n)
    after = _with(project, at_hand, clip, source, Wish(length_n, exact=True), cut, until)
    return f"Stretch {clip.name} to {clock(length_n, decimals=1)}", after


def _folded(project: Project, clip_id: int) -> tuple[Clip, Tailoring]:
    _, clip = clip_of(project, clip_id)
    if clip.media.tailored is None:
        raise Refused(f"{clip.name} is not tailored. Say how long it is to be first.")
    return clip, clip.media.tailored


def _folds(cut: Cut) -> tuple[tuple[int, int], ...]:
    return tuple((left, right) for _, left, right in cut.folds)


def _forbid_fold(project: Project, at_hand: AtHand, *, clip_id: int, fold: int) -> Answer:
    """Take the next best in the place of a fold; the others stay where they can."""
    clip, now = _folded(project, clip_id)
    folds = _folds(now.cut)
    if fold >= len(folds):
        raise Refused("That fold is not there any more.")
    wish = replace(now.wish, forbidden=(*now.wish.forbidden, folds[fold]), chosen=(*folds[:fold], *folds[fold + 1 :]))
    source = at_hand.recording(clip.media)
    after = _with(project, at_hand, clip, source, wish, at_hand.solutions(source, wish)[0].cut, now.until)
    return f"Another fold in {clip.name}", after


def _move_fold(project: Project, at_hand: AtHand, *, clip_id: int, fold: int, by: int) -> Answer:
    """Move a fold along the music by some of its places."""
    clip, now = _folded(project, clip_id)
    source = at_hand.recording(clip.media)
    cut = moved_fold(at_hand.grid(source), now.cut, now.wish, at_hand.sound(source), fold=fold, by=by)
    wish = replace(now.wish, chosen=_folds(cut))
    return f"Move a fold of {clip.name}", _with(project, at_hand, clip, source, wish, cut, now.until)


def _plain_clip(project: Project, at_hand: AtHand, *, clip_id: int) -> Answer:
    """The recording as it is."""
    clip, _ = _folded(project, clip_id)
    source = at_hand.recording(clip.media)
    after = tailoring.tailored(project, clip_id=clip.id, found=source, new_id=at_hand.new_id)
    return f"Make {clip.name} plain again", after


def moved_ends(project: Project, at_hand: AtHand) -> list[tuple[Clip, int]]:
    """Tailored clips whose end follows something that has moved, each with the length it should have."""
    found = []
    for _, clip in project.placed():
        until = until_of(clip)
        if not until:
            continue
        try:
            end_n = tailoring.end_of(project, clip, until, at_hand.plan(project), at_hand.seen_n)
        except Refused:
            continue
        length_n = end_n - tailoring.start_of(project, clip, until)
        if abs(length_n - wish_of(clip).length_n) > STALE_N:
            found.append((clip, length_n))
    return found


def _refit(project: Project, at_hand: AtHand) -> Answer:
    """Fit tailored clips anew to what their ends follow; protected stretches and folds stay where they can."""
    ends = moved_ends(project, at_hand)
    after = project
    for clip, length_n in ends:
        now = clip.media.tailored
        assert now is not None
        source = at_hand.recording(clip.media)
        if now.stretched:
            cut, wish = stretched(source.length_n, length_n), replace(now.wish, length_n=length_n)
        else:
            wish = replace(now.wish, length_n=length_n, chosen=_folds(now.cut))
            cut = at_hand.solutions(source, wish)[0].cut
        after = _with(after, at_hand, clip, source, wish, cut, now.until)
    return f"Fit {ends[0][0].name if len(ends) == 1 else f'{len(ends)} clips'} anew" if ends else "Fit anew", after


COMMANDS = (
    Command("tailor_clip", _tailor_clip, clip_id=ID, number=Param(Integer(0, 20), 0), **WISHED),
    Command("stretch_clip", _stretch_clip, clip_id=ID, length_n=WISHED["length_n"], until=WISHED["until"]),
    Command("forbid_fold", _forbid_fold, clip_id=ID, fold=FOLD),
    Command("move_fold", _move_fold, clip_id=ID, fold=FOLD, by=AHEAD),
    Command("plain_clip", _plain_clip, clip_id=ID),
    Command("refit", _refit),
)
