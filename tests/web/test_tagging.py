"""The Tag tray over HTTP: rows, suggestions, what is missing with remedies that work."""

from __future__ import annotations

import html
import json
import re

import numpy as np
import pytest
import soundfile

from jaylantern import pipeline
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech import tag_suggestions
from tests import sounds


def part(visitor, project_id, name: str, **query) -> str:
    return visitor.client.get(f"/projects/{project_id}/part/{name}", query_string=query).get_data(as_text=True)


def score(visitor, project_id) -> dict:
    return visitor.client.get(f"/projects/{project_id}/document").json


def do(visitor, project_id, kind: str, **values) -> dict:
    answer = visitor.post(f"/projects/{project_id}/do/{kind}", json=values)
    assert answer.status_code == 200, answer.json
    return answer.json


def buttons(page: str) -> list[tuple[str, str, dict]]:
    """Label, command and values of every remedy on the panel."""
    found = re.findall(r"<button[^>]*data-command=\"(\w+)\" data-values='([^']*)'>([^<]+)<", page)
    return [(label, kind, json.loads(html.unescape(values))) for kind, values, label in found]


def lane_named(visitor, project_id, name: str) -> dict:
    return next(lane for lane in score(visitor, project_id)["lanes"] if lane["name"] == name)


def test_the_list_names_tag_where_it_comes_from_role_and_level(visitor, talk_and_bed):
    page = part(visitor, talk_and_bed, "clips")
    assert re.search(r"Talk\.wav.*dialogue.*lane.*on top.*−\d+ dBFS", page, re.S)
    assert re.search(r"Bed\.wav.*music.*gives way.*−\d+ dBFS", page, re.S)


def test_filter_and_sort_stand_in_the_address(visitor, talk_and_bed):
    names = lambda **query: re.findall(r'title="(\w+\.wav)"', part(visitor, talk_and_bed, "clips", **query))  # noqa: E731
    assert names(sort="name") == ["Bed.wav", "Talk.wav"]
    assert names(only="music") == ["Bed.wav"]
    assert names(find="TAL") == ["Talk.wav"]
    assert names(only="bystander") == []
    assert names(sort="level")[0] in ("Bed.wav", "Talk.wav")
    assert names(sort="nonsense", only="") == names()


@pytest.mark.parametrize(
    ("tag", "suggested"), [("untagged", "narration"), ("music", "narration"), ("dialogue", None), ("narration", None)]
)
def test_talk_is_not_suggested_to_be_another_voice(visitor, talk_and_bed, monkeypatch, tag, suggested):
    monkeypatch.setattr(tag_suggestions, "NARRATION", re.compile("Talk"))  # a name that says so
    talk = lane_named(visitor, talk_and_bed, "Talk")
    do(visitor, talk_and_bed, "tag_lane", lane_id=talk["id"], tag=tag)
    page = part(visitor, talk_and_bed, "clips", find="Talk")
    found = re.search(r'sounds like <span class="tag-pill tag-(\w+)', page)
    assert (found[1] if found else None) == suggested


def test_a_clip_with_a_tag_of_its_own_gets_no_suggestion(visitor, talk_and_bed):
    talk = lane_named(visitor, talk_and_bed, "Talk")
    do(visitor, talk_and_bed, "tag_lane", lane_id=talk["id"], tag="effects")
    assert "sounds like" in part(visitor, talk_and_bed, "clips")
    do(visitor, talk_and_bed, "tag_clips", clip_ids=[talk["clips"][0]["id"]], tag="effects")
    assert "speech in" not in part(visitor, talk_and_bed, "clips")


