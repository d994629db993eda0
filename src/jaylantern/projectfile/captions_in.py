"""Captions brought into a project from a file."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from jaylantern import commands
from jaylantern.interchange.captions import FoundCaptions
from jaylantern.projectfile import reading
from jaylantern.store import projects

ENDINGS = (".vtt", ".srt")


def is_captions(name: str) -> bool:
    """Is a file of this name captions, not sound or film?"""
    return name.lower().endswith(ENDINGS)


def read(path: Path, name: str) -> FoundCaptions:
    """The captions of a file. Raises MediaError."""
    return reading.read_captions(path, name)


def bring(db: sqlite3.Connection, project_id: int, read_in: FoundCaptions, name: str) -> str:
    """Bring captions that were read into a project, as a command; answers what the person should know of them. Raises
    InvalidValue, and Refused where a project can't take more of them."""
    project = projects.load(db, project_id)
    found = read_in.within(project.length_n)
    cues = [[cue.start_n, cue.stop_n, cue.text, cue.settings, cue.lead] for cue in found.cues]
    about = {"head": found.head, "tail": found.tail, "encoding": found.encoding}
    values = {"name": name, "form": str(found.form), "cues": cues, **about}
    commands.do(db, project_id, "add_captions", values)
    count = len(found.cues)
    return " ".join((f"{count} caption{'s' if count > 1 else ''}.", *found.remarks))
