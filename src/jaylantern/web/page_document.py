"""The page document: one JSON document of a project and all that follows from it, which the page draws."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

import numpy as np
from flask import jsonify, request
from flask.typing import ResponseReturnValue

from jaylantern.core.captions import placing
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.curves import CurveKey
from jaylantern.core.ducking.dips import Dip
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.ducking.plan import Plan
from jaylantern.core.ducking.sidechain import law_of
from jaylantern.core.edit import corrections
from jaylantern.core.memo import Memo, Same, anew
from jaylantern.core.signal.peaks import BASE_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.captions import Captions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.described import flat
from jaylantern.core.timeline.kinds import TIME
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.perch import perch_of_lane
from jaylantern.core.timeline.settings import KNOBS, SHAPING, Mode, Settings
from jaylantern.media.names import as_people_write
from jaylantern.pipeline import DuckingResult
from jaylantern.store import edits
from jaylantern.store import media as media_store
from jaylantern.web.connection import as_far_as_it_goes, db, workspace
from jaylantern.web.fields import argument
from jaylantern.workspace.workspace import Workspace

FINE_N = 1200 * RATE  # a longer stretch in view is shown by outlines
MIXED = "mixed"  # what a lane is called whose clips differ
View = tuple[int, int] | None


def answered(project_id: int, **more: Any) -> ResponseReturnValue:
    """The document as an answer, with something more in it."""
    view, lean = in_view(), "lean" in request.args
    found = as_far_as_it_goes(project_id, lambda: page_document(db(), workspace(), project_id, view, weighed=not lean))
    return jsonify({**found, **more})


def in_view() -> View:
    """The stretch of timeline the page has in view and would see every detail of; None where it looks at more."""
    if "from_n" not in request.args:
        return None
    from_n, to_n = (argument(name, TIME) for name in ("from_n", "to_n"))
    return (from_n, to_n) if from_n < to_n <= from_n + FINE_N else None


def page_document(
    db: sqlite3.Connection, workspace: Workspace, project_id: int, view: View = None, *, weighed: bool = True
) -> dict[str, Any]:
    """Everything the page draws of a project, as values fit for JSON. Times are samples at 48 kHz.

    `weighed`: with what makes plain as loud as ducked, which takes longer than all the rest.
    """
    project, result = workspace.load(db, project_id)
    plan, steps, late = result.plan, edits.steps(db, project_id), picture.out_of_step(project)
    media = {c.media.id: c.media for _, c in project.placed()}
    media |= {brought.media.id: brought.media for brought in media_store.of_project(db, project_id)}
    return {
        "id": project.id,
        "name": project.name,
        "revision": project.revision,
        "rate": RATE,
        "length_n": project.length_n,
        "markers": [flat(marker) for marker in project.markers],
        "in_n": project.in_n,
        "out_n": project.out_n,
        "undo": steps.undo,
        "redo": steps.redo,
        "undo_id": steps.undo_id,
        "redo_id": steps.redo_id,
        "settings": vars(project.settings),
        "mode": project.settings.mode,
        "captions": [_captions(each) for each in project.captions],
        "held": None if project.held is None else project.held.letter,
        "pairs": _pairs(plan),
        "limits": {knob.name: (knob.low, knob.high) for knob in KNOBS},
        "lanes": [_lane(lane, plan, late, workspace.memo) for lane in project.lanes],
        "media": {str(number): _medium(workspace, each, result) for number, each in media.items()},
        "passages": _passages(plan),
        "set_aside": corrections.set_aside(project, plan) if project.speech_pins else [],
        "over": _pair(plan, plan.uppers[0]) if plan.uppers else None,
        "speech": plan.speech.tolist(),
        "curves": curves_in(plan, view),
        "leading": _name(plan.leading_key) if plan.leading_key else None,
        "transfer": _transfer(project.settings) if project.settings.mode is Mode.COMPRESSOR else None,
        **({"match_db": round(result.match_db, 2)} if weighed else {}),
    }


def _captions(captions: Captions) -> dict[str, Any]:
    """Captions without their cues, which are fetched by themselves; `loose`: cues tied to the timeline alone;
    `encoding`: how its letters were read where that had to be guessed."""
    return {
        "id": captions.id,
        "name": captions.name,
        "checked": captions.checked,
        "count": len(captions.cues),
        "loose": placing.loose(captions),
        "encoding": captions.encoding,
    }


def _pairs(plan: Plan) -> list[dict[str, Any]]:
    """Every pair of perches that matters, with what it has of its own and what is in force."""
    project = plan.project
    names = {perch_of_lane(lane.id): lane.name for lane in project.lanes}
    return [
        {
            "upper": str(upper),
            "lower": str(lower),
            "upper_word": names.get(upper, str(upper)),
            "lower_word": names.get(lower, str(lower)),
            "own": dict(project.own_of_pair(upper, lower).values),
            "settings": {name: getattr(settings, name) for name in (*SHAPING, "duck_by")},
        }
        for lower, above in plan.order.above.items()
        for upper, settings in above.items()
    ]


def _transfer(settings: Settings) -> dict[str, Any]:
    """The static curve of the compressor: level of the key, and by how much the music goes down."""
    level = np.arange(-60.0, 0.5, 1.0, dtype=np.float32)
    reduction = law_of(settings).reduction_db(level)
    return {"level_db": level.tolist(), "gain_db": np.round(settings.output_db - reduction, 2).tolist()}


def _passages(plan: Plan) -> list[dict[str, Any]]:
    """Each passage; `pair` names the pair whose settings are in force there, where it is not the only one."""
    found = [_passage(passage, dip) for passage, dip in zip(plan.passages, plan.dips, strict=True)]
    if len(set(plan.uppers)) > 1:
        return [{**each, "pair": _pair(plan, upper)} for each, upper in zip(found, plan.uppers, strict=True)]
    return found


def _pair(plan: Plan, upper: str) -> str:
    """What the pair of the leading curve under a perch is called."""
    return f"{upper}>{plan.leading_key[1]}" if plan.leading_key else ""


def _passage(passage: Passage, dip: Dip) -> dict[str, Any]:
    """`own` is what its dip has of its own, `touched` whether its extent was corrected by hand."""
    own = {"own": dict(passage.own.values), "none": passage.own.none} if passage.pin else {}
    return {
        "start_n": passage.start_n,
        "stop_n": passage.stop_n,
        "dip": vars(dip),
        **own,
        **({"touched": True} if passage.touched else {}),
    }


def _name(key: CurveKey) -> str:
    """What a curve is called in the document."""
    return f"{key[0]} {key[1]}"


def _lane(lane: Lane, plan: Plan, late: Mapping[int, int], memo: Memo) -> dict[str, Any]:
    """A lane as it is, with what its clips make of it: `shown_tag`, and whether it `speaks`."""
    faded = {clip.id: (coming.length_n, going.length_n) for clip, coming, going in lane.fades()}
    return {
        **flat(lane),
        "shown_tag": lane.common_tag or MIXED,
        "speaks": lane.kind is LaneKind.SOUND and any(lane.tag_of(clip).speaks for clip in lane.clips),
        "clips": [_clip(lane, clip, faded[clip.id], plan, late.get(clip.id), memo) for clip in lane.clips],
    }


def _clip(
    lane: Lane, clip: Clip, faded_n: tuple[int, int], plan: Plan, late_n: int | None, memo: Memo
) -> dict[str, Any]:
    """A clip as it is, with what its lane and its neighbours make of it: `shown_tag`; `curve` names the curve it
    follows, None if none; `heard_in_n` and `heard_out_n` are the fades as they sound, where clips overlap as long as
    the overlap; `ride` is the leveller's gain line; `late_n` by how much it is heard later than its picture is seen,
    where that is not at once.
    """
    key, ride = plan.key_of(lane, clip), plan.rides.get(clip.id)
    role = plan.order.role(lane, clip)
    around = (lane.tag, faded_n, key, role, late_n)
    return (memo if ride is None else anew)(
        ("page clip", Same(clip), *around),
        lambda: {
            **flat(clip),
            "shown_tag": lane.tag_of(clip),
            "heard_in_n": faded_n[0],
            "heard_out_n": faded_n[1],
            "role": role,
            "curve": None if key is None else _name(key),
            "ride": _ride(ride),
            **({} if late_n is None else {"late_n": late_n}),
        },
    )


def _ride(line: Curve | None) -> dict[str, Any] | None:
    """The leveller's gain line of a clip."""
    return None if line is None else {"time_n": line.time_n.tolist(), "gain_db": line.gain_db.tolist()}


