"""Handing off: asking for a file, and fetching it when it is made."""

from __future__ import annotations

import re
from datetime import datetime
from pathlib import Path

from flask import Blueprint, jsonify, send_file
from flask.typing import ResponseReturnValue

from jaylantern.errors import InvalidValue, NotFound
from jaylantern.jobs.work import EXPORTS
from jaylantern.store import jobs, projects
from jaylantern.web.connection import bench, db, queue
from jaylantern.web.fields import body

blueprint = Blueprint("exports", __name__)
TITLES = {
    "mix": "Mix, WAV 24 bit",
    "music": "Ducked music, WAV 24 bit",
    "film": "Film with its new sound",
    "keyframes": "Keyframes, CSV",
}


@blueprint.post("/projects/<int:project_id>/exports")
def ask(project_id: int) -> ResponseReturnValue:
    """Have a file made of the project as it is now."""
    what = body().get("what")
    if not isinstance(what, str) or what not in EXPORTS:
        raise InvalidValue(f"What can be handed off is one of {', '.join(EXPORTS)}; {str(what)[:40]!r} is not.")
    card = projects.card(db(), project_id)
    stem = f"{_safe(card.name)} - {what} {datetime.now():%H%M%S}"
    job_id = jobs.create(db(), project_id, kind="export", title=TITLES[what], payload={"what": what, "stem": stem})
    queue().wake(job_id)
    return jsonify(job=job_id)


def _safe(name: str) -> str:
    """A project's name as a part of a file name on any system."""
    return " ".join(re.sub(r'[<>:"/\\|?*\x00-\x1f]+', " ", name).split()).strip(" .")[:80] or "project"


def files(job: jobs.Job) -> list[Path]:
    """The finished files of a job, by name."""
    folder = bench().export_folder(job.id)
    return sorted(folder.iterdir()) if job.state == "done" and folder.is_dir() else []


@blueprint.get("/exports/<int:job_id>/<int:number>")
def fetch(job_id: int, number: int) -> ResponseReturnValue:
    """One finished file, to be saved by the browser."""
    made = files(jobs.get(db(), job_id))
    if number >= len(made):
        raise NotFound("That file is not there any more. Make it again under Hand off.")
    return send_file(made[number], as_attachment=True, download_name=made[number].name)
