"""Values that nobody sends but by mistake or malice: each is told no in words; none is a fault of the program."""

from __future__ import annotations

import json

import pytest

HUGE = 10**400
DEEP = "[" * 20_000 + "]" * 20_000
DEEP_OBJECT = '{"a":' * 20_000 + "1" + "}" * 20_000
ODD = [None, True, "", "²", "1e9", "\ud800", "\x00", [], {}, [None], ["x"], [[1]], {"²": 1}, HUGE, -HUGE, 1 << 63,
       float("nan"), float("inf"), 1e308, "9" * 5000, -1, 0.5]  # fmt: skip


@pytest.fixture
def url(talk_and_bed) -> str:
    return f"/projects/{talk_and_bed}"


@pytest.mark.parametrize("path", ["/projects/{}/", "/projects/{}/document", "/projects/{}/listen/ducked?start=0&stop=9",
                                  "/media/{}/picture", "/media/{}/peaks/0", "/jobs/{}/stop", "/projects/1/go/{}",
                                  "/projects/{}/report.json", "/projects/1/presets/{}/remove"])  # fmt: skip
def test_a_number_no_thing_can_have_is_not_there(visitor, talk_and_bed, path):
    for number in (1 << 63, 1 << 64, 10**30, int("9" * 400)):
        for method in ("GET", "POST"):
            answer = visitor.send(method, path.format(number), **({"json": {}} if method == "POST" else {}))
            assert 400 <= answer.status_code < 500, (number, method, answer.status_code)


QUERIES = [
    "start=" + "9" * 5000 + "&stop=1", "start=²&stop=³", "start=-1&stop=1", "start=&stop=", "start=0&stop=" + "9" * 19,
    "start=1e3&stop=2e3", "start=\x00&stop=1",
]  # fmt: skip


def test_a_query_that_is_no_number_is_told_so(visitor, url):
    told = {query: visitor.client.get(f"{url}/listen/ducked?{query}").status_code for query in QUERIES}
    assert set(told.values()) == {422}, told


@pytest.mark.parametrize(
    "path", ["/part/{}", "/listen/{}?start=0&stop=9", "/presets/file?id={}", "/tuning/coarse?x={}"]
)
def test_odd_names_in_addresses_are_not_there(visitor, url, path):
    for name in ("9" * 5000, "9" * 19, "²", "-1", "\x00", "x" * 3000):
        assert visitor.client.get(url + path.format(name)).status_code < 500, name


BODIES = [DEEP, DEEP_OBJECT, "", "nul", "\x00", '{"a":', "[]", "1" * 5000, f'{{"a": {"1" * 5000}}}', '"\\ud800"',
          '{"\\ud800": 1}']  # fmt: skip
CHANGES = ["/do/set_settings", "/do/add_marker", "/imports", "/exports", "/presets/keep", "/undo", "/drafts/blind"]


@pytest.mark.parametrize("path", CHANGES)
def test_a_body_that_is_no_object_or_nested_without_end_is_told_so(visitor, url, path):
    for text in BODIES:
        answer = visitor.post(url + path, data=text.encode("utf-8", "surrogatepass"), content_type="application/json")
        assert answer.status_code < 500, (text[:30], answer.text)
        assert path == "/undo" or answer.status_code >= 400, text[:30]


COMMANDS = {  # a command that is right, and the parameters that are made odd one by one
    "set_settings": {"settings": {"amount_db": -3}},
    "add_marker": {"at_n": 480, "name": "Noon"},
    "set_clips": {"clip_ids": [1], "gain_db": -3},
    "move_clips": {"clip_ids": [1], "by_n": 480, "lanes_by": 0},
    "tag_clips": {"clip_ids": [1], "tag": "music"},
    "set_lane": {"lane_id": 1, "name": "Lane", "gain_db": 0},
    "set_passage": {"index": 0, "own": {"amount_db": -3}},
    "set_pair": {"upper": "dialogue", "lower": "music", "own": {"amount_db": -3}},
    "fade_clips": {"clip_ids": [1], "end": "fade_in", "length_n": 480, "shape": "round"},
    "rename_project": {"name": "Film"},
    "shift_captions": {"captions_id": 1, "by_n": 1},
    "choose_draft": {"letter": "A"},
    "place": {"media_id": 1, "at_n": 0},
}
PARAMETERS = [(name, each) for name, values in COMMANDS.items() for each in values]


@pytest.mark.parametrize(("name", "odd"), PARAMETERS, ids=lambda each: str(each))
def test_an_odd_value_of_a_parameter_is_no_fault(visitor, url, name, odd):
    for value in ODD:
        values = {**COMMANDS[name], odd: value}
        answer = visitor.post(f"{url}/do/{name}", data=json.dumps(values), content_type="application/json")
        assert answer.status_code < 500, (value, answer.text[:300])
    assert visitor.client.get(f"{url}/document").status_code == 200


@pytest.mark.parametrize("setting", ["amount_db", "mode", "²", "\ud800", "x" * 5000])
def test_an_odd_setting_is_no_fault(visitor, url, setting):
    for value in ODD:
        sent = json.dumps({"settings": {setting: value}})
        answer = visitor.post(f"{url}/do/set_settings", data=sent, content_type="application/json")
        assert answer.status_code < 500, (value, answer.text[:300])


@pytest.mark.parametrize("field", ["name", "size_bytes", "at_n", "how", "lane_id", "batch", "fps", "relink"])
def test_an_odd_announcement_is_no_fault(visitor, url, field):
    for value in ODD:
        sent = json.dumps({"name": "a.wav", "size_bytes": 10, "at_n": 0, field: value})
        answer = visitor.post(f"{url}/imports", data=sent, content_type="application/json")
        assert answer.status_code < 500, (value, answer.text[:300])


@pytest.mark.parametrize("field", ["what", "form", "rate", "range", "clip_ids", "pattern", "fps", "fade_s", "quality"])
def test_an_odd_request_for_a_file_is_no_fault(visitor, url, field):
    for value in ODD:
        sent = json.dumps({"what": "markers", field: value})
        answer = visitor.post(f"{url}/exports", data=sent, content_type="application/json")
        assert answer.status_code < 500, (value, answer.text[:300])
