"""Nothing of a clip is lost on any way it can go: a clip with every field set to something unusual comes back whole.

The fields are taken from the description of the noun: one that is added later is looked at here without a change.
"""

from __future__ import annotations

from dataclasses import MISSING, replace
from itertools import count

import pytest

from jaylantern import commands
from jaylantern.core.edit import cutting
from jaylantern.core.timeline.care import Care
from jaylantern.core.timeline.clip import Channels, Clip, Trigger
from jaylantern.core.timeline.described import columns_of, fields_of, flat, nested, of_row, read, read_flat, row
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.gain_line import GainLine, LinePoint
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Ramp
from jaylantern.core.timeline.tag import Tag
from jaylantern.interchange import document
from jaylantern.projectfile import backup
from jaylantern.store import edits, media, projects
from jaylantern.web.page_document import page_document
from jaylantern.workspace.workspace import Workspace
from tests.build import rewrite

UNUSUAL = {
    "name": "Glocke – “noon”.wav",
    "start_n": 4801,
    "offset_n": 961,
    "length_n": 48_001,
    "tag": Tag.ATMOSPHERE,
    "gain_db": -7.25,
    "muted": True,
    "link": 77,
    "channels": Channels.MONO,
    "fade_in": Fade(481, Shape.LATE),
    "fade_out": Fade(1201, Shape.EASED),
    "bystander": True,
    "trigger": Trigger.LEVEL,
    "level_db": -47.5,
    "root": 4321,
    "care": Care(low_cut=85, hush=7.5, spared=(3, 99)),
    "line": GainLine((LinePoint(-7, -3.5, Ramp.EASED), LinePoint(480, 6.25))),
}
UNUSUAL_LANE = {
    "name": "Odd lane",
    "kind": LaneKind.SOUND,
    "tag": Tag.NARRATION,
    "gain_db": 3.5,
    "muted": True,
    "soloed": True,
    "bystander": True,
    "trigger": Trigger.CLIP,
    "level_db": -61.5,
    "frozen": True,
    "care": Care(evenness=3, soft_s=2.5),
}
OWN = Own({"amount_db": -3.5, "rise": "eased"}, none=True)
OTHERS = [
    Marker(5, 480, "Noon"),
    Pair("dialogue", "lane 8", OWN),
    SpeechPin(6, 2, Heard.APART, 5, 961),
    DipPin(7, 2, 5, 961, OWN),
    PointPin(8, 4321, -5, None, -99, True),
    PointPin(9, 4321, 7, -3.25),
]


@pytest.fixture
def medium(db):
    return media.insert(
        db, sha256=f"{1:064x}", name="bell.wav", size_bytes=1, length_n=200_000, has_sound=True, has_picture=False
    )


@pytest.fixture
def film(db, project_id, medium) -> int:
    """A project with one lane and one clip of which nothing is as usual."""
    media.remember(db, project_id, medium, name="bell.wav")

    def odd(project: Project, new_id) -> Project:
        clip = Clip(id=new_id(), media=medium, **UNUSUAL)
        return replace(
            project,
            lanes=(Lane(new_id(), clips=(clip,), **UNUSUAL_LANE),),
            markers=(Marker(new_id(), 480, "Noon"),),
            pairs=(Pair("dialogue", "music", OWN),),
            speech_pins=(SpeechPin(new_id(), medium.id, Heard.APART, 5, 961),),
            dip_pins=(DipPin(new_id(), medium.id, 5, 961, OWN),),
            point_pins=(PointPin(new_id(), 4321, 7, -3.25),),
            in_n=3,
            out_n=9,
        )

    rewrite(db, project_id, odd)
    return project_id


def fields(thing, *, but=("id", "media")) -> dict:
    return {each.name: getattr(thing, each.name) for each in fields_of(type(thing)) if each.name not in but}


def the_clip(project: Project) -> Clip:
    [clip] = [clip for _, clip in project.placed()]
    return clip


def test_the_clip_and_the_lane_of_these_tests_are_unusual_in_every_field():
    for noun, values in ((Clip, UNUSUAL), (Lane, UNUSUAL_LANE)):
        said = {each.name for each in fields_of(noun)} - {"id", "media"}
        assert set(values) == said
        usual = {each.name: each.default for each in fields_of(noun) if each.default is not MISSING}
        assert not [name for name, default in usual.items() if values[name] == default]


@pytest.mark.parametrize("thing", OTHERS, ids=lambda thing: type(thing).__name__)
def test_every_noun_comes_back_from_each_of_its_forms(thing):
    noun = type(thing)
    assert read(noun, nested(thing)) == thing
    assert read_flat(noun, flat(thing), what="", given={}) == thing
    assert of_row(noun, row(thing)) == thing
    assert tuple(row(thing)) == tuple(flat(thing)) == columns_of(noun)


