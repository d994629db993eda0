"""Picture for the page: a copy of the picture alone that a browser can play, and a strip of small frames."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
from PIL import Image

from jaylantern.errors import MediaError
from jaylantern.media.damaged import frames
from jaylantern.media.probe import Picture, open_media, picture_stream
from jaylantern.media.upright import Upright, look_of
from jaylantern.support.progress import Progress

PLAYABLE = {"vp8": "webm", "vp9": "webm", "av1": "mp4"}  # and H.264 in 4:2:0
PROXY_HEIGHT = 540
THUMB_HEIGHT = 72
MOST_THUMBS = 48


def container_for(picture: Picture) -> str | None:
    """The container in which a browser plays this picture as it is, or None if it must be re-encoded.

    Browsers turn a picture as its file says, but not all of them mirror it.
    """
    if picture.look.mirrored:
        return None
    if picture.codec == "h264":
        return "mp4" if picture.pixel_format in ("yuv420p", "yuvj420p") else None
    return PLAYABLE.get(picture.codec)


def write_preview(path: Path, *, source: Path, name: str, picture: Picture, progress: Progress) -> str:
    """Write the picture alone, copied where a browser can play it, else as an H.264 proxy; returns its MIME type."""
    container = container_for(picture)
    with open_media(source, name) as film:
        stream = picture_stream(film)
        length_s = max(film.duration or 0, 1) / av.time_base
        form = container or "mp4"
        options = {"movflags": "+faststart"} if form == "mp4" else {}
        with av.open(str(path), "w", format=form, options=options) as out:

            def written(at_s: float) -> None:
                progress(min(1.0, at_s / length_s), "making the picture")

            if container:
                _copy(out, film, stream, written)
            else:
                _proxy(out, film, stream, picture, written)
    return f"video/{form}"


def _copy(out: Any, film: Any, stream: Any, written: Callable[[float], None]) -> None:
    copied = out.add_stream_from_template(stream)
    origin = stream.start_time or 0
    for packet in film.demux(stream):
        if packet.dts is None and packet.pts is None:
            continue
        packet.pts = None if packet.pts is None else packet.pts - origin
        packet.dts = None if packet.dts is None else packet.dts - origin
        written(float((packet.dts or packet.pts or 0) * packet.time_base))
        packet.stream = copied
        out.mux(packet)


def _proxy(out: Any, film: Any, stream: Any, picture: Picture, written: Callable[[float], None]) -> None:
    scale = min(1.0, PROXY_HEIGHT / picture.height)
    width, height = (max(2, int(side * scale) // 2 * 2) for side in (picture.width, picture.height))
    upright = Upright(picture.look, (width, height))
    target = out.add_stream("libx264", rate=stream.average_rate or 25, options={"preset": "veryfast", "crf": "26"})
    target.width, target.height, target.pix_fmt = width, height, "yuv420p"
    target.time_base = target.codec_context.time_base = stream.time_base
    origin = stream.start_time or 0
    for frame in frames(film, stream):
        small = upright.frame(frame)
        small.pts, small.time_base = (frame.pts or 0) - origin, stream.time_base
        small.pict_type = 0  # what it was in its source does not bind the encoder
        out.mux(target.encode(small))
        written(float(small.pts * stream.time_base))
    out.mux(target.encode(None))


def write_thumbs(path: Path, *, source: Path, name: str) -> int:
    """Write evenly spaced small frames side by side as one JPEG; returns how many there are. Raises MediaError where no
    frame can be decoded."""
    with open_media(source, name) as film:
        stream = picture_stream(film)
        if stream is None:
            raise MediaError(f"{name} has no picture.")
        stream.codec_context.skip_frame = "NONREF"  # a neighbour of the frame will do, and twice as soon
        length_s = max((film.duration or 0) / av.time_base, 0.1)
        count = max(1, min(MOST_THUMBS, int(length_s)))
        small = [_thumb(film, stream, length_s * (i + 0.5) / count) for i in range(count)]
    found = [image for image in small if image is not None]
    if not found:
        raise MediaError(f"No picture of {name} can be decoded.")
    strip = Image.new("RGB", (found[0].width * len(found), THUMB_HEIGHT))
    for i, image in enumerate(found):
        strip.paste(image, (i * found[0].width, 0))
    strip.save(path, "JPEG", quality=80)
    return len(found)


def thumb_width(width: int, height: int) -> int:
    """How wide a small frame of a picture of this shape is."""
    return max(2, round(THUMB_HEIGHT * width / height / 2) * 2)


def _thumb(film: Any, stream: Any, at_s: float) -> Image.Image | None:
    """The frame shown at a time, small; the key frame before it would be quicker but repeats itself."""
    film.seek(int(at_s / stream.time_base) + (stream.start_time or 0), stream=stream)
    last = None
    for frame in frames(film, stream):
        last = frame
        if frame.time is None or frame.time >= at_s:
            break
    if last is None:
        return None
    look = look_of(stream, last)
    width = thumb_width(*look.size(last.width, last.height))
    shown: Any = Upright(look, (width, THUMB_HEIGHT), "rgb24").frame(last)
    image: Image.Image = shown.to_image()
    return image