def test_nothing_is_tagged_without_the_person_and_ignoring_changes_no_project(visitor, talk_and_bed):
    talk = lane_named(visitor, talk_and_bed, "Talk")
    do(visitor, talk_and_bed, "tag_lane", lane_id=talk["id"], tag="untagged")
    before = score(visitor, talk_and_bed)
    media_id = talk["clips"][0]["media_id"]
    answer = visitor.post(f"/projects/{talk_and_bed}/suggestions/ignore", data={"media": str(media_id)})
    assert "speech in" not in answer.get_data(as_text=True)
    assert "Show them again" in answer.get_data(as_text=True)
    again = visitor.post(f"/projects/{talk_and_bed}/suggestions/heed").get_data(as_text=True)
    assert "speech in" in again
    assert score(visitor, talk_and_bed) == before


@pytest.mark.parametrize("media", ["", "x", "99999", "-1"])
def test_ignoring_what_is_not_there_is_said_so(visitor, talk_and_bed, media):
    url = f"/projects/{talk_and_bed}/suggestions/ignore"
    assert visitor.post(url, data={"media": media}).status_code == 404


BREAK = {
    "untagged talk": ("tag_lane", {"tag": "untagged"}, "Talk", "Nothing is tagged dialogue"),
    "untagged bed": ("tag_lane", {"tag": "untagged"}, "Bed", "Nothing is tagged music"),
    "talk outside": ("set_lane", {"bystander": True}, "Talk", "All dialogue stands outside"),
    "bed outside": ("set_lane", {"bystander": True}, "Bed", "All music stands outside"),
    "talk muted": ("set_lane", {"muted": True}, "Talk", "but muted"),
    "no amount": ("set_settings", {"settings": {"amount_db": 0}}, "Bed", "Duck amount is 0 dB"),
}


@pytest.mark.parametrize("fault", BREAK)
def test_each_fault_is_named_and_its_first_button_puts_it_right(visitor, talk_and_bed, fault):
    kind, values, lane, words = BREAK[fault]
    where = {"lane_id": lane_named(visitor, talk_and_bed, lane)["id"]} if "lane" in kind else {}
    do(visitor, talk_and_bed, kind, **where, **values)
    page = part(visitor, talk_and_bed, "missing")
    assert words in page
    _, command, remedy = buttons(page)[0]
    do(visitor, talk_and_bed, command, **remedy)
    page = part(visitor, talk_and_bed, "missing")
    assert words not in page
    assert "Ready to duck" in page


def test_music_that_lies_elsewhere_is_moved_to_the_talk(visitor, talk_and_bed):
    bed = lane_named(visitor, talk_and_bed, "Bed")
    do(visitor, talk_and_bed, "move_clips", clip_ids=[bed["clips"][0]["id"]], by_n=60 * RATE)
    [(label, command, values)] = buttons(part(visitor, talk_and_bed, "missing"))
    assert label == "Move Bed.wav to the first passage"
    after = do(visitor, talk_and_bed, command, **values)
    assert min(after["curves"][after["leading"]]["gain_db"]) == -14
    assert "Ready to duck" in part(visitor, talk_and_bed, "missing")


def test_talk_too_doubtful_for_the_sensitivity_offers_the_least_that_finds_it(visitor, talk_and_bed):
    do(visitor, talk_and_bed, "set_settings", settings={"sensitivity": 0})
    page = part(visitor, talk_and_bed, "missing")
    if "No speech is found" in page:  # where even so something is found, there is nothing to put right
        label, command, values = buttons(page)[0]
        assert label.startswith("Raise the sensitivity to")
        do(visitor, talk_and_bed, command, **values)
        assert "Ready to duck" in part(visitor, talk_and_bed, "missing")


def test_noise_tagged_dialogue_is_offered_its_tag_off(visitor, talk_and_bed, bring, tmp_path):
    soundfile.write(tmp_path / "Hiss.wav", sounds.noise(seconds=4), RATE)
    bring(tmp_path / "Hiss.wav")
    hiss = lane_named(visitor, talk_and_bed, "Hiss")
    do(visitor, talk_and_bed, "tag_lane", lane_id=hiss["id"], tag="dialogue")
    page = part(visitor, talk_and_bed, "missing")
    assert "No speech is found in Hiss.wav" in page
    label, command, values = buttons(page)[0]
    if label == "Take its tag off":
        do(visitor, talk_and_bed, command, **values)
        assert "Hiss.wav" not in part(visitor, talk_and_bed, "missing")


