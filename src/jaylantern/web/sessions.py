"""Sessions whose cookies have no age: a page stays open all day, and clocks are put back."""

from __future__ import annotations

from flask import Flask, Request
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface
from itsdangerous import BadSignature


class Sessions(SecureCookieSessionInterface):
    """Flask's own; when a cookie was signed is not asked when it comes back."""

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        """What the cookie holds; nothing of one that was not signed here."""
        signer = self.get_signing_serializer(app)
        if signer is None:
            return None
        try:
            return self.session_class(signer.loads(request.cookies.get(self.get_cookie_name(app), "")))
        except BadSignature:
            return self.session_class()
