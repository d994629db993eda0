"""Projects in the database: which may be forgotten, and what undo forgets."""

from __future__ import annotations

import pytest

from jaylantern import commands
from jaylantern.errors import NotFound, Refused
from jaylantern.store import edits, jobs, media, projects


def test_an_empty_project_is_discarded(db, project_id):
    projects.discard(db, project_id)
    with pytest.raises(NotFound):
        projects.card(db, project_id)


def put_in(db, project_id: int, what: str) -> None:
    match what:
        case "an edit":
            commands.do(db, project_id, "add_marker", {"at_n": 5})
        case "a medium":
            found = media.insert(
                db, sha256=f"{1:064d}", name="a", size_bytes=1, length_n=9, has_sound=True, has_picture=False
            )
            media.remember(db, project_id, found, name="a")
        case "a job":
            jobs.create(db, project_id, kind="import", title="a", payload={})
        case "an upload":
            jobs.create_upload(db, project_id, name="a.wav", size_bytes=9, at_n=0)


@pytest.mark.parametrize("what", ["an edit", "a medium", "a job", "an upload"])
def test_one_with_anything_in_it_is_not(db, project_id, what):
    put_in(db, project_id, what)
    with pytest.raises(Refused, match="something in this project"):
        projects.discard(db, project_id)
    assert projects.card(db, project_id).name == "Test film"


def drag(db, project_id: int, amount_db: float) -> None:
    commands.do(db, project_id, "set_settings", {"settings": {"amount_db": amount_db}, "gesture": "one drag"})


def test_what_is_dragged_is_one_step_until_it_is_undone(db, project_id):
    """After undo and redo the same gesture begins a step of its own: what was looked at then can be gone back to."""
    drag(db, project_id, -10)
    drag(db, project_id, -11)
    assert len(edits.history(db, project_id)) == 1
    edits.undo(db, project_id)
    edits.redo(db, project_id)
    drag(db, project_id, -12)
    assert [step.undone for step in edits.history(db, project_id)] == [False, False]
    edits.undo(db, project_id)
    assert projects.load(db, project_id).settings.amount_db == -11
    edits.undo(db, project_id)
    assert projects.load(db, project_id).settings.amount_db == -14
