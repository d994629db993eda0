"""Corrections, points, perches, presets and listening over HTTP: what each does, undo, and what is refused."""

from __future__ import annotations

import json

import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE


@pytest.fixture
def film(visitor, talk_and_bed):
    """The project, spoken to by short names."""

    class Film:
        id = talk_and_bed
        url = f"/projects/{talk_and_bed}"

        def score(self) -> dict:
            return visitor.client.get(f"{self.url}/document").json

        def do(self, kind: str, status: int = 200, **values) -> dict:
            answer = visitor.post(f"{self.url}/do/{kind}", json=values)
            assert answer.status_code == status, answer.json
            return answer.json

        def undo(self) -> dict:
            return visitor.post(f"{self.url}/undo").json

        def lane(self, name: str) -> dict:
            return next(lane for lane in self.score()["lanes"] if lane["name"] == name)

    return Film()


def plain(score: dict) -> dict:
    """All of a score that undo must bring back."""
    return {
        name: value
        for name, value in score.items()
        if name not in ("revision", "undo", "redo", "undo_id", "redo_id", "said")
    }


@pytest.mark.parametrize(
    ("deed", "values"),
    [
        ("mark_speech", {"index": 0, "speech": False}),
        ("mark_speech", {"start_n": 10 * RATE, "stop_n": 11 * RATE, "speech": True}),
        ("move_edge", {"index": 0, "edge": "stop", "to_n": 9 * RATE}),
        ("split_passage", {"at_n": 4 * RATE}),
        ("set_passage", {"index": 0, "own": {"amount_db": -20, "rise": "eased"}}),
        ("set_passage", {"index": 0, "none": True}),
    ],
)
def test_a_correction_changes_what_is_found_and_undo_brings_it_back(film, deed, values):
    before = film.score()
    after = film.do(deed, **values)
    assert after["passages"] != before["passages"]
    assert plain(film.undo()) == plain(before)
    again = film.do(deed, **values)
    assert again["passages"] == after["passages"]


def test_corrections_can_be_lifted_one_by_one_and_all(film):
    before = film.score()
    film.do("move_edge", index=0, edge="stop", to_n=9 * RATE)
    film.do("set_passage", index=0, own={"amount_db": -3})
    assert film.do("lift_passage", index=0)["passages"] == before["passages"]
    film.do("mark_speech", start_n=10 * RATE, stop_n=11 * RATE, speech=True)
    assert film.do("lift_passages")["passages"] == before["passages"]


@pytest.mark.parametrize(
    ("deed", "values", "status", "said"),
    [
        ("nothing", {}, 422, "no command called"),
        ("mark_speech", {"start_n": 5, "stop_n": 5}, 422, "must end after it begins"),
        ("move_edge", {"index": 9, "edge": "stop", "to_n": 5}, 404, "passage is not there"),
        ("move_edge", {"index": 0, "edge": "middle", "to_n": 5}, 422, "edge must be one of start, stop"),
        ("split_passage", {"at_n": 11 * RATE}, 409, "in no passage"),
        ("join_passages", {"index": 0}, 409, "no passage after this"),
        ("set_passage", {"index": 0, "own": {"loudness": 3}}, 422, "no setting called"),
        ("set_passage", {"index": 0, "own": {"sensitivity": 3}}, 422, "can't have a 'sensitivity' of its own"),
        ("set_passage", {"index": 0, "own": {"amount_db": 3}}, 422, "Duck amount must be between"),
        ("move_points", {"lane_id": 10**9, "points": [{"at_n": 0, "to_n": 0, "to_db": 0}]}, 404, "lane is not there"),
        ("freeze_curve", {"lane_id": 10**9}, 404, "lane is not there"),
    ],
)
def test_what_can_not_be_corrected_is_refused_in_words(film, deed, values, status, said):
    before = film.score()
    answer = film.do(deed, status, **values)
    assert said in answer["error"]
    assert film.score() == before


def test_points_are_moved_added_taken_away_frozen_and_lifted(film):
    bed = film.lane("Bed")["id"]
    before = film.score()
    name = before["leading"]
    at_n = before["curves"][name]["time_n"][1]
    moved = film.do("move_points", lane_id=bed, points=[{"at_n": at_n, "pin": None, "to_n": at_n + 960, "to_db": -9.5}])
    [[index, pin]] = moved["curves"][name]["pins"]
    assert moved["curves"][name]["time_n"][index] == at_n + 960
    assert moved["curves"][name]["gain_db"][index] == -9.5
    film.do("add_point", lane_id=bed, at_n=12 * RATE, gain_db=-2, dipped=False)
    film.do("remove_points", lane_id=bed, points=[{"at_n": at_n + 960, "pin": pin}])
    frozen = film.do("freeze_curve", lane_id=bed)
    assert frozen["undo"].startswith("Freeze Bed: ")
    assert film.lane("Bed")["frozen"]
    still = film.do("set_settings", settings={"amount_db": -30})
    assert still["curves"][name] == frozen["curves"][name]
    assert film.do("clear_curve", lane_id=bed)["curves"][name]["gain_db"] == [0.0]
    free = film.do("follow_speech", lane_id=bed)
    assert min(free["curves"][name]["gain_db"]) == -30
    assert free["curves"][name]["pins"] == []


def test_points_that_are_none_are_refused(film):
    bed = film.lane("Bed")["id"]
    for points, said in (([], "Points must be a list of 1"), ([3], "A point must be an object"),
                         ([{"at_n": -1}], "24 hours"),
                         ([{"at_n": RATE, "to_n": RATE, "to_db": 99}], "A point.to_db must be a number")):  # fmt: skip
        assert said in film.do("move_points", 422, lane_id=bed, points=points)["error"]
    assert (
        "not there any more" in film.do("remove_points", 404, lane_id=bed, points=[{"at_n": RATE, "pin": 77}])["error"]
    )


