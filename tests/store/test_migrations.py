"""A data folder of an older version is brought up to date and loses nothing."""

from __future__ import annotations

import sqlite3
from importlib.resources import files

import pytest

from jaylantern import commands
from jaylantern.core.timeline.clip import Trigger
from jaylantern.core.timeline.perch import USUAL_PERCHES
from jaylantern.core.timeline.settings import Mode, Settings
from jaylantern.store import connection, projects
from jaylantern.workspace.workspace import Workspace


def test_a_project_from_before_ducking_keeps_its_settings_and_gets_the_new_ones(tmp_path):
    workspace = Workspace(tmp_path / "data")
    workspace.folder.path.mkdir()
    folder = files("jaylantern.store") / "migrations"
    names = sorted(each.name for each in folder.iterdir() if each.name.endswith(".sql"))[:3]
    db = workspace.folder.connect()
    db.execute("CREATE TABLE migration (name TEXT PRIMARY KEY, applied_at TEXT NOT NULL) STRICT, WITHOUT ROWID")
    for name in names:
        for statement in connection._statements((folder / name).read_text(encoding="utf-8")):
            db.execute(statement)
        db.execute("INSERT INTO migration VALUES (?, 'then')", (name,))
    db.execute("INSERT INTO project (id, name, created_at, updated_at) VALUES (900, 'Old film', 'then', 'then')")
    db.execute("INSERT INTO setting VALUES (900, 'amount_db', -9.5), (900, 'hold_ms', 700)")
    db.execute(
        "INSERT INTO lane (id, project_id, position, name, kind, tag) VALUES (901, 900, 0, 'Talk', 'sound', 'dialogue')"
    )
    db.close()
    workspace.folder.prepare()
    db = workspace.folder.connect()
    old = projects.load(db, 900)
    assert old.settings == Settings(amount_db=-9.5, hold_ms=700)
    assert old.perches == USUAL_PERCHES
    assert (old.lanes[0].trigger, old.lanes[0].frozen) == (Trigger.VOICE, False)
    commands.do(db, 900, "set_settings", {"settings": {"mode": "compressor", "ratio": 3}})
    changed = projects.load(db, 900).settings
    assert (changed.mode, changed.ratio) == (Mode.COMPRESSOR, 3)
    db.close()


def test_what_is_no_database_is_not_kept_open(tmp_path, monkeypatch):
    opened, opens = [], sqlite3.connect
    monkeypatch.setattr(sqlite3, "connect", lambda *args, **more: opened.append(opens(*args, **more)) or opened[-1])
    path = tmp_path / "words"
    path.write_text("these are only words " * 300)
    with pytest.raises(sqlite3.DatabaseError):
        connection.connect(path)
    with pytest.raises(sqlite3.ProgrammingError, match="closed database"):
        opened[0].execute("SELECT 1")
