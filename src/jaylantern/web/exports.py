"""Handing off: asking for a file, and fetching it when it is made."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from flask import Blueprint, jsonify, render_template, request, send_file
from flask.typing import ResponseReturnValue

from jaylantern.core.edit.ending import consequence
from jaylantern.errors import NotFound
from jaylantern.export import sound
from jaylantern.export.handoff import FORMS, asked
from jaylantern.export.request import Extent
from jaylantern.store import jobs, made, projects
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


def files(job_id: int) -> list[Path]:
    """The files that a job has made, by name."""
    folder = workspace().folder.exports(job_id)
    return sorted(folder.iterdir()) if folder.is_dir() else []


@blueprint.get("/exports/<int:job_id>/<int:number>")
def fetch(job_id: int, number: int) -> ResponseReturnValue:
    """One finished file, to be saved by the browser."""
    found = files(made.get(db(), job_id).job_id)
    if number >= len(found):
        raise NotFound(made.GONE)
    return send_file(found[number], as_attachment=True, download_name=found[number].name, max_age=0)


@blueprint.post("/exports/<int:job_id>/remove")
def remove(job_id: int) -> ResponseReturnValue:
    """Remove what was made. It stays for a while, and can be brought back."""
    made.remove(db(), job_id)
    return "", 204


@blueprint.post("/exports/<int:job_id>/bring-back")
def bring_back(job_id: int) -> ResponseReturnValue:
    """Take a removal back."""
    made.bring_back(db(), job_id)
    return "", 204