def test_perches_pairs_and_triggers(film):
    talk, bed = film.lane("Talk")["id"], film.lane("Bed")["id"]
    raised = film.do("raise_lane", lane_id=talk)
    assert ("Talk", "dialogue") in [(pair["upper_word"], pair["lower"]) for pair in raised["pairs"]]
    deeper = film.do("set_pair", upper=f"lane {talk}", lower="music", own={"amount_db": -21})
    assert min(deeper["curves"][deeper["leading"]]["gain_db"]) == -21
    film.do("lower_lane", lane_id=talk)
    whole = film.do("set_lane", lane_id=talk, trigger="clip")
    assert (whole["passages"][0]["start_n"], whole["passages"][0]["stop_n"]) == (0, 12 * RATE)
    by_level = film.do("set_lane", lane_id=talk, trigger="level", level_db=-20.0)
    assert by_level["passages"] != whole["passages"]
    assert (
        "A trigger must be one of voice, level, clip" in film.do("set_lane", 422, lane_id=bed, trigger="smell")["error"]
    )
    assert "no perch called" in film.do("move_perch", 422, perch="nest", to=0)["error"]


def test_the_compressor_says_its_transfer_curve_and_the_level_of_its_key(film, visitor):
    compressed = film.do("set_settings", settings={"mode": "compressor", "threshold_db": -40, "output_db": 3})
    assert len(compressed["transfer"]["level_db"]) == len(compressed["transfer"]["gain_db"])
    assert max(compressed["transfer"]["gain_db"]) == 3
    assert min(compressed["curves"][compressed["leading"]]["gain_db"]) < -3
    answer = visitor.client.get(f"{film.url}/listen/ducked?start={4 * RATE}&stop={4 * RATE + 100}")
    [meter] = json.loads(answer.headers["X-Meter"])
    assert len(meter["key"]) == 20
    assert -40 < max(meter["key"]) < 0
    film.do("set_settings", settings={"output_db": 24})
    assert "over full scale" in visitor.client.get(f"{film.url}/part/checkup").get_data(as_text=True)


def test_plain_matched_is_as_loud_as_ducked(film, visitor):
    """The gain that evens them out, against the power of the two renders over what sounds."""
    score = film.do("set_settings", settings={"amount_db": -30})
    loud = {}
    for variant in ("ducked", "plain"):
        raw = b"".join(
            visitor.client.get(f"{film.url}/listen/{variant}?start={k * RATE}&stop={(k + 7) * RATE}").data
            for k in (0, 7)
        )
        loud[variant] = 10 * np.log10(np.mean(np.frombuffer(raw, "<f4").astype(np.float64) ** 2))
    assert score["match_db"] < -0.5
    assert score["match_db"] == pytest.approx(loud["ducked"] - loud["plain"], abs=1.0)


# — presets —


def test_presets_are_taken_over_kept_renamed_removed_and_put_back(film, visitor):
    url = f"{film.url}/presets"
    strong = visitor.post(f"{film.url}/do/apply_preset", json={"name": "Strong"}).json
    assert strong["settings"]["amount_db"] == -18
    assert strong["undo"] == "Preset Strong"
    page = visitor.post(f"{url}/keep", json={"name": " For  the  quay "}).get_data(as_text=True)
    assert "For the quay" in page
    text = visitor.client.get(f"{url}/file").get_data(as_text=True)
    [kept] = json.loads(text)["presets"]
    assert kept["name"] == "For the quay"
    assert kept["settings"]["amount_db"] == -18
    page = visitor.post(f"{url}/keep", json={"text": text}).get_data(as_text=True)
    assert "For the quay 2" in page
    number = _numbers(page)[0]
    assert "Harbour" in visitor.post(f"{url}/{number}/rename", json={"name": "Harbour"}).get_data(as_text=True)
    assert visitor.post(f"{url}/{number}/rename", json={"name": "For the quay 2"}).status_code == 409
    assert "Put it back" in visitor.post(f"{url}/{number}/remove", json={}).get_data(as_text=True)
    assert visitor.post(f"{url}/{number}/remove", json={}).status_code == 404
    assert visitor.post(f"{url}/keep", json={"name": "Gentle"}).status_code == 422
    assert visitor.post(f"{url}/keep", json={"name": "  "}).status_code == 422
    assert visitor.post(f"{film.url}/do/apply_preset", json={"name": "Nobody's"}).status_code == 404


def _numbers(page: str) -> list[str]:
    return [part.split('"')[1] for part in page.split("data-preset-rename=")[1:]]


def test_all_of_ducking_is_copied_from_another_project(film, visitor, db):
    from jaylantern.store import projects

    film.do("set_settings", settings={"amount_db": -21, "mode": "compressor"})
    film.do("set_pair", upper="effects", lower="music", own={"amount_db": -5})
    other = projects.create(db, "Second film")
    visitor.post(f"/projects/{other}/do/move_perch", json={"perch": "atmosphere", "to": 0})
    got = visitor.post(f"/projects/{other}/do/duck_as_in", json={"project_id": film.id}).json
    assert (got["settings"]["amount_db"], got["settings"]["mode"]) == (-21, "compressor")
    assert ("effects", "music") in [(pair["upper"], pair["lower"]) for pair in got["pairs"]]
    assert got["undo"] == "Ducking as in Test film"


def test_the_card_of_points_says_what_thinning_would_do(film, visitor):
    film.do("set_settings", settings={"fall": "eased", "rise": "eased", "thin_db": 1})
    page = visitor.client.get(f"{film.url}/part/points").get_data(as_text=True)
    assert "Bed would become" in page
    assert "off by at most" in page
