"""What the page relies on so that a person is never surprised: undo that was seen, refusals as answers, files in order,
ends of films in words."""

from __future__ import annotations

import pytest

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.jobs import work
from jaylantern.store import jobs, projects
from tests import films, sounds


def test_undo_from_a_revision_that_was_not_the_last_is_refused(visitor, talk_and_bed):
    url = f"/projects/{talk_and_bed}"
    seen = visitor.client.get(f"{url}/document").json["revision"]
    visitor.post(f"{url}/do/rename_project", json={"name": "Elsewhere"})
    answer = visitor.post(f"{url}/undo", json={"seen": seen})
    assert (answer.status_code, answer.json["stale"]) == (409, True)
    assert "changed elsewhere" in answer.json["error"]
    assert visitor.client.get(f"{url}/document").json["name"] == "Elsewhere"
    assert visitor.post(f"{url}/undo", json={"seen": seen + 1}).status_code == 200


@pytest.mark.parametrize(
    ("path", "sent", "status"),
    [
        ("undo", {}, 409),
        ("do/no_such", {}, 422),
        ("do/split_clips", {"at_n": 5, "clip_ids": [1]}, 404),
        ("do/set_in", {"at_n": -5}, 422),
    ],
)
def test_an_expected_refusal_is_an_answer_where_that_is_asked_for(visitor, project_id, path, sent, status):
    plain = visitor.post(f"/projects/{project_id}/{path}", json=sent)
    asked = visitor.post(f"/projects/{project_id}/{path}", json=sent, headers={"X-Refusals": "as-answers"})
    assert plain.status_code == status
    assert "X-Refused" not in plain.headers
    assert (asked.status_code, asked.headers["X-Refused"]) == (200, str(status))
    assert asked.json == plain.json


def lots(workspace, db, project_id, paths, **more):
    """Files that came together; the jobs are begun in the opposite order of time each would take."""
    numbers = []
    for path in paths:
        token = jobs.create_upload(db, project_id, name=path.name, size_bytes=path.stat().st_size, at_n=RATE)
        workspace.folder.incoming(token).write_bytes(path.read_bytes())
        payload = {"token": token, "name": path.name, "at_n": RATE, "batch": "b", **more}
        numbers.append(jobs.create(db, project_id, kind="import", title=path.name, payload=payload))
        jobs.drop_upload(db, token)
    return numbers


@pytest.fixture
def three(tmp_path):
    import soundfile

    for name, seconds in (("c", 3), ("a", 1), ("b", 2)):
        soundfile.write(tmp_path / f"{name}.wav", sounds.noise(seconds=seconds), RATE)
    return [tmp_path / f"{name}.wav" for name in ("c", "a", "b")]


def lying(db, project_id):
    return [
        [(c.name, c.start_n // RATE, c.stop_n // RATE) for c in lane.clips]
        for lane in projects.load(db, project_id).lanes
    ]


def test_several_files_land_one_after_another_on_one_lane(workspace, db, project_id, three):
    for number in lots(workspace, db, project_id, three, row="one"):
        work.run(workspace, number)
    assert lying(db, project_id) == [[("c.wav", 1, 4), ("a.wav", 4, 5), ("b.wav", 5, 7)]]


def test_or_each_on_its_own_lane_in_the_order_they_were_chosen(workspace, db, project_id, three):
    from threading import Thread

    first, *rest = lots(workspace, db, project_id, three, row="own")
    early = [Thread(target=work.run, args=(workspace, number)) for number in rest]
    for thread in early:
        thread.start()
    work.run(workspace, first)  # the others wait for it
    for thread in early:
        thread.join(60)
    assert lying(db, project_id) == [[("c.wav", 1, 4)], [("a.wav", 1, 2)], [("b.wav", 1, 3)]]


def test_one_that_fails_does_not_hold_up_the_others(workspace, db, project_id, three):
    three[0].write_bytes(b"no sound at all" * 50)
    for number in lots(workspace, db, project_id, three, row="one"):
        work.run(workspace, number)
    assert lying(db, project_id) == [[("a.wav", 1, 2), ("b.wav", 2, 4)]]


def test_a_file_is_inserted_where_it_is_sent_to(workspace, db, project_id, three, bring):
    bring(three[0])
    (number,) = lots(workspace, db, project_id, three[1:2], how="insert")
    work.run(workspace, number)
    assert lying(db, project_id) == [[("c.wav", 0, 1), ("a.wav", 1, 2), ("c.wav", 2, 4)]]


@pytest.mark.parametrize(
    "sent", [{"how": "sideways"}, {"lane_id": "one"}, {"lane_id": 0}], ids=["how", "lane as text", "lane 0"]
)
def test_odd_ways_to_land_are_refused(visitor, project_id, sent):
    answer = visitor.post(f"/projects/{project_id}/imports", json={"name": "a.wav", "size_bytes": 5, "at_n": 0, **sent})
    assert answer.status_code == 422


@pytest.fixture
def film(bring, tmp_path, project_id, db) -> int:
    """A film of six seconds and music of eight."""
    import soundfile

    bring(films.write_film(tmp_path / "Film.mp4", seconds=6))
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=8, amplitude=0.2), RATE)
    bring(tmp_path / "Bed.wav")
    lane = next(lane for lane in projects.load(db, project_id).lanes if lane.name == "Bed")
    commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "music"})
    return project_id


