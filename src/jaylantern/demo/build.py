"""Lays out the demo project, *The Clock at Alder Quay*, in a data folder that does not have it yet."""

from __future__ import annotations

import sqlite3
from importlib.resources import as_file, files

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import Lane
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.tag import Tag
from jaylantern.library.bringing import bring_in
from jaylantern.projectfile import captions_in
from jaylantern.store import connection, edits, projects
from jaylantern.store import media as brought_in
from jaylantern.store.connection import atomic
from jaylantern.support.progress import silent
from jaylantern.workspace.workspace import Workspace

NAME = "The Clock at Alder Quay"
FACT = "demo_project"
HAMMER_S, HAMMER_DB = (38.2, 42.2), 5.0  # blows between two sentences, brought forward by hand
MENDER, MENDER_CARE = "Clock-mender", {"low_cut": 90, "hush": 8, "evenness": 3}  # recorded in his workshop
BED, SHANTY_S = "Bed 1.opus", (88.0, 103.0)
FILES = (  # file, name of its lane, tag
    ("The Clock at Alder Quay.mp4", "Workshop", Tag.ATMOSPHERE),
    ("Narrator.flac", "Narrator", Tag.DIALOGUE),
    ("Clock-mender.m4a", "Clock-mender", Tag.DIALOGUE),
    (BED, "Bed 1", Tag.MUSIC),
)
CAPTIONS = "The Clock at Alder Quay.vtt"
MARKERS = (("The storm", 19.5), ("The workshop", 33.0), ("Noon", 103.5))
ORDER = ("Narrator", "Clock-mender", "Workshop", "Bed 1")


def ensure_demo(workspace: Workspace) -> int:
    """Number of the demo project, made now if this data folder never had it. A kill half-way leaves no half project."""
    db = workspace.folder.connect()
    try:
        known = connection.fact(db, FACT)
        if known is not None:
            return int(known)
        print("Building the demo project …", flush=True)
        media = {}
        for file, _, _ in FILES:
            print(f"  {file}", flush=True)
            with as_file(files("jaylantern.demo") / "files" / file) as source:
                media[file] = bring_in(workspace.library, db, source, file, silent)
        with atomic(db):
            project_id = projects.create(db, NAME)
            _lay_out(db, project_id, media)
            _tailor(workspace, db, project_id)
            _draw_line(db, project_id)
            with as_file(files("jaylantern.demo") / "files" / CAPTIONS) as source:
                captions_in.bring(db, project_id, captions_in.read(source, CAPTIONS), CAPTIONS)
            commands.do(
                db, project_id, "care_for_lane", {"lane_id": _lane(db, project_id, MENDER).id, "parts": MENDER_CARE}
            )
            edits.forget(db, project_id)
            connection.set_fact(db, FACT, str(project_id))
        return project_id
    finally:
        db.close()


def _tailor(workspace: Workspace, db: sqlite3.Connection, project_id: int) -> None:
    """The bed is longer than the film: cut to its end, the line of the shanty kept."""
    (bed,) = (clip for _, clip in projects.load(db, project_id).placed() if clip.name == BED)
    protect = [[round(at_s * RATE) for at_s in SHANTY_S]]
    wish = {"clip_id": bed.id, "until": "picture", "protect": protect, "exact": True}
    workspace.do(db, project_id, "tailor_clip", wish)


def _lane(db: sqlite3.Connection, project_id: int, name: str) -> Lane:
    return next(lane for lane in projects.load(db, project_id).lanes if lane.name == name)


def _draw_line(db: sqlite3.Connection, project_id: int) -> None:
    """The hammer in the workshop, louder where nobody speaks."""
    workshop = _lane(db, project_id, "Workshop")
    start_n, stop_n = (round(at_s * RATE) for at_s in HAMMER_S)
    stretch = {"clip_ids": [workshop.clips[0].id], "start_n": start_n, "stop_n": stop_n, "by_db": HAMMER_DB}
    commands.do(db, project_id, "raise_stretch", stretch)


def _lay_out(db: sqlite3.Connection, project_id: int, media: dict[str, Media]) -> None:
    """Clips on named and tagged lanes, in the order of `ORDER`."""
    for file, _, _ in sorted(FILES, key=lambda each: ORDER.index(each[1])):
        brought_in.remember(db, project_id, media[file], name=file)
        commands.do(db, project_id, "place", {"media_id": media[file].id, "at_n": 0})
    names = {file: (name, tag) for file, name, tag in FILES}
    for lane in projects.load(db, project_id).lanes:
        name, tag = names[lane.clips[0].name]
        if lane.kind == "sound":
            commands.do(db, project_id, "set_lane", {"lane_id": lane.id, "name": name})
            commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
        else:
            commands.do(db, project_id, "set_lane", {"lane_id": lane.id, "name": "Picture"})
    for name, at_s in MARKERS:
        commands.do(db, project_id, "add_marker", {"at_n": round(at_s * RATE), "name": name})
