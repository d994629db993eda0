"""Edits and their inverses: whatever is done can be undone to the beginning and redone to the end."""

from __future__ import annotations

import sqlite3

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaylantern.core.model import Tag
from jaylantern.errors import InvalidValue, JayError, NotFound, Refused
from jaylantern.store import commands, edits, media, projects
from jaylantern.store.connection import atomic, migrate
from tests.build import RATE


@pytest.fixture
def film(db, project_id) -> int:
    """A project with a film (picture and sound), a narration and a bed."""
    for i, (name, picture) in enumerate((("Film.mp4", True), ("Talk.wav", False), ("Bed.wav", False))):
        found = media.insert(db, sha256=f"{i:064d}", name=name, size_bytes=1, length_n=(30 + i) * RATE,
                             has_sound=True, has_picture=picture)  # fmt: skip
        commands.place_media(db, project_id, found, name=name, at_n=0)
    return project_id


def content(db, project_id):
    """The project without its revision."""
    loaded = projects.load(db, project_id)
    return loaded.name, loaded.lanes, loaded.settings


def lane_named(db, project_id, name):
    return [lane for lane in projects.load(db, project_id).lanes if lane.name == name][-1]


def test_a_film_comes_as_linked_picture_and_sound(db, film):
    lanes = projects.load(db, film).lanes
    assert [(lane.kind, lane.name) for lane in lanes] == [
        ("picture", "Film"), ("sound", "Film"), ("sound", "Talk"), ("sound", "Bed")]  # fmt: skip
    assert lanes[0].clips[0].link == lanes[1].clips[0].link is not None


def test_moving_one_half_of_a_film_moves_the_other(db, film):
    clip = lane_named(db, film, "Film").clips[0]
    commands.do(db, film, "move_clip", {"clip_id": clip.id, "start_n": 5 * RATE})
    assert [lane.clips[0].start_n for lane in projects.load(db, film).lanes] == [5 * RATE, 5 * RATE, 0, 0]


def test_a_clip_cannot_lie_over_another_on_its_lane(db, film):
    talk = lane_named(db, film, "Talk")
    with atomic(db):
        db.execute(
            "INSERT INTO clip (id, lane_id, media_id, name, start_n, offset_n, length_n)"
            " SELECT 999, lane_id, media_id, name, ?, 0, length_n FROM clip WHERE id = ?",
            (40 * RATE, talk.clips[0].id),
        )
    with pytest.raises(Refused, match=r"Talk\.wav would lie over Talk\.wav on lane Talk"):
        commands.do(db, film, "move_clip", {"clip_id": 999, "start_n": 10 * RATE})


@pytest.mark.parametrize(
    ("kind", "values", "error"),
    [
        ("fly", {}, InvalidValue),
        ("move_clip", {"clip_id": 12345, "start_n": 0}, NotFound),
        ("tag_lane", {"lane_id": None, "tag": "music"}, NotFound),
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


@pytest.mark.parametrize("start_n", [-1, 1.5, True, "0", 10**15, None])
def test_a_clip_can_only_stand_at_a_whole_sample_within_a_day(db, film, start_n):
    clip = lane_named(db, film, "Talk").clips[0]
    with pytest.raises(InvalidValue, match="from 0 to 24 hours"):
        commands.do(db, film, "move_clip", {"clip_id": clip.id, "start_n": start_n})


def test_a_drag_is_one_step_and_what_changes_nothing_is_none(db, film):
    before = content(db, film)
    for value in (-10, -11, -12, -16):
        commands.do(db, film, "set_settings", {"settings": {"amount_db": value}, "gesture": "drag-1"})
    revision = projects.revision(db, film)
    commands.do(db, film, "set_settings", {"settings": {"amount_db": -16}})
    assert projects.revision(db, film) == revision
    assert edits.steps(db, film).undo == "Duck amount -16 dB"
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


COMMANDS = st.one_of(
    st.tuples(st.just("move_clip"), st.integers(0, 3), st.integers(0, 100 * RATE)),
    st.tuples(st.just("tag_lane"), st.integers(0, 3), st.sampled_from(list(Tag))),
    st.tuples(st.just("tag_clip"), st.integers(0, 3), st.sampled_from([None, *Tag])),
    st.tuples(st.just("gain"), st.integers(0, 3), st.floats(-90, 24).map(lambda v: round(v, 1))),
    st.tuples(st.just("muted"), st.integers(0, 3), st.booleans()),
    st.tuples(st.just("amount"), st.just(0), st.integers(-60, 0)),
    st.tuples(st.just("remove_lane"), st.integers(0, 3), st.none()),
    st.tuples(st.just("undo"), st.just(0), st.none()),
)


def carry_out(db, project_id, command) -> None:
    kind, which, value = command
    lanes = projects.load(db, project_id).lanes
    if kind == "undo":
        edits.undo(db, project_id)
        return
    if not lanes:
        return
    lane = lanes[which % len(lanes)]
    clip_id = lane.clips[0].id if lane.clips else 0
    kind, values = {
        "move_clip": ("move_clip", {"clip_id": clip_id, "start_n": value}),
        "tag_lane": ("tag_lane", {"lane_id": lane.id, "tag": value}),
        "tag_clip": ("tag_clip", {"clip_id": clip_id, "tag": value}),
        "gain": ("set_lane", {"lane_id": lane.id, "gain_db": value, "gesture": f"fade-{lane.id}"}),
        "muted": ("set_lane", {"lane_id": lane.id, "muted": value}),
        "amount": ("set_settings", {"settings": {"amount_db": value}, "gesture": "amount"}),
        "remove_lane": ("remove_lane", {"lane_id": lane.id}),
    }[kind]
    commands.do(db, project_id, kind, values)


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(COMMANDS, max_size=25))
def test_random_edits_undone_to_the_beginning_and_redone_to_the_end(db, film, sequence):
    db.execute("SAVEPOINT example")
    edits.forget(db, film)
    start = content(db, film)
    for command in sequence:
        try:
            carry_out(db, film, command)
        except JayError:
            continue
    end = content(db, film)
    while edits.steps(db, film).undo:
        edits.undo(db, film)
    assert content(db, film) == start
    while edits.steps(db, film).redo:
        edits.redo(db, film)
    reached = content(db, film)
    db.execute("ROLLBACK TO example")
    db.execute("RELEASE example")
    assert reached == end or "undo" in {kind for kind, *_ in sequence}


def test_migrations_run_once_and_the_database_refuses_nonsense(bench, db, film):
    assert migrate(db) == []
    for statement in (
        "INSERT INTO clip (id, lane_id, media_id, name, start_n, offset_n, length_n)"
        " VALUES (1000, 424242, 1, 'x', 0, 0, 1)",
        "UPDATE clip SET length_n = 0",
        "UPDATE lane SET tag = 'noise'",
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
