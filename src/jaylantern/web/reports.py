"""The report: a page to print, and the same as JSON."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

import numpy as np
from flask import Blueprint, jsonify, render_template
from flask.typing import ResponseReturnValue

from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.mixing import report
from jaylantern.core.mixing.mix_metering import Level
from jaylantern.core.signal.loudness import STEP_N
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused
from jaylantern.pipeline import DuckingResult
from jaylantern.store import projects
from jaylantern.web import levels
from jaylantern.web.connection import db, workspace

blueprint = Blueprint("reports", __name__, url_prefix="/projects/<int:project_id>")
WIDTH, HEIGHT = 1000, 120  # of a drawing, in its own units
CURVE_DB = (-30.0, 3.0)
LOUDNESS_LUFS = (-50.0, -5.0)
DRAWN = 1000  # points of the line of loudness


@dataclass(frozen=True)
class Gathered:
    """All that a report is made from."""

    project: Project
    result: DuckingResult
    level: Level
    document: dict[str, object]


def _gathered(project_id: int) -> Gathered:
    project = projects.load(db(), project_id)
    if not project.length_n:
        raise Refused("The timeline is empty: there is nothing to report on. Bring in files first.")
    result, level, parts = (
        workspace().result(project),
        workspace().loudness.mix(project),
        workspace().loudness.parts(project),
    )
    lines = [
        report.line(passage, parts, dip_db=result.dip_db(passage), clear_lu=clear_lu, sii=sii)
        for passage, clear_lu, sii in zip(result.plan.passages, result.clear_lu, result.sii, strict=True)
    ]
    tolerance = levels.tolerance_of(project)
    found = report.document(
        project, level, lines, result.findings, result.standing, result.captioned, tolerance_lu=tolerance
    )
    return Gathered(project, result, level, found)


@blueprint.get("/report.json")
def as_json(project_id: int) -> ResponseReturnValue:
    """The report for programs."""
    return jsonify(_gathered(project_id).document)


@blueprint.get("/report")
def page(project_id: int) -> ResponseReturnValue:
    """The report for people, to be read or printed."""
    found = _gathered(project_id)
    length_n, curve = found.project.length_n, found.result.plan.leading_outline
    low, high = CURVE_DB
    time_n = np.concatenate(([0], curve.time_n, [length_n]))
    box = {"length_n": length_n, "width": WIDTH, "height": HEIGHT}
    curve_points = report.polyline(time_n, curve.at(time_n), low=low, high=high, **box)
    stride = max(1, len(found.level.power) // DRAWN)
    short = np.maximum(found.level.short_term_lufs[::stride], LOUDNESS_LUFS[0])
    at_n = np.arange(len(short)) * stride * STEP_N
    low, high = LOUDNESS_LUFS
    return render_template(
        "report.html",
        it=found.document,
        project=found.project,
        marks=MARKS[found.project.settings.clear_in],
        made=datetime.now(),
        passages=[(p.start_n / length_n * WIDTH, (p.stop_n - p.start_n) / length_n * WIDTH)
                  for p in found.result.plan.passages],
        curve=curve_points,
        loudness=report.polyline(at_n, short, low=low, high=high, **box),
        target_y=(high - found.project.settings.target_lufs) / (high - low) * HEIGHT,
        width=WIDTH,
        height=HEIGHT,
    )  # fmt: skip
