"""Cutting the pauses out of talk: what would go. Doing it is a command."""

from __future__ import annotations

from flask import Blueprint, jsonify, request
from flask.typing import ResponseReturnValue

from jaylantern.commands import COMMANDS
from jaylantern.commands.clips import find_pauses
from jaylantern.errors import InvalidValue
from jaylantern.store import projects
from jaylantern.web.connection import db, workspace

blueprint = Blueprint("pauses", __name__, url_prefix="/projects/<int:project_id>/pauses")


@blueprint.get("")
def look(project_id: int) -> ResponseReturnValue:
    """The stretches that would go."""
    try:
        values = {name: int(request.args[name]) for name in ("longest_ms", "breath_ms")}
        ids = [int(number) for number in request.args["clip_ids"].split(",") if number]
    except (KeyError, ValueError):
        raise InvalidValue("Say which clips, and how long pauses and breath are in milliseconds.") from None
    asked = {**values, "clip_ids": ids, "all_lanes": request.args.get("all_lanes") == "true"}
    command, project = COMMANDS["cut_pauses"], projects.load(db(), project_id)
    how = command.checked(asked)
    found = find_pauses(project, **how, **command.prepared(project, how, workspace().provider(db(), project_id)))
    return jsonify(spans=found.spans.tolist(), lane_ids=sorted(found.lane_ids), removed_n=found.removed_n)
