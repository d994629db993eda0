"""Who may: a browser that was let in by a key. Other accounts of the same machine reach a loopback address, too.

start ─ prints http://127.0.0.1:8420/?key=… ─▶ the key is used up, a new one lies in the data folder
                                            └▶ the browser gets a cookie, and keeps it
anything without cookie or key ─▶ "open the address that was printed"
"""

from __future__ import annotations

import hashlib
import hmac
import threading

from flask import Flask, Response, redirect, request
from flask.typing import ResponseReturnValue
from itsdangerous import BadSignature, Signer

from jaylantern.support import own_python
from jaylantern.workspace.workspace import Workspace

LASTS_S = 365 * 24 * 3600
LET_IN = b"browser"
WORDS = (
    "Open the address that was printed where Jay Lantern was started. It holds a key that lets this browser in, once;"
    " {called} address prints a new one."
)


class Doorkeeper:
    """Lets a browser in by its cookie, or by the key, which is used up by that."""

    def __init__(self, app: Flask, workspace: Workspace) -> None:
        secret = workspace.folder.secret()
        self._folder, self._signer = workspace.folder, Signer(secret, salt="door", digest_method=hashlib.sha256)
        self._cookie = f"jay-door-{workspace.folder.name}"  # servers of one machine share their cookies
        self._using = threading.Lock()
        app.before_request(self._ask)

    def _ask(self) -> ResponseReturnValue | None:
        key = request.args.get("key")
        known = self._known(request.cookies.get(self._cookie, ""))
        if key is not None and request.method == "GET" and (known or self._used(key)):
            return self._let_in()
        return None if known else self._at_the_door()

    def _known(self, cookie: str) -> bool:
        try:
            return self._signer.unsign(cookie) == LET_IN
        except BadSignature:
            return False

    def _used(self, key: str) -> bool:
        """Is it the key? If so, another one takes its place."""
        with self._using:
            if not hmac.compare_digest(key.encode(), self._folder.key().encode()):
                return False
            self._folder.new_key()
            return True

    def _let_in(self) -> Response:
        """To the same address without the key, which is nobody else's to see; with the cookie."""
        answer = redirect(f"/{request.path.lstrip('/')}")  # never to another host
        assert isinstance(answer, Response)
        value = self._signer.sign(LET_IN).decode()
        answer.set_cookie(self._cookie, value, max_age=LASTS_S, httponly=True, samesite="Strict")
        answer.headers["Cache-Control"] = "no-store"
        return answer

    @staticmethod
    def _at_the_door() -> ResponseReturnValue:
        return (
            WORDS.format(called=own_python.called()),
            401,
            {"Content-Type": "text/plain; charset=utf-8", "Cache-Control": "no-store"},
        )
