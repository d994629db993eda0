"""The page's panels, the score, listening and handing off, over HTTP."""

from __future__ import annotations

import json

import numpy as np
import pytest

from jaylantern.core.mixing.mix import Variant
from jaylantern.core.signal.timebase import RATE
from jaylantern.web.project import FRAGMENTS, STEPS


def samples(answer) -> np.ndarray:
    return np.frombuffer(answer.data, "<f4").reshape(-1, 2)


def test_the_score_is_json_without_infinities_and_follows_a_change(visitor, talk_and_bed):
    score = visitor.client.get(f"/projects/{talk_and_bed}/document").json
    json.dumps(score, allow_nan=False)
    assert len(score["passages"]) == 1
    after = visitor.post(f"/projects/{talk_and_bed}/do/set_settings", json={"settings": {"amount_db": -20}}).json
    assert after["revision"] == score["revision"] + 1
    assert min(after["curves"][after["leading"]]["gain_db"]) == -20
    assert visitor.post(f"/projects/{talk_and_bed}/undo").json["said"] == "Undone: Duck amount −20 dB"


@pytest.mark.parametrize("variant", list(Variant))
def test_windows_of_listening_are_pieces_of_one_whole(visitor, talk_and_bed, variant):
    base = f"/projects/{talk_and_bed}/listen/{variant}"
    whole = samples(visitor.client.get(f"{base}?start=0&stop={6 * RATE}"))
    assert whole.shape == (6 * RATE, 2)
    for start, stop in ((0, 1), (RATE - 5, RATE + 5), (2 * RATE + 17, 5 * RATE + 3)):
        assert np.array_equal(samples(visitor.client.get(f"{base}?start={start}&stop={stop}")), whole[start:stop])


def test_listening_brings_the_meters_of_its_seconds(visitor, talk_and_bed):
    answer = visitor.client.get(f"/projects/{talk_and_bed}/listen/ducked?start={RATE}&stop={RATE + 100}")
    [meter] = json.loads(answer.headers["X-Meter"])
    assert meter["start_n"] == RATE
    assert len(meter["lufs"]) == 10
    assert -30 < meter["dbtp"] < 0


@pytest.mark.parametrize(
    ("query", "status"),
    [("start=0&stop=0", 422), ("start=5&stop=4", 422), ("start=-1&stop=5", 422), ("start=0", 422),
     ("start=x&stop=y", 422), (f"start=0&stop={11 * RATE}", 422), ("start=" + "9" * 30 + "&stop=1", 422)],
)  # fmt: skip
def test_windows_that_are_none_are_refused(visitor, project_id, query, status):
    assert visitor.client.get(f"/projects/{project_id}/listen/ducked?{query}").status_code == status


def test_an_unknown_way_to_listen_is_not_found(visitor, project_id):
    assert visitor.client.get(f"/projects/{project_id}/listen/backwards?start=0&stop=9").status_code == 404


@pytest.mark.parametrize("step", STEPS)
def test_a_step_is_a_whole_page_or_just_its_tray(visitor, talk_and_bed, step):
    page = visitor.client.get(f"/projects/{talk_and_bed}/{step}").get_data(as_text=True)
    tray = visitor.client.get(f"/projects/{talk_and_bed}/{step}", headers={"HX-Request": "true"}).get_data(as_text=True)
    assert "<!doctype html>" in page
    assert "<!doctype html>" not in tray
    assert tray.strip() in page
    assert f'data-tray="{step}"' in tray


@pytest.mark.parametrize("name", FRAGMENTS)
def test_every_panel_can_be_fetched_for_full_and_empty_projects(visitor, talk_and_bed, db, name):
    from jaylantern.store import projects

    empty = projects.create(db, "Empty")
    for number in (talk_and_bed, empty):
        assert visitor.client.get(f"/projects/{number}/part/{name}").status_code == 200
    assert visitor.client.get(f"/projects/{empty}/part/nothing").status_code == 404


