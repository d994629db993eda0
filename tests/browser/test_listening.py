"""What is put on the clock: windows that join sample by sample and are the render itself."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Page, expect

RATE = 48_000
FADE_S = 0.012  # of what is taken over from
TOO_LATE_S = 0.016  # what comes nearer to its time than this is put off, and does not join
WATCH = """
    window.scheduled = [];
    const start = AudioBufferSourceNode.prototype.start;
    AudioBufferSourceNode.prototype.start = function (when, ...rest) {
        const left = this.buffer.getChannelData(0);
        const first = [...left.slice(0, 64)];
        const now = this.context.currentTime;
        this.noted = { when, length: left.length, rate: this.context.sampleRate, first, now, stopped: null };
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
def watched(page_of_its_own: Page, ducked_project) -> Page:
    """The ducked project with every scheduled window noted."""
    page = page_of_its_own
    page.add_init_script(WATCH)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    return page


def scheduled(page: Page) -> list[dict]:
    return page.evaluate("window.scheduled")


def join(before: dict, after: dict) -> bool:
    """Does a window begin at the sample where the one before ends? A gap is right only if it came too late for that."""
    end_n, start_n = round(before["when"] * RATE) + before["length"], round(after["when"] * RATE)
    return start_n == end_n or (start_n > end_n and end_n / RATE < after["now"] + TOO_LATE_S)


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
        assert join(before, after)
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
    heard = np.float32(plain["first"])  # of a window that is shorter than usual there are fewer
    assert np.array_equal(heard, rendered(watched, doc, "plain", at_n, len(heard)))


def test_a_setting_changed_while_it_plays_takes_over_from_what_is_on_the_clock(watched: Page, score):
    watched.get_by_role("link", name="Duck").click()
    watched.keyboard.press("Space")
    watched.wait_for_function("() => window.scheduled.length >= 3")
    assert not any(window["stopped"] for window in scheduled(watched))
    watched.get_by_label("Duck amount slider").press("ArrowLeft")
    # it takes over from what is on the clock already, instead of waiting behind it: a window is cut short for it
    cut = "(each) => each.stopped !== null && each.stopped < each.when + each.length / each.rate"
    watched.wait_for_function(f"() => window.scheduled.some({cut})")
    windows = scheduled(watched)
    watched.keyboard.press("Space")
    old = next(window for window in windows if window["stopped"] is not None)
    new = [window for window in windows if abs(old["stopped"] - FADE_S - window["when"]) < 1e-6]
    assert [window["stopped"] for window in new] == [None]  # where the old one fades out, one new window begins


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
        assert join(before, after)
