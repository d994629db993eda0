"""The tuning map, in parts: what is drawn first, then rows, and at last where it is sweet."""

from __future__ import annotations

from flask import Blueprint, jsonify, request
from flask.typing import ResponseReturnValue

from jaylantern.core.ducking import tuning
from jaylantern.core.timeline.kinds import Integer
from jaylantern.store import projects
from jaylantern.web.connection import db, workspace
from jaylantern.web.fields import argument
from jaylantern.workspace.tuning import COARSE, COUNT

blueprint = Blueprint("tuning", __name__, url_prefix="/projects/<int:project_id>/tuning")
ROW = Integer(0, COUNT)


@blueprint.get("/coarse")
def coarse(project_id: int) -> ResponseReturnValue:
    """The values along both settings, what is so now, and a few places all over the map."""
    project = projects.load(db(), project_id)
    found = workspace().tuning.map(project, _names())
    places = workspace().tuning.places(found, [(i, j) for j in COARSE for i in COARSE])
    x, y = found.values
    result = workspace().result(project)
    return jsonify({
        "revision": project.revision,
        "x": x,
        "y": y,
        "places": _told(places),
        "now": tuning.figures(result.plan, result.clear),
    })  # fmt: skip


@blueprint.get("/rows")
def rows(project_id: int) -> ResponseReturnValue:
    """All places of some rows, `from` to before `to`; with the last of them, where the map is sweet."""
    project = projects.load(db(), project_id)
    first, last = argument("from", ROW), argument("to", ROW)
    found = workspace().tuning.map(project, _names())
    places = workspace().tuning.places(found, [(i, j) for j in range(first, last) for i in range(COUNT)])
    sweet = workspace().tuning.sweet(found) if last == COUNT else None
    return jsonify({"revision": project.revision, "places": _told(places), "sweet": sweet})


def _names() -> tuple[str, str]:
    return request.args.get("x", ""), request.args.get("y", "")


def _told(places: dict[tuple[int, int], tuning.Figures]) -> list[list[object]]:
    """As rows of place and figures."""
    return [[*place, *each] for place, each in places.items()]
