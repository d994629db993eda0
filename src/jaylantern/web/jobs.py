"""Long work: how far it is, stopping it, taking it off the list."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, jsonify
from flask.typing import ResponseReturnValue

from jaylantern.errors import Refused
from jaylantern.store import jobs, projects, takes
from jaylantern.web.connection import db

blueprint = Blueprint("jobs", __name__)


def _row(job: jobs.Job) -> dict[str, Any]:
    return {
        "id": job.id,
        "kind": job.kind,
        "title": job.title,
        "state": job.state,
        "share": round(job.share, 3),
        "doing": job.doing,
        "message": job.message,
        "read": bool(job.payload.get("read")),
    }


@blueprint.get("/projects/<int:project_id>/pulse")
def pulse(project_id: int) -> ResponseReturnValue:
    """The project's revision, its work and how many takes are in hand; the page asks again and again."""
    revision = projects.revision(db(), project_id)
    return jsonify(
        revision=revision,
        jobs=[_row(job) for job in jobs.of_project(db(), project_id)],
        takes=len(takes.in_hand(db(), project_id)),
    )


@blueprint.post("/jobs/<int:job_id>/stop")
def stop(job_id: int) -> ResponseReturnValue:
    """Stop a job; what it had made so far is not kept."""
    jobs.get(db(), job_id)
    jobs.ask_stop(db(), job_id)
    return jsonify(_row(jobs.get(db(), job_id)))


@blueprint.post("/jobs/<int:job_id>/dismiss")
def dismiss(job_id: int) -> ResponseReturnValue:
    """Put the word about a finished job away; what it made stays."""
    if jobs.get(db(), job_id).active:
        raise Refused("This is still being worked on. Stop it first.")
    jobs.dismiss(db(), job_id)
    return "", 204
