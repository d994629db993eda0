"""Tailor: what is known of a piece of music, what is wished of it, and the ways to it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.commands.tailoring import moved_ends, until_of, wish_of
from jaylantern.core.tailoring.cut import Cut
from jaylantern.core.tailoring.grid import Grid
from jaylantern.core.tailoring.tailor import AUDIBLE_STRETCH, Solution, fit_of
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Until
from jaylantern.errors import Refused
from jaylantern.jobs import beats
from jaylantern.store import projects
from jaylantern.web.connection import db, queue, workspace

blueprint = Blueprint("tailoring", __name__, url_prefix="/projects/<int:project_id>")
ENDS = {
    Until.PICTURE: "picture",
    Until.TALK: "talk",
    Until.RANGE: "out point",
    Until.MARKER: "next marker",
}

FIT_WORDS = ((1.0, "very well"), (3.0, "well"), (8.0, "fairly"), (1000.0, "poorly"))  # fewer better ones than that


@dataclass(frozen=True)
class Shown:
    """A clip in the Tailor tray: the recording it plays or is made of, its folds with how well they fit."""

    lane: Lane
    clip: Clip
    source: Media
    grid: Grid

    @property
    def cut(self) -> Cut | None:
        """How it is cut; None of a plain clip."""
        return None if self.clip.media.tailored is None else self.clip.media.tailored.cut

    @property
    def folds(self) -> list[tuple[int, int, int, float]]:
        """Each fold: where it is heard in the clip, the place left, the place that follows, how well it fits."""
        cut = self.cut
        return [] if cut is None else [(*fold, fit_of(self.grid, *fold[1:])) for fold in cut.folds]

    @property
    def off_n(self) -> int:
        """By how much the music is longer than was wished."""
        return 0 if self.cut is None else self.cut.length_n - wish_of(self.clip).length_n


def fit_word(fit: float) -> str:
    """How well a fold fits, in words, by how many of all folds of the piece fit better, per cent."""
    return next(word for most, word in FIT_WORDS if fit < most)


def candidates(project: Project) -> list[tuple[Lane, Clip]]:
    """Clips that can be tailored: music first, then everything else that has sound."""
    found = [
        (lane, clip)
        for lane, clip in project.placed()
        if lane.kind is LaneKind.SOUND and clip.media.has_sound and not clip.media.missing
    ]
    return sorted(found, key=lambda each: (each[0].tag_of(each[1]) is not Tag.MUSIC, -each[1].length_n))


@blueprint.get("/tailor/clip")
def show(project_id: int) -> ResponseReturnValue:
    """What can be done to a clip, as a fragment of the page; it holds what the ribbon draws."""
    project = projects.load(db(), project_id)
    found = candidates(project)
    chosen = _wanted(found)
    common: dict[str, Any] = {"project": project, "clips": found, "clip": chosen and chosen[1]}
    if chosen is None:
        return render_template("project/_tailored.html", shown=None, waits=None, **common)
    try:
        source = workspace().provider(db(), project_id).recording(chosen[1].media)
    except Refused as error:
        return render_template("project/_tailored.html", shown=None, waits=beats.Waiting(str(error)), **common)
    if not workspace().library.has_features(source):
        waits = beats.waiting(db(), project_id, source)
        return render_template("project/_tailored.html", shown=None, waits=waits, listen=True, **common)
    shown = Shown(*chosen, source, workspace().library.grid(source))
    return render_template(
        "project/_tailored.html",
        shown=shown,
        waits=None,
        drawn=drawn(shown),
        fit_word=fit_word,
        **common,
        **_wished(project, shown),
    )


@blueprint.post("/tailor/listen")
def listen(project_id: int) -> ResponseReturnValue:
    """Have the recording of a clip listened to; answers as `show`."""
    chosen = _wanted(candidates(projects.load(db(), project_id)))
    if chosen is not None:
        source = workspace().provider(db(), project_id).recording(chosen[1].media)
        job_id = None if workspace().library.has_features(source) else beats.request(db(), project_id, source)
        if job_id is not None:
            queue().wake(job_id)
    return show(project_id)


def _wanted(found: list[tuple[Lane, Clip]]) -> tuple[Lane, Clip] | None:
    """The clip that is asked for; the first where it is not there; None of none."""
    wanted = request.values.get("clip", 0, int)
    return next((each for each in found if each[1].id == wanted), found[0] if found else None)


def _wished(project: Project, shown: Shown) -> dict[str, Any]:
    """The wish, the ways to it, and whether what the end follows has moved."""
    clip, provider = shown.clip, workspace().provider(db(), project.id)
    solutions: list[Solution] = []
    trouble = ""
    if shown.cut is not None and clip.media.tailored is not None and not clip.media.tailored.stretched:
        try:
            solutions = workspace().library.solutions(shown.source, wish_of(clip))
        except Refused as error:
            trouble = str(error)
    moved = {each.id: length_n for each, length_n in moved_ends(project, provider)}
    wish = wish_of(clip)
    longer = wish.length_n / shown.source.length_n - 1
    return {
        "wish": wish,
        "until": until_of(clip),
        "ends": ENDS,
        "solutions": solutions,
        "trouble": trouble,
        "moved_n": moved.get(clip.id),
        "stretch": 100 * longer,
        "audible": abs(longer) >= AUDIBLE_STRETCH,
        "stretched": clip.media.tailored is not None and clip.media.tailored.stretched,
    }


def drawn(shown: Shown) -> dict[str, Any]:
    """What the ribbon draws; times in samples of the recording, but for where pieces and folds are heard."""
    grid, wish, cut = shown.grid, wish_of(shown.clip), shown.cut
    pieces = [] if cut is None else zip(cut.pieces, cut.starts_n, strict=True)
    return {
        "clip": shown.clip.id,
        "start_n": shown.clip.start_n,
        "offset_n": shown.clip.offset_n,
        "heard_n": shown.clip.length_n,
        "media_id": shown.source.id,
        "length_n": shown.source.length_n,
        "tailored": cut is not None,
        "pieces": [[piece.from_n, piece.to_n, start_n, piece.length_n] for piece, start_n in pieces],
        "folds": [dict(zip(("at_n", "left_n", "right_n", "fit"), fold, strict=True)) for fold in shown.folds],
        "beats": grid.beats_n.tolist(),
        "bars": grid.bars_n.tolist(),
        "step_n": grid.step_n,
        "protect": wish.protect,
        "leave_out": wish.leave_out,
    }
