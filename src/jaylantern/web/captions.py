"""Captions as the page draws them: where each cue stands now, and what it says."""

from __future__ import annotations

from flask import Blueprint, jsonify
from flask.typing import ResponseReturnValue

from jaylantern.core.captions import placing
from jaylantern.core.timeline.captions import plain_text
from jaylantern.store import projects
from jaylantern.web.connection import db

blueprint = Blueprint("captions", __name__, url_prefix="/projects/<int:project_id>")


@blueprint.get("/captions")
def cues(project_id: int) -> ResponseReturnValue:
    """Of all captions by number: the cues [start_n, stop_n, text] in order of time, as the film is cut now."""
    project = projects.load(db(), project_id)
    found = {
        str(captions.id): [
            [each.start_n, each.stop_n, plain_text(each.cue.text, captions.form)]
            for each in placing.shown(project, captions)
        ]
        for captions in project.captions
    }
    return jsonify({"revision": project.revision, "cues": found})
