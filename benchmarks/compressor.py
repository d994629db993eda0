"""How quickly a compressor's curve follows a slider on a long project, and how long its first pass takes."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from pathlib import Path

from benchmarks import material
from benchmarks.ours import to_raw
from jaylantern.core.ducking.key_level import KeyListener, KeyTrack
from jaylantern.core.ducking.sidechain import SidechainGain
from jaylantern.core.signal.analysis import CHUNK_N
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag

Say = Callable[[str, str, str], None]


def listened(store) -> KeyTrack:
    """The first pass over a medium."""
    listener = KeyListener()
    for chunk in store.chunks(CHUNK_N):
        listener.add(chunk)
    return listener.finish()


def project_of(length_n: int, **values: float) -> Project:
    """A narration and a bed of the same length, compressed."""
    talk, bed = (Media(i, "", name, length_n, True, False) for i, name in ((1, "talk"), (2, "bed")))
    lanes = tuple(
        Lane(m.id, m.name, LaneKind.SOUND, tag, clips=(Clip(m.id, m.name, m, 0, 0, length_n),))
        for m, tag in ((talk, Tag.DIALOGUE), (bed, Tag.MUSIC))
    )
    return Project(1, "workspace", lanes=lanes, settings=Settings(mode="compressor", **values))


def measure(folder: Path, say: Say, *, minutes: int) -> None:
    """Print the lines of the table."""
    talk = material.write_programme(folder / f"talk {minutes}.wav", minutes=minutes, make=material.talk_minute)
    store = to_raw(talk, folder / "key.raw")
    began = time.perf_counter()
    track = listened(store)
    say(f"compressor: first pass over {minutes} min of stereo", f"{time.perf_counter() - began:.2f} s", "≤ 2 s an hour")
    base = project_of(minutes * 60 * RATE)
    for hold in (1000, 0):
        took, points = [], 0
        for k in range(8):
            settings = base.settings.changed({"threshold_db": -30 - k / 10, "comp_hold_ms": hold})
            moved = Project(1, "workspace", k, base.lanes, settings)
            began = time.perf_counter()
            points = len(SidechainGain(moved, {"dialogue"}, {1: track}).curve.time_n)
            took.append(time.perf_counter() - began)
        name = f"compressor: curve of {minutes} min after a slider move, hold {hold} ms"
        say(name, f"{1000 * statistics.median(took[1:]):.0f} ms, {points} points", "≤ 100 ms on screen")
