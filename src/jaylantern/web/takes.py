"""Voice takes: begin, send what is recorded, finish, listen, keep or discard."""

from __future__ import annotations

from typing import Any

import numpy as np
from flask import Blueprint, Response, jsonify, request, send_file
from flask.typing import ResponseReturnValue

from jaylantern.core.signal import latency
from jaylantern.core.signal.timebase import RATE, amplitude_to_db
from jaylantern.core.timeline.kinds import ID, TIME, Integer, Maybe
from jaylantern.errors import InvalidValue, Refused
from jaylantern.jobs import keeping
from jaylantern.library import take_file
from jaylantern.store import jobs, media, ours, projects, takes
from jaylantern.store.connection import atomic
from jaylantern.support.turns import Turns
from jaylantern.web.connection import db, queue, workspace
from jaylantern.web.fields import argument, body, value

blueprint = Blueprint("takes", __name__)
PART_BYTES = 4 * 1024**2
SHORTEST_N = RATE // 10
LATENCY = Integer(0, 2 * RATE, "samples", "Measure the latency again.")
_turns = Turns()


def _row(take: takes.Take) -> dict[str, Any]:
    before = None if take.media_id is None else media.get(db(), take.media_id)
    length_n = take_file.received_n(workspace().folder.take(take.token)) if before is None else before.length_n
    return {**vars(take), "length_n": length_n}


@blueprint.get("/projects/<int:project_id>/takes")
def in_hand(project_id: int) -> ResponseReturnValue:
    """Takes neither kept nor discarded, those too that were broken off."""
    return jsonify(takes=[_row(take) for take in takes.in_hand(db(), project_id)])


@blueprint.post("/projects/<int:project_id>/takes")
def begin(project_id: int) -> ResponseReturnValue:
    """Begin a take at a place of the timeline."""
    sent = body()
    projects.card(db(), project_id)
    at_n = value(sent, "at_n", TIME)
    latency_n = value(sent, "latency_n", LATENCY)
    take = takes.create(db(), project_id, at_n=at_n, latency_n=latency_n)
    workspace().folder.take(take.token).touch()
    return jsonify(_row(take)), 201


@blueprint.put("/takes/<token>")
def part(token: str) -> ResponseReturnValue:
    """The next samples, raw float32, `offset` of them being there already; a part that came twice is let pass."""
    path = workspace().folder.take(takes.get(db(), token).token)
    offset = argument("offset", Integer(0, take_file.LONGEST_N))
    raw = request.get_data(cache=False)
    if len(raw) > PART_BYTES:
        raise InvalidValue(f"Parts of a take have at most {PART_BYTES} bytes.")
    with _turns.of(token):  # a page that was left and the one after it may both be sending
        have = take_file.received_n(path)
        if offset > have:
            return jsonify(received_n=have), 409
        return jsonify(received_n=take_file.append(path, raw[(have - offset) * take_file.SAMPLE_BYTES :]))


@blueprint.post("/takes/<token>/finish")
def finish(token: str) -> ResponseReturnValue:
    """All of it has been sent: make it a file that can be listened to."""
    with _turns.of(token):
        take = takes.get(db(), token)
        path = workspace().folder.take(token)
        if take.media_id is not None:
            raise Refused(f"{take.name} is finished already: keep or discard it.")
        peak = take_file.write_wav(path, path.with_suffix(".wav"))
        takes.set_state(db(), token, "recorded")
    return jsonify({**_row(takes.get(db(), take.token)), "peak_db": round(max(amplitude_to_db(peak), -120.0), 1)})


@blueprint.get("/takes/<token>/sound")
def sound(token: str) -> ResponseReturnValue:
    """The take as a WAV file, to be listened to before it is kept."""
    take = takes.get(db(), token)
    path = workspace().folder.take(token).with_suffix(".wav")
    if take.media_id is not None:
        path = workspace().folder.media(media.get(db(), take.media_id).sha256) / "original"
    if not path.exists():
        raise Refused("This take is still being recorded. Stop it first.")
    return send_file(path, mimetype="audio/wav", conditional=True, max_age=0)


@blueprint.post("/takes/<token>/keep")
def keep(token: str) -> ResponseReturnValue:
    """Lay the take where it was spoken, on a lane or on one of its own; the answer names the job that does it, null for
    one that was kept before."""
    with _turns.of(token):
        return _keep(token)


def _keep(token: str) -> ResponseReturnValue:
    sent = body()
    before = jobs.of_token(db(), token)
    if before is not None and before.active:  # kept twice at once
        return jsonify(job=before.id)
    take = takes.get(db(), token)
    latency_n = value({"latency_n": take.latency_n, **sent}, "latency_n", LATENCY)
    lane_id = value(sent, "lane_id", Maybe(ID))
    if take.media_id is not None:
        found, name = media.get(db(), take.media_id), f"{take.name}.wav"
        values = {"at_n": take.at_n, "offset_n": latency_n, "lane_id": lane_id}
        keeping.lay_take(db(), take.project_id, found, token=token, name=name, values=values)
        return jsonify(job=None)
    path = workspace().folder.take(token)
    if take_file.received_n(path) < latency_n + SHORTEST_N:
        raise Refused(f"{take.name} is too short to keep: less than a tenth of a second was spoken. Record it again.")
    ours.begin(db(), f"incoming/{token}")
    take_file.write_wav(path, workspace().folder.incoming(token))
    payload = {
        "token": token,
        "name": f"{take.name}.wav",
        "at_n": take.at_n,
        "take": {"offset_n": latency_n, "lane_id": lane_id},
    }
    with atomic(db()):
        job_id = jobs.create(db(), take.project_id, kind="import", title=take.name, payload=payload)
        takes.set_state(db(), token, "kept")  # what was recorded stays until it lies on the timeline
    queue().wake(job_id)
    return jsonify(job=job_id)


@blueprint.delete("/takes/<token>")
def discard(token: str) -> ResponseReturnValue:
    """Throw the take away."""
    take = takes.get(db(), token)
    with atomic(db()):
        takes.set_state(db(), token, "discarded")
        if take.media_id is not None:
            media.forget(db(), take.project_id, take.media_id)
    _remove(token)
    return "", 204


def _remove(token: str) -> None:
    workspace().folder.remove(db(), f"takes/{token}", f"takes/{token}.wav")


@blueprint.get("/latency")
def clicks() -> ResponseReturnValue:
    """The clicks that measure latency, raw float32 at 48 kHz."""
    answer = Response(latency.probe().astype("<f4").tobytes(), mimetype="application/octet-stream")
    answer.headers["Cache-Control"] = "no-store"
    return answer


@blueprint.post("/latency")
def measured() -> ResponseReturnValue:
    """How late the clicks arrived in what was recorded (raw float32, from the moment they began)."""
    raw = request.get_data(cache=False)
    if len(raw) > PART_BYTES or len(raw) % take_file.SAMPLE_BYTES:
        raise InvalidValue("What was recorded can't be read. Measure again.")
    found_n = latency.measure(np.nan_to_num(np.frombuffer(raw, "<f4")))
    return jsonify(latency_n=found_n)
