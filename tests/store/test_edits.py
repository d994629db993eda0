"""Edits and their inverses: whatever is done can be undone to the beginning and redone to the end."""

from __future__ import annotations

import sqlite3

import pytest

from jaylantern import commands
from jaylantern.core.edit.draft import LARGEST_N
from jaylantern.errors import InvalidValue, NotFound, Refused, Stale
from jaylantern.store import edits, media, projects
from jaylantern.store.connection import atomic, migrate
from tests import build
from tests.build import RATE


@pytest.fixture
def film(db, project_id) -> int:
    """A project with a film (picture and sound), a narration and a bed."""
    for i, (name, picture) in enumerate((("Film.mp4", True), ("Talk.wav", False), ("Bed.wav", False))):
        found = media.insert(db, sha256=f"{i:064d}", name=name, size_bytes=1, length_n=(30 + i) * RATE,
                             has_sound=True, has_picture=picture)  # fmt: skip
        build.place(db, project_id, found, name=name, at_n=0)
    return project_id


def content(db, project_id):
    """The project without its revision."""
    loaded = projects.load(db, project_id)
    return loaded.name, loaded.lanes, loaded.settings, loaded.markers, loaded.in_n, loaded.out_n


def lane_named(db, project_id, name):
    return [lane for lane in projects.load(db, project_id).lanes if lane.name == name][-1]


def test_a_film_comes_as_linked_picture_and_sound(db, film):
    lanes = projects.load(db, film).lanes
    assert [(lane.kind, lane.name) for lane in lanes] == [
        ("picture", "Film"), ("sound", "Film"), ("sound", "Talk"), ("sound", "Bed")]  # fmt: skip
    assert lanes[0].clips[0].link == lanes[1].clips[0].link is not None


def test_moving_one_half_of_a_film_moves_the_other(db, film):
    clip = lane_named(db, film, "Film").clips[0]
    commands.do(db, film, "move_clips", {"clip_ids": [clip.id], "by_n": 5 * RATE})
    assert [lane.clips[0].start_n for lane in projects.load(db, film).lanes] == [5 * RATE, 5 * RATE, 0, 0]


@pytest.mark.parametrize(
    ("kind", "values", "error"),
    [
        ("fly", {}, InvalidValue),
        ("move_clips", {"clip_ids": [12345], "by_n": 0}, NotFound),
        ("move_clips", {"clip_ids": "all", "by_n": 0}, InvalidValue),
        ("move_clips", {"clip_ids": [True], "by_n": 0}, InvalidValue),
        ("trim_clips", {"clip_ids": [], "edge": "top", "by_n": 1}, InvalidValue),
        ("add_marker", {"at_n": -1}, InvalidValue),
        ("set_clips", {"clip_ids": []}, Refused),
        ("paste_clips", {"copied": [{"media_id": 9999}], "at_n": 0}, Refused),
        ("paste_clips", {"copied": ["clip"], "at_n": 0}, InvalidValue),
        ("paste_clips", {"copied": [], "at_n": 0}, Refused),
        ("cut_out", {"start_n": 5, "stop_n": 5}, InvalidValue),
        ("tag_lane", {"lane_id": None, "tag": "music"}, InvalidValue),
        ("set_settings", {"settings": {"amount_db": "deep"}}, InvalidValue),
        ("set_settings", {"settings": {}}, InvalidValue),
        ("rename_project", {"name": "   "}, InvalidValue),
    ],
)
def test_bad_commands_are_refused_and_change_nothing(db, film, kind, values, error):
    before = projects.load(db, film)
    with pytest.raises(error):
        commands.do(db, film, kind, values)
    assert projects.load(db, film) == before


@pytest.mark.parametrize("at_n", [-1, 1.5, True, "0", 10**15, None])
def test_a_time_is_a_whole_sample_within_a_day(db, film, at_n):
    with pytest.raises(InvalidValue, match="from 0 to 24 hours"):
        commands.do(db, film, "split_clips", {"at_n": at_n})
    with pytest.raises(Refused, match="beyond 24 hours"):
        commands.do(db, film, "move_clips", {"clip_ids": [lane_named(db, film, "Talk").clips[0].id], "by_n": LARGEST_N})


def test_an_edit_of_a_project_that_moved_on_is_refused(db, film):
    seen = projects.revision(db, film)
    commands.do(db, film, "rename_project", {"name": "One", "seen": seen})
    with pytest.raises(Stale, match="changed elsewhere meanwhile"):
        commands.do(db, film, "rename_project", {"name": "Two", "seen": seen})
    assert projects.load(db, film).name == "One"


