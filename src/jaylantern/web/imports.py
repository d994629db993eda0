"""Bringing files in: announce, send the parts, hand to the worker. Names are for people, never for paths."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, current_app, jsonify, request
from flask.typing import ResponseReturnValue

from jaylantern.core.edit.landing import Landing
from jaylantern.core.timeline.kinds import ID, LARGEST_ID, TIME, Choice, Integer
from jaylantern.core.timeline.timecode import rate_of_text
from jaylantern.errors import InvalidValue, Refused
from jaylantern.store import jobs, projects
from jaylantern.store.connection import atomic
from jaylantern.support import system
from jaylantern.support.turns import Turns
from jaylantern.web.connection import db, queue, workspace
from jaylantern.web.fields import argument, body, value

blueprint = Blueprint("imports", __name__)
LARGEST_FILE_BYTES = 64 * 1024**3
PART_BYTES = 8 * 1024**2
COPY_BYTES = 1 << 20
_turns = Turns()


@blueprint.post("/projects/<int:project_id>/imports")
def announce(project_id: int) -> ResponseReturnValue:
    """Say what is coming: name, size and place; the answer names the token to send its parts under."""
    sent = body(cleaned=True)
    name = _clean(sent.get("name"))
    size = value(sent, "size_bytes", Integer(0, LARGEST_ID, "bytes"))
    at_n = value(sent, "at_n", TIME)
    projects.card(db(), project_id)
    if not size:
        raise InvalidValue(f"{name} is empty (0 bytes). Export it again and bring in the new file.")
    limit = current_app.config.get("LARGEST_FILE_BYTES", LARGEST_FILE_BYTES)
    if size > limit:
        raise InvalidValue(f"{name} has {_said(size)}; files up to {_said(limit)} can be brought in.")
    if size > workspace().folder.free_bytes():
        raise Refused(
            f"{name} has {_said(size)}, but only {_said(workspace().folder.free_bytes())} are free in the data folder."
        )
    token = jobs.create_upload(db(), project_id, name=name, size_bytes=size, at_n=at_n, more=_more(sent))
    workspace().folder.incoming(token).touch()
    return jsonify(token=token, part_bytes=PART_BYTES)


def _more(sent: dict[str, Any]) -> dict[str, Any]:
    """What else is said of a file: which missing one it is, or that it is "any" of them; how and where it lands, and
    with which others it came; the rate of a list."""
    more: dict[str, Any] = {}
    meant = sent.get("relink")
    if meant is not None:
        more["relink"] = "any" if meant == "any" else value(sent, "relink", ID)
    if sent.get("how") is not None:
        more["how"] = str(value(sent, "how", Choice(Landing)))
    if sent.get("lane_id") is not None:
        more["lane_id"] = value(sent, "lane_id", ID)
    if sent.get("batch"):
        more |= {"batch": str(sent["batch"])[:60], "row": "one" if sent.get("row") == "one" else "own"}
    if sent.get("fps"):
        more["fps"] = str(rate_of_text(str(sent["fps"])))
    return more


def _clean(name: object) -> str:
    """The last part of a file's name, printable, at most 200 characters."""
    text = str(name or "").replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in text if c.isprintable()).strip()[:200] or "unnamed file"


def _said(size: int) -> str:
    for factor, unit in ((1024**3, "GiB"), (1024**2, "MiB"), (1024, "KiB")):
        if size >= factor:
            return f"{size / factor:.1f} {unit}"
    return f"{size} bytes"


@blueprint.get("/imports/<token>")
def received(token: str) -> ResponseReturnValue:
    """How many bytes of an announced file have arrived."""
    known = _known(token)
    if known is not None:
        return jsonify(known)
    upload = jobs.get_upload(db(), token)
    return jsonify(received_bytes=workspace().folder.incoming(upload.token).stat().st_size, job=None)


def _known(token: str) -> dict[str, int] | None:
    """What is answered of a file that was whole before: all of it has come, and this is its job."""
    job = jobs.of_token(db(), token)
    return None if job is None else {"received_bytes": job.payload["size_bytes"], "job": job.id}


@blueprint.put("/imports/<token>")
def part(token: str) -> ResponseReturnValue:
    """The next part, raw, beginning at `offset`. The last one makes the job; its number is in the answer. A part that
    comes again, even at the same time, changes nothing, and is answered the same."""
    with _turns.of(token):
        return _part(token)


def _part(token: str) -> ResponseReturnValue:
    known = _known(token)
    if known is not None:
        return jsonify(known)
    upload = jobs.get_upload(db(), token)
    offset = argument("offset", Integer(0, upload.size_bytes))
    path = workspace().folder.incoming(upload.token)
    have = path.stat().st_size
    if offset + (request.content_length or 0) <= have < upload.size_bytes:
        return jsonify(received_bytes=have, job=None)
    if offset != have:
        return jsonify(received_bytes=have), 409
    with path.open("r+b") as file:
        file.seek(offset)
        while block := request.stream.read(COPY_BYTES):
            if file.tell() + len(block) > upload.size_bytes:
                raise InvalidValue(f"{upload.name} grew while it was being read; bring it in again.")
            file.write(block)
        file.flush()
        have = file.tell()
        if have == upload.size_bytes:
            system.flush_to_disk(file)
    return jsonify(received_bytes=have, job=_begin(upload) if have == upload.size_bytes else None)


def _begin(upload: jobs.Upload) -> int:
    """Make the job of a file that is whole."""
    with atomic(db()):
        job_id = jobs.create(
            db(),
            upload.project_id,
            kind="import",
            title=upload.name,
            payload={
                "token": upload.token,
                "name": upload.name,
                "at_n": upload.at_n,
                "size_bytes": upload.size_bytes,
                **upload.more,
            },
        )
        jobs.drop_upload(db(), upload.token)
    queue().wake(job_id)
    return job_id


@blueprint.delete("/imports/<token>")
def stop(token: str) -> ResponseReturnValue:
    """Give up an announced file; nothing of it is kept."""
    upload = jobs.get_upload(db(), token)
    jobs.drop_upload(db(), upload.token)
    workspace().folder.remove(db(), f"incoming/{upload.token}")
    return "", 204
