"""Editing over HTTP: two windows, the history, placing media once more, pauses looked at and cut."""

from __future__ import annotations

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from tests import sounds


def score(visitor, project_id) -> dict:
    return visitor.client.get(f"/projects/{project_id}/document").json


def clip_of(doc: dict, lane: str) -> dict:
    return next(each for each in doc["lanes"] if each["name"] == lane)["clips"][0]


def test_an_edit_made_for_an_older_state_is_refused_and_changes_nothing(visitor, talk_and_bed):
    seen = score(visitor, talk_and_bed)
    bed = clip_of(seen, "Bed")["id"]
    move = f"/projects/{talk_and_bed}/do/move_clips"
    first = visitor.post(move, json={"clip_ids": [bed], "by_n": RATE, "seen": seen["revision"]})
    assert first.status_code == 200
    second = visitor.post(move, json={"clip_ids": [bed], "by_n": 5 * RATE, "seen": seen["revision"]})
    assert second.status_code == 409
    assert second.json["stale"] is True
    assert "changed elsewhere" in second.json["error"]
    assert clip_of(score(visitor, talk_and_bed), "Bed")["start_n"] == RATE


def test_the_history_names_every_step_and_is_jumped_in(visitor, talk_and_bed):
    bed = clip_of(score(visitor, talk_and_bed), "Bed")["id"]
    for by_n in (RATE, 2 * RATE):
        visitor.post(f"/projects/{talk_and_bed}/do/move_clips", json={"clip_ids": [bed], "by_n": by_n})
    page = visitor.client.get(f"/projects/{talk_and_bed}/part/history").get_data(as_text=True)
    assert page.index("Move Bed.wav to 00:03.00") < page.index("Move Bed.wav to 00:01.00") < page.index("Bring in Talk")
    start = visitor.post(f"/projects/{talk_and_bed}/go/0").json
    assert start["lanes"] == []
    assert start["said"] == "Now at: the beginning"
    page = visitor.client.get(f"/projects/{talk_and_bed}/part/history").get_data(as_text=True)
    assert page.count('class="undone"') == 6
    newest = max(int(part.split('"')[0]) for part in page.split('data-history="')[1:])
    assert clip_of(visitor.post(f"/projects/{talk_and_bed}/go/{newest}").json, "Bed")["start_n"] == 3 * RATE
    assert visitor.post(f"/projects/{talk_and_bed}/go/999999").status_code == 404


def test_media_are_placed_once_more_on_lanes_of_their_own_or_on_one_lane(visitor, talk_and_bed):
    doc = score(visitor, talk_and_bed)
    media_id = clip_of(doc, "Bed")["media_id"]
    place = f"/projects/{talk_and_bed}/do/place"
    after = visitor.post(place, json={"media_id": media_id, "at_n": 30 * RATE}).json
    assert len(after["lanes"]) == 3
    lane = next(lane["id"] for lane in after["lanes"] if lane["name"] == "Bed")
    after = visitor.post(place, json={"media_id": media_id, "at_n": 60 * RATE, "lane_id": lane}).json
    assert [clip["start_n"] for clip in next(x for x in after["lanes"] if x["id"] == lane)["clips"]] == [0, 60 * RATE]
    assert visitor.post(place, json={"media_id": 99_999, "at_n": 0}).status_code == 404
    assert visitor.post(place, json={"media_id": media_id, "at_n": -1}).status_code == 422


def test_pauses_are_looked_at_without_a_change_then_cut(visitor, talk_and_bed, bring, tmp_path):
    soundfile.write(tmp_path / "Two.wav", sounds.talk({"vm-intro": 1.0, "vm-opts": 12.0}, seconds=20), RATE)
    bring(tmp_path / "Two.wav")
    doc = score(visitor, talk_and_bed)
    talk = clip_of(doc, "Two")["id"]
    url = f"/projects/{talk_and_bed}/pauses"
    seen = visitor.client.get(f"{url}?clip_ids={talk}&longest_ms=2000&breath_ms=400&all_lanes=false").json
    assert seen["spans"]
    assert seen["removed_n"] == sum(stop - start for start, stop in seen["spans"])
    assert score(visitor, talk_and_bed)["revision"] == doc["revision"]
    cut = {"clip_ids": [talk], "longest_ms": 2000, "breath_ms": 400, "all_lanes": False}
    after = visitor.post(f"/projects/{talk_and_bed}/do/cut_pauses", json=cut).json
    left = sum(clip["length_n"] for clip in next(x for x in after["lanes"] if x["name"] == "Two")["clips"])
    assert left == clip_of(doc, "Two")["length_n"] - seen["removed_n"]
    assert visitor.post(f"/projects/{talk_and_bed}/undo").json["said"].startswith("Undone: Cut")


BAD_QUERIES = ["", "clip_ids=x&longest_ms=1&breath_ms=1", "clip_ids=1", "clip_ids=&longest_ms=5&breath_ms=0"]


@pytest.mark.parametrize("query", BAD_QUERIES)
def test_pauses_asked_for_badly_are_refused(visitor, talk_and_bed, query):
    assert visitor.client.get(f"/projects/{talk_and_bed}/pauses?{query}").status_code in (404, 409, 422)


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("move_clips", {"clip_ids": [424242], "by_n": 1}),
        ("split_clips", {"clip_ids": "all", "at_n": 5}),
        ("trim_clips", {"clip_ids": [], "edge": "start", "by_n": 5}),
        ("trim_clips", {"clip_ids": [1], "edge": "middle", "by_n": 5}),
        ("fade_clips", {"clip_ids": [1], "end": "top", "length_n": 5}),
        ("set_clips", {"clip_ids": [], "gain_db": "loud"}),
        ("paste_clips", {"copied": "text", "at_n": 0}),
        ("paste_clips", {"copied": [{"media_id": 77}], "at_n": 0}),
        ("order_lane", {"lane_id": 1.5, "to": 0}),
        ("set_marker", {"marker_id": 5, "name": "x"}),
        ("cut_out", {"start_n": 10, "stop_n": 5}),
        ("tag_each", {"tags": {"a": "music"}}),
        ("no_such", {}),
    ],
)  # fmt: skip
def test_edits_that_cannot_be_are_refused_in_words_and_change_nothing(visitor, talk_and_bed, kind, values):
    before = score(visitor, talk_and_bed)
    answer = visitor.post(f"/projects/{talk_and_bed}/do/{kind}", json=values)
    assert answer.status_code in (404, 409, 422)
    assert len(answer.json["error"]) > 10
    assert score(visitor, talk_and_bed) == before
