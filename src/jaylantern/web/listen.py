"""Listening: short windows of the render, the same samples the export writes."""

from __future__ import annotations

import json

import numpy as np
from flask import Blueprint, Response, request

from jaylantern.core.ducking.key_level import SILENT_DB
from jaylantern.core.edit import drafts
from jaylantern.core.mixing.mix import BLOCK_N, Variant
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.kinds import TIME, Integer
from jaylantern.errors import NotFound
from jaylantern.pipeline import DuckingResult
from jaylantern.store import projects
from jaylantern.web.connection import db, workspace
from jaylantern.web.fields import argument

blueprint = Blueprint("listen", __name__, url_prefix="/projects/<int:project_id>")
LONGEST_N = 10 * RATE


@blueprint.get("/listen/<variant>")
def window(project_id: int, variant: str) -> Response:
    """Samples [start, stop) as interleaved stereo float32, with the loudness of the seconds they lie in and the peaks
    of each lane; with `held` of the held draft, while there is one."""
    if variant not in tuple(Variant):
        raise NotFound(f"There is no way to listen called {variant[:40]!r}.")
    start_n = argument("start", TIME)
    stop_n = argument("stop", Integer(start_n + 1, start_n + LONGEST_N))
    project = projects.load(db(), project_id)
    if "held" in request.args and project.held is not None:
        project = drafts.as_project(project)
    samples, meters, lanes, keys = [], [], [], []
    for k in range(start_n // BLOCK_N, -(-stop_n // BLOCK_N)):
        block = workspace().rendered.block(project, Variant(variant), k)
        samples.append(block[max(start_n - k * BLOCK_N, 0) : stop_n - k * BLOCK_N])
        meters.append(workspace().rendered.meter(project, Variant(variant), k))
        lanes.append(workspace().rendered.lane_peaks(project, Variant(variant), k))
        keys.append(_key(workspace().result(project), k))
    answer = Response(np.concatenate(samples).astype("<f4").tobytes(), mimetype="application/octet-stream")
    answer.headers["Cache-Control"] = "no-store"
    answer.headers["X-Revision"] = str(project.revision)
    answer.headers["X-Meter"] = json.dumps(
        [
            {"start_n": m.start_n, "lufs": m.lufs, "dbtp": m.dbtp, "lanes": peaks, "key": key}
            for m, peaks, key in zip(meters, lanes, keys, strict=True)
        ]
    )
    return answer


def _key(result: DuckingResult, k: int) -> list[float] | None:
    """Level of the compressor's key over each 50 ms of second k, dBFS; None where no compressor is at work."""
    level = result.key_level()
    if level is None:
        return None
    second = np.full(1000, SILENT_DB, np.float32)
    there = level[k * 1000 : (k + 1) * 1000]
    second[: len(there)] = there
    return second.reshape(20, 50).max(axis=1).round(1).tolist()
