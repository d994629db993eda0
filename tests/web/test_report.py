"""The report: what it says agrees with what is measured elsewhere."""

from __future__ import annotations

import re

import pytest


@pytest.fixture
def report(visitor, talk_and_bed):
    def fetch() -> dict:
        answer = visitor.client.get(f"/projects/{talk_and_bed}/report.json")
        assert answer.status_code == 200, answer.text
        return answer.json

    return fetch


def test_the_report_says_what_is_measured(visitor, talk_and_bed, report):
    found = report()
    table = visitor.client.get(f"/projects/{talk_and_bed}/measured").text
    shown = re.search(r'title="Mix">.*?</th><td>([−0-9.]+)</td>', table)[1]
    assert f"{found['measured']['integrated_lufs']:.1f}".replace("-", "−") == shown
    assert found["target"] == {"integrated_lufs": -23, "true_peak_dbtp": -1}
    assert found["off_lu"] == pytest.approx(found["measured"]["integrated_lufs"] + 23, abs=0.01)
    score = visitor.client.get(f"/projects/{talk_and_bed}/document").json
    assert len(found["passages"]) == len(score["passages"]) == 1
    [passage] = found["passages"]
    assert passage["start_s"] == pytest.approx(score["passages"][0]["start_n"] / 48_000, abs=0.001)
    assert passage["dip_db"] == -14
    assert passage["speech_lufs"] > passage["music_lufs"]
    assert found["by_hand"] == {}


def test_what_was_set_by_hand_is_counted(visitor, talk_and_bed, report):
    visitor.post(f"/projects/{talk_and_bed}/do/set_passage", json={"index": 0, "own": {"amount_db": -20}})
    visitor.post(f"/projects/{talk_and_bed}/do/match", json={"subject": "mix", "how": "all", "target": -23})
    found = report()
    assert found["on_target"]
    assert found["passages"][0]["by_hand"]
    assert found["by_hand"] == {"dips with values of their own": 1, "clips with a gain": 2}


def test_the_page_has_its_figures_and_drawings(visitor, talk_and_bed, report):
    page = visitor.client.get(f"/projects/{talk_and_bed}/report").text
    assert page.count("<svg") >= 2
    assert re.search(r'class="gain" points="[0-9., ]+"', page)
    assert f"{report()['measured']['integrated_lufs']:.1f} LUFS".replace("-", "−") in page
    assert "style=" not in page  # the page's policy allows none


def test_an_empty_film_has_none(visitor):
    number = visitor.post("/projects", data={"name": "Empty"}, headers={"Accept": "application/json"}).json["id"]
    answer = visitor.client.get(f"/projects/{number}/report.json", headers={"Accept": "application/json"})
    assert answer.status_code == 409
    assert "nothing to report" in answer.json["error"]


def test_captions_are_compared_place_by_place(visitor, talk_and_bed, report):
    assert report()["captions"] == []
    [passage] = report()["passages"]
    start_n = round(passage["start_s"] * 48_000)
    stop_n = start_n + round(passage["length_s"] * 48_000)
    cues = [[start_n, stop_n, "What is said", ""], [stop_n + 96_000, stop_n + 144_000, "What nobody says", ""]]
    values = {"name": "Film.srt", "form": "srt", "cues": cues}
    assert visitor.post(f"/projects/{talk_and_bed}/do/add_captions", json=values).status_code == 200
    [found] = report()["captions"]
    assert (found["name"], found["cues"], found["off_s"], found["talk_without_s"]) == ("Film.srt", 2, 0, [])
    assert found["without_talk_s"] == [[pytest.approx(n / 48_000, abs=0.01) for n in cues[1][:2]]]
    page = visitor.client.get(f"/projects/{talk_and_bed}/report").text
    assert "Film.srt</th><td>2</td><td>nowhere</td>" in page
