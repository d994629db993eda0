"""The request's own database connection, and the two things every view needs."""

from __future__ import annotations

import sqlite3

from flask import Flask, current_app, g

from jaylantern.jobs.queue import Queue
from jaylantern.workspace.workspace import Workspace


def workspace() -> Workspace:
    """The data folder at work."""
    return current_app.extensions["workspace"]


def queue() -> Queue:
    """The way to the worker."""
    return current_app.extensions["queue"]


def db() -> sqlite3.Connection:
    """This request's connection, opened on first use."""
    if "db" not in g:
        g.db = workspace().folder.connect()
    return g.db


def install(app: Flask) -> None:
    """Close the connection when the request ends."""

    @app.teardown_appcontext
    def _close(_: BaseException | None) -> None:
        held = g.pop("db", None)
        if held is not None:
            held.close()
