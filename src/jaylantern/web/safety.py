"""Who may talk to us: only pages we served ourselves, to a browser on this machine."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]"})
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
POLICY = "; ".join(
    (
        "default-src 'self'",
        "img-src 'self' data:",  # Bootstrap's drawings are data: addresses
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


def guard(app: Flask) -> None:
    """Check Host on every request and Origin on every change; add the headers of a locked-down page."""

    @app.before_request
    def _check() -> None:
        if _without_port(request.host) not in HOSTS:
            abort(403, "This address is not one Jay Lantern answers to.")
        origin = request.headers.get("Origin")
        if request.method not in SAFE_METHODS and origin is not None and urlsplit(origin).netloc != request.host:
            abort(403, "This change was asked for by another page.")

    @app.after_request
    def _harden(response: Response) -> Response:
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response


def _without_port(host: str) -> str:
    name, _, port = host.rpartition(":")
    return name if name and port.isdigit() else host
