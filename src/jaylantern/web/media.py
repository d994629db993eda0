"""What the page needs of a medium: peaks to draw, picture to show, a strip of small frames."""

from __future__ import annotations

from flask import Blueprint, Response, send_file

from jaylantern.core.timeline.media import Media
from jaylantern.errors import NotFound
from jaylantern.store import media
from jaylantern.web.connection import db, workspace

blueprint = Blueprint("media", __name__, url_prefix="/media/<int:media_id>")
YEAR_S = 365 * 24 * 3600


def _file(found: Media, name: str, mime: str) -> Response:
    """A file of the media folder; it never changes, so the browser may keep it."""
    path = workspace().folder.media(found.sha256) / name
    if not path.exists():
        raise NotFound(f"{found.name} has no {name.split('.')[0]}.")
    return send_file(path, mimetype=mime, conditional=True, etag=found.sha256[:16] + name, max_age=YEAR_S)


@blueprint.get("/peaks")
def peaks(media_id: int) -> Response:
    """The pyramid of minima and maxima as int16 pairs, finest first (sizes: `level_counts` of the page document)."""
    return _file(media.get(db(), media_id), "peaks.bin", "application/octet-stream")


@blueprint.get("/picture")
def picture(media_id: int) -> Response:
    """The picture alone, in a form the browser plays."""
    found = media.get(db(), media_id)
    return _file(found, "picture", workspace().library.picture_mime(found))


@blueprint.get("/thumbs")
def thumbs(media_id: int) -> Response:
    """Evenly spaced small frames side by side."""
    return _file(media.get(db(), media_id), "thumbs.jpg", "image/jpeg")
