"""A cut film whose picture is copied piece by piece, where every cut falls on a frame that can stand alone.

packets   K b p b p K b p b p K …       K: decoded by itself; the others need what came before
piece            [K b p b p K b p]      begins at a K, ends where no later packet is needed by an earlier frame
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from jaylantern.core.signal.timebase import RATE, clock
from jaylantern.errors import MediaError
from jaylantern.media.film import Shot, opened
from jaylantern.media.film_beside import NOTHING, Beside
from jaylantern.media.film_sound import SOUND_TRACKS, SoundTrack, Tracks
from jaylantern.media.probe import UNEVEN_S, open_media, picture_stream
from jaylantern.media.upright import first_look


class CantCopy(Exception):
    """Why the picture of a cut film can't be copied, in words that follow "because"."""


@dataclass(frozen=True)
class CopyPlan:
    """What is copied: the shots, the frame each begins with in the finished film, how far decoding runs ahead, and for
    how many frames the last one is held."""

    shots: Sequence[Shot]
    firsts: Sequence[int]
    fps: Fraction
    ahead: int
    hold: int = 0


def plan(shots: Sequence[Shot], fps: Fraction) -> CopyPlan:
    """Look at the packets of all shots. Raises CantCopy with the reason where the picture must be encoded anew."""
    alike, at, ahead, firsts, done_n = None, 0, 0, [], 0
    hold_n = shots[-1].length_n if shots and shots[-1].held else 0
    shots = shots[:-1] if hold_n else shots
    for shot in shots:
        if shot.source is None:
            raise CantCopy(f"there is no picture at {clock(done_n, decimals=1)}")
        with open_media(shot.source, shot.name) as film:
            stream = picture_stream(film)
            if stream is None:
                raise CantCopy(f"{shot.name} has no picture")
            found = _kind(film, stream)
            if alike is not None and found != alike:
                raise CantCopy("its pieces are of different kinds")
            alike = found
            numbers = [number for number, _ in _wanted(film, stream, shot, fps, done_n)]
        if not numbers:
            raise CantCopy(f"the piece at {clock(done_n, decimals=1)} is shorter than a frame")
        if sorted(numbers) != list(range(len(numbers))):
            raise CantCopy(f"the frames of {shot.name} do not follow each other evenly")
        ahead = max(ahead, *(k - number for k, number in enumerate(numbers)))
        firsts.append(at)
        at += len(numbers)
        done_n += shot.length_n
        if abs(at / fps - Fraction(done_n, RATE)) > 1 / (2 * fps):
            raise CantCopy(f"the cut at {clock(done_n, decimals=2)} lies within a frame")
    return CopyPlan(shots, firsts, fps, ahead, round(hold_n * fps / RATE))


def write(
    path: Path,
    plan: CopyPlan,
    *,
    sound: Iterator[np.ndarray],
    track: SoundTrack = SOUND_TRACKS["aac"],
    also: Iterator[np.ndarray] | None = None,
    beside: Beside = NOTHING,
) -> None:
    """Copy the pictures of a plan one after another, and mux them with `sound` and, as a second track, with `also`."""
    with opened(path, plan.shots[0].name, beside) as out:
        copied, written, last, count = None, None, None, 0
        for shot, first in zip(plan.shots, plan.firsts, strict=True):
            assert shot.source is not None
            with open_media(shot.source, shot.name) as film:
                stream = picture_stream(film)
                if copied is None:
                    copied = out.add_stream_from_template(stream)
                    written = Tracks(out, track, sound, also=also, beside=beside)
                assert written is not None
                for number, packet in _wanted(film, stream, shot, plan.fps, 0):
                    packet.time_base = 1 / plan.fps
                    packet.pts, packet.dts = first + number, count - plan.ahead
                    packet.duration = 1
                    packet.stream = copied
                    written.until(float(count / plan.fps))
                    if last is not None:
                        out.mux(last)
                    last = packet
                    count += 1
        if written is not None and last is not None:
            last.duration += plan.hold
            out.mux(last)
            written.finish()


def _kind(film: Any, stream: Any) -> tuple[object, ...]:
    """What must be the same of all pieces of one stream."""
    codec = stream.codec_context
    look = first_look(film, stream)
    return codec.name, codec.width, codec.height, codec.pix_fmt, bytes(codec.extradata or b""), look


def _wanted(film: Any, stream: Any, shot: Shot, fps: Fraction, done_n: int) -> Iterator[tuple[int, Any]]:
    """The packets of a shot in the order of decoding, each with the number of its frame in the shot.

    A frame belongs to the shot if its middle does. Raises CantCopy where that can't be cut out as packets.
    """
    origin = (stream.start_time or 0) * stream.time_base
    start, stop = (Fraction(n, RATE) for n in (shot.offset_n, shot.offset_n + shot.length_n))
    film.seek(int((start + origin) / stream.time_base), stream=stream)
    begun, ended, first = False, False, Fraction(0)
    for packet in film.demux(stream):
        if packet.pts is None:
            continue
        time = packet.pts * stream.time_base - origin
        middle = time + 1 / (2 * fps)
        if middle < start:
            if begun:
                raise CantCopy(f"at {clock(done_n, decimals=2)} frames need others that were cut off")
            continue
        if middle >= stop:
            ended = True
            if packet.is_keyframe:
                return
            continue
        if ended:
            raise CantCopy(f"the cut at {clock(done_n + shot.length_n, decimals=2)} lies within a group of frames")
        if begun and abs(time - first - round((time - first) * fps) / fps) > UNEVEN_S:
            raise CantCopy(f"the frames of {shot.name} do not follow each other evenly")
        if not begun:
            if not packet.is_keyframe:
                raise CantCopy(f"the cut at {clock(done_n, decimals=2)} lies within a group of frames")
            begun, first = True, time
        yield round((time - first) * fps), packet
    if not begun:
        raise MediaError(f"{shot.name} has no picture at {clock(shot.offset_n)}.")
