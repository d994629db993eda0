"""What an older version wrote still opens: a data folder, an archive's document, presets. They say "ambience" where
this version says atmosphere, and know no narration. `tests/older/` holds them as they were written."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from jaylantern import commands
from jaylantern.core.timeline import presets
from jaylantern.core.timeline.tag import Tag
from jaylantern.interchange import document
from jaylantern.store import edits, projects
from jaylantern.store import presets as kept
from jaylantern.workspace.workspace import Workspace

OLDER = Path(__file__).parents[1] / "older"


@pytest.fixture
def old_folder(tmp_path) -> Workspace:
    """A data folder as an older version left it, opened by this one."""
    made = Workspace(tmp_path / "old")
    made.folder.path.mkdir()
    with closing(sqlite3.connect(made.folder.path / "jaylantern.sqlite3")) as db:
        db.executescript((OLDER / "data_folder.sql").read_text(encoding="utf-8"))
    made.folder.prepare()
    return made


@pytest.fixture
def old(old_folder):
    with closing(old_folder.folder.connect()) as db:
        yield db


def tags(project) -> dict[str, str]:
    return {clip.name: str(lane.tag_of(clip)) for lane, clip in project.placed()}


WAS = {"Narrator.flac": "dialogue", "Bed.opus": "music", "Harbour.wav": "atmosphere", "Chime.wav": "atmosphere"}


def test_a_data_folder_has_the_words_of_today(old):
    project = projects.load(old, 1)
    assert tags(project) == WAS
    assert project.settings.atmosphere_db == -7
    assert project.settings.amount_db == -12
    narrator = project.lanes[0].id
    assert project.perches == ("narration", f"lane {narrator}", "atmosphere", "dialogue", "effects", "music")
    pairs = {(pair.upper, pair.lower): dict(pair.own.values) for pair in project.pairs}
    assert pairs[("dialogue", "atmosphere")] == {"attack_ms": 1000}
    assert pairs[("effects", "atmosphere")] == {"amount_db": -3}
    assert "ambience" in [lane.name for lane in project.lanes]  # a name is a name
    [mine] = kept.all_of(old)
    assert dict(mine.settings) == {"atmosphere_db": -11.0, "amount_db": -20.0}


def test_its_whole_history_can_be_undone_and_done_again(old):
    """Every step, to the empty project and back: operations that spoke of ambience speak of atmosphere now."""
    now = projects.load(old, 1)
    while edits.steps(old, 1).redo:
        edits.redo(old, 1)
    newest = projects.load(old, 1)
    assert newest.settings.atmosphere_db == -9
    assert [marker.name for marker in newest.markers] == ["ambience"]
    edits.go_to(old, 1, 0)
    empty = projects.load(old, 1)
    assert not empty.lanes
    assert empty.perches == ("narration", "dialogue", "effects", "music", "atmosphere")
    for step in edits.history(old, 1):
        edits.go_to(old, 1, step.id)
        assert set(projects.load(old, 1).perches) >= {str(tag) for tag in Tag if tag.row.perch}
    assert projects.load(old, 1).lanes == newest.lanes
    assert projects.load(old, 1).perches == newest.perches
    assert newest.lanes == now.lanes


def test_it_is_worked_on_as_any_other(old):
    lane = projects.load(old, 1).lanes[1]
    commands.do(old, 1, "tag_lane", {"lane_id": lane.id, "tag": "narration"})
    commands.do(old, 1, "move_perch", {"perch": "narration", "to": 3})
    after = projects.load(old, 1)
    assert after == projects.read(old, 1)
    assert after.perches.index("narration") == 3
    edits.undo(old, 1)
    edits.undo(old, 1)
    assert tags(projects.load(old, 1)) == WAS


def test_opening_it_twice_changes_nothing_more(old_folder, old):
    before = projects.load(old, 1)
    old_folder.folder.prepare()
    assert projects.read(old, 1) == before


def test_a_document_has_the_words_of_today():
    found = document.read(json.loads((OLDER / "project.json").read_text(encoding="utf-8")))
    project = found.project
    assert tags(project) == WAS
    assert project.settings.atmosphere_db == -7
    assert project.perches.index("narration") < project.perches.index("dialogue")
    assert set(project.perches) >= {"dialogue", "effects", "music", "atmosphere"}
    assert ("dialogue", "atmosphere") in project.own_pairs
    assert not found.remarks


def test_presets_have_the_words_of_today():
    [(name, values)] = presets.from_json((OLDER / "presets.json").read_text(encoding="utf-8")).items()
    assert (name, values) == ("Mine", {"atmosphere_db": -11.0, "amount_db": -20.0})


@pytest.mark.parametrize(("word", "tag"), [("ambience", Tag.ATMOSPHERE), ("atmosphere", Tag.ATMOSPHERE)])
def test_a_tag_is_known_by_the_word_it_had(word, tag):
    assert Tag(word) is tag


def test_nothing_else_is_taken_for_a_tag():
    with pytest.raises(ValueError, match="ambient"):
        Tag("ambient")
    with pytest.raises(ValueError, match="''"):
        Tag("")
