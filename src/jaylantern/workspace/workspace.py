"""A data folder at work: its media, what followed from its projects lately, what was rendered and measured of them."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from jaylantern import commands, pipeline
from jaylantern.core.timeline.project import Project
from jaylantern.library.library import Library
from jaylantern.store import projects
from jaylantern.workspace import as_far
from jaylantern.workspace.folder import DataFolder
from jaylantern.workspace.memo import Memo
from jaylantern.workspace.mix_loudness import MixLoudness
from jaylantern.workspace.provider import WorkspaceProvider
from jaylantern.workspace.rendered import Rendered
from jaylantern.workspace.tuning import Tuning


class Workspace:
    """One data folder, opened. Safe to share between threads; each call opens what it needs."""

    def __init__(self, path: Path) -> None:
        self.memo = Memo()
        self.folder = DataFolder(path, self.memo)
        self.library = Library(self.folder.media, self.memo)
        self.rendered = Rendered(self.library, self.result, self.memo)
        self.loudness = MixLoudness(self.library, self.result, self.memo)
        self.tuning = Tuning(self.library, self.memo)

    def load(self, db: sqlite3.Connection, project_id: int) -> tuple[Project, pipeline.DuckingResult]:
        """A project and all that follows from it."""
        project = projects.load(db, project_id)
        return project, self.result(project)

    def result(self, project: Project) -> pipeline.DuckingResult:
        """What follows from a project, remembered by its revision."""
        return self.memo(("decided", *project.state), lambda: self.decide(project))

    def lately(self, project: Project) -> pipeline.DuckingResult | None:
        """What follows from a project, where that was worked out lately."""
        found: pipeline.DuckingResult | None = self.memo.peek(("decided", *project.state))
        return found

    def fall_back(self, project: Project, error: Exception) -> bool:
        """Something that follows from a project can't be worked out: from now on it goes without that. False where it
        goes without already, or the fault lies elsewhere."""
        known = self.lately(project)
        if known is not None and known.troubles:
            return False
        found = as_far.lesser(project, self.decide, error)
        if found is not None:
            self.memo.keep(("decided", *project.state), found)
        return found is not None

    def decide(self, project: Project) -> pipeline.DuckingResult:
        """What follows from a project that is not, or not yet, the kept one; nothing is remembered."""
        sounding = {clip.media.id: clip.media for _, clip in project.sounding()}
        facts = {number: self.library.facts(media) for number, media in sounding.items()}
        return pipeline.decide(project, facts, self.memo)

    def provider(self, db: sqlite3.Connection, project_id: int) -> WorkspaceProvider:
        """What commands on a project are prepared from."""
        return WorkspaceProvider(db, project_id, self)

    def do(self, db: sqlite3.Connection, project_id: int, name: str, values: Mapping[str, Any]) -> commands.Done:
        """Carry out a command by name with values from outside, prepared with all that is known here."""
        return commands.carry_out(db, project_id, name, values, self.provider(db, project_id))