def test_text_from_people_is_never_markup(visitor, talk_and_bed):
    visitor.post(f"/projects/{talk_and_bed}/do/rename_project", json={"name": "<img src=x>"})
    score = visitor.client.get(f"/projects/{talk_and_bed}/document").json
    visitor.post(f"/projects/{talk_and_bed}/do/set_lane", json={"lane_id": score["lanes"][0]["id"], "name": "<b>x</b>"})
    for step in STEPS:
        page = visitor.client.get(f"/projects/{talk_and_bed}/{step}").get_data(as_text=True)
        assert "<img src=x>" not in page
        assert "<b>x</b>" not in page


def test_a_file_is_made_and_fetched_under_a_safe_name(visitor, talk_and_bed, do_jobs):
    visitor.post(f"/projects/{talk_and_bed}/do/rename_project", json={"name": 'A/B: "quay"?'})
    job = visitor.post(f"/projects/{talk_and_bed}/exports", json={"what": "mix"}).json["job"]
    do_jobs()
    answer = visitor.client.get(f"/exports/{job}/0", buffered=True)
    assert answer.data[:4] == b"RIFF"
    assert "A B quay - mix" in answer.headers["Content-Disposition"]
    assert visitor.client.get(f"/exports/{job}/1").status_code == 404
    pulse = visitor.client.get(f"/projects/{talk_and_bed}/pulse").json
    assert pulse["jobs"][0]["state"] == "done"
    assert visitor.post(f"/jobs/{job}/dismiss").status_code == 204
    assert visitor.client.get(f"/exports/{job}/0", buffered=True).status_code == 200  # what was made stays
    assert all(each["id"] != job for each in visitor.client.get(f"/projects/{talk_and_bed}/pulse").json["jobs"])


def test_a_waiting_job_can_be_stopped(visitor, talk_and_bed, do_jobs):
    job = visitor.post(f"/projects/{talk_and_bed}/exports", json={"what": "mix"}).json["job"]
    visitor.post(f"/jobs/{job}/stop")
    do_jobs()
    states = {each["id"]: each["state"] for each in visitor.client.get(f"/projects/{talk_and_bed}/pulse").json["jobs"]}
    assert states[job] == "stopped"


@pytest.mark.parametrize("what", ["everything", None, ["mix"]])
def test_what_cannot_be_handed_off_is_refused(visitor, project_id, what):
    assert visitor.post(f"/projects/{project_id}/exports", json={"what": what}).status_code == 422


def test_errors_are_json_for_scripts_and_a_page_for_people(visitor):
    assert (
        visitor.client.get("/projects/4711/document", headers={"Accept": "application/json"})
        .json["error"]
        .startswith("There is no project")
    )
    page = visitor.client.get("/projects/4711/duck", headers={"Accept": "text/html"})
    assert page.status_code == 404
    assert "This did not work" in page.get_data(as_text=True)
    assert visitor.post("/projects/1/do/fly", data="no json").status_code == 422


def test_the_shelf_has_a_card_for_every_project(visitor, talk_and_bed):
    assert f"/projects/{talk_and_bed}/card" in visitor.client.get("/").get_data(as_text=True)
    card = visitor.client.get(f"/projects/{talk_and_bed}/card").get_data(as_text=True)
    assert "1 passage" in card
    assert "no picture yet" in card


def test_media_files_can_be_asked_for_in_ranges_and_be_kept(visitor, talk_and_bed):
    score = visitor.client.get(f"/projects/{talk_and_bed}/document").json
    number, medium = next(iter(score["media"].items()))
    answer = visitor.client.get(f"/media/{number}/peaks", headers={"Range": "bytes=0-3"}, buffered=True)
    assert (answer.status_code, len(answer.data)) == (206, 4)
    whole = visitor.client.get(f"/media/{number}/peaks", buffered=True)
    assert len(whole.data) == 4 * sum(medium["level_counts"])
    assert "max-age=31536000" in whole.headers["Cache-Control"]
    assert visitor.client.get(f"/media/{number}/thumbs").status_code == 404
    assert visitor.client.get("/media/4711/peaks").status_code == 404
