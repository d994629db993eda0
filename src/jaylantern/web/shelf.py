"""The shelf: all projects, and the way to begin a new one."""

from __future__ import annotations

import numpy as np
from flask import Blueprint, jsonify, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.pipeline import DuckingResult
from jaylantern.store import projects
from jaylantern.web.connection import db, workspace

blueprint = Blueprint("shelf", __name__)
STRIP_PARTS = 96


@blueprint.get("/")
def page() -> ResponseReturnValue:
    """All projects, the one worked on last first."""
    return render_template("shelf/page.html", cards=projects.cards(db()), removed=projects.cards(db(), removed=True))


@blueprint.post("/projects")
def create() -> ResponseReturnValue:
    """Begin a new project and go to it; a script asking for JSON gets its number."""
    project_id = projects.create(db(), request.form.get("name", "").strip() or "New film")
    if request.accept_mimetypes.best == "application/json":
        return jsonify(id=project_id)
    return redirect(url_for("project.page", project_id=project_id, step="layout"))


@blueprint.delete("/projects/<int:project_id>")
def discard(project_id: int) -> ResponseReturnValue:
    """Forget a project that nothing was ever put into, such as one made for a file that could not be opened."""
    projects.discard(db(), project_id)
    return "", 204


@blueprint.post("/projects/<int:project_id>/<any(remove, restore):way>")
def put(project_id: int, way: str) -> ResponseReturnValue:
    """Take a project off the shelf, or put it back."""
    projects.set_removed(db(), project_id, way == "remove")
    return redirect(url_for("shelf.page"))


@blueprint.get("/projects/<int:project_id>/card")
def card(project_id: int) -> ResponseReturnValue:
    """What a card shows once it is in view: a frame, length, glow strip."""
    project, result = workspace().load(db(), project_id)
    picture = _picture(project)
    return render_template(
        "shelf/_card.html",
        project=project,
        result=result,
        picture=picture,
        about=picture and workspace().library.about(picture),
        strip=_strip(project, result),
    )


def _picture(project: Project) -> Media | None:
    """The first medium with a picture to show."""
    clips = (clip for lane in project.lanes if lane.kind is LaneKind.PICTURE for clip in lane.clips)
    return next((clip.media for clip in clips if workspace().library.about(clip.media).thumbs), None)


def _strip(project: Project, result: DuckingResult) -> list[float]:
    """Gain of the music as amplitude, 0–1, at evenly spaced places."""
    curve = result.plan.leading_outline
    at = np.linspace(0, max(project.length_n, RATE), STRIP_PARTS, endpoint=False).astype(np.int64)
    return (10.0 ** (curve.at(at) / 20.0)).round(3).tolist()
