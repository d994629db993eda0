"""Handing off: asking for a file, and fetching it when it is made."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from flask import Blueprint, jsonify, render_template, request, send_file
from flask.typing import ResponseReturnValue

from jaylantern.core.edit.ending import consequence
from jaylantern.errors import NotFound
from jaylantern.export import sound
from jaylantern.export.making import FORMS, asked
from jaylantern.export.request import Extent
from jaylantern.store import jobs, projects
from jaylantern.web.connection import db, queue, workspace
from jaylantern.web.fields import body

blueprint = Blueprint("exports", __name__)


@blueprint.post("/projects/<int:project_id>/exports")
def ask(project_id: int) -> ResponseReturnValue:
    """Have files made of the project as it is now."""
    projects.card(db(), project_id)
    wanted = asked({**body(), "asked_at": datetime.now().isoformat(timespec="seconds")})
    title = FORMS[wanted.what].label
    if wanted.what in sound.FORMS:
        extent = {Extent.IN_OUT: ", in to out", Extent.CHOSEN: ", chosen clips"}.get(wanted.range, "")
        title += f", {wanted.form.label}, {wanted.rate / 1000:g} kHz{extent}"
    job_id = jobs.create(db(), project_id, kind="export", title=title, payload=wanted.plain)
    queue().wake(job_id)
    return jsonify(job=job_id)


@blueprint.get("/projects/<int:project_id>/film/ends")
def film_ends(project_id: int) -> ResponseReturnValue:
    """What becomes of picture and sound where the film ends as chosen, in words, before anything is made."""
    values = {name: request.args[name] for name in ("ending", "fade_s") if request.args.get(name)}
    wanted = asked({**values, "what": "film"})
    words = consequence(projects.load(db(), project_id), wanted.ending, wanted.fade_s)
    return render_template("project/_film_ends.html", words=words)


def files(job: jobs.Job) -> list[Path]:
    """The finished files of a job, by name."""
    folder = workspace().folder.exports(job.id)
    return sorted(folder.iterdir()) if job.state == "done" and folder.is_dir() else []


@blueprint.get("/exports/<int:job_id>/<int:number>")
def fetch(job_id: int, number: int) -> ResponseReturnValue:
    """One finished file, to be saved by the browser."""
    made = files(jobs.get(db(), job_id))
    if number >= len(made):
        raise NotFound("That file is not there any more. Make it again under Hand off.")
    return send_file(made[number], as_attachment=True, download_name=made[number].name, max_age=0)