def made(workspace, db, project_id, **values):
    job_id = jobs.create(db, project_id, kind="export", title="film", payload={"what": "film", **values})
    work.run(workspace, job_id)
    job = jobs.get(db, job_id)
    assert job.state == "done", job.message
    (path,) = workspace.folder.exports(job_id).iterdir()
    return path, job.message


def lasts(path) -> tuple[float, float, object]:
    """Seconds of picture and sound, and the level of its last half second against its first second in dB."""
    import av
    import numpy as np

    with av.open(str(path)) as film:
        stream = film.streams.video[0]
        picture_s = float(stream.duration * stream.time_base)
    with av.open(str(path)) as film:
        sound = np.concatenate([frame.to_ndarray()[0] for frame in film.decode(audio=0)])
    rms = [np.sqrt(np.mean(part**2)) for part in (sound[RATE // 2 : RATE], sound[-RATE // 2 - 2048 : -2048])]
    return picture_s, len(sound) / RATE, 20 * np.log10(rms[1] / rms[0])


def test_a_film_ends_with_its_picture_and_the_music_fades(workspace, db, film):
    path, message = made(workspace, db, film, fade_s=2)
    picture_s, sound_s, change_db = lasts(path)
    assert (picture_s, sound_s) == (pytest.approx(6, abs=0.05), pytest.approx(6, abs=0.05))
    assert change_db < -12
    assert message == ""


def test_without_a_fade_it_is_cut(workspace, db, film):
    assert lasts(made(workspace, db, film, fade_s=0)[0])[2] == pytest.approx(0, abs=1)


def test_each_film_has_its_own_fade(workspace, db, film):
    """What one film's end made of the project is not taken for the next."""
    changes = [lasts(made(workspace, db, film, fade_s=fade_s)[0])[2] for fade_s in (3, 0, 3)]
    assert changes[0] == pytest.approx(changes[2], abs=0.1)
    assert changes[0] < -12
    assert changes[1] == pytest.approx(0, abs=1)


def test_or_with_its_mix_the_picture_still_copied_its_last_frame_held(workspace, db, film):
    path, message = made(workspace, db, film, ending="held")
    picture_s, sound_s, change_db = lasts(path)
    assert (picture_s, sound_s) == (pytest.approx(8, abs=0.05), pytest.approx(8, abs=0.05))
    assert change_db == pytest.approx(0, abs=1)
    assert message == ""  # copied


def test_or_black_which_is_encoded_anew_and_said(workspace, db, film):
    import av

    path, message = made(workspace, db, film, ending="black")
    assert message == "The picture was encoded anew, because there is no picture at 00:06.0."
    with av.open(str(path)) as container:
        greys = [frame.to_ndarray(format="gray").mean() for frame in container.decode(video=0)]
    assert len(greys) == 200
    assert min(greys[:150]) > 30 > 20 > max(greys[150:])


def test_or_from_in_to_out(workspace, db, film):
    commands.do(db, film, "set_in", {"at_n": 2 * RATE})
    commands.do(db, film, "set_out", {"at_n": 5 * RATE})
    path, message = made(workspace, db, film, ending="in-out")
    assert lasts(path)[:2] == (pytest.approx(3, abs=0.05), pytest.approx(3, abs=0.05))
    assert "copied" in message


def test_the_choice_and_its_consequence_stand_in_words(visitor, film):
    url = f"/projects/{film}/film/ends"
    said = {each: visitor.client.get(f"{url}?ending={each}&fade_s=1.5").get_data(as_text=True).strip()
            for each in ("picture", "held", "black", "in-out")}  # fmt: skip
    assert said["picture"].endswith("the last 2.0 s of Bed.wav is cut off, faded out over 1.5 s before.")
    assert "its last frame is held for 2.0 s" in said["held"]
    assert "black for the last 2.0 s" in said["black"]
    assert "no in and out point yet" in said["in-out"]
    assert visitor.client.get(f"{url}?ending=never").status_code == 422
    assert visitor.client.get(f"{url}?fade_s=900").status_code == 422
