"""A command is prepared and worked out outside of any lock, then compared and written: who takes long keeps nobody."""

from __future__ import annotations

import threading
import time
from contextlib import closing

import pytest

from jaylantern import commands
from jaylantern.commands.at_hand import AtHand
from jaylantern.commands.command import Command
from jaylantern.errors import InvalidValue, Refused, Stale
from jaylantern.store import edits, jobs, projects, takes
from jaylantern.store.connection import atomic

SOON_S = 1.0


@pytest.fixture
def slow(monkeypatch):
    """A command that takes until it is let go: renames the project when it is."""
    begun, let_go = threading.Event(), threading.Event()

    def edit(project, at_hand):
        begun.set()
        assert let_go.wait(60)
        return commands.COMMANDS["rename_project"](project, {"name": "Slowly"}, at_hand)

    monkeypatch.setitem(commands.COMMANDS, "slowly", Command("slowly", edit))
    return begun, let_go


@pytest.fixture
def at_work(workspace, db, project_id, slow):
    """The same, begun by another window; answers what came of it once it is let go."""
    begun, let_go = slow
    found = []

    def run(seen):
        with closing(workspace.folder.connect()) as other:
            try:
                found.append(commands.carry_out(other, project_id, "slowly", {"seen": seen}))
            except Exception as error:
                found.append(error)

    thread = threading.Thread(target=run, args=(projects.revision(db, project_id),))
    thread.start()
    assert begun.wait(60)

    def ended():
        let_go.set()
        thread.join()
        return found[0]

    yield ended
    let_go.set()
    thread.join()


def test_all_other_work_goes_on_meanwhile(workspace, db, project_id, at_work):
    with closing(workspace.folder.connect(patience_s=0.0)) as quick:  # who would have to wait, fails
        other = projects.create(quick, "Another film")
        begun = time.monotonic()
        commands.do(quick, other, "add_marker", {"at_n": 5})
        takes.create(quick, other, at_n=0, latency_n=0)
        jobs.create(quick, other, kind="export", title="Mix", payload={"what": "mix"})
        jobs.create_upload(quick, other, name="a.wav", size_bytes=5, at_n=0)

        assert time.monotonic() - begun < SOON_S
    done = at_work()
    assert done.after.name == "Slowly"
    assert projects.load(db, project_id) == done.after


def test_a_change_of_the_same_project_meanwhile_is_not_overwritten(db, project_id, at_work):
    commands.do(db, project_id, "rename_project", {"name": "Quickly"})
    assert isinstance(at_work(), Stale)
    assert projects.load(db, project_id).name == "Quickly"
    assert [step.label for step in edits.history(db, project_id)] == ["Rename project to Quickly"]


def test_what_was_heard_of_media_meanwhile_refuses_nothing(db, project_id, at_work):
    with atomic(db):
        edits._touch(db, project_id)  # as `news` does
    done = at_work()
    assert done.after.name == "Slowly"
    assert done.after.revision == projects.revision(db, project_id) == 2


def test_one_that_nobody_watches_is_worked_out_anew(workspace, db, project_id, monkeypatch):
    """Of an edit without a revision that was seen, such as a file that lands: tried again, on the state as it is."""
    tries = []

    def edit(project, at_hand):
        tries.append(project.name)
        if len(tries) < 3:
            with closing(workspace.folder.connect()) as other:
                commands.do(other, project.id, "rename_project", {"name": f"Name {len(tries)}"})
        return commands.COMMANDS["add_marker"](project, {"at_n": 7}, at_hand)

    monkeypatch.setitem(commands.COMMANDS, "landing", Command("landing", edit))
    commands.do(db, project_id, "landing", {})
    assert tries == ["Test film", "Name 1", "Name 2"]
    now = projects.load(db, project_id)
    assert (now.name, [marker.time_n for marker in now.markers]) == ("Name 2", [7])


def test_one_that_fails_leaves_nothing_and_no_lock(db, project_id, monkeypatch):
    def edit(project, at_hand):
        at_hand.new_id()
        raise Refused("No.")

    monkeypatch.setitem(commands.COMMANDS, "refused", Command("refused", edit))
    before = projects.load(db, project_id)
    with pytest.raises(Refused, match="No"):
        commands.do(db, project_id, "refused", {})
    assert not db.in_transaction
    assert projects.read(db, project_id) == before
    with pytest.raises(InvalidValue, match="no command called"):
        commands.do(db, project_id, "nowhere", {})


def test_numbers_are_given_out_once_in_growing_lots(workspace, db, project_id):
    one, other = AtHand(db, project_id), AtHand(db, project_id)
    found = [(one if k % 3 else other).new_id() for k in range(400)]
    assert len(set(found)) == 400
    written = []
    db.set_trace_callback(lambda sql: written.append(sql) if sql.startswith("UPDATE serial") else None)
    third = AtHand(db, project_id)
    assert len({third.new_id() for _ in range(2000)} | set(found)) == 2400
    assert len(written) <= 5
