"""The Tailor tray's fragment: what it waits for, what it shows, and that looking changes nothing."""

import json
import re

import pytest
import soundfile

from jaylantern.jobs import work
from jaylantern.store import jobs
from tests.tunes import RATE, tune


@pytest.fixture
def music(bring_known, tmp_path, project_id):
    soundfile.write(tmp_path / "Tune.wav", tune("VABA", bpm=110).sound, RATE)
    assert bring_known(tmp_path / "Tune.wav").state == "done"
    return project_id


def fragment(visitor, project_id, **asked):
    return visitor.client.get(f"/projects/{project_id}/tailor/clip", query_string=asked).get_data(as_text=True)


def run_beats(workspace, db, project_id):
    for job in jobs.of_project(db, project_id, kind="beats"):
        work.run(workspace, job.id)


def test_beats_are_listened_for_when_first_asked_once(visitor, workspace, db, music):
    assert "Listening for the beats of Tune.wav" in fragment(visitor, music)
    assert not jobs.of_project(db, music, kind="beats")
    for _ in range(2):
        answer = visitor.post(f"/projects/{music}/tailor/listen")
        assert "Listening" in answer.get_data(as_text=True)
    assert len(jobs.of_project(db, music, kind="beats")) == 1
    run_beats(workspace, db, music)
    shown = fragment(visitor, music)
    assert re.search(r"110\.0 bpm", shown)
    drawn = json.loads(re.search(r'id="ribbon-drawn">(.*?)</script>', shown, re.S)[1])
    assert drawn["length_n"] == drawn["heard_n"]
    assert len(drawn["bars"]) in (15, 16)


def test_what_was_stopped_is_said_and_tried_again_when_asked(visitor, db, music):
    visitor.post(f"/projects/{music}/tailor/listen")
    (job,) = jobs.of_project(db, music, kind="beats")
    jobs.finish(db, job.id, state="stopped", message="Stopped.")
    shown = fragment(visitor, music)
    assert "was not listened to: Stopped." in shown
    assert "Try again" in shown
    visitor.post(f"/projects/{music}/tailor/listen")
    assert len(jobs.of_project(db, music, kind="beats")) == 2


def test_without_sound_it_says_what_to_do(visitor, project_id):
    assert "Bring in music" in fragment(visitor, project_id)


def test_solutions_and_folds_are_shown(visitor, workspace, db, music):
    document = visitor.client.get(f"/projects/{music}/document").json
    clip = document["lanes"][0]["clips"][0]
    answer = visitor.post(f"/projects/{music}/do/tailor_clip", json={"clip_id": clip["id"], "length_n": 22 * RATE})
    after = answer.json["lanes"][0]["clips"][0]
    folds = answer.json["media"][str(after["media_id"])]["folds"]
    shown = fragment(visitor, music, clip=clip["id"])
    assert shown.count('data-command="move_fold"') == 2 * len(folds)
    assert shown.count('class="way"') >= 2
    assert "hurry" in shown  # stretching 35 s to 22 s would be heard


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"length_n": 3 * RATE}, "comes near 3.0 s"),
        ({"length_n": 0}, "The length must be"),
        ({"length_n": 20 * RATE, "pieces": 200}, "Few or many pieces must be"),
        ({"length_n": 20 * RATE, "protect": [[1]]}, "What is protected"),
        ({"length_n": 20 * RATE, "until": "noon"}, "What the end follows must be"),
    ],
)
def test_wishes_that_cannot_be_are_refused_in_words(visitor, music, values, said):
    clip = visitor.client.get(f"/projects/{music}/document").json["lanes"][0]["clips"][0]
    answer = visitor.post(f"/projects/{music}/do/tailor_clip", json={"clip_id": clip["id"], **values})
    assert said in answer.get_data(as_text=True)
