"""Passages and markers: as WebVTT (W3C WebVTT: The Web Video Text Tracks Format), as CSV; clips as a plain list."""

from __future__ import annotations

import csv
import math
from collections.abc import Sequence
from fractions import Fraction
from typing import TextIO

from jaylantern.core.ducking.passages import Passage
from jaylantern.core.signal.timebase import clock, n_to_seconds
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.timecode import nearest_frame, timecode

PASSAGES = ("number", "start_s", "stop_s", "start_timecode", "stop_timecode", "dip_db", "clear_lu", "sii")
MARKERS = ("kind", "name", "time_s", "frame", "timecode")


def _vtt_time(time_n: int) -> str:
    ms = round(time_n / 48)
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}.{ms % 1000:03d}"


def write_vtt(out: TextIO, passages: Sequence[Passage], dip_db: Sequence[float], clear_lu: Sequence[float]) -> None:
    """One cue a passage, numbered, saying how far the music goes down and how clear the speech stands."""
    out.write("WEBVTT\n")
    for i, (passage, dip, clear) in enumerate(zip(passages, dip_db, clear_lu, strict=True), 1):
        stands = f", speech {clear:.1f} LU clear" if math.isfinite(clear) else ""
        out.write(f"\n{i}\n{_vtt_time(passage.start_n)} --> {_vtt_time(passage.stop_n)}\n")
        out.write(f"Passage {i}: music {dip:.1f} dB{stands}\n")


def write_csv(
    out: TextIO,
    passages: Sequence[Passage],
    dip_db: Sequence[float],
    clear_lu: Sequence[float],
    sii: Sequence[float],
    *,
    fps: Fraction,
) -> None:
    """One row a passage; a clearance without measure is empty."""
    table = csv.writer(out, lineterminator="\n")
    table.writerow(PASSAGES)
    for i, (passage, dip, clear, index) in enumerate(zip(passages, dip_db, clear_lu, sii, strict=True), 1):
        ends = (passage.start_n, passage.stop_n)
        seconds = [f"{n_to_seconds(n):.3f}" for n in ends]
        codes = [timecode(nearest_frame(n, fps), fps) for n in ends]
        lu = f"{clear:.1f}" if math.isfinite(clear) else ""
        table.writerow((i, *seconds, *codes, f"{dip:.1f}", lu, f"{index:.2f}"))


def write_markers(out: TextIO, project: Project, passages: Sequence[Passage], *, fps: Fraction) -> None:
    """The project's own markers, its in and out point, and the beginning and end of every passage, in order of time."""
    found = [("marker", marker.name, marker.time_n) for marker in project.markers]
    found += [(kind, kind, n) for kind, n in (("in", project.in_n), ("out", project.out_n)) if n is not None]
    for i, passage in enumerate(passages, 1):
        found += [("passage", f"Passage {i} begins", passage.start_n), ("passage", f"Passage {i} ends", passage.stop_n)]
    table = csv.writer(out, lineterminator="\n")
    table.writerow(MARKERS)
    for kind, name, time_n in sorted(found, key=lambda each: each[2]):
        frame = nearest_frame(time_n, fps)
        table.writerow((kind, no_formula(name), f"{n_to_seconds(time_n):.3f}", frame, timecode(frame, fps)))


def no_formula(text: str) -> str:
    """A text as a cell that no spreadsheet takes for a formula: one that begins like it gets an apostrophe before it,
    which spreadsheets do not show. After OWASP, "CSV Injection"."""
    return f"'{text}" if text.startswith(("=", "+", "-", "@", "\t", "\r")) else text


def write_clips(out: TextIO, project: Project) -> None:
    """A plain list of all clips by lane: when each begins and ends, from where in its file, its gain."""
    out.write(f"{project.name}\n{clock(project.length_n)} long\n")
    for lane in project.lanes:
        out.write(
            f"\n{lane.name} ({lane.kind}, {lane.common_tag or 'mixed'}, {lane.gain_db:+.1f} dB"
            f"{', muted' if lane.muted else ''})\n"
        )
        for clip in lane.clips:
            gain = f"  {clip.gain_db:+.1f} dB" if clip.media.has_sound and clip.gain_db else ""
            tag = f"  {clip.tag}" if clip.tag else ""
            times = f"{clock(clip.start_n)} – {clock(clip.stop_n)}  from {clock(clip.offset_n)}"
            out.write(f"  {times}  {clip.name}{tag}{gain}{'  muted' if clip.muted else ''}\n")
