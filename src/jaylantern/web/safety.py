"""Who may talk to us: only pages we served ourselves, to a browser on this machine."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, abort, request

HOSTS = ["127.0.0.1", "localhost"]
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


def _host_of(origin: str) -> str | None:
    """The host of an origin as a browser says it; None of anything else."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return None


def guard(app: Flask) -> None:
    """Have Flask check Host on every request, check Origin on every change, add the headers of a locked-down page."""
    app.config["TRUSTED_HOSTS"] = HOSTS

    @app.before_request
    def _check() -> None:
        origin = request.headers.get("Origin")
        if request.method not in SAFE_METHODS and origin is not None and _host_of(origin) != request.host:
            abort(403, "This change was asked for by another page.")

    @app.after_request
    def _harden(response: Response) -> Response:
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        return response
