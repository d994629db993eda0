"""Frames and timecode of a picture's rate. Source: SMPTE ST 12-1 (drop-frame compensation in section 8, from memory).

Drop-frame counts of 29.97 and 59.94 leave out the first numbers (two, four) of every minute but each tenth, so that the
count keeps with the clock: one hour of 29.97 is 107 892 frames and reads 01:00:00;00.
"""

from __future__ import annotations

import re
from fractions import Fraction

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue

USUAL = tuple(Fraction(*each) for each in ((24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (48, 1), (50, 1),
                                           (60000, 1001), (60, 1)))  # fmt: skip
DROPPING = (Fraction(30000, 1001), Fraction(60000, 1001))


def rate_of(fps: float) -> Fraction:
    """The exact rate that is meant by a rounded one. Raises InvalidValue for none."""
    if not 1 <= fps <= 1000:
        raise InvalidValue(f"A picture has between 1 and 1000 frames a second; {fps:g} is not that.")
    nearest = min(USUAL, key=lambda each: abs(float(each) - fps))
    return nearest if abs(float(nearest) - fps) < 0.005 else Fraction(fps).limit_denominator(1001)


def rate_of_text(text: str) -> Fraction:
    """The exact rate meant by a number or a ratio, as 25 or 30000/1001. Raises InvalidValue for anything else."""
    try:
        return rate_of(float(Fraction(text.strip()[:20])))
    except (ValueError, ZeroDivisionError, OverflowError):
        raise InvalidValue(f"Frames a second are a number such as 25 or 30000/1001; {text[:20]!r} is not.") from None


def frame_at(time_n: int, fps: Fraction) -> int:
    """The frame that is shown at a time in samples at 48 kHz."""
    return int(Fraction(time_n, RATE) * fps)


def nearest_frame(time_n: int, fps: Fraction) -> int:
    """The frame whose beginning lies nearest to a time."""
    return int(Fraction(time_n, RATE) * fps + Fraction(1, 2))


def time_of(frame: int, fps: Fraction) -> int:
    """When a frame begins, in samples, rounded to the nearest."""
    return round(frame / fps * RATE)


def frame_of(text: str, fps: Fraction) -> int:
    """The frame a timecode names; `:`, `;` and `.` are read alike, whether it drops follows from the rate.

    Raises InvalidValue for what is no timecode at this rate, a number that is left out included.
    """
    parts = re.fullmatch(r"(\d{1,2})[:;.](\d{2})[:;.](\d{2})[:;.,](\d{2,3})", text.strip())
    if parts is None:
        raise InvalidValue(f"{text[:20]!r} is no timecode.")
    hours, minutes, seconds, frames = (int(part) for part in parts.groups())
    whole = round(fps)
    if minutes > 59 or seconds > 59 or frames >= whole:
        raise InvalidValue(f"{text[:20]!r} is no timecode at {float(fps):g} frames a second.")
    frame = ((hours * 60 + minutes) * 60 + seconds) * whole + frames
    if fps not in DROPPING:
        return frame
    out = whole // 15
    if not seconds and frames < out and minutes % 10:
        raise InvalidValue(f"{text[:20]!r} is a number that drop-frame timecode leaves out.")
    minutes += hours * 60
    return frame - out * (minutes - minutes // 10)


def timecode(frame: int, fps: Fraction) -> str:
    """A frame's timecode, hh:mm:ss:ff; hh:mm:ss;ff where it drops numbers."""
    whole = round(fps)
    drops = fps in DROPPING
    if drops:
        out = whole // 15  # two at 30, four at 60
        per_ten, per_minute = round(fps * 600), whole * 60 - out
        tens, rest = divmod(frame, per_ten)
        frame += 9 * out * tens + (out * ((rest - out) // per_minute) if rest >= out else 0)
    seconds, frames = divmod(frame, whole)
    digits = len(str(whole - 1))
    mark = ";" if drops else ":"
    return f"{seconds // 3600:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}{mark}{frames:0{max(2, digits)}d}"
