"""Level: what the mix and its parts measure, matching clips to a target, the table of targets."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.commands.levels import BYS, MATCH, UNITS, matches
from jaylantern.core.care.suggestions import STARTS
from jaylantern.core.mixing.loudness_targets import Target
from jaylantern.core.mixing.matching import Subject, Way, subjects
from jaylantern.core.mixing.mix_metering import Level
from jaylantern.core.signal.loudness import Loudness, measured
from jaylantern.core.timeline.care import PARTS
from jaylantern.core.timeline.kinds import number_in
from jaylantern.core.timeline.presets import clean_name
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.errors import Refused
from jaylantern.store import projects, targets
from jaylantern.web.connection import db, workspace
from jaylantern.web.fields import body

blueprint = Blueprint("levels", __name__, url_prefix="/projects/<int:project_id>")
DRAWN_STEPS = 5  # short-term loudness is drawn every half second
MOST_PLACES = 12
MOST_CLIPS = 400
PEAK_BAND_DB = (-5.0, -3.0)  # where the peaks of a single lane are put: common practice
USUAL_TOLERANCE_LU = 1.0
SUBJECTS = {
    Subject.DIALOGUE: "Speech clips",
    Subject.MUSIC: "Music clips",
    Subject.CHOSEN: "Chosen clips",
    Subject.SOFT: "Too-soft speech",
    Subject.MIX: "The whole mix",
}
WAYS = {Way.EACH: "each clip by itself", Way.ALL: "all by one amount"}


def target_of(project: Project) -> Target | None:
    """The target of the table that a project aims at; None for one of its own."""
    aim = (project.settings.target_lufs, project.settings.ceiling_dbtp)
    return next((each for each in targets.all_of(db()) if (each.lufs, each.dbtp) == aim), None)


def tolerance_of(project: Project) -> float:
    """How far off its target counts as met, LU."""
    target = target_of(project)
    return USUAL_TOLERANCE_LU if target is None else target.tolerance_lu


def context(project: Project) -> dict[str, Any]:
    """What the Level tray speaks of."""
    return {
        "targets": targets.all_of(db()),
        "target": target_of(project),
        "subjects": SUBJECTS,
        "ways": WAYS,
        "bys": BYS,
        "parts": PARTS,
        "starts": list(STARTS),
    }


@dataclass(frozen=True)
class Row:
    """A line of the table of loudness."""

    name: str
    loudness: Loudness
    kind: str = ""

    @property
    def band(self) -> str:
        """Where the peak lies: "under" the usual band, "in" it, or "over" it; "" for what is no lane and no clip."""
        if self.kind not in ("lane", "clip") or not math.isfinite(self.loudness.true_peak_dbtp):
            return ""
        low_db, high_db = PEAK_BAND_DB
        peak = self.loudness.true_peak_dbtp
        return "under" if peak < low_db else "in" if peak <= high_db else "over"


def clip_rows(project: Project, level: Level) -> list[Row]:
    """The mix, and every clip by itself before anything gives way, in the order of the lanes; at most so many."""
    clips = [(lane, clip) for lane, clip in project.sounding()][:MOST_CLIPS]
    known = workspace().loudness.clips(project, {clip.id for _, clip in clips})
    return [
        Row("Mix", level.loudness, "mix"),
        *(
            Row(f"{lane.name}: {clip.name}", measured(known[clip.id].power, true_peak=known[clip.id].true_peak), "clip")
            for lane, clip in clips
            if clip.id in known
        ),
    ]


def rows_of(project: Project, level: Level) -> list[Row]:
    """The mix, all speech, all music, and every lane that sounds."""
    parts = workspace().loudness.parts(project)
    rows = [Row("Mix", level.loudness, "mix")]
    for name, stem, power in (("Speech", "speech", parts.speech), ("Music", "music", parts.music)):
        if power.any():
            rows.append(Row(name, measured(power, true_peak=level.stem_peak.get(stem, 0.0)), stem))
    for lane in project.lanes:
        if lane.id in parts.lanes:
            peak = level.lane_peak.get(lane.id, 0.0)
            rows.append(Row(lane.name, measured(parts.lanes[lane.id], true_peak=peak), "lane"))
    return rows


@blueprint.get("/measured")
def measure(project_id: int) -> ResponseReturnValue:
    """The finished mix measured, as a fragment of the page; it holds what the strip under the lanes draws."""
    project = projects.load(db(), project_id)
    if not project.length_n:
        return render_template("project/_measured.html", project=project, rows=[], places=[], drawn=None)
    found = workspace().loudness.mix(project)
    short = found.short_term_lufs[DRAWN_STEPS - 1 :: DRAWN_STEPS]
    reduction = np.pad(found.reduction_db, (0, -len(found.reduction_db) % DRAWN_STEPS)).reshape(-1, DRAWN_STEPS)
    places = found.places(len(found.reduction_db))
    drawn = {
        "revision": project.revision,
        "step_n": DRAWN_STEPS * 4800,
        "lufs": [round(value, 1) if value > -90 else None for value in short.tolist()],
        "reduction_db": reduction.max(axis=1).round(1).tolist(),
        "target_lufs": project.settings.target_lufs,
        "tolerance_lu": tolerance_of(project),
    }
    return render_template(
        "project/_measured.html",
        project=project,
        rows=clip_rows(project, found) if request.args.get("of") == "clips" else rows_of(project, found),
        places=places[:MOST_PLACES],
        all_places=len(places),
        off_lu=found.loudness.integrated_lufs - project.settings.target_lufs,
        tolerance_lu=drawn["tolerance_lu"],
        soft=len(subjects(project, Subject.SOFT, (), lambda: workspace().loudness.loud(project).values())),
        drawn=drawn,
    )


@blueprint.get("/measured/share")
def share(project_id: int) -> ResponseReturnValue:
    """How much of the mix is measured by now, in words."""
    return f"Measuring the mix … {100 * workspace().loudness.share(project_id):.0f} %"


# — matching —


@blueprint.get("/match")
def preview(project_id: int) -> ResponseReturnValue:
    """From and to of every clip, before anything is changed. Doing it is a command."""
    asked = request.args.to_dict()
    numbers = [n for part in asked.pop("clip_ids", "").split(",") if (n := number_in(part)) is not None]
    how = MATCH.checked({**asked, "clip_ids": numbers})
    try:
        found = matches(projects.load(db(), project_id), workspace().provider(db(), project_id), **how)
    except Refused as why:
        return render_template("project/_match.html", found=[], why=str(why))
    return render_template("project/_match.html", found=found, unit=UNITS[how["by"]])


# — targets —


@blueprint.get("/targets")
def table(project_id: int) -> ResponseReturnValue:
    """The table of targets."""
    project = projects.load(db(), project_id)
    return render_template("project/_targets.html", project=project, **context(project))


@blueprint.post("/targets")
def add(project_id: int) -> ResponseReturnValue:
    """Add one of one's own; the answer is the table."""
    sent = body()
    figures = {
        name: KNOB[knob].checked(sent.get(name, math.nan))
        for name, knob in (("lufs", "target_lufs"), ("dbtp", "ceiling_dbtp"))
    }
    source = str(sent.get("source") or "").strip()[:300]
    made = Target(
        clean_name(sent.get("name")), figures["lufs"], figures["dbtp"], USUAL_TOLERANCE_LU, source=source or "own"
    )
    targets.add(db(), made)
    return table(project_id)


@blueprint.post("/targets/<int:target_id>/remove")
def remove(project_id: int, target_id: int) -> ResponseReturnValue:
    """Remove one of one's own; the answer is the table."""
    targets.remove(db(), target_id)
    return table(project_id)
