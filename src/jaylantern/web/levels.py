"""Level: what the mix and its parts measure, matching clips to a target, the table of targets."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.commands import carry_out, params
from jaylantern.core.edit.draft import Draft, NewId
from jaylantern.core.mixing import matching
from jaylantern.core.mixing.loudness_targets import Target
from jaylantern.core.mixing.matching import By, Match, match, shift, too_soft
from jaylantern.core.mixing.mix_metering import Level
from jaylantern.core.signal.loudness import Loudness, measured
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.presets import clean_name
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, Refused
from jaylantern.store import projects, targets
from jaylantern.web.connection import bench, db
from jaylantern.web.fields import body
from jaylantern.web.page_document import scored

blueprint = Blueprint("levels", __name__, url_prefix="/projects/<int:project_id>")
DRAWN_STEPS = 5  # short-term loudness is drawn every half second
MOST_PLACES = 12
MOST_CLIPS = 400
PEAK_BAND_DB = (-5.0, -3.0)  # where the peaks of a single lane are put: common practice
USUAL_TOLERANCE_LU = 1.0
SUBJECTS = {
    "dialogue": "Dialogue clips",
    "music": "Music clips",
    "chosen": "Chosen clips",
    "soft": "Too-soft speech",
    "mix": "The whole mix",
}
WAYS = {"each": "each clip by itself", "all": "all by one amount"}
BYS = {By.LOUDNESS: "loudness", By.TRUE_PEAK: "true peak", By.SAMPLE_PEAK: "sample peak"}
UNITS = {By.LOUDNESS: "LUFS", By.TRUE_PEAK: "dBTP", By.SAMPLE_PEAK: "dBFS"}


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
    known = bench().levels.clips(project, {clip.id for _, clip in clips})
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
    parts = bench().levels.parts(project)
    rows = [Row("Mix", level.loudness, "mix")]
    for name, tag, power in (("Speech", Tag.DIALOGUE, parts.speech), ("Music", Tag.MUSIC, parts.music)):
        if power.any():
            rows.append(Row(name, measured(power, true_peak=level.tag_peak.get(tag, 0.0)), tag))
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
    found = bench().levels.mix(project)
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
        soft=len(_soft(project)),
        drawn=drawn,
    )


@blueprint.get("/measured/share")
def share(project_id: int) -> ResponseReturnValue:
    """How much of the mix is measured by now, in words."""
    return f"Measuring the mix … {100 * bench().levels.share(project_id):.0f} %"


def _soft(project: Project) -> list[int]:
    """Clips of speech that are too soft."""
    tagged = {clip.id for lane, clip in project.sounding() if lane.tag_of(clip) is Tag.DIALOGUE}
    levels = [each for number, each in bench().levels.loud(project).items() if number in tagged]
    return [each.clip_id for each in too_soft(levels, target_lufs=project.settings.target_lufs)]


# — matching —


@dataclass(frozen=True)
class Asked:
    """What is to be matched, how and to what."""

    subject: str
    each: bool
    by: By
    target: float
    clip_ids: frozenset[int]


def _asked(values: Mapping[str, Any]) -> Asked:
    subject, way = str(values.get("subject", "dialogue")), str(values.get("how", "each"))
    if subject not in SUBJECTS or way not in WAYS:
        raise InvalidValue(f"What can be matched is one of {', '.join(SUBJECTS)}, by one of {', '.join(WAYS)}.")
    by = params.one_of(By, values.get("by", By.LOUDNESS), "What is matched")
    text = str(values.get("target", "")).strip().replace("−", "-").replace(",", ".")
    for unit in UNITS.values():
        text = text.removesuffix(unit).strip()
    try:
        target = float(text)
    except ValueError:
        raise InvalidValue(f"A target is a number of {UNITS[by]}; {text[:40]!r} is not.") from None
    if not math.isfinite(target):
        raise InvalidValue("A target is a finite number.")
    ids = values.get("clip_ids", "")
    numbers = ids if isinstance(ids, list) else [part for part in str(ids).split(",") if part.isdecimal()]
    return Asked(subject, way == "each", by, target, frozenset(int(number) for number in numbers))


def _clips_of(project: Project, subject: str, ids: frozenset[int]) -> list[tuple[Lane, Clip]]:
    tag = {"dialogue": Tag.DIALOGUE, "soft": Tag.DIALOGUE, "music": Tag.MUSIC}.get(subject)
    found = [(lane, clip) for lane, clip in project.sounding() if tag is None or lane.tag_of(clip) is tag]
    return [pair for pair in found if pair[1].id in ids] if subject == "chosen" else found


def matches(project: Project, want: Asked) -> list[tuple[Lane, Clip, Match]]:
    """What matching would do. Raises Refused where there is nothing to match."""
    clips = _clips_of(project, want.subject, want.clip_ids)
    soft = set(_soft(project)) if want.subject == "soft" else set()
    clips = [pair for pair in clips if want.subject != "soft" or pair[1].id in soft]
    known = bench().levels.clips(project, {clip.id for _, clip in clips})
    clips = [pair for pair in clips if pair[1].id in known]
    if not clips:
        what = "No clip is chosen." if want.subject == "chosen" else "There is nothing of that kind to match."
        raise Refused(f"{what} Nothing is changed.")
    levels = [known[clip.id] for _, clip in clips]
    ceiling = project.settings.ceiling_dbtp
    if want.subject == "mix":
        found = _mix_matched(project, want, levels)
    else:
        soft_only = want.subject == "soft"
        how = {"each": want.each or soft_only, "ceiling_dbtp": ceiling, "keep_under": soft_only}
        found = match(levels, target=want.target, by=want.by, **how)
    return [(lane, clip, each) for (lane, clip), each in zip(clips, found, strict=True)]


def _mix_matched(project: Project, want: Asked, levels: list[matching.Level]) -> list[Match]:
    """Every clip by what the mix is off."""
    loudness = bench().levels.mix(project).loudness
    now = loudness.integrated_lufs if want.by is By.LOUDNESS else loudness.true_peak_dbtp
    if not math.isfinite(now):
        raise Refused("The mix is silent: there is nothing to match. Unmute what is to be heard.")
    return shift(levels, want.target - now, by=want.by, ceiling_dbtp=project.settings.ceiling_dbtp)


@blueprint.get("/match")
def preview(project_id: int) -> ResponseReturnValue:
    """From and to of every clip, before anything is changed."""
    project, want = projects.load(db(), project_id), _asked(request.args)
    try:
        found = matches(project, want)
    except Refused as why:
        return render_template("project/_match.html", found=[], why=str(why))
    return render_template("project/_match.html", found=found, unit=UNITS[want.by])


@blueprint.post("/match")
def apply(project_id: int) -> ResponseReturnValue:
    """Match; one step of the history."""
    sent = body()
    want = _asked(sent)

    def edit(project: Project, _: NewId) -> tuple[str, Project]:
        draft, changed = Draft(project), 0
        for _, clip, each in matches(project, want):
            if each.change_db:
                draft.put(replace(clip, gain_db=each.gain_db))
                changed += 1
        if not changed:
            raise Refused("All of that lies where it should already. Choose another target to change it.")
        clips = f"{changed} clip{'s' if changed > 1 else ''}"
        return f"Match {BYS[want.by]} of {clips} to {want.target:g} {UNITS[want.by]}", draft.finish()

    carry_out(db(), project_id, edit, seen=sent.get("seen"))
    return scored(project_id)


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
    targets.add(
        db(), Target(clean_name(sent.get("name")), **figures, tolerance_lu=USUAL_TOLERANCE_LU, source=source or "own")
    )
    return table(project_id)


@blueprint.post("/targets/<int:target_id>/remove")
def remove(project_id: int, target_id: int) -> ResponseReturnValue:
    """Remove one of one's own; the answer is the table."""
    targets.remove(db(), target_id)
    return table(project_id)
