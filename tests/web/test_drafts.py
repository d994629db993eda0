"""Two drafts over HTTP: what is heard of each, what is said of them, one undo, and what is refused."""

from __future__ import annotations

import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.store import projects


@pytest.fixture
def url(visitor, talk_and_bed) -> str:
    """The project with draft A held and less ducking as B."""
    url = f"/projects/{talk_and_bed}"
    for name, values in (("hold_draft", {}), ("set_settings", {"settings": {"amount_db": -3}})):
        assert visitor.post(f"{url}/do/{name}", json=values).status_code == 200
    return url


def heard(visitor, url: str, held: bool) -> np.ndarray:
    stretch = f"start={2 * RATE}&stop={8 * RATE}"
    found = visitor.client.get(f"{url}/listen/ducked?{stretch}{'&held=1' if held else ''}").data
    return np.frombuffer(found, "<f4")


def test_the_held_draft_sounds_as_it_did_and_the_other_as_it_is(visitor, talk_and_bed):
    url = f"/projects/{talk_and_bed}"
    before = heard(visitor, url, held=False)
    visitor.post(f"{url}/do/hold_draft", json={})
    assert np.array_equal(heard(visitor, url, held=True), before)
    visitor.post(f"{url}/do/set_settings", json={"settings": {"amount_db": -3}})
    assert np.array_equal(heard(visitor, url, held=True), before)
    other = heard(visitor, url, held=False)
    assert np.sqrt(np.mean(other**2)) > 1.05 * np.sqrt(np.mean(before**2))
    visitor.post(f"{url}/do/swap_drafts", json={})
    assert np.array_equal(heard(visitor, url, held=False), before)
    assert np.array_equal(heard(visitor, url, held=True), other)


def test_a_cut_is_heard_in_both(visitor, url):
    before = heard(visitor, url, held=True)
    bed = next(lane for lane in visitor.client.get(f"{url}/document").json["lanes"] if lane["name"] == "Bed")
    visitor.post(f"{url}/do/delete_clips", json={"clip_ids": [bed["clips"][0]["id"]]})
    after = [heard(visitor, url, held=held) for held in (True, False)]
    assert np.array_equal(*after)  # talk alone
    assert not np.array_equal(after[0], before)


def test_how_much_louder_the_held_one_is_makes_both_equally_loud(visitor, url, db, talk_and_bed, workspace):
    told = visitor.client.get(f"{url}/drafts/held").json
    assert told["revision"] == projects.revision(db, talk_and_bed)
    assert told["louder_db"] < -0.5  # A goes 14 dB down, B only 3
    assert list(told["curves"]) == list(visitor.client.get(f"{url}/document").json["curves"])
    assert min(next(iter(told["curves"].values()))["gain_db"]) == -14
    visitor.post(f"{url}/do/swap_drafts", json={})
    assert visitor.client.get(f"{url}/drafts/held").json["louder_db"] == -told["louder_db"]


@pytest.mark.parametrize(("letter", "amount_db"), [("A", -14), ("B", -3)])
def test_either_becomes_the_projects_with_one_undo(visitor, url, letter, amount_db):
    chosen = visitor.post(f"{url}/do/choose_draft", json={"letter": letter}).json
    assert (chosen["settings"]["amount_db"], chosen["held"]) == (amount_db, None)
    back = visitor.post(f"{url}/undo").json
    assert (back["settings"]["amount_db"], back["held"]) == (-3, "A")
    assert back["said"] == f"Undone: Draft {letter} is the one"
    assert visitor.client.get(f"{url}/drafts/held").status_code == 200


def test_the_card_says_what_differs_and_what_comes_of_it(visitor, url):
    card = visitor.client.get(f"{url}/part/drafts").text
    rows = [line for line in card.split("<tr") if "Duck amount" in line]
    assert len(rows) == 1
    assert rows[0].index("−14 dB") < rows[0].index("−3 dB")  # A stands left
    for what in ("Music at full level", "Dips", "Flutter", "Least clear passage", "Passages under the wish"):
        assert f">{what}</th>" in card
    visitor.post(f"{url}/do/swap_drafts", json={})
    swapped = visitor.client.get(f"{url}/part/drafts").text
    assert swapped.index("−14 dB") < swapped.index("−3 dB")  # still, though now A is set and B held


def test_every_kind_of_difference_has_words(visitor, url):
    doc = visitor.client.get(f"{url}/document").json
    bed = next(lane for lane in doc["lanes"] if lane["name"] == "Bed")
    for name, values in (
        ("set_settings", {"settings": {"mode": "passage", "comp_attack_ms": 20, "attack_ms": 100, "rise": "eased"}}),
        ("raise_lane", {"lane_id": bed["id"]}),
        ("set_pair", {"upper": "narration", "lower": f"lane {bed['id']}", "own": {"amount_db": -9}}),
        ("set_passage", {"index": 0, "none": True}),
        ("mark_speech", {"start_n": 0, "stop_n": RATE, "speech": True}),
        ("freeze_curve", {"lane_id": bed["id"]}),
    ):
        answer = visitor.post(f"{url}/do/{name}", json=values)
        assert answer.status_code == 200, answer.json
    card = visitor.client.get(f"{url}/part/drafts").text
    for words in ("Attack</th><td>350 ms</td><td>100 ms", "Attack of the compressor</th><td>15 ms</td><td>20 ms",
                  "Way up</th><td>straight in dB</td><td>eased", "Pecking order", "Bed, music",
                  "Bed under narration</th><td>as the project</td><td>Duck amount −9 dB",
                  "Dips with values of their own</th><td>0</td><td>1", "Passages corrected</th><td>0</td><td>1",
                  "Frozen lanes</th><td>none</td><td>Bed", "Points by hand</th><td>0</td>"):  # fmt: skip
        assert words in card, words


def test_a_blind_round_is_drawn_and_told(visitor, url):
    drawn = [visitor.client.get(f"{url}/drafts/blind").json for _ in range(40)]
    assert len({tuple(each["order"]) for each in drawn}) > 1
    assert all(each["held"] == [letter == "A" for letter in each["order"]] for each in drawn)
    told = visitor.post(f"{url}/drafts/blind", json={"order": ["A", "B", "A", "B"], "liked": [1, 3]}).json
    assert told["letter"] == "B"


@pytest.mark.parametrize("sent", [
    {}, {"order": "ABAB", "liked": []}, {"order": ["A", "A", "A", "A"], "liked": []},
    {"order": ["A", "B", "A", "C"], "liked": []}, {"order": ["A", "B", "A", "B"], "liked": [7]},
    {"order": ["A", "B", "A", "B"], "liked": None}, {"order": [[], {}, None, 1], "liked": []},
])  # fmt: skip
def test_a_round_that_can_not_be_is_refused(visitor, url, sent):
    assert visitor.post(f"{url}/drafts/blind", json=sent).status_code == 422


def test_without_a_held_draft(visitor, talk_and_bed):
    url = f"/projects/{talk_and_bed}"
    for path in ("drafts/held", "drafts/blind"):
        assert visitor.client.get(f"{url}/{path}").status_code == 409
    for name, values in (("swap_drafts", {}), ("choose_draft", {"letter": "A"})):
        assert visitor.post(f"{url}/do/{name}", json=values).status_code == 409
    assert visitor.post(f"{url}/do/choose_draft", json={"letter": "C"}).status_code == 422
    assert "Hold this as draft A" in visitor.client.get(f"{url}/part/drafts").text
    # a window that is asked for while another page lets the draft go is played as the project is
    assert np.array_equal(heard(visitor, url, held=True), heard(visitor, url, held=False))
