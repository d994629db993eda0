"""A project's page: one tray per step above the timeline that stays, and the commands that change it."""

from __future__ import annotations

from collections import Counter
from typing import Any

from flask import Blueprint, jsonify, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern import commands
from jaylantern.core.ducking import clearance
from jaylantern.core.ducking.thinning import thinned
from jaylantern.core.edit.ending import Ending
from jaylantern.core.edit.landing import Landing
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.fades import Shape
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, OPTION
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import NotFound
from jaylantern.export.data import DATA
from jaylantern.media.film import QUALITIES
from jaylantern.media.film_sound import SOUND_TRACKS
from jaylantern.media.sound_files import FORMS, RATES
from jaylantern.pipeline import Decided
from jaylantern.store import edits, jobs, media, projects
from jaylantern.web import exports, levels, perches, tagging
from jaylantern.web.connection import bench, db
from jaylantern.web.fields import body, seen_revision, whole
from jaylantern.web.page_document import curves_in, in_view, scored

blueprint = Blueprint("project", __name__, url_prefix="/projects/<int:project_id>")
STEPS = {"layout": "Lay out", "tag": "Tag", "duck": "Duck", "level": "Level", "handoff": "Hand off"}
ENDINGS = {
    Ending.PICTURE: "with the picture, music fading",
    Ending.HELD: "with the mix, last frame held",
    Ending.BLACK: "with the mix, black after the picture",
    Ending.RANGE: "from the in to the out point",
}
FILM_RATES = ("24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60")
FRAGMENTS = {
    "checkup": "project/_checkup.html",
    "passages": "project/_passages.html",
    "media": "project/_media.html",
    "made": "project/_made.html",
    "branches": "project/_branches.html",
    "clips": "project/_clips.html",
    "film": "project/_film.html",
    "history": "project/_history.html",
    "missing": "project/_missing.html",
    "points": "project/_points.html",
}


def _context(project_id: int, part: str) -> dict[str, Any]:
    """What the templates of a project speak of; what only some of them need, where a step or panel is one of these."""
    project, decided = bench().load(db(), project_id)
    uses = Counter(clip.media.id for _, clip in project.placed())
    return {
        "project": project,
        "decided": decided,
        "knobs": KNOB,
        "options": OPTION,
        "tags": list(Tag),
        "sound_lanes": [lane for lane in project.lanes if lane.kind is LaneKind.SOUND],
        "media": [
            (each, bench().about(each.media), uses[each.media.id]) for each in media.of_project(db(), project_id)
        ],
        "missing_media": media.wanted_in(db(), project_id),
        "shapes": list(Shape),
        "clear_word": _clear_word,
        "forms": list(FORMS.values()),
        "rates": RATES,
        "data_forms": DATA,
        "film_sounds": list(SOUND_TRACKS.values()),
        "qualities": QUALITIES,
        "why_anew": picture.why_anew(project),
        "endings": ENDINGS,
        "film_rates": FILM_RATES,
        "between_frames": between_frames(project),
        "exports": [(job, exports.files(job)) for job in jobs.of_project(db(), project_id, kind="export")],
        **(tagging.context(project, decided) if part in ("tag", "clips", "missing") else {}),
        **(_history(project_id) if part == "history" else {}),
        **(_points(project, decided) if part == "points" else {}),
        **(levels.context(project) if part == "level" else {}),
        **(perches.context(project) if part in ("tag", "branches") else {}),
    }


def between_frames(project: Project) -> list[int]:
    """Where the picture is cut between two frames of its file, in samples."""
    return picture.between_frames(project, lambda media: bench().about(media).fps)


def _points(project: Project, decided: Decided) -> dict[str, Any]:
    """The curves with how many points they have, and what thinning would make of the leading one."""
    plan = decided.plan
    lanes, by_hand = {lane.id: lane for lane in project.lanes}, project.point_pins
    curves = [
        (lane := lanes[key[0]], len(curve.time_n), sum(pin.root in {c.origin for c in lane.clips} for pin in by_hand))
        for key, curve in plan.curves.items()
    ]
    thin = None
    if plan.leading_key and len(plan.leading.time_n) > 2:
        least_n = ms_to_n(project.settings.thin_ms)
        found, error = thinned(plan.leading, largest_db=project.settings.thin_db, least_n=least_n)
        thin = (lanes[plan.leading_key[0]].name, len(found.time_n), error)
    return {"curves": curves, "held": len(plan.resting.held), "rests": len(plan.resting.resting), "thin": thin}


