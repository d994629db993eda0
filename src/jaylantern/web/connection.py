"""The request's own database connection, and the two things every view needs."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import TypeVar

from flask import Flask, current_app, g
from werkzeug.exceptions import HTTPException

from jaylantern.errors import JayError
from jaylantern.jobs.queue import Queue
from jaylantern.store import projects
from jaylantern.store.connection import Line
from jaylantern.workspace.workspace import Workspace

T = TypeVar("T")
EXPECTED = (JayError, OSError, sqlite3.Error, HTTPException)  # what is told as it is
PATIENCE_S = 4.0  # a page says rather soon that something holds the data folder
MOST_WAITING = 6  # threads of the server that may wait to write; the others answer who reads


def workspace() -> Workspace:
    """The data folder at work."""
    return current_app.extensions["workspace"]


def queue() -> Queue:
    """The way to the worker."""
    return current_app.extensions["queue"]


def db() -> sqlite3.Connection:
    """This request's connection, opened on first use."""
    if "db" not in g:
        g.db = workspace().folder.connect(patience_s=PATIENCE_S, line=current_app.extensions["line"])
    return g.db


def as_far_as_it_goes(project_id: int, make: Callable[[], T]) -> T:
    """What is made of a project; once more, without what can't be worked out of it, where that fails in a way nobody
    foresaw. Raises what it raises then."""
    try:
        return make()
    except EXPECTED:
        raise
    except Exception as error:
        if not workspace().fall_back(projects.load(db(), project_id), error):
            raise
        return make()


def install(app: Flask) -> None:
    """Close the connection when the request ends. Who wants to write stands in one line."""
    app.extensions["line"] = Line(MOST_WAITING)

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        held = g.pop("db", None)
        if held is not None:
            held.close()
