"""The Voice card of Level: what was heard of a voice, what is done to it and what that does, a suggestion."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.core.care.suggestions import suggested
from jaylantern.core.signal.intervals import Intervals, clipped, total_n
from jaylantern.core.signal.loudness import STEP_N, KWeighting
from jaylantern.core.timeline.care import Care
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.kinds import LINK
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.jobs import care as treating
from jaylantern.store import projects
from jaylantern.web.connection import db, queue, workspace
from jaylantern.web.fields import argument

blueprint = Blueprint("care", __name__, url_prefix="/projects/<int:project_id>")
MEASURED_N = 40 * STEP_N * 10  # of speech, at most: what care does to loudness is measured on so much
MOST_PLACES = 200
SOFTLY = {"soft_s": "hisses", "breaths": "breaths"}


@dataclass(frozen=True)
class Place:
    """A hiss or a breath: where on the timeline, its media time, is it left alone?"""

    time_n: int
    at_n: int
    spared: bool


def subject(project: Project, clip_id: int) -> tuple[Lane, Clip] | None:
    """The clip that is meant: the chosen one where it has sound, else the first that speaks; None for none."""
    clips = [(lane, clip) for lane, clip in project.placed() if lane.kind is LaneKind.SOUND and clip.media.has_sound]
    there = [pair for pair in clips if not pair[1].media.missing]
    chosen = [pair for pair in there if pair[1].id == clip_id]
    speaking = [(lane, clip) for lane, clip in there if lane.tag_of(clip).speaks]
    return next(iter([*chosen, *speaking]), None)


@blueprint.get("/voice")
def voice(project_id: int) -> ResponseReturnValue:
    """What is known of the voice of a clip, as a fragment."""
    project = projects.load(db(), project_id)
    for number in treating.wanted(db(), workspace().library, project):
        queue().wake(number)
    found = subject(project, argument("clip", LINK) if request.args.get("clip") else 0)
    if found is None:
        return render_template("project/_voice.html", clip=None)
    lane, clip = found
    library = workspace().library
    known = library.voice(clip.media)
    care = lane.care_set(clip)
    spoken = library.speech(clip.media, project.settings.sensitivity)
    return render_template(
        "project/_voice.html",
        project=project,
        lane=lane,
        clip=clip,
        known=known,
        care=care,
        places={part: _places(getattr(known, name), clip, care) for part, name in SOFTLY.items()},
        suggestion=suggested(known, spoken_n=total_n(spoken)).beside(care),
        change_lu=_change_lu(clip, care, spoken) if care.on else None,
        most=MOST_PLACES,
    )


def _places(spans: Intervals, clip: Clip, care: Care) -> list[Place]:
    inside = [at_n for at_n in spans[:, 0].tolist() if clip.offset_n <= at_n < clip.offset_n + clip.length_n]
    return [Place(at_n + clip.shift_n, at_n, at_n in care.spared) for at_n in inside]


def _change_lu(clip: Clip, care: Care, spoken: Intervals) -> float | None:
    """By how many LU the words of a clip become louder, and so stand clearer of what they are mixed with; measured
    on the first of them."""
    library = workspace().library
    plain, treated = library.sound(clip.media), library.cared(clip.media, care)
    here = clipped(spoken, start_n=clip.offset_n, stop_n=clip.offset_n + clip.length_n)
    powers = np.zeros(2)
    left_n = MEASURED_N
    for start_n, stop_n in here.tolist():
        last_n = min(stop_n, start_n + left_n)
        if last_n - start_n < STEP_N:
            continue
        left_n -= last_n - start_n
        for k, sound in enumerate((plain, treated)):
            powers[k] += float(KWeighting(sound.channels).products(sound.read(start_n, last_n))[:, :2].sum())
    return round(10 * float(np.log10(powers[1] / powers[0])), 1) if powers.all() else None
