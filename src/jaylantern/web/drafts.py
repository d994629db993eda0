"""The two drafts: what differs and what comes of it, what the page draws and plays of the held one, the blind round."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from typing import Any

from flask import Blueprint, jsonify
from flask.typing import ResponseReturnValue

from jaylantern.core.ducking import blind, tuning
from jaylantern.core.ducking.scales import MARKS
from jaylantern.core.edit import drafts
from jaylantern.core.edit.drafts import Difference
from jaylantern.core.timeline.held_draft import Letter
from jaylantern.core.timeline.kinds import Choice, Ids
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.pin import Own
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, KNOBS, OPTION, value_words
from jaylantern.errors import InvalidValue
from jaylantern.pipeline import DuckingResult
from jaylantern.store import projects
from jaylantern.web.connection import db, workspace
from jaylantern.web.fields import body, value
from jaylantern.web.page_document import curves_in

blueprint = Blueprint("drafts", __name__, url_prefix="/projects/<int:project_id>/drafts")
OF_WHAT = {"comp_": "compressor", "limiter_": "limiter"}  # settings that share their label with others
FIELDS = {
    "perches": "Pecking order",
    "speech_pins": "Passages corrected",
    "dip_pins": "Dips with values of their own",
    "point_pins": "Points by hand",
    "frozen": "Frozen lanes",
}
Row = tuple[str, str, str]


@blueprint.get("/held")
def held(project_id: int) -> ResponseReturnValue:
    """Of the held draft: its curves, outlined, and by how many dB louder the whole of it is than the present one."""
    project = projects.load(db(), project_id)
    beside = drafts.as_project(project)
    present, other = workspace().result(project), workspace().result(beside)
    louder = other.standing.whole_lufs - present.standing.whole_lufs
    return jsonify({
        "revision": project.revision,
        "louder_db": round(louder, 2) if abs(louder) < float("inf") else 0.0,
        "curves": curves_in(other.plan),
    })  # fmt: skip


@blueprint.get("/blind")
def draw(project_id: int) -> ResponseReturnValue:
    """The order of a blind round: for each listen whether it is the held draft."""
    project = projects.load(db(), project_id)
    drafts.as_project(project)
    order = blind.drawn(secrets.randbelow)
    return jsonify({"order": order, "held": [letter is not drafts.present(project) for letter in order]})


@blueprint.post("/blind")
def tell(project_id: int) -> ResponseReturnValue:
    """What came of a blind round: its `order`, and the listens that were `liked`, from 0."""
    sent = body()
    order = sent.get("order")
    if not isinstance(order, list):
        raise InvalidValue("A blind round is four listens, two of each draft.")
    letters = [Choice(Letter).checked(each, "A listen") for each in order]
    best, said = blind.verdict([Letter(each) for each in letters], value(sent, "liked", Ids()))
    return jsonify({"letter": best, "said": said})


def context(project: Project, result: DuckingResult) -> dict[str, Any]:
    """What the card speaks of: rows of what differs and of what comes of it, draft A first."""
    if project.held is None:
        return {"drafts": None}
    beside = drafts.as_project(project)
    here, there = (project, result), (beside, workspace().result(beside))
    present = drafts.present(project)
    (a, of_a), (b, of_b) = (here, there) if present is Letter.A else (there, here)
    figures = zip(_figures(of_a).items(), _figures(of_b).values(), strict=True)
    return {
        "drafts": {
            "present": present,
            "differ": [_row(project, each) for each in drafts.differences(a, b)],
            "comes": [(what, one, other) for (what, one), other in figures],
        }
    }


def _figures(result: DuckingResult) -> Mapping[str, str]:
    found, standing = tuning.figures(result.plan, result.clear), result.standing
    marks = MARKS[result.project.settings.clear_in]
    return {
        "Music at full level": f"{found.full:.0%}",
        "Dips": str(found.dips),
        "Flutter": str(found.flutter),
        "Least clear passage": "—" if found.clear is None else marks.in_words(found.clear),
        "Passages under the wish": f"{standing.under} of {standing.passages}",
        "Loudness": f"{standing.whole_lufs:.1f} LUFS".replace("-", "−") if standing.whole_lufs > -70 else "silent",
    }


def _row(project: Project, each: Difference) -> Row:
    """A difference in words."""
    names = {perch_of_lane(lane.id): lane.name for lane in project.lanes}
    if isinstance(each.what, tuple):
        upper, lower = (names.get(perch, perch) for perch in each.what)
        return f"{lower.capitalize()} under {upper}", _own(each.one), _own(each.other)
    if each.what == "perches":
        one, other = (", ".join(names.get(name, name) for name in side) for side in (each.one, each.other))
        return FIELDS["perches"], one, other
    if each.what == "frozen":
        lanes = {lane.id: lane.name for lane in project.lanes}
        one, other = (", ".join(lanes[number] for number in side) or "none" for side in (each.one, each.other))
        return FIELDS["frozen"], one, other
    if each.what in FIELDS:
        count = len(each.other)
        return FIELDS[each.what], str(len(each.one)), f"{count}{' others' if count == len(each.one) else ''}"
    return _label(each.what), _said(each.what, each.one), _said(each.what, each.other)


def _own(own: Own) -> str:
    if own.none:
        return "no dip"
    return ", ".join(f"{_label(name)} {_said(name, each)}" for name, each in own.values.items()) or "as the project"


def _label(name: str) -> str:
    """What a setting is called where others stand around it."""
    if name in OPTION:
        return OPTION[name].label
    label = KNOB[name].label
    shared = sum(knob.label == label for knob in KNOBS) > 1
    what = next((word for begin, word in OF_WHAT.items() if name.startswith(begin)), None) if shared else None
    return f"{label} of the {what}" if what else label


def _said(name: str, setting: Any) -> str:
    """A value with its unit."""
    words = value_words(name, setting)
    return words if name in OPTION else words.replace("-", "−")
