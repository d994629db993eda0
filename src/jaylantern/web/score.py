"""The score: one JSON document of a project and all that follows from it, which the page draws."""

from __future__ import annotations

import math
import sqlite3
from typing import Any

from jaylantern.core import pecking
from jaylantern.core.curve import Curve
from jaylantern.core.model import Clip, Lane, Media
from jaylantern.core.peaks import BASE_N
from jaylantern.core.settings import KNOBS
from jaylantern.core.timebase import RATE
from jaylantern.store import edits
from jaylantern.store import media as media_store
from jaylantern.workbench import Workbench


def score(db: sqlite3.Connection, bench: Workbench, project_id: int) -> dict[str, Any]:
    """Everything the page draws of a project, as values fit for JSON. Times are samples at 48 kHz."""
    project, decided = bench.load(db, project_id)
    steps = edits.steps(db, project_id)
    media = {c.media.id: c.media for _, c in project.placed()}
    media |= {brought.media.id: brought.media for brought in media_store.of_project(db, project_id)}
    return {
        "id": project.id,
        "name": project.name,
        "revision": project.revision,
        "rate": RATE,
        "length_n": project.length_n,
        "markers": [vars(marker) for marker in project.markers],
        "in_n": project.in_n,
        "out_n": project.out_n,
        "undo": steps.undo,
        "redo": steps.redo,
        "settings": vars(project.settings),
        "limits": {knob.name: (knob.low, knob.high) for knob in KNOBS},
        "lanes": [_lane(lane) for lane in project.lanes],
        "media": {str(number): _medium(bench, each) for number, each in media.items()},
        "passages": [
            {"start_n": passage.start_n, "stop_n": passage.stop_n, "clear_lu": _number(lu), "dip": vars(dip)}
            for passage, dip, lu in zip(decided.plan.passages, decided.plan.dips, decided.clear_lu, strict=True)
        ],
        "speech": decided.plan.speech.tolist(),
        "curves": {tag: _curve(curve) for tag, curve in decided.plan.curves.items()},
        "speech_lufs": _number(decided.speech_lufs),
    }


def _lane(lane: Lane) -> dict[str, Any]:
    faded = {clip.id: (coming.length_n, going.length_n) for clip, coming, going in lane.fades()}
    return {
        "id": lane.id,
        "name": lane.name,
        "kind": lane.kind,
        "tag": lane.tag,
        "gain_db": lane.gain_db,
        "muted": lane.muted,
        "soloed": lane.soloed,
        "bystander": lane.bystander,
        "clips": [_clip(lane, clip, faded[clip.id]) for clip in lane.clips],
    }


def _clip(lane: Lane, clip: Clip, faded_n: tuple[int, int]) -> dict[str, Any]:
    """`heard_in_n` and `heard_out_n` are the fades as they sound: where clips overlap, as long as the overlap."""
    return {
        "id": clip.id,
        "media_id": clip.media.id,
        "name": clip.name,
        "start_n": clip.start_n,
        "offset_n": clip.offset_n,
        "length_n": clip.length_n,
        "tag": lane.tag_of(clip),
        "own_tag": clip.tag,
        "gain_db": clip.gain_db,
        "muted": clip.muted,
        "link": clip.link,
        "channels": clip.channels,
        "fade_in_n": clip.fade_in.length_n,
        "fade_in_shape": clip.fade_in.shape,
        "fade_out_n": clip.fade_out.length_n,
        "fade_out_shape": clip.fade_out.shape,
        "heard_in_n": faded_n[0],
        "heard_out_n": faded_n[1],
        "bystander": clip.bystander,
        "role": pecking.role(lane, clip),
    }


def _medium(bench: Workbench, media: Media) -> dict[str, Any]:
    about = bench.about(media)
    return {
        "name": media.name,
        "length_n": media.length_n,
        "sound_n": about.sound_n,
        "channels": about.channels,
        "sound_word": about.sound_word,
        "base_n": BASE_N,
        "level_counts": about.level_counts,
        "picture_mime": bench.picture_mime(media),
        "picture_word": about.picture_word,
        "fps": about.fps,
        "width": about.width,
        "height": about.height,
        "thumbs": about.thumbs,
    }


def _curve(curve: Curve) -> dict[str, Any]:
    return {"time_n": curve.time_n.tolist(), "gain_db": [round(gain, 3) for gain in curve.gain_db.tolist()]}


def _number(value: float) -> float | None:
    """Rounded to a tenth; None where it is not finite."""
    return round(value, 1) if math.isfinite(value) else None
