"""Errors as answers: the tree of jaylantern.errors and HTTP's own, as JSON for scripts, as a page for people."""

from __future__ import annotations

import sqlite3

from flask import Flask, jsonify, redirect, render_template, request
from flask.typing import ResponseReturnValue
from werkzeug.exceptions import HTTPException, SecurityError

from jaylantern.errors import Damaged, InvalidValue, JayError, NotFound, Refused, Stale
from jaylantern.jobs import repair
from jaylantern.store.connection import disk_trouble
from jaylantern.support import disk
from jaylantern.web.connection import db, queue, workspace

EXPECTED = frozenset({400, 404, 409, 422})  # what a person may run into; everything else is a fault
STATUS: tuple[tuple[type[JayError], int], ...] = ((NotFound, 404), (InvalidValue, 422), (Refused, 409), (JayError, 400))


def install(app: Flask) -> None:
    """Answer errors in plain words."""

    @app.errorhandler(JayError)
    def _ours(error: JayError) -> ResponseReturnValue:
        status = next(status for kind, status in STATUS if isinstance(error, kind))
        return _answer(str(error), status, stale=isinstance(error, Stale))

    @app.errorhandler(Damaged)
    def _damaged(error: Damaged) -> ResponseReturnValue:
        for number in repair.found_out(workspace(), db(), error.sha256):
            queue().wake(number)
        if request.method == "GET" and _for_people():
            return redirect(request.url)  # the page as it is without that file
        return _answer(str(error), 409)

    @app.errorhandler(OSError)
    def _disk(error: OSError) -> ResponseReturnValue:
        app.logger.exception("disk")
        return _answer(disk.trouble(error), 507)

    @app.errorhandler(sqlite3.Error)
    def _database(error: sqlite3.Error) -> ResponseReturnValue:
        words = disk_trouble(error)
        if words is None:
            raise error
        app.logger.exception("database")
        return _answer(f"The data folder can't be used: {words}. What was kept before is safe.", 507)

    @app.errorhandler(SecurityError)
    def _host(error: SecurityError) -> ResponseReturnValue:
        # plain words: for a host that is not ours no address of a page can be made
        return "This address is not one Jay Lantern answers to.", 400, {"Content-Type": "text/plain; charset=utf-8"}

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> ResponseReturnValue:
        return _answer(error.description or error.name, error.code or 500)


def _for_people() -> bool:
    """Is a whole page wanted?"""
    wants = request.accept_mimetypes
    html = wants.accept_html and wants["text/html"] > wants["application/json"]
    return bool(html) and not request.headers.get("HX-Request")


def _answer(message: str, status: int, *, stale: bool = False) -> ResponseReturnValue:
    if request.headers.get("X-Refusals") == "as-answers" and status in EXPECTED:
        return (
            jsonify(error=message, stale=stale),
            200,
            {"X-Refused": str(status)},
        )  # the page tells it; no error to log
    if request.headers.get("HX-Request") and status in EXPECTED:  # a panel says why it has nothing to show
        return render_template("parts/refused.html", message=message), 200, {"X-Refused": str(status)}
    if _for_people():
        return render_template("error.html", message=message, status=status), status
    return jsonify(error=message, stale=stale), status
