"""Media that an older ear heard are heard again: once, in the background, and what was set by hand stays."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile

from jaylantern.core.ducking.changes import Outline
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.timebase import RATE, clock
from jaylantern.jobs import ducked, hearing, work
from jaylantern.library import facts
from jaylantern.store import ducked as kept
from jaylantern.store import jobs, projects
from tests import sounds


@pytest.fixture
def older(workspace, db, bring, project_id, tmp_path):
    """A project with a prompt as an older data folder keeps it: a probability for each 32 ms, and no more."""
    soundfile.write(tmp_path / "Talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=8), RATE, subtype="PCM_16")
    bring(tmp_path / "Talk.wav")
    found = projects.load(db, project_id).lanes[0].clips[0].media
    folder = workspace.folder.media(found.sha256)
    known = facts.read_facts(folder, workspace.library.about(found))
    frames = np.zeros(250, np.float32)
    frames[40:60] = 0.9
    arrays = {"probability": frames, "level_db": known.track.level_db, "power": known.power.products}
    facts.save(folder / "facts.npz", **arrays)
    return found


def test_an_older_data_folder_plays_as_it_did_until_it_is_heard_again(workspace, older):
    track = workspace.library.facts(older).track
    assert track.older
    assert track.singing is None
    assert len(workspace.library.speech(older, 50.0)) == 1


def test_opening_a_project_asks_once_and_says_once_what_was_done(workspace, db, project_id, older):
    lane = projects.load(db, project_id).lanes[0]
    workspace.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "dialogue"})
    project = projects.load(db, project_id)
    job_id = hearing.request(db, workspace.library, project)
    assert job_id is not None
    assert hearing.request(db, workspace.library, project) is None  # it is asked for already
    was = workspace.result(project).plan.passages[0]
    before = projects.revision(db, project_id)
    levels = workspace.library.facts(older).track.level_db
    work.run(workspace, job_id)
    job = jobs.get(db, job_id)
    assert job.state == "done"
    now = workspace.result(projects.load(db, project_id)).plan.passages[0]
    assert abs(now.start_n - was.start_n) > RATE / 20
    where = f"Passage 1 begins or ends elsewhere, at {clock(now.start_n, decimals=1)}."
    assert job.message == f"1 file was heard again by a better ear. {where} What you set by hand stays."
    track = workspace.library.facts(older).track
    assert not track.older
    assert track.level_db.tolist() == levels.tolist()
    assert projects.revision(db, project_id) == before + 1  # what followed from the older ear is not shown any more
    assert hearing.request(db, workspace.library, projects.load(db, project_id)) is None


def test_where_nothing_moved_nothing_is_said(workspace, db, project_id, older):
    """Nobody gives way to it: whatever is heard in it changes nothing."""
    job_id = hearing.request(db, workspace.library, projects.load(db, project_id))
    work.run(workspace, job_id)
    assert (jobs.get(db, job_id).state, jobs.get(db, job_id).message) == ("done", "")


def test_what_another_version_makes_of_a_project_is_said_once_with_place_and_size(workspace, db, project_id, older):
    """As if this version had kept it 4 dB deeper at 2.5 s than it ducks now."""
    work.run(workspace, hearing.request(db, workspace.library, projects.load(db, project_id)))
    project = projects.load(db, project_id)
    plan = workspace.result(project).plan
    deeper = Outline(plan.spans, Curve(np.array([0, 120_000, 240_000]), np.array([0.0, -4.0, 0.0])))
    ducked.tell(workspace, db, project)
    assert not jobs.of_project(db, project_id, kind="hear")[0].message  # nothing was kept before
    kept.keep(db, project_id, kept.fingerprint(project), deeper.plain)
    for _ in range(2):
        ducked.tell(workspace, db, project)
    told = [job.message for job in jobs.of_project(db, project_id) if job.title == ducked.TITLE]
    assert len(told) == 1
    assert "otherwise than the one that showed it last" in told[0]
    assert "The music’s level differs by up to 4.0 dB, most at 00:02.5." in told[0]


def test_what_was_set_by_hand_stays(workspace, db, project_id, older):
    lane = projects.load(db, project_id).lanes[0]
    clip = lane.clips[0]
    workspace.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "dialogue"})
    values = {"speech": True, "start_n": 6 * RATE, "stop_n": 7 * RATE, "clip_ids": [clip.id]}
    workspace.do(db, project_id, "mark_speech", values)
    pins = projects.load(db, project_id).speech_pins
    work.run(workspace, hearing.request(db, workspace.library, projects.load(db, project_id)))
    assert projects.load(db, project_id).speech_pins == pins != ()


def test_stopping_keeps_what_was_heard_so_far(workspace, db, project_id, older):
    job_id = hearing.request(db, workspace.library, projects.load(db, project_id))
    jobs.ask_stop(db, job_id)
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "stopped"
    project = projects.load(db, project_id)
    assert hearing.request(db, workspace.library, project, opened=False) is None  # not with every change from now on
    assert hearing.request(db, workspace.library, project) is not None  # but when it is opened again
    assert workspace.library.track(older).older


@pytest.fixture
def lanes(workspace, db, bring, project_id, tmp_path):
    """A project with talk, effects and music lanes that hold a short sound each; numbers of the lanes by tag."""
    found = {}
    for i, tag in enumerate(("dialogue", "effects", "music")):
        soundfile.write(tmp_path / f"{tag}.wav", sounds.noise(seconds=2, seed=i), RATE, subtype="PCM_16")
        bring(tmp_path / f"{tag}.wav")
        found[tag] = projects.load(db, project_id).lanes[-1].id
        workspace.do(db, project_id, "tag_lane", {"lane_id": found[tag], "tag": tag})
    return found


@pytest.fixture
def brought_onto(bring, db, project_id, tmp_path):
    """A function that brings a prompt in onto a lane; answers its medium."""

    def brought(lane_id: int | None):
        soundfile.write(tmp_path / "Said.wav", sounds.talk({"vm-intro": 0.5}, seconds=6), RATE, subtype="PCM_16")
        how = {"how": "overwrite", "lane_id": lane_id} if lane_id else {}
        job = bring(tmp_path / "Said.wav", at_n=5 * RATE, **how)
        assert job.state == "done", job.message
        return next(c.media for _, c in projects.load(db, project_id).placed() if c.name == "Said.wav")

    return brought


@pytest.mark.parametrize(("on", "listened"), [("dialogue", True), ("effects", False), ("music", True), (None, True)])
def test_what_lands_where_nothing_gives_way_to_it_is_not_listened_to(
    workspace, db, project_id, brought_onto, lanes, on, listened
):
    found = brought_onto(lanes.get(on))
    assert workspace.library.track(found).unheard != listened
    assert (len(workspace.library.speech(found, 50.0)) > 0) == listened
    assert hearing.request(db, workspace.library, projects.load(db, project_id)) is None


@pytest.mark.parametrize(
    "change",
    [
        lambda lanes: ("tag_lane", {"lane_id": lanes["effects"], "tag": "dialogue"}),
        lambda lanes: ("set_pair", {"upper": "effects", "lower": "music", "own": {"amount_db": -6}}),
    ],
    ids=["it is talk after all", "music gives way to effects"],
)
def test_it_is_heard_when_it_first_matters(workspace, db, project_id, brought_onto, lanes, change):
    found = brought_onto(lanes["effects"])
    name, values = change(lanes)
    workspace.do(db, project_id, name, values)
    job_id = hearing.request(db, workspace.library, projects.load(db, project_id))
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).message == ""  # nothing was heard differently, so nothing is told
    assert len(workspace.library.speech(found, 50.0)) > 0
    brought_onto(lanes["effects"])
    assert hearing.request(db, workspace.library, projects.load(db, project_id)) is None
