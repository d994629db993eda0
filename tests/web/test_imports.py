"""Uploads: streamed to disk in parts, limited in words, names never used as paths."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.store import jobs
from jaylantern.web import imports
from jaylantern.workspace.folder import DataFolder
from tests import sounds
from tests.web.conftest import Visitor


@pytest.fixture
def song(tmp_path) -> bytes:
    soundfile.write(tmp_path / "s.wav", sounds.noise(seconds=2, channels=1), RATE)
    return (tmp_path / "s.wav").read_bytes()


def announce(visitor, project_id, **values):
    return visitor.post(
        f"/projects/{project_id}/imports", json={"name": "a.wav", "size_bytes": 10, "at_n": 0, **values}
    )


def put(visitor, token, offset, data):
    return visitor.send("PUT", f"/imports/{token}?offset={offset}", data=data)


def test_a_file_sent_in_parts_becomes_a_clip_at_its_place(visitor, project_id, song, do_jobs, workspace):
    token = announce(visitor, project_id, name="Song.wav", size_bytes=len(song), at_n=RATE).json["token"]
    half = len(song) // 2
    assert put(visitor, token, 0, song[:half]).json == {"received_bytes": half, "job": None}
    assert visitor.client.get(f"/imports/{token}").json == {"received_bytes": half, "job": None}
    assert put(visitor, token, half, song[half:]).json["job"]
    do_jobs()
    [lane] = visitor.client.get(f"/projects/{project_id}/document").json["lanes"]
    assert (lane["clips"][0]["start_n"], lane["clips"][0]["length_n"]) == (RATE, 2 * RATE)
    assert not list((workspace.folder.path / "incoming").iterdir())


def test_a_part_sent_twice_changes_nothing_and_one_too_early_is_told_where_the_server_stands(
    visitor, project_id, song, workspace
):
    token = announce(visitor, project_id, size_bytes=len(song)).json["token"]
    for _ in range(2):
        assert put(visitor, token, 0, song[:1000]).json == {"received_bytes": 1000, "job": None}
    for offset in (999, 1001):
        early = put(visitor, token, offset, song[:1000])
        assert (early.status_code, early.json["received_bytes"]) == (409, 1000)
    assert workspace.folder.incoming(token).read_bytes() == song[:1000]


def test_the_last_part_sent_several_times_at_once_makes_one_job(app, visitor, db, project_id, song, do_jobs):
    token = announce(visitor, project_id, size_bytes=len(song)).json["token"]
    everybody = [Visitor(app.test_client()) for _ in range(6)]
    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(lambda each: put(each, token, 0, song).json, everybody))
    assert len({tuple(answer.items()) for answer in answers}) == 1
    assert len(jobs.unfinished(db)) == 1
    do_jobs()
    assert put(visitor, token, 0, song).json == answers[0]  # also when it comes late
    assert visitor.client.get(f"/imports/{token}").json == answers[0]
    assert len(visitor.client.get(f"/projects/{project_id}/document").json["lanes"]) == 1


def test_more_than_was_announced_is_refused(visitor, project_id):
    token = announce(visitor, project_id, size_bytes=10).json["token"]
    answer = put(visitor, token, 0, b"x" * 11)
    assert answer.status_code == 422
    assert "grew while it was being read" in answer.json["error"]


def test_an_upload_given_up_leaves_nothing(visitor, project_id, workspace):
    token = announce(visitor, project_id).json["token"]
    put(visitor, token, 0, b"12345")
    assert visitor.send("DELETE", f"/imports/{token}").status_code == 204
    assert not list((workspace.folder.path / "incoming").iterdir())
    assert put(visitor, token, 5, b"67890").status_code == 404


@pytest.mark.parametrize(
    ("values", "status", "said"),
    [
        ({"size_bytes": 0}, 422, "a.wav is empty (0 bytes)"),
        ({"size_bytes": 65 * 1024**3}, 422, "a.wav has 65.0 GiB; files up to 64.0 GiB can be brought in"),
        ({"size_bytes": -1}, 422, "size_bytes must be a whole number"),
        ({"size_bytes": "many"}, 422, "size_bytes must be a whole number"),
        ({"at_n": 1.5}, 422, "at_n must be a time"),
    ],
)
def test_what_cannot_be_brought_in_is_said_before_it_is_sent(visitor, project_id, values, status, said):
    answer = announce(visitor, project_id, **values)
    assert answer.status_code == status
    assert said in answer.json["error"]


def test_a_file_larger_than_the_room_there_is_says_both(visitor, project_id, monkeypatch, workspace):
    monkeypatch.setattr(DataFolder, "free_bytes", lambda self: 5 * 1024**2)
    answer = announce(visitor, project_id, size_bytes=6 * 1024**2)
    assert answer.status_code == 409
    assert answer.json["error"] == "a.wav has 6.0 MiB, but only 5.0 MiB are free in the data folder."


@pytest.mark.parametrize(
    ("name", "kept"),
    [
        ("../../etc/passwd", "passwd"),
        ("C:\\films\\quay.mov", "quay.mov"),
        ("a\x00b\nc.wav", "abc.wav"),
        ("", "unnamed file"),
        ("/", "unnamed file"),
        ("ü" * 400, "ü" * 200),
    ],
)
def test_names_are_only_names(visitor, project_id, name, kept):
    assert imports._clean(name) == kept
    assert announce(visitor, project_id, name=name).status_code == 200


@pytest.mark.parametrize("token", ["..", "nothing", "..%2f..%2fsecret"])
def test_tokens_that_were_never_given_out_are_not_known(visitor, token):
    assert put(visitor, token, 0, b"x").status_code == 404


def test_an_unknown_project_is_not_found(visitor):
    assert announce(visitor, 4711).status_code == 404
