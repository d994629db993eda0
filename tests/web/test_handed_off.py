"""What is handed off: of the state it was asked for, and there until a person says otherwise."""

from __future__ import annotations

from contextlib import closing

import numpy as np
import pytest
import soundfile

from jaylantern.core.mixing.mix import Variant, render
from jaylantern.errors import Refused
from jaylantern.jobs import work
from jaylantern.jobs.queue import Queue
from jaylantern.store import asked_state, jobs, made, projects
from jaylantern.workspace.workspace import Workspace


def ask(visitor, number, **values):
    return visitor.post(f"/projects/{number}/exports", json={"what": "mix", "form": "wav32f", **values}).json["job"]


def mixed(workspace, job):
    (path,) = workspace.folder.exports(job).iterdir()
    return soundfile.read(path, dtype="float32")[0]


def heard(workspace, db, number):
    project, result = workspace.load(db, number)
    return render(result.programme, workspace.library.reader(project), 0, project.length_n, Variant.DUCKED)


def talker(db, number):
    return next(lane for lane in projects.load(db, number).lanes if lane.name == "Talk")


EDITS = [
    ("set_lane", lambda db, n: {"lane_id": talker(db, n).id, "muted": True}),
    ("delete_clips", lambda db, n: {"clip_ids": [talker(db, n).clips[0].id]}),
    ("set_settings", lambda db, n: {"settings": {"amount_db": -40}}),
    ("remove_lane", lambda db, n: {"lane_id": talker(db, n).id}),
    ("mark_speech", lambda db, n: {"index": 0}),
    ("rename_project", lambda db, n: {"name": "Later"}),
    ("hold_draft", lambda db, n: {}),
]


@pytest.mark.parametrize(("name", "values"), EDITS)
def test_what_waits_in_the_queue_is_made_of_the_state_it_was_asked_for(
    visitor, workspace, db, talk_and_bed, name, values
):
    was, project = heard(workspace, db, talk_and_bed), projects.load(db, talk_and_bed)
    job = ask(visitor, talk_and_bed)
    assert visitor.post(f"/projects/{talk_and_bed}/do/{name}", json=values(db, talk_and_bed)).status_code == 200
    assert asked_state.read(db, job) == project
    jobs.begin(db, job)  # and a kill comes: it is begun again by another process
    later = Workspace(workspace.folder.path)
    with closing(Queue(later)) as queue:
        queue.begin_again()
    work.run(later, job)
    assert jobs.get(db, job).state == "done"
    assert np.array_equal(mixed(later, job), was)
    assert project.name in next(workspace.folder.exports(job).iterdir()).name
    assert db.execute("SELECT count(*) FROM asked_state").fetchone()[0] == 0  # it is not needed any more


def test_two_that_wait_are_each_of_their_own_state(visitor, workspace, db, talk_and_bed):
    was = heard(workspace, db, talk_and_bed)
    first = ask(visitor, talk_and_bed)
    visitor.post(f"/projects/{talk_and_bed}/do/set_lane", json={"lane_id": talker(db, talk_and_bed).id, "gain_db": -6})
    now, second = heard(workspace, db, talk_and_bed), ask(visitor, talk_and_bed)
    for job in (second, first):
        work.run(workspace, job)
    assert np.array_equal(mixed(workspace, first), was)
    assert np.array_equal(mixed(workspace, second), now)
    assert not np.array_equal(was, now)


def test_a_state_that_cannot_be_had_any_more_is_said(visitor, workspace, db, talk_and_bed):
    job = ask(visitor, talk_and_bed)
    db.execute("UPDATE asked_state SET body = json_set(body, '$.clip[0].media_id', 99999)")
    with pytest.raises(Refused, match="can't be had any more"):
        asked_state.read(db, job)
    work.run(workspace, job)
    assert "as it was when this was asked for can't be had any more" in jobs.get(db, job).message


def test_one_that_an_older_version_asked_for_is_made_of_now_and_says_so(visitor, workspace, db, talk_and_bed):
    job = ask(visitor, talk_and_bed)
    db.execute("DELETE FROM asked_state")
    work.run(workspace, job)
    assert "Made of the project as it was when the work began" in jobs.get(db, job).message


def test_a_word_that_is_put_away_takes_no_file_with_it(visitor, workspace, db, talk_and_bed):
    job = ask(visitor, talk_and_bed)
    work.run(workspace, job)
    (path,) = workspace.folder.exports(job).iterdir()
    for _ in range(2):
        assert visitor.post(f"/jobs/{job}/dismiss").status_code == 204
    assert path.exists()
    assert path.name in visitor.client.get(f"/projects/{talk_and_bed}/part/made").get_data(as_text=True)
    assert visitor.client.get(f"/exports/{job}/0", buffered=True).status_code == 200
    Workspace(workspace.folder.path).folder.prepare_alone().release()  # and a restart
    assert path.exists()


def test_removed_it_can_be_brought_back_and_its_list_says_until_when(visitor, workspace, db, talk_and_bed):
    job = ask(visitor, talk_and_bed)
    work.run(workspace, job)
    (path,) = workspace.folder.exports(job).iterdir()

    def listed():
        return visitor.client.get(f"/projects/{talk_and_bed}/part/made").get_data(as_text=True)

    assert visitor.post(f"/exports/{job}/remove").status_code == 204
    assert "Removed; its files go on" in listed()
    assert f'href="/exports/{job}/0"' not in listed()
    assert path.exists()
    assert visitor.post(f"/exports/{job}/bring-back").status_code == 204
    assert path.name in listed()
    visitor.post(f"/exports/{job}/remove")
    made.give_up(db, job)
    assert visitor.post(f"/exports/{job}/bring-back").status_code == 404


def test_more_than_fifty_stay_on_the_list(visitor, workspace, db, talk_and_bed):
    for k in range(60):
        number = jobs.create(db, talk_and_bed, kind="export", title=f"Mix {k}", payload={"what": "mix"})
        jobs.finish(db, number, state="done")
    text = visitor.client.get(f"/projects/{talk_and_bed}/part/made").get_data(as_text=True)
    assert all(f"<strong>Mix {k} " in text for k in range(60))


def test_what_was_removed_makes_room_before_something_new_is_refused(visitor, workspace, db, talk_and_bed, monkeypatch):
    old = ask(visitor, talk_and_bed)
    work.run(workspace, old)
    visitor.post(f"/exports/{old}/remove")
    room = iter([0])  # none at the first look
    monkeypatch.setattr(workspace.folder, "free_bytes", lambda: next(room, 1 << 40))
    new = ask(visitor, talk_and_bed)
    work.run(workspace, new)
    assert jobs.get(db, new).state == "done"
    assert not workspace.folder.exports(old).exists()
