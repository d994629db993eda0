"""Voice takes with the stand-in microphone: count-in, level, listen, keep where spoken, discard, leave the page."""

from __future__ import annotations

import re

import numpy as np
import pytest
import soundfile
import soxr
from playwright.sync_api import Page, expect
from scipy import signal

from jaylantern.demo.making.__main__ import STAND_IN
from tests.browser.hands import RATE, after, lane_of, put_playhead

pytestmark = pytest.mark.usefixtures("ducked_project")
LATENCY_N = round(0.12 * RATE)  # of the stand-in
TWO_SECONDS_OR_MORE = re.compile(r"00:0[2-9]\.\d from")


def open_panel(page: Page) -> None:
    page.get_by_role("link", name="Lay out").click()
    page.get_by_role("tab", name="Voice take").click()
    page.get_by_label("Microphone", exact=True).select_option("stand-in")


def seconds(page: Page) -> float:
    text = page.locator("#take-count").inner_text()
    found = re.match(r"(\d+):(\d+\.\d)", text)
    return 60 * int(found[1]) + float(found[2]) if found else -1.0


def record(page: Page, *, at_s: float, for_s: float) -> None:
    """Record so long from a place and stop."""
    put_playhead(page, round(at_s * RATE))
    page.get_by_role("button", name="Record at the playhead").click()
    count(page, for_s)
    page.locator("#record").click()
    expect(page.locator("#record")).to_have_text("Record at the playhead")


def count(page: Page, to_s: float) -> None:
    page.wait_for_function(
        """(to_s) => {
            const found = document.getElementById('take-count').textContent.match(/(\\d+):(\\d+\\.\\d)/);
            return found && 60 * found[1] + Number(found[2]) >= to_s;
        }""",
        arg=to_s,
    )


def kept(page: Page, score, name: str = "Take 1") -> dict:
    page.get_by_role("button", name=f"Keep {name}").click()
    expect(page.locator('.lane[data-lane="Voice takes"]')).to_be_visible()
    return score()


def spoken() -> np.ndarray:
    sound, rate = soundfile.read(STAND_IN, dtype="float32")
    return soxr.resample(sound, rate, RATE)


def listened(page: Page, doc: dict, start_n: int, stop_n: int) -> np.ndarray:
    raw = page.request.get(f"/projects/{doc['id']}/listen/plain?start={start_n}&stop={stop_n}").body()
    return np.frombuffer(raw, "<f4").reshape(-1, 2)[:, 0]


def lag_of(heard: np.ndarray, sent: np.ndarray) -> int:
    """By how many samples `heard` is late, by cross-correlation with scipy."""
    match = signal.correlate(heard, sent[: len(heard)], mode="full", method="fft")
    return int(signal.correlation_lags(len(heard), len(sent[: len(heard)]))[np.abs(match).argmax()])


def test_a_take_is_counted_in_recorded_heard_and_kept_where_it_was_spoken(page: Page, score):
    open_panel(page)
    put_playhead(page, 5 * RATE)
    page.get_by_role("button", name="Record at the playhead").click()
    expect(page.locator("#take-count")).to_have_text("3")
    expect(page.locator("body.playing")).to_be_visible()  # the picture runs
    expect(page.locator("#take-count")).to_have_text("1")
    expect(page.locator("body.on-air")).to_be_visible()
    expect(page.locator("#take-word")).to_have_text("A good level.")
    count(page, 4)
    expect(page.locator(".take-band")).to_be_visible()
    page.locator("#record").click()
    expect(page.locator(".take-band")).not_to_be_visible()
    expect(page.locator("#takes")).to_contain_text("Take 1")
    expect(page.locator("#takes")).to_contain_text("from 00:05.00")
    expect(page.locator("#take-word")).to_contain_text("a good level")
    assert not [lane for lane in score()["lanes"] if lane["name"] == "Voice takes"]
    page.get_by_role("button", name="Listen Take 1").click()
    expect(page.get_by_role("button", name="Listen Take 1")).to_have_text("Stop")
    doc = kept(page, score)
    [take] = lane_of(doc, "Voice takes")["clips"]
    assert (take["start_n"], take["offset_n"], take["shown_tag"]) == (5 * RATE, LATENCY_N, "dialogue")
    after(page, score, lambda: page.get_by_role("button", name="Solo Voice takes").click())
    heard = listened(page, doc, 5 * RATE, 8 * RATE)
    assert abs(lag_of(heard, spoken())) <= 0.001 * RATE  # within a millisecond of where it was spoken
    page.get_by_role("tab", name="Media").click()
    expect(page.locator(".media-item", has_text="Take 1.wav")).to_contain_text("voice take")
    assert any(passage["start_n"] < 7 * RATE for passage in doc["passages"])  # the music makes way for it


