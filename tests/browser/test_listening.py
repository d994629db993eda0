"""What is put on the clock: windows that join sample by sample and are the render itself."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Page, expect

RATE = 48_000
WATCH = """
    window.scheduled = [];
    const start = AudioBufferSourceNode.prototype.start;
    AudioBufferSourceNode.prototype.start = function (when, ...rest) {
        const left = this.buffer.getChannelData(0);
        const first = [...left.slice(0, 64)];
        this.noted = { when, length: left.length, rate: this.context.sampleRate, first, stopped: null };
        window.scheduled.push(this.noted);
        return start.call(this, when, ...rest);
    };
    const stop = AudioBufferSourceNode.prototype.stop;
    AudioBufferSourceNode.prototype.stop = function (when, ...rest) {
        if (this.noted) this.noted.stopped = when;
        return stop.call(this, when, ...rest);
    };
"""


@pytest.fixture
def watched(page: Page, ducked_project) -> Page:
    """The ducked project with every scheduled window noted."""
    page.add_init_script(WATCH)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    return page


def scheduled(page: Page) -> list[dict]:
    return page.evaluate("window.scheduled")


def rendered(page: Page, score: dict, variant: str, start_n: int, length: int) -> np.ndarray:
    body = page.request.get(f"/projects/{score['id']}/listen/{variant}?start={start_n}&stop={start_n + length}").body()
    return np.frombuffer(body, "<f4").reshape(-1, 2)[:, 0]


def test_windows_join_sample_by_sample_at_the_projects_rate(watched: Page, score):
    for _ in range(5):
        watched.keyboard.press("ArrowRight")
    watched.keyboard.press("Space")
    watched.wait_for_function("() => window.scheduled.length >= 5")
    watched.keyboard.press("Space")
    windows = scheduled(watched)
    assert {each["rate"] for each in windows} == {RATE}
    at_n = 5 * RATE
    for before, after in pairwise(windows):
        assert round(before["when"] * RATE) + before["length"] == round(after["when"] * RATE)
    doc = score()
    for window in windows:
        assert np.array_equal(np.float32(window["first"]), rendered(watched, doc, "ducked", at_n, 64))
        at_n += window["length"]


def test_plain_takes_over_at_the_very_place_ducked_would_have_played(watched: Page, score):
    for _ in range(6):
        watched.keyboard.press("ArrowRight")
    watched.keyboard.press("Space")
    watched.wait_for_function("() => window.scheduled.length >= 3")
    before = scheduled(watched)
    watched.keyboard.press("b")
    watched.wait_for_function(f"() => window.scheduled.length > {len(before)} + 1")
    watched.keyboard.press("Space")
    windows, doc = scheduled(watched), score()
    plain = next(w for w in windows[1:] if not any(np.array_equal(w["first"], b["first"]) for b in before)
                 and w["when"] < windows[windows.index(w) - 1]["when"] + 1)  # fmt: skip
    first = before[0]
    at_n = 6 * RATE + round((plain["when"] - first["when"]) * RATE)
    assert np.array_equal(np.float32(plain["first"]), rendered(watched, doc, "plain", at_n, 64))


def test_a_setting_changed_while_it_plays_is_on_the_clock_within_a_second(watched: Page, score):
    watched.get_by_role("link", name="Duck").click()
    watched.keyboard.press("Space")
    watched.wait_for_function("() => window.scheduled.length >= 3")
    count = len(scheduled(watched))
    with watched.expect_response(lambda answer: "/do/set_settings" in answer.url):
        watched.get_by_label("Duck amount slider").press("ArrowLeft")
    watched.wait_for_function(f"() => window.scheduled.length > {count}")
    watched.keyboard.press("Space")
    windows = scheduled(watched)
    starts = [window["when"] for window in windows]
    # it took over from what was on the clock already, instead of waiting behind it
    assert any(later < earlier for earlier, later in pairwise(starts))


def test_many_jumps_in_a_row_leave_one_run_of_windows_sounding(watched: Page):
    watched.keyboard.press("Space")
    watched.wait_for_function("() => window.scheduled.length >= 2")
    watched.evaluate(
        """() => {
            for (let i = 0; i < 6; i += 1) document.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight" }));
        }"""
    )
    count = len(scheduled(watched))
    watched.wait_for_function(f"() => window.scheduled.length > {count} + 2")
    left = sorted((w for w in scheduled(watched) if w["stopped"] is None), key=lambda window: window["when"])
    watched.keyboard.press("Space")
    for before, after in pairwise(left):
        assert round(before["when"] * RATE) + before["length"] == round(after["when"] * RATE)