def _medium(workspace: Workspace, media: Media, result: DuckingResult) -> dict[str, Any]:
    """What a medium is; `sung`: where in it somebody sings, where that is known; `folds`:
    where tailored music is folded; media time."""
    fact = result.facts.get(media.id)
    sung = [] if fact is None else fact.singing.tolist()
    about = workspace.library.about(media)
    return {
        "name": media.name,
        "length_n": media.length_n,
        "sound_n": about.sound_n,
        "channels": about.channels,
        "sound_word": as_people_write(about.sound_word),
        "base_n": BASE_N,
        "level_counts": about.level_counts,
        "picture_mime": workspace.library.picture_mime(media),
        "picture_word": as_people_write(about.picture_word),
        "fps": about.fps,
        "width": about.width,
        "height": about.height,
        "thumbs": about.thumbs,
        "missing": media.missing,
        **({"sung": sung} if sung else {}),
        **({} if media.tailored is None else {"folds": [at_n for at_n, _, _ in media.tailored.cut.folds]}),
    }


def curves_in(plan: Plan, view: View = None) -> dict[str, Any]:
    """The curves by name. `ramp`: codes of bent ramps, where there are any; `pins`: index and number of the points set
    by hand; `fine`: of an outline, the stretch within which it is exact."""
    return {_name(key): _curve(plan, key, view) for key in plan.curves}


def _curve(plan: Plan, key: CurveKey, view: View) -> dict[str, Any]:
    rough, pin_of = plan.curves.rough(key), plan.pin_of.get(key)
    curve = plan.curves.exact_within(key, *view) if rough and view else plan.curves.outline(key)
    found: dict[str, Any] = {"time_n": curve.time_n.tolist(), "gain_db": np.round(curve.gain_db, 3).tolist()}
    if not curve.straight:
        found["ramp"] = curve.ramp.tolist()
    if rough:
        found["fine"] = view or (0, 0)
    if pin_of is not None:
        found["pins"] = [[i, pin] for i, pin in enumerate(pin_of) if pin]
    return found
