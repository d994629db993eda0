"""Presets: the list, keeping one's own, their JSON file. Applying one is a command."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.core.timeline import presets
from jaylantern.core.timeline.kinds import number_in
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue
from jaylantern.store import presets as kept
from jaylantern.store import projects
from jaylantern.web.connection import db
from jaylantern.web.fields import body

blueprint = Blueprint("presets", __name__, url_prefix="/projects/<int:project_id>/presets")
LARGEST_TEXT = 2_000_000


def _like(settings: Any, values: Any) -> bool:
    """Are the settings just what a preset asks for?"""
    return all(getattr(settings, name) == value for name, value in presets.in_full(values).items())


def context(project: Project) -> dict[str, Any]:
    """What the list of presets speaks of."""
    return {
        "ours": [(each, _like(project.settings, each.settings)) for each in presets.OURS],
        "own": [(each, _like(project.settings, each.settings)) for each in kept.all_of(db())],
        "others": [card for card in projects.cards(db()) if card.id != project.id][:30],
    }


@blueprint.get("")
def look(project_id: int) -> ResponseReturnValue:
    """The list."""
    project = projects.load(db(), project_id)
    return render_template("project/_presets.html", project=project, **context(project))


@blueprint.post("/keep")
def keep(project_id: int) -> ResponseReturnValue:
    """Keep the present settings under a name (`name`), or those of a file's text (`text`); the answer is the list."""
    sent = body()
    project = projects.load(db(), project_id)
    if "text" in sent:
        if not isinstance(sent["text"], str) or len(sent["text"]) > LARGEST_TEXT:
            raise InvalidValue("This is no file of presets: it is not text, or far too long.")
        kept.keep(db(), presets.from_json(sent["text"]))
    elif "settings" in sent:
        kept.keep(db(), {presets.clean_name(sent.get("name")): presets.checked(sent["settings"])})
    else:
        kept.keep(db(), {presets.clean_name(sent.get("name")): presets.of_settings(project.settings)})
    return render_template("project/_presets.html", project=project, **context(project))


@blueprint.post("/<int:preset_id>/rename")
def rename(project_id: int, preset_id: int) -> ResponseReturnValue:
    """Give one another name; the answer is the list."""
    kept.rename(db(), preset_id, body().get("name"))
    return look(project_id)


@blueprint.post("/<int:preset_id>/remove")
def remove(project_id: int, preset_id: int) -> ResponseReturnValue:
    """Remove one; the answer is the list, with a way to put it back."""
    gone = kept.remove(db(), preset_id)
    project = projects.load(db(), project_id)
    return render_template("project/_presets.html", project=project, gone=gone, **context(project))


@blueprint.get("/file")
def file(project_id: int) -> ResponseReturnValue:
    """One's own presets as a JSON file; only one of them with `id`."""
    projects.card(db(), project_id)
    wanted = request.args.get("id", "")
    found = kept.all_of(db())
    if wanted:
        number = number_in(wanted)
        found = [] if number is None else [kept.get(db(), number)]
    text = presets.to_json({each.name: each.settings for each in found})
    answer = Response(text, mimetype="application/json")
    answer.headers["Content-Disposition"] = "attachment; filename=jay-lantern-presets.json"
    return answer
