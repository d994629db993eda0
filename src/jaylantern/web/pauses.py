"""Cutting the pauses out of talk: what would go, and doing it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from flask import Blueprint, jsonify, request
from flask.typing import ResponseReturnValue

from jaylantern.commands import carry_out, params
from jaylantern.core.edit import pauses
from jaylantern.core.edit.draft import NewId, named, together
from jaylantern.core.edit.pauses import Pauses
from jaylantern.core.signal.timebase import ms_to_n, n_to_seconds
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue
from jaylantern.store import projects
from jaylantern.web.connection import bench, db
from jaylantern.web.fields import body, whole
from jaylantern.web.page_document import scored

blueprint = Blueprint("pauses", __name__, url_prefix="/projects/<int:project_id>/pauses")
LONGEST_MS = 60_000


def _find(project: Project, values: dict[str, Any]) -> Pauses:
    ids = params.clip_ids(values)
    heard = [*project.sounding(), *together(project, ids)]
    media = {clip.media.id: clip.media for _, clip in heard if clip.media.has_sound}
    found = pauses.find(
        project,
        {number: bench().speech(each, project.settings.sensitivity) for number, each in media.items()},
        clip_ids=ids,
        longest_n=ms_to_n(whole(values, "longest_ms", low=100, high=LONGEST_MS)),
        breath_n=ms_to_n(whole(values, "breath_ms", low=0, high=LONGEST_MS)),
        all_lanes=values.get("all_lanes") is True,
    )
    spans = picture.on_frames(project, found.spans, found.lane_ids, lambda each: bench().about(each).fps)
    return replace(found, spans=spans)


@blueprint.get("")
def look(project_id: int) -> ResponseReturnValue:
    """The stretches that would go."""
    try:
        values = {name: int(request.args[name]) for name in ("longest_ms", "breath_ms")}
        ids = [int(number) for number in request.args["clip_ids"].split(",") if number]
    except (KeyError, ValueError):
        raise InvalidValue("Say which clips, and how long pauses and breath are in milliseconds.") from None
    all_lanes = request.args.get("all_lanes") == "true"
    found = _find(projects.load(db(), project_id), {**values, "clip_ids": ids, "all_lanes": all_lanes})
    return jsonify(spans=found.spans.tolist(), lane_ids=sorted(found.lane_ids), removed_n=found.removed_n)


@blueprint.post("")
def cut(project_id: int) -> ResponseReturnValue:
    """Cut them out; the answer is the new score."""
    sent = body()

    def edit(project: Project, new_id: NewId) -> tuple[str, Project]:
        found = _find(project, sent)
        who = named([clip for _, clip in together(project, params.clip_ids(sent))])
        count = len(found.spans)
        label = f"Cut {count} pause{'s' if count > 1 else ''} ({n_to_seconds(found.removed_n):.1f} s) out of {who}"
        return label, pauses.cut(project, new_id, found, all_lanes=sent.get("all_lanes") is True)

    carry_out(db(), project_id, edit, seen=sent.get("seen"))
    return scored(project_id)