def test_the_history_can_be_seen_and_jumped_in(db, film):
    edits.forget(db, film)
    states = [content(db, film)]
    for name in ("One", "Two", "Three"):
        commands.do(db, film, "rename_project", {"name": name})
        states.append(content(db, film))
    steps = edits.history(db, film)
    assert [step.label for step in steps] == [
        "Rename project to One",
        "Rename project to Two",
        "Rename project to Three",
    ]
    for place in (1, 3, 2, 0, 3):
        edits.go_to(db, film, steps[place - 1].id if place else 0)
        assert content(db, film) == states[place]
        assert [step.undone for step in edits.history(db, film)] == [i >= place for i in range(3)]
    with pytest.raises(NotFound, match="not in the history"):
        edits.go_to(db, film, 99999)


def test_a_command_says_what_it_does(db, film):
    clip = lane_named(db, film, "Talk").clips[0]
    for kind, values, label in (
        ("split_clips", {"clip_ids": [clip.id], "at_n": 5 * RATE}, "Split Talk.wav at 00:05.00"),
        ("set_clips", {"clip_ids": [clip.id], "gain_db": 14}, "Gain of Talk.wav to 14 dB"),
        ("delete_clips", {"clip_ids": [clip.id], "close": "lane"}, "Delete Talk.wav and close the gap"),
        ("add_marker", {"at_n": RATE, "name": "Tide"}, "Marker Tide at 00:01.00"),
        ("set_in", {"at_n": RATE}, "In point at 00:01.00"),
        ("add_lane", {}, "Add lane Sound 4"),
    ):
        commands.do(db, film, kind, values)
        assert edits.steps(db, film).undo == label


def test_a_drag_is_one_step_and_what_changes_nothing_is_none(db, film):
    before = content(db, film)
    for value in (-10, -11, -12, -16):
        commands.do(db, film, "set_settings", {"settings": {"amount_db": value}, "gesture": "drag-1"})
    revision = projects.revision(db, film)
    commands.do(db, film, "set_settings", {"settings": {"amount_db": -16}})
    assert projects.revision(db, film) == revision
    assert edits.steps(db, film).undo == "Duck amount −16 dB"
    edits.undo(db, film)
    assert content(db, film) == before
    edits.redo(db, film)
    assert projects.load(db, film).settings.amount_db == -16


def test_a_new_edit_forgets_what_was_undone(db, film):
    commands.do(db, film, "rename_project", {"name": "One"})
    edits.undo(db, film)
    commands.do(db, film, "rename_project", {"name": "Two"})
    with pytest.raises(Refused, match="nothing to redo"):
        edits.redo(db, film)


def test_a_removed_lane_comes_back_with_its_clips(db, film):
    before = content(db, film)
    commands.do(db, film, "remove_lane", {"lane_id": lane_named(db, film, "Talk").id})
    assert len(projects.load(db, film).lanes) == 3
    edits.undo(db, film)
    assert content(db, film) == before


def test_migrations_run_once_and_the_database_refuses_nonsense(workspace, db, film):
    assert migrate(db) == []
    for statement in (
        "INSERT INTO clip (id, lane_id, media_id, name, start_n, offset_n, length_n)"
        " VALUES (1000, 424242, 1, 'x', 0, 0, 1)",
        "UPDATE clip SET length_n = 0",
        "UPDATE lane SET kind = 'noise'",
        "UPDATE lane SET position = 'top'",
    ):
        with pytest.raises(sqlite3.IntegrityError):
            db.execute(statement)
    assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"


def test_an_edit_that_fails_half_way_leaves_nothing(db, film):
    before = projects.load(db, film)
    with pytest.raises(NotFound), atomic(db):
        edits.perform(db, film, "Half", [
            {"do": "set", "table": "project", "key": {"id": film}, "values": {"name": "Half"}},
            {"do": "set", "table": "clip", "key": {"id": 424242}, "values": {"start_n": 1}},
        ])  # fmt: skip
    assert projects.load(db, film) == before
    assert edits.steps(db, film).undo == "Bring in Bed.wav"


def test_a_project_that_is_not_there_says_so(db):
    with pytest.raises(NotFound, match="There is no project 4711"):
        projects.load(db, 4711)
    with pytest.raises(NotFound):
        projects.revision(db, 4711)