def test_a_long_list_of_faults_is_cut_short(visitor, talk_and_bed):
    talk = lane_named(visitor, talk_and_bed, "Talk")
    for at_s in range(1, 12):
        do(visitor, talk_and_bed, "split_clips", clip_ids=None, at_n=at_s * RATE)
    do(visitor, talk_and_bed, "set_lane", lane_id=talk["id"], muted=True)
    page = part(visitor, talk_and_bed, "missing")
    assert page.count("<li>") == 8
    assert re.search(r"and \d+ more like these", page)


def test_level_follows_the_faders(visitor, talk_and_bed):
    def level() -> int:
        page = part(visitor, talk_and_bed, "clips", only="music")
        return -int(re.search(r"−(\d+) dBFS", page)[1])

    before = level()
    bed = lane_named(visitor, talk_and_bed, "Bed")
    do(visitor, talk_and_bed, "set_lane", lane_id=bed["id"], gain_db=-6)
    do(visitor, talk_and_bed, "set_clips", clip_ids=[bed["clips"][0]["id"]], gain_db=-6)
    assert np.isclose(level(), before - 12, atol=1)


@pytest.mark.parametrize(
    ("only", "outside", "expected"),
    [
        ("", None, ["Talk.wav", "Bed.wav"]),
        ("bystander", None, []),
        ("bystander", ("set_lane", "Talk"), ["Talk.wav"]),
        ("bystander", ("set_clips", "Bed"), ["Bed.wav"]),
        ("dialogue", None, ["Talk.wav"]),
        ("music", ("set_lane", "Talk"), ["Bed.wav"]),
        ("narration", None, []),
        ("own", None, []),
        ("muted", None, []),
        ("silent", None, []),
    ],
)
def test_the_list_is_kept_to_what_is_asked_for(visitor, talk_and_bed, only, outside, expected):
    if outside:
        command, name = outside
        lane = lane_named(visitor, talk_and_bed, name)
        where = {"lane_id": lane["id"]} if command == "set_lane" else {"clip_ids": [lane["clips"][0]["id"]]}
        do(visitor, talk_and_bed, command, bystander=True, **where)
    page = visitor.client.get(f"/projects/{talk_and_bed}/part/clips?only={only}").text
    assert [name for name in ("Talk.wav", "Bed.wav") if f">{name}<" in page] == expected


@pytest.mark.parametrize(
    ("now", "from_which", "said"),
    [
        (52, 60, "Raise the sensitivity to 60"),
        (52, 61, "Raise the sensitivity to 70"),
        (55, 60, "Raise the sensitivity to 60"),  # the next round ten
        (59, 60, "Raise the sensitivity to 60"),
        (60, 60, None),  # it is heard as it is
        (60, 100, "Raise the sensitivity to 100"),
        (60, 101, "Take its tag off"),
    ],
)
def test_the_least_round_sensitivity_at_which_speech_is_found_is_the_remedy(
    visitor, workspace, talk_and_bed, monkeypatch, now, from_which, said
):
    """Speech is found from `from_which` on; what is offered is the least of 10, 20, … 100 at which there is any."""
    some, plain = np.array([[0, RATE]], np.int64), pipeline.MediaFacts.speech
    found = lambda self, sensitivity, memo: some if sensitivity >= from_which else plain(self, 0)[:0]  # noqa: E731
    monkeypatch.setattr(pipeline.MediaFacts, "speech", found)
    do(visitor, talk_and_bed, "set_settings", settings={"sensitivity": now})
    labels = [label for label, _, _ in buttons(part(visitor, talk_and_bed, "missing"))]
    assert said in labels if said else not [label for label in labels if "sensitivity" in label]