def test_several_takes_wait_side_by_side_and_one_is_discarded(page: Page, score):
    open_panel(page)
    record(page, at_s=1, for_s=0.5)
    record(page, at_s=12, for_s=0.5)
    expect(page.locator("#takes li")).to_have_count(2)
    page.get_by_role("button", name="Discard Take 1").click()
    expect(page.locator("#takes li")).to_have_count(1)
    doc = kept(page, score, "Take 2")
    assert lane_of(doc, "Voice takes")["clips"][0]["start_n"] == 12 * RATE


def test_leaving_the_page_in_the_middle_of_a_take_loses_nothing(page: Page, score):
    open_panel(page)
    put_playhead(page, 8 * RATE)
    page.get_by_role("button", name="Record at the playhead").click()
    count(page, 2)
    had_s = seconds(page)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator("#takes")).to_contain_text("broken off, nothing lost")
    length_n = page.request.get(f"/projects/{score()['id']}/takes").json()["takes"][0]["length_n"]
    assert length_n >= had_s * RATE - 0.1 * RATE
    doc = kept(page, score)
    take = lane_of(doc, "Voice takes")["clips"][0]
    assert take["length_n"] == length_n - LATENCY_N
    after(page, score, lambda: page.get_by_role("button", name="Solo Voice takes").click())
    assert abs(lag_of(listened(page, doc, 8 * RATE, 9 * RATE), spoken())) <= 0.001 * RATE


def test_what_could_not_be_sent_when_the_page_was_left_is_sent_when_it_is_opened_again(page: Page, score):
    open_panel(page)
    away = True
    page.route("**/takes/*offset=*", lambda route: route.abort() if away else route.continue_())
    put_playhead(page, 8 * RATE)
    page.get_by_role("button", name="Record at the playhead").click()
    count(page, 2)
    had_s = seconds(page)
    expect(page.locator("#said")).to_contain_text("held in the page until it can be saved")
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator("#takes")).to_contain_text("broken off")
    expect(page.locator("#takes")).not_to_contain_text(TWO_SECONDS_OR_MORE)  # only what the browser sends after a page
    away = False
    page.reload()
    expect(page.locator("#takes")).to_contain_text(TWO_SECONDS_OR_MORE)
    doc = kept(page, score)
    assert lane_of(doc, "Voice takes")["clips"][0]["length_n"] >= (had_s - 0.1) * RATE - LATENCY_N
    after(page, score, lambda: page.get_by_role("button", name="Solo Voice takes").click())
    assert abs(lag_of(listened(page, doc, 8 * RATE, 9 * RATE), spoken())) <= 0.001 * RATE


def test_latency_is_measured_with_clicks_typed_and_kept_per_microphone(page: Page):
    open_panel(page)
    field = page.get_by_label("Latency", exact=True)
    field.fill("55")
    field.press("Enter")
    expect(field).to_have_value("55 ms")
    page.reload()
    expect(field).to_have_value("55 ms")
    page.get_by_role("button", name="Measure").click()
    expect(page.locator("#take-hint")).to_contain_text("Measured")
    assert float(field.input_value().split()[0]) == pytest.approx(120, abs=1)


def test_the_key_for_takes_opens_the_panel_begins_and_ends(page: Page):
    page.keyboard.press("r")
    expect(page.get_by_role("tab", name="Voice take")).to_have_attribute("aria-selected", "true")
    page.get_by_label("Microphone", exact=True).select_option("stand-in")
    page.get_by_label("Microphone", exact=True).blur()
    page.keyboard.press("r")
    count(page, 0.3)
    page.get_by_role("link", name="Duck").click()
    expect(page.locator("#on-air")).to_be_visible()  # it goes on wherever one looks
    page.locator("#on-air").click()
    expect(page.get_by_role("tab", name="Voice take")).to_be_visible()


def test_space_ends_a_take_also_beyond_the_end_of_the_film_and_a_good_level_is_not_in_red(page: Page, score):
    open_panel(page)
    put_playhead(page, score()["length_n"] - RATE)
    page.get_by_role("button", name="Record at the playhead").click()
    count(page, 3.0)  # the film is over for two seconds
    page.locator("#timeline").press(" ")
    expect(page.locator("#record")).to_have_text("Record at the playhead")
    expect(page.locator("body.playing")).to_have_count(0)  # it did not begin anew
    expect(page.locator("#take-word")).to_contain_text("a good level")
    expect(page.locator("#take-word")).not_to_have_class(re.compile("look-word"))