def test_a_clip_comes_back_from_each_of_its_forms(medium):
    clip = Clip(id=3, media=medium, **UNUSUAL)
    assert read(Clip, nested(clip), given={"media": medium}) == clip
    assert read_flat(Clip, flat(clip), what="", given={"media": medium}) == clip
    assert of_row(Clip, row(clip), given={"media": medium}) == clip


def test_rows_of_the_database_hold_all_of_it(db, film):
    project = projects.read(db, film)
    assert fields(the_clip(project)) == UNUSUAL
    assert fields(project.lanes[0]) == UNUSUAL_LANE


def test_copy_and_paste_keep_all_of_it(db, workspace, film):
    """As the page does it: clips of its document with their lane, kept as text, pasted elsewhere."""
    lane = page_document(db, workspace, film)["lanes"][0]
    copied = [
        {**each, "lane_id": lane["id"], "lane_name": lane["name"], "kind": lane["kind"], "lane_tag": lane["tag"]}
        for each in lane["clips"]
    ]
    commands.do(db, film, "paste_clips", {"copied": copied, "at_n": 144_000})
    [pasted] = [clip for _, clip in projects.load(db, film).placed() if clip.start_n == 144_000]
    assert {**fields(pasted), "link": 77} == {**UNUSUAL, "start_n": 144_000}
    assert pasted.link not in (None, 77)  # linked among themselves, not with what was copied


def test_both_halves_of_a_split_keep_all_that_is_not_an_end(db, film):
    after = cutting.split(projects.load(db, film), count(900).__next__, at_n=20_000)
    ends = ("start_n", "offset_n", "length_n", "fade_in", "fade_out", "link")
    for half in (clip for _, clip in after.placed()):
        assert fields(half, but=("id", "media", *ends)) == {k: v for k, v in UNUSUAL.items() if k not in ends}
    first, last = (clip for _, clip in after.placed())
    assert (first.fade_in, last.fade_out) == (UNUSUAL["fade_in"], UNUSUAL["fade_out"])
    assert first.length_n + last.length_n == UNUSUAL["length_n"]


def test_a_document_keeps_all_of_it(db, film):
    project = projects.load(db, film)
    again = document.read(document.written(project, media=[the_clip(project).media])).project
    assert fields(the_clip(again)) == UNUSUAL
    assert fields(again.lanes[0]) == UNUSUAL_LANE
    for name in ("markers", "pairs", "speech_pins", "dip_pins", "point_pins"):
        kept, read_again = getattr(project, name), getattr(again, name)
        assert [fields(each, but=("id",)) for each in read_again] == [fields(each, but=("id",)) for each in kept]
    assert (again.in_n, again.out_n, again.perches, again.settings) == (3, 9, project.perches, project.settings)


def test_undo_and_redo_keep_all_of_it(db, film):
    before = projects.load(db, film)
    commands.do(db, film, "remove_lane", {"lane_id": before.lanes[0].id})
    assert not projects.load(db, film).lanes
    edits.undo(db, film)
    assert fields(the_clip(projects.load(db, film))) == UNUSUAL
    assert projects.load(db, film).lanes == before.lanes
    edits.redo(db, film)
    edits.undo(db, film)
    assert projects.load(db, film).lanes == before.lanes


def test_a_backup_keeps_all_of_it(workspace, db, film, tmp_path):
    folder = workspace.folder.media(f"{1:064x}")
    folder.mkdir(parents=True)
    (folder / "original").write_bytes(b"x")
    backup.backup(workspace.folder.path, tmp_path / "all.zip")
    backup.restore(tmp_path / "all.zip", tmp_path / "again")
    other = Workspace(tmp_path / "again")
    other.folder.prepare()
    again = other.folder.connect()
    assert projects.load(again, film).lanes == projects.load(db, film).lanes
    again.close()


def test_the_page_is_told_all_of_it(db, workspace, film):
    lane = page_document(db, workspace, film)["lanes"][0]
    project = projects.load(db, film)
    for told, thing in ((lane, project.lanes[0]), (lane["clips"][0], the_clip(project))):
        assert {name: told[name] for name in columns_of(type(thing))} == flat(thing)


@pytest.fixture(autouse=True)
def known_media(workspace, monkeypatch, medium):
    """The medium of these tests has no folder: what is known of it is said here."""
    from jaylantern.library.facts import About
    from jaylantern.library.library import Library
    from tests.build import facts_without_voice, np

    monkeypatch.setattr(Library, "about", lambda self, each: About(each.length_n, each.length_n, 1))
    known = facts_without_voice(np.zeros((48_000, 1), np.float32))
    monkeypatch.setattr(Library, "facts", lambda self, each: known)
