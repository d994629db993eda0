"""Voice takes over HTTP: begun, sent in parts, broken off, listened to, kept where spoken, discarded; latency."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
import soundfile

from jaylantern.core.signal import latency
from jaylantern.core.signal.timebase import RATE
from jaylantern.store import jobs
from tests import sounds
from tests.web.conftest import Visitor


@pytest.fixture
def take(visitor, project_id) -> str:
    """A take begun at 2 s, with a latency of 100 ms."""
    answer = visitor.post(f"/projects/{project_id}/takes", json={"at_n": 2 * RATE, "latency_n": RATE // 10})
    assert answer.status_code == 201
    return answer.json["token"]


def send(visitor, token: str, samples: np.ndarray, offset: int = 0):
    return visitor.send("PUT", f"/takes/{token}?offset={offset}", data=samples.astype("<f4").tobytes())


def in_hand(visitor, project_id) -> list[dict]:
    return visitor.client.get(f"/projects/{project_id}/takes").json["takes"]


def test_a_take_is_listened_to_and_kept_where_it_was_spoken_whole(visitor, project_id, take, do_jobs):
    spoken = sounds.prompt("vm-intro")[: 3 * RATE]
    for at in range(0, len(spoken), RATE):
        assert send(visitor, take, spoken[at : at + RATE], at).json == {"received_n": min(at + RATE, len(spoken))}
    done = visitor.post(f"/takes/{take}/finish").json
    assert done["name"] == "Take 1"
    assert done["peak_db"] == pytest.approx(20 * np.log10(np.abs(spoken).max()), abs=0.06)
    with visitor.client.get(f"/takes/{take}/sound") as answer:
        heard, rate = soundfile.read(io.BytesIO(answer.data))
    assert rate == RATE
    assert np.abs(heard - spoken).max() < 2**-22  # 24 bits
    assert visitor.post(f"/takes/{take}/keep", json={}).status_code == 200
    do_jobs()
    [lane] = visitor.client.get(f"/projects/{project_id}/document").json["lanes"]
    [clip] = lane["clips"]
    assert (lane["name"], lane["tag"]) == ("Voice takes", "dialogue")
    assert (clip["start_n"], clip["offset_n"]) == (2 * RATE, RATE // 10)
    assert clip["length_n"] == len(spoken) - RATE // 10
    assert in_hand(visitor, project_id) == []
    assert visitor.client.get(f"/takes/{take}/sound").status_code == 404


def test_what_was_recorded_before_the_page_went_away_is_still_in_hand(visitor, project_id, take):
    send(visitor, take, np.full(RATE, 0.1))
    [left] = in_hand(visitor, project_id)
    assert (left["state"], left["length_n"], left["at_n"]) == ("recording", RATE, 2 * RATE)
    assert visitor.post(f"/takes/{take}/finish").json["length_n"] == RATE


def test_a_part_that_comes_twice_is_let_pass_and_one_too_early_is_turned_back(visitor, project_id, take):
    samples = np.arange(1000) / 1000
    send(visitor, take, samples)
    assert send(visitor, take, samples).json == {"received_n": 1000}
    assert send(visitor, take, np.arange(1500) / 1500, 0).json == {"received_n": 1500}
    late = send(visitor, take, samples, 9000)
    assert (late.status_code, late.json) == (409, {"received_n": 1500})


def test_half_a_sample_and_a_part_too_large_are_refused(visitor, take):
    assert visitor.send("PUT", f"/takes/{take}?offset=0", data=b"abc").status_code == 422
    assert visitor.send("PUT", f"/takes/{take}?offset=0", data=bytes(4 * 1024**2 + 4)).status_code == 422


def test_a_discarded_take_is_gone_from_list_and_disk(visitor, project_id, take, workspace):
    send(visitor, take, np.zeros(RATE))
    assert visitor.send("DELETE", f"/takes/{take}").status_code == 204
    assert in_hand(visitor, project_id) == []
    assert not list((workspace.folder.path / "takes").iterdir())
    assert send(visitor, take, np.zeros(10)).status_code == 404


def test_a_take_kept_several_times_at_once_is_kept_once(app, visitor, db, project_id, take, do_jobs):
    send(visitor, take, sounds.prompt("vm-intro")[:RATE])
    visitor.post(f"/takes/{take}/finish")
    everybody = [Visitor(app.test_client()) for _ in range(6)]
    with ThreadPoolExecutor(6) as pool:
        answers = list(pool.map(lambda each: each.post(f"/takes/{take}/keep", json={}).json, everybody))
    assert len({answer["job"] for answer in answers}) == 1
    assert len(jobs.unfinished(db)) == 1
    do_jobs()
    [lane] = visitor.client.get(f"/projects/{project_id}/document").json["lanes"]
    assert len(lane["clips"]) == 1
    assert visitor.post(f"/takes/{take}/keep", json={}).status_code == 404


def test_a_take_in_which_nothing_was_spoken_is_not_kept(visitor, project_id, take):
    send(visitor, take, np.zeros(RATE // 10))
    answer = visitor.post(f"/takes/{take}/keep", json={})
    assert answer.status_code == 409
    assert "too short" in answer.json["error"]
    assert len(in_hand(visitor, project_id)) == 1


def test_a_take_goes_onto_the_lane_that_was_chosen_or_its_own_if_that_is_gone(visitor, talk_and_bed, do_jobs):
    lanes = visitor.client.get(f"/projects/{talk_and_bed}/document").json["lanes"]
    talk = next(lane["id"] for lane in lanes if lane["name"] == "Talk")
    for lane_id in (talk, 999_999):
        begun = {"at_n": 20 * RATE, "latency_n": 0}
        token = visitor.post(f"/projects/{talk_and_bed}/takes", json=begun).json["token"]
        send(visitor, token, np.random.default_rng(lane_id).uniform(-0.1, 0.1, RATE))
        assert visitor.post(f"/takes/{token}/keep", json={"lane_id": lane_id}).status_code == 200
    do_jobs()
    lanes = visitor.client.get(f"/projects/{talk_and_bed}/document").json["lanes"]
    starts = {lane["name"]: [clip["start_n"] for clip in lane["clips"]] for lane in lanes}
    assert starts["Talk"] == [0, 20 * RATE]
    assert starts["Voice takes"] == [20 * RATE]


def test_keeping_a_take_can_be_undone_and_the_take_stays_among_the_media(visitor, project_id, take, do_jobs):
    send(visitor, take, np.full(RATE, 0.1))
    visitor.post(f"/takes/{take}/keep", json={})
    do_jobs()
    answer = visitor.post(f"/projects/{project_id}/undo").json
    assert answer["said"] == "Undone: Keep Take 1.wav"
    assert answer["lanes"] == []
    assert len(answer["media"]) == 1


def test_clicks_sent_back_late_are_measured_to_the_sample(visitor):
    sent = np.frombuffer(visitor.client.get("/latency").data, "<f4")
    assert np.array_equal(sent, latency.probe())
    heard = np.zeros(len(sent) + RATE, np.float32)
    heard[3210 : 3210 + len(sent)] = 0.2 * sent
    assert visitor.post("/latency", data=heard.tobytes()).json == {"latency_n": 3210}
    silence = visitor.post("/latency", data=np.zeros_like(heard).tobytes())
    assert silence.status_code == 409
    assert visitor.post("/latency", data=b"odd").status_code == 422


def kept(visitor, project_id, take, do_jobs) -> np.ndarray:
    spoken = sounds.prompt("vm-intro")[: 2 * RATE]
    send(visitor, take, spoken)
    visitor.post(f"/takes/{take}/finish")
    assert visitor.post(f"/takes/{take}/keep", json={}).json["job"]
    do_jobs()
    return spoken


def clips(visitor, project_id) -> list[dict]:
    return [c for lane in visitor.client.get(f"/projects/{project_id}/document").json["lanes"] for c in lane["clips"]]


def test_a_take_whose_keeping_is_undone_is_in_hand_again_and_can_be_heard_and_kept(visitor, project_id, take, do_jobs):
    spoken = kept(visitor, project_id, take, do_jobs)
    visitor.post(f"/projects/{project_id}/undo", json={})
    assert clips(visitor, project_id) == []
    (back,) = in_hand(visitor, project_id)
    assert (back["token"], back["name"], back["length_n"]) == (take, "Take 1", len(spoken))
    with visitor.client.get(f"/takes/{take}/sound") as answer:
        heard, _ = soundfile.read(io.BytesIO(answer.data))
    assert np.abs(heard - spoken).max() < 2**-22
    assert visitor.post(f"/takes/{take}/keep", json={}).json == {"job": None}
    assert [clip["start_n"] for clip in clips(visitor, project_id)] == [2 * RATE]
    assert in_hand(visitor, project_id) == []


def test_done_again_it_is_on_the_timeline_and_not_in_hand(visitor, project_id, take, do_jobs):
    kept(visitor, project_id, take, do_jobs)
    visitor.post(f"/projects/{project_id}/undo", json={})
    visitor.post(f"/projects/{project_id}/redo", json={})
    assert in_hand(visitor, project_id) == []
    assert len(clips(visitor, project_id)) == 1


def test_a_clip_of_a_take_that_is_deleted_does_not_come_back_as_a_take(visitor, project_id, take, do_jobs):
    kept(visitor, project_id, take, do_jobs)
    (clip,) = clips(visitor, project_id)
    visitor.post(f"/projects/{project_id}/do/delete_clips", json={"clip_ids": [clip["id"]]})
    assert in_hand(visitor, project_id) == []


def test_one_that_was_kept_before_can_be_thrown_away(visitor, project_id, take, do_jobs):
    kept(visitor, project_id, take, do_jobs)
    visitor.post(f"/projects/{project_id}/undo", json={})
    assert visitor.send("DELETE", f"/takes/{take}").status_code == 204
    assert in_hand(visitor, project_id) == []
    assert visitor.client.get(f"/projects/{project_id}/document").json["media"] == {}


def test_the_pulse_counts_takes_in_hand(visitor, project_id, take):
    assert visitor.client.get(f"/projects/{project_id}/pulse").json["takes"] == 1
    visitor.send("DELETE", f"/takes/{take}")
    assert visitor.client.get(f"/projects/{project_id}/pulse").json["takes"] == 0
