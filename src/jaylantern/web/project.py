"""A project's page: one tray per step above the timeline that stays, and the commands that change it."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, jsonify, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.core import clearance
from jaylantern.core.model import LaneKind, Tag
from jaylantern.core.settings import KNOB
from jaylantern.errors import NotFound
from jaylantern.store import commands, edits, jobs, projects
from jaylantern.web import exports
from jaylantern.web.connection import bench, db
from jaylantern.web.fields import body
from jaylantern.web.score import score

blueprint = Blueprint("project", __name__, url_prefix="/projects/<int:project_id>")
STEPS = {"layout": "Lay out", "tag": "Tag", "duck": "Duck", "handoff": "Hand off"}
FRAGMENTS = {
    "checkup": "project/_checkup.html",
    "passages": "project/_passages.html",
    "lanes": "project/_lanes.html",
    "media": "project/_media.html",
    "made": "project/_made.html",
    "branches": "project/_branches.html",
}


def _context(project_id: int) -> dict[str, Any]:
    """What the templates of a project speak of."""
    project, decided = bench().load(db(), project_id)
    used = {clip.media.id: clip for lane in project.lanes for clip in lane.clips}
    return {
        "project": project,
        "decided": decided,
        "knobs": KNOB,
        "tags": list(Tag),
        "sound_lanes": [lane for lane in project.lanes if lane.kind is LaneKind.SOUND],
        "media": [(clip, bench().about(clip.media)) for clip in used.values()],
        "clear_word": _clear_word,
        "exports": [(job, exports.files(job)) for job in jobs.of_project(db(), project_id, kind="export")],
    }


def _clear_word(lu: float) -> str:
    if lu < clearance.MASKED_LU:
        return "masked"
    return "close" if lu < clearance.CLEAR_LU else "clear"


@blueprint.get("/")
@blueprint.get("/<any(layout, tag, duck, handoff):step>")
def page(project_id: int, step: str = "duck") -> ResponseReturnValue:
    """The page at a step; asked for by htmx, only the step's tray."""
    context = _context(project_id)
    if request.headers.get("HX-Request") and not request.headers.get("HX-History-Restore-Request"):
        return render_template(f"project/_{step}.html", step=step, **context)
    kept = projects.card(db(), project_id).updated_at
    return render_template("project/page.html", step=step, steps=STEPS, kept=kept, **context)


@blueprint.get("/part/<name>")
def part(project_id: int, name: str) -> ResponseReturnValue:
    """One panel of the page, as it is now."""
    if name not in FRAGMENTS:
        raise NotFound(f"There is no panel called {name[:40]!r}.")
    return render_template(FRAGMENTS[name], **_context(project_id))


@blueprint.get("/score")
def read_score(project_id: int) -> ResponseReturnValue:
    """The document the page draws."""
    return jsonify(score(db(), bench(), project_id))


@blueprint.post("/do/<kind>")
def do(project_id: int, kind: str) -> ResponseReturnValue:
    """Carry out a command; the answer is the new score."""
    commands.do(db(), project_id, kind, body())
    return jsonify(score(db(), bench(), project_id))


@blueprint.post("/undo")
def undo(project_id: int) -> ResponseReturnValue:
    """Take back the last edit; the answer is the new score with what was taken back."""
    said = edits.undo(db(), project_id)
    return jsonify({**score(db(), bench(), project_id), "said": f"Undone: {said}"})


@blueprint.post("/redo")
def redo(project_id: int) -> ResponseReturnValue:
    """Do again what was taken back."""
    said = edits.redo(db(), project_id)
    return jsonify({**score(db(), bench(), project_id), "said": f"Done again: {said}"})