def _history(project_id: int) -> dict[str, Any]:
    """The steps of the history, and which of them was done last."""
    steps = edits.history(db(), project_id)
    return {"history": steps, "current": max((step.id for step in steps if not step.undone), default=0)}


def _clear_word(lu: float) -> str:
    if lu < clearance.MASKED_LU:
        return "masked"
    return "close" if lu < clearance.CLEAR_LU else "clear"


@blueprint.get("/")
@blueprint.get("/<any(layout, tag, duck, level, handoff):step>")
def page(project_id: int, step: str = "duck") -> ResponseReturnValue:
    """The page at a step; asked for by htmx, only the step's tray."""
    context = _context(project_id, step)
    if request.headers.get("HX-Request") and not request.headers.get("HX-History-Restore-Request"):
        return render_template(f"project/_{step}.html", step=step, **context)
    kept = projects.card(db(), project_id).updated_at
    return render_template("project/page.html", step=step, steps=STEPS, kept=kept, **context)


@blueprint.get("/part/<name>")
def part(project_id: int, name: str) -> ResponseReturnValue:
    """One panel of the page, as it is now."""
    if name not in FRAGMENTS:
        raise NotFound(f"There is no panel called {name[:40]!r}.")
    rest = name == "clips" and "from" in request.args  # the rows that follow those that are there
    return render_template("project/_clip_rows.html" if rest else FRAGMENTS[name], **_context(project_id, name))


@blueprint.get("/score")
def read_score(project_id: int) -> ResponseReturnValue:
    """The document the page draws."""
    return scored(project_id)


@blueprint.get("/curves")
def read_curves(project_id: int) -> ResponseReturnValue:
    """The gain curves as the document holds them, exact in the stretch that is in view."""
    project, decided = bench().load(db(), project_id)
    return jsonify({"revision": project.revision, "curves": curves_in(decided.plan, in_view())})


@blueprint.post("/do/<kind>")
def do(project_id: int, kind: str) -> ResponseReturnValue:
    """Carry out a command; the answer is the new score."""
    commands.do(db(), project_id, kind, body())
    return scored(project_id)


@blueprint.post("/place")
def place(project_id: int) -> ResponseReturnValue:
    """Lay a medium of the project on the timeline once more: on lanes of its own, or on one lane."""
    sent = body()
    media_id = whole(sent, "media_id", low=1, high=1 << 60)
    at_n = whole(sent, "at_n", low=0, high=commands.LARGEST_N)
    found = next((each for each in media.of_project(db(), project_id) if each.media.id == media_id), None)
    if found is None:
        raise NotFound("That file is not among the project's media any more. Bring it in again.")
    commands.place_media(
        db(),
        project_id,
        found.media,
        name=found.name,
        at_n=at_n,
        lane_id=sent.get("lane_id"),
        how=commands.params.one_of(Landing, sent.get("how", "own"), "How a file lands"),
        seen=sent.get("seen"),
    )
    return scored(project_id)


@blueprint.post("/go/<int:edit_id>")
def go(project_id: int, edit_id: int) -> ResponseReturnValue:
    """Undo or redo up to a step of the history; 0 is its beginning."""
    said = edits.go_to(db(), project_id, edit_id)
    return scored(project_id, said=f"Now at: {said}")


@blueprint.post("/undo")
def undo(project_id: int) -> ResponseReturnValue:
    """Take back the last edit; the answer is the new score with what was taken back."""
    said = edits.undo(db(), project_id, seen=seen_revision())
    return scored(project_id, said=f"Undone: {said}")


@blueprint.post("/redo")
def redo(project_id: int) -> ResponseReturnValue:
    """Do again what was taken back."""
    said = edits.redo(db(), project_id, seen=seen_revision())
    return scored(project_id, said=f"Done again: {said}")
