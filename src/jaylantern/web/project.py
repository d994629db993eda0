"""A project's page: one tray per step above the timeline that stays, and the commands that change it."""

from __future__ import annotations

import sqlite3
from contextlib import closing, suppress
from typing import Any

from flask import Blueprint, current_app, jsonify, render_template, request
from flask.typing import ResponseReturnValue
from werkzeug.exceptions import HTTPException

from jaylantern.core.timeline.project import Project
from jaylantern.errors import JayError, NotFound
from jaylantern.jobs import beats, care, ducked, hearing, repair
from jaylantern.store import edits, projects
from jaylantern.web import panels
from jaylantern.web.connection import EXPECTED, as_far_as_it_goes, db, queue, workspace
from jaylantern.web.fields import body, seen_revision
from jaylantern.web.page_document import answered, curves_in, in_view

blueprint = Blueprint("project", __name__, url_prefix="/projects/<int:project_id>")
STEPS = {"layout": "Lay out", "tag": "Tag", "duck": "Duck", "level": "Level", "tailor": "Tailor", "handoff": "Hand off"}
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
    "limits": "project/_limits.html",
    "tuning": "project/_tuning.html",
    "drafts": "project/_drafts.html",
}


@blueprint.get("/")
@blueprint.get("/<any(layout, tag, duck, level, tailor, handoff):step>")
def page(project_id: int, step: str = "duck") -> ResponseReturnValue:
    """The page at a step; asked for by htmx, only the step's tray."""
    part = request.headers.get("HX-Request") and not request.headers.get("HX-History-Restore-Request")
    if not part:
        _look_after(project_id)

    def shown(tray: str, **more: Any) -> str:
        context = {**panels.context(project_id, step if tray == step else "checkup"), **more, "step": step}
        if part:
            return render_template(f"project/_{tray}.html", **context)
        saved_at = projects.card(db(), project_id).updated_at
        return render_template("project/page.html", steps=STEPS, saved_at=saved_at, tray=tray, **context)

    try:
        return as_far_as_it_goes(project_id, lambda: shown(step))
    except EXPECTED:
        raise
    except Exception as error:  # whatever goes wrong in a tray, the project is within reach, and with it undo
        current_app.logger.exception("tray %s of project %d", step, project_id)
        return shown("cant", trouble=f"Something unforeseen went wrong ({type(error).__name__}).")


@blueprint.get("/part/<name>")
def part(project_id: int, name: str) -> ResponseReturnValue:
    """One panel of the page, as it is now."""
    if name not in FRAGMENTS:
        raise NotFound(f"There is no panel called {name[:40]!r}.")
    rest = name == "clips" and "from" in request.args  # the rows that follow those that are there
    template = "project/_clip_rows.html" if rest else FRAGMENTS[name]
    return as_far_as_it_goes(project_id, lambda: render_template(template, **panels.context(project_id, name)))


@blueprint.get("/document")
def read_document(project_id: int) -> ResponseReturnValue:
    """The document the page draws."""
    return answered(project_id)


@blueprint.get("/curves")
def read_curves(project_id: int) -> ResponseReturnValue:
    """The gain curves as the document holds them, exact in the stretch that is in view."""
    view = in_view()

    def curves() -> dict[str, Any]:
        project, result = workspace().load(db(), project_id)
        return {"revision": project.revision, "curves": curves_in(result.plan, view)}

    return jsonify(as_far_as_it_goes(project_id, curves))


@blueprint.post("/do/<name>")
def do(project_id: int, name: str) -> ResponseReturnValue:
    """Carry out a command; the answer is the new document."""
    values = body()
    done = workspace().do(db(), project_id, name, values)
    if not values.get("gesture"):  # while something is dragged nothing begins to matter that did not before
        _have_heard(done.after, opened=False)
    return _shown(project_id, remembered=not values.get("gesture"))


def _shown(project_id: int, *, remembered: bool = True, **more: Any) -> ResponseReturnValue:
    """The new document as an answer; how the project is ducked now is `remembered`, so that a later look can tell
    what moved by itself."""
    answer = answered(project_id, **more)
    project = projects.load(db(), project_id)
    if remembered and workspace().lately(project) is not None:
        with suppress(sqlite3.Error), closing(workspace().folder.connect(patience_s=0.0)) as quick:  # else another time
            ducked.keep_new(workspace(), quick, project)
    return answer


def _look_after(project_id: int) -> None:
    """What opening a project begins in the background. Where that fails in a way nobody foresaw, it opens all the
    same."""
    try:
        for number in repair.look_after(workspace(), db(), projects.load(db(), project_id)):
            queue().wake(number)
        if not _have_heard(projects.load(db(), project_id), opened=True):
            ducked.tell(workspace(), db(), projects.load(db(), project_id))
    except (JayError, HTTPException):
        raise
    except Exception:
        current_app.logger.exception("opening project %d", project_id)


def _have_heard(project: Project, *, opened: bool) -> bool:
    """Have listened to in the background what matters now and nobody has listened to, or not as well as we can. Answers
    whether speech is to be heard again, which says itself what moved."""
    job_id = hearing.request(db(), workspace().library, project, opened=opened)
    library = workspace().library
    more = (*beats.wanted(db(), library, project), *care.wanted(db(), library, project))
    for number in (job_id, *more):
        if number is not None:
            queue().wake(number)
    return job_id is not None


@blueprint.post("/go/<int:edit_id>")
def go(project_id: int, edit_id: int) -> ResponseReturnValue:
    """Undo or redo up to a step of the history; 0 is its beginning."""
    said = edits.go_to(db(), project_id, edit_id)
    return _shown(project_id, said=f"Now at: {said}")


@blueprint.post("/undo")
def undo(project_id: int) -> ResponseReturnValue:
    """Take back the last edit; the answer is the new document with what was taken back."""
    said = edits.undo(db(), project_id, seen=seen_revision())
    return _shown(project_id, said=f"Undone: {said}")


@blueprint.post("/redo")
def redo(project_id: int) -> ResponseReturnValue:
    """Do again what was taken back."""
    said = edits.redo(db(), project_id, seen=seen_revision())
    return _shown(project_id, said=f"Done again: {said}")
