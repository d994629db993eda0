"""The pages: one blueprint per noun; a view fetches, checks, calls the store or the workbench, answers."""

from __future__ import annotations

from datetime import datetime

from flask import Flask
from flask_wtf.csrf import CSRFProtect

from jaylantern.core import timebase
from jaylantern.jobs.queue import Queue
from jaylantern.web import (
    connection,
    errors,
    exports,
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
    shaping,
    shelf,
    tagging,
    takes,
)
from jaylantern.workbench import Workbench


def _moment(stamp: str, form: str = "%Y-%m-%d %H:%M") -> str:
    """A kept moment (ISO 8601 in UTC) in this machine's own time."""
    return datetime.fromisoformat(stamp).astimezone().strftime(form)


def create_app(bench: Workbench) -> Flask:
    """The application over one data folder, which must have been prepared."""
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=bench.secret(),
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,  # a page stays open all day
        WTF_CSRF_SSL_STRICT=False,
    )
    app.json.sort_keys = False  # type: ignore[attr-defined]
    app.extensions["bench"], app.extensions["queue"] = bench, Queue(bench)
    safety.guard(app)
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
        shaping,
        presets,
        levels,
        reports,
    ):
        app.register_blueprint(module.blueprint)
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.filters["clock"] = timebase.clock
    app.jinja_env.filters["moment"] = _moment
    return app
