"""The pages: one blueprint per noun; a view fetches, checks, calls the store or the workspace, answers."""

from __future__ import annotations

import hashlib
from datetime import datetime
from pathlib import Path
from typing import Any

import orjson
from flask import Flask, Response
from flask.json.provider import DefaultJSONProvider
from flask_wtf.csrf import CSRFProtect
from jinja2 import StrictUndefined
from werkzeug.routing import IntegerConverter, ValidationError

from jaylantern.core.signal import timebase
from jaylantern.core.timeline.kinds import number_in
from jaylantern.jobs.queue import Queue
from jaylantern.media import names
from jaylantern.web import (
    captions,
    care,
    connection,
    drafts,
    errors,
    exports,
    fleet,
    imports,
    jobs,
    levels,
    listen,
    media,
    pauses,
    presets,
    project,
    reports,
    safety,
    shelf,
    tagging,
    tailor,
    takes,
    tuning,
)
from jaylantern.web.doorkeeper import Doorkeeper
from jaylantern.web.sessions import Sessions
from jaylantern.workspace.workspace import Workspace

STATIC = Path(__file__).parent / "static"
JSON_OPTIONS = orjson.OPT_NON_STR_KEYS | orjson.OPT_SERIALIZE_NUMPY


class Number(IntegerConverter):
    """The number of a thing in an address: none beyond those that are given out."""

    def to_python(self, value: str) -> int:
        """The number."""
        number = number_in(value)
        if number is None:
            raise ValidationError
        return number


class Json(DefaultJSONProvider):
    """JSON as it goes to the page: quick, in the order things were said in; what is no number becomes null."""

    def dumps(self, obj: Any, **kwargs: Any) -> str:
        """A value as text."""
        return self._bytes(obj).decode()

    def loads(self, s: str | bytes, **kwargs: Any) -> Any:
        """A value from text. Raises ValueError for what is no JSON, or is nested without end."""
        try:
            return super().loads(s, **kwargs)
        except RecursionError:
            raise ValueError("It is nested too deep.") from None

    def response(self, *args: Any, **kwargs: Any) -> Response:
        """A value as an answer."""
        return Response(self._bytes(self._prepare_response_obj(args, kwargs)), mimetype=self.mimetype)

    def _bytes(self, obj: Any) -> bytes:
        try:
            return orjson.dumps(obj, default=self.default, option=JSON_OPTIONS)
        except TypeError:  # a name with half a letter in it: the slower way can write it
            return super().dumps(obj, sort_keys=False).encode()


def _fingerprint() -> str:
    """A name for all that is served as it lies in the folder, by its content."""
    digest = hashlib.sha256()
    for path in sorted(STATIC.rglob("*")):
        if path.is_file():
            digest.update(path.relative_to(STATIC).as_posix().encode() + path.read_bytes())
    return digest.hexdigest()[:12]


def _moment(stamp: str, form: str = "%Y-%m-%d %H:%M") -> str:
    """A kept moment (ISO 8601 in UTC) in this machine's own time."""
    return datetime.fromisoformat(stamp).astimezone().strftime(form)


def create_app(workspace: Workspace, *, keyed: bool = True) -> Flask:
    """The application over one data folder, which must have been prepared. Not `keyed`, it answers anybody."""
    app = Flask(__name__, static_url_path=f"/static/{_fingerprint()}")
    app.config.update(
        SECRET_KEY=workspace.folder.secret(),
        SESSION_COOKIE_NAME=f"jay-{workspace.folder.name}",  # servers of one machine share their cookies
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,  # a page stays open all day
        WTF_CSRF_SSL_STRICT=False,
        SEND_FILE_MAX_AGE_DEFAULT=365 * 24 * 3600,  # what lies under the name of its content never changes
    )
    app.json = Json(app)
    app.url_map.converters["int"] = Number
    app.extensions["workspace"], app.extensions["queue"] = workspace, Queue(workspace)
    app.session_interface = Sessions()
    safety.guard(app)
    if keyed:
        Doorkeeper(app, workspace)
    CSRFProtect(app)
    connection.install(app)
    errors.install(app)
    for module in (
        shelf,
        project,
        media,
        listen,
        imports,
        takes,
        pauses,
        tagging,
        jobs,
        exports,
        presets,
        levels,
        care,
        tailor,
        tuning,
        drafts,
        captions,
        fleet,
        reports,
    ):
        app.register_blueprint(module.blueprint)
    app.jinja_env.undefined = StrictUndefined  # what a template speaks of is there, or it is a fault
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.filters["clock"] = timebase.clock
    app.jinja_env.globals["modules"] = sorted(
        path.relative_to(STATIC / "js").as_posix() for path in (STATIC / "js").rglob("*.js")
    )
    app.jinja_env.filters["moment"] = _moment
    app.jinja_env.filters["media_word"] = names.as_people_write
    app.jinja_env.filters["fps_word"] = names.fps_word
    return app
