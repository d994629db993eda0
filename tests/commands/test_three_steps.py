"""A command is prepared and worked out outside of any lock, then compared and written: who takes long keeps nobody."""

from __future__ import annotations

import threading
import time
from contextlib import closing

import pytest

from jaylantern import commands
from jaylantern.commands.command import Command
from jaylantern.errors import InvalidValue, Refused, Stale
from jaylantern.store import edits, jobs, projects, takes
from jaylantern.store.connection import atomic, free_id, next_id

SOON_S = 1.0


@pytest.fixture
def slow(monkeypatch):
    """A command that takes until it is let go: renames the project when it is."""
    begun, let_go = threading.Event(), threading.Event()

    def prepare(project, provider, values):
        begun.set()
        assert let_go.wait(60)
        return "Slowly"

    def edit(project, new_id, *, name):
        return commands.COMMANDS["rename_project"].edit(project, new_id, name=name)

    monkeypatch.setitem(commands.COMMANDS, "slowly", Command("slowly", edit, prepare={"name": prepare}))
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

    def edit(project, new_id):
        tries.append(project.name)
        if len(tries) < 3:
            with closing(workspace.folder.connect()) as other:
                commands.do(other, project.id, "rename_project", {"name": f"Name {len(tries)}"})
        return commands.COMMANDS["add_marker"].edit(project, new_id, at_n=7, name="")

    monkeypatch.setitem(commands.COMMANDS, "landing", Command("landing", edit))
    commands.do(db, project_id, "landing", {})
    assert tries == ["Test film", "Name 1", "Name 2"]
    now = projects.load(db, project_id)
    assert (now.name, [marker.time_n for marker in now.markers]) == ("Name 2", [7])


def test_one_that_fails_leaves_nothing_and_no_lock(db, project_id, monkeypatch):
    def edit(project, new_id):
        new_id()
        raise Refused("No.")

    monkeypatch.setitem(commands.COMMANDS, "refused", Command("refused", edit))
    before = projects.load(db, project_id)
    with pytest.raises(Refused, match="No"):
        commands.do(db, project_id, "refused", {})
    assert not db.in_transaction
    assert projects.read(db, project_id) == before
    with pytest.raises(InvalidValue, match="no command called"):
        commands.do(db, project_id, "nowhere", {})


@pytest.mark.parametrize("seen", [True, False])
def test_numbers_of_an_edit_are_taken_when_it_is_committed_and_are_nobody_elses(
    workspace, db, project_id, monkeypatch, seen
):
    """While an edit works something else is given numbers: it is done anew with others, and none is given twice."""
    others, tried = [], []

    def edit(project, new_id):
        tried.append([new_id(), new_id()])
        if len(tried) < 3:
            with closing(workspace.folder.connect()) as other, atomic(other):
                others.append(next_id(other))
        return commands.COMMANDS["add_marker"].edit(project, new_id, at_n=7, name="")

    monkeypatch.setitem(commands.COMMANDS, "adding", Command("adding", edit))
    first = free_id(db)
    values = {"seen": projects.revision(db, project_id)} if seen else {}
    commands.do(db, project_id, "adding", values)
    assert tried == [[first, first + 1], [first + 1, first + 2], [first + 2, first + 3]]
    assert others == [first, first + 1]
    assert [marker.id for marker in projects.load(db, project_id).markers] == [first + 4]
    assert free_id(db) == first + 5


def test_an_edit_that_adds_nothing_takes_no_number(db, project_id):
    first = free_id(db)
    commands.do(db, project_id, "rename_project", {"name": "Other"})
    assert free_id(db) == first


def test_an_edit_that_changes_nothing_takes_no_number(db, project_id, monkeypatch):
    def edit(project, new_id):
        new_id()
        return "Nothing", project

    monkeypatch.setitem(commands.COMMANDS, "idle", Command("idle", edit))
    first = free_id(db)
    commands.do(db, project_id, "idle", {})
    assert free_id(db) == first
