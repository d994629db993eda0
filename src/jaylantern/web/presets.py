"""Presets: the list, applying one, keeping one's own, their JSON file, and copying from another project."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.commands import carry_out
from jaylantern.core.edit.draft import NewId
from jaylantern.core.timeline import presets
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound
from jaylantern.store import presets as kept
from jaylantern.store import projects
from jaylantern.web.connection import db
from jaylantern.web.fields import body, whole
from jaylantern.web.page_document import scored

blueprint = Blueprint("presets", __name__, url_prefix="/projects/<int:project_id>/presets")
LARGEST_TEXT = 2_000_000


def _like(settings: Any, values: Any) -> bool:
    """Are the settings just what a preset asks for?"""
    return all(getattr(settings, name) == value for name, value in values.items())


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


@blueprint.post("/apply")
def apply(project_id: int) -> ResponseReturnValue:
    """Take over a preset of ours (`name`), one of one's own (`preset_id`), or all of another project (`from_id`)."""
    sent = body()

    def edit(project: Project, _: NewId) -> tuple[str, Project]:
        if "from_id" in sent:
            return _copied(project, whole(sent, "from_id", low=1, high=1 << 60))
        name, values = _asked(sent)
        return f"Preset {name}", replace(project, settings=project.settings.changed(values))

    carry_out(db(), project_id, edit, seen=sent.get("seen"))
    return scored(project_id)


def _asked(sent: dict[str, Any]) -> tuple[str, Any]:
    if "preset_id" in sent:
        found = kept.get(db(), whole(sent, "preset_id", low=1, high=1 << 60))
        return found.name, found.settings
    ours = next((each for each in presets.OURS if each.name == sent.get("name")), None)
    if ours is None:
        raise NotFound("That preset is not there any more. Open the card again.")
    return ours.name, ours.settings


def _copied(project: Project, from_id: int) -> tuple[str, Project]:
    """All that ducking is set to elsewhere: settings, the order of the tags, and what pairs of tags have of their own.
    Perches of lanes stay as they are here."""
    other = projects.load(db(), from_id)
    tags = {str(tag) for tag in Tag}
    pairs = [pair for pair in other.pairs if {pair.upper, pair.lower} <= tags]
    pairs += [pair for pair in project.pairs if not {pair.upper, pair.lower} <= tags]
    order = iter([perch for perch in other.perches if perch in tags and perch in project.perches])
    perches = tuple(next(order, perch) if perch in tags else perch for perch in project.perches)
    if sorted(perches) != sorted(project.perches):
        perches = project.perches
    settings = project.settings.changed(presets.of_settings(other.settings))
    return f"Ducking as in {other.name}", replace(project, settings=settings, pairs=tuple(pairs), perches=perches)


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
        found = [kept.get(db(), int(wanted))] if wanted.isdecimal() else []
    text = presets.to_json({each.name: each.settings for each in found})
    answer = Response(text, mimetype="application/json")
    answer.headers["Content-Disposition"] = "attachment; filename=jay-lantern-presets.json"
    return answer
