"""Step 4: lanes on one timeline, zoom, scroll, moving a clip, undo and redo."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import px_of

RATE = 48_000
pytestmark = pytest.mark.usefixtures("ducked_project")


def clip(page: Page, lane: str):
    return page.locator(f'.lane[data-lane="{lane}"] .clip').last


def middle(locator) -> tuple[float, float]:
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def lane_of(doc: dict, name: str) -> dict:
    return [lane for lane in doc["lanes"] if lane["name"] == name][-1]


def test_dragging_a_clip_moves_it_and_its_passages_and_undo_takes_it_back(page: Page, score):
    before = score()
    x, y = middle(clip(page, "Talk"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 50, y + 5, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("^Undo: Move Talk.wav"))
    moved = score()
    by_n = lane_of(moved, "Talk")["clips"][0]["start_n"]
    assert by_n > RATE / 2
    for old, new in zip(before["passages"], moved["passages"], strict=True):
        assert new["start_n"] - old["start_n"] == by_n
    page.keyboard.press("Control+z")
    expect(page.locator("#said")).to_contain_text("Undone: Move Talk.wav")
    assert lane_of(score(), "Talk")["clips"][0]["start_n"] == 0
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#said")).to_contain_text("Done again: Move Talk.wav")
    assert lane_of(score(), "Talk")["clips"][0]["start_n"] == by_n


def test_the_picture_and_its_sound_move_together(page: Page, score):
    clip(page, "Film").focus()
    page.keyboard.press("Alt+Shift+ArrowRight")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("^Undo: Move Film.mp4"))
    starts = [lane["clips"][0]["start_n"] for lane in score()["lanes"] if lane["name"] == "Film"]
    assert starts == [RATE, RATE]


def test_a_drag_given_up_with_escape_changes_nothing(page: Page, score):
    before = score()["revision"]
    x, y = middle(clip(page, "Bed"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 80, y, steps=3)
    page.keyboard.press("Escape")
    page.mouse.up()
    assert score()["revision"] == before


def test_a_click_on_a_lane_puts_the_playhead_there(page: Page):
    x, y = middle(clip(page, "Talk"))
    page.mouse.click(x, y)
    expect(page.locator("#now")).not_to_have_value("00:00.000")
    expect(clip(page, "Talk")).to_have_class("clip chosen")
    page.keyboard.press("Home")
    expect(page.locator("#now")).to_have_value("00:00.000")


def drawn_width(page: Page, lane: str) -> float:
    """Width of a clip after what was asked for has been drawn."""
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    return clip(page, lane).bounding_box()["width"]


def test_wheel_zooms_keys_zoom_and_fit_shows_all(page: Page):
    whole = drawn_width(page, "Talk")
    at = middle(clip(page, "Talk"))
    page.mouse.move(*at)
    time_n = page.evaluate(
        "(x) => window.jayLantern.timeline.view.time(x)", at[0] - page.locator(".tl-ruler canvas").bounding_box()["x"]
    )
    page.keyboard.down("Control")
    page.mouse.wheel(0, -600)
    page.keyboard.up("Control")
    assert drawn_width(page, "Talk") > whole + 10
    assert px_of(page, time_n) == pytest.approx(at[0], abs=1)  # what was under the pointer is there still
    page.keyboard.press("f")
    assert drawn_width(page, "Talk") == pytest.approx(whole, abs=1)
    page.keyboard.press("+")
    assert drawn_width(page, "Talk") > whole + 10
    page.keyboard.press("-")
    page.keyboard.press("-")
    assert drawn_width(page, "Talk") < whole


def test_a_plain_wheel_goes_up_and_down_the_lanes_and_along_the_film_over_the_ruler(page: Page):
    page.set_viewport_size({"width": 1024, "height": 640})
    rows = page.locator(".tl-rows")
    page.mouse.move(*middle(rows))
    page.mouse.wheel(0, 60)
    page.wait_for_function("() => document.querySelector('.tl-rows').scrollTop > 0")
    whole = page.evaluate("window.jayLantern.timeline.view.n_per_px")
    for _ in range(3):
        page.keyboard.press("+")
    page.mouse.move(*middle(page.locator(".tl-ruler canvas")))
    page.mouse.wheel(0, 300)
    page.wait_for_function("() => window.jayLantern.timeline.view.start_n > 0")
    assert page.evaluate("window.jayLantern.timeline.view.n_per_px") < whole


def test_shift_and_wheel_scroll_and_the_mini_map_jumps(page: Page):
    page.mouse.move(*middle(clip(page, "Talk")))
    for _ in range(4):
        page.keyboard.press("+")
    drawn_width(page, "Talk")
    page.keyboard.down("Shift")
    page.mouse.wheel(0, 4000)
    page.keyboard.up("Shift")
    drawn_width(page, "Talk")
    left = page.locator(".tl-ruler canvas").bounding_box()["x"]
    assert clip(page, "Talk").bounding_box()["x"] < left  # begins left of what is in view
    map_box = page.locator(".tl-map canvas").bounding_box()
    page.mouse.click(map_box["x"] + 4, map_box["y"] + 8)
    drawn_width(page, "Talk")
    assert clip(page, "Talk").bounding_box()["x"] >= left - 1


def test_the_waveform_of_the_bed_shrinks_under_speech_and_the_glow_strip_dims(page: Page, score):
    """Reads the pixels of the bed's lane in the middle of a passage and where the music is alone."""
    doc = score()
    in_talk = (doc["passages"][0]["start_n"] + doc["passages"][0]["stop_n"]) / 2
    between = (doc["passages"][0]["dip"]["up_n"] + doc["passages"][1]["dip"]["from_n"]) / 2
    look = """([in_talk, between]) => {
        const lane = [...document.querySelectorAll('.lane')].find((each) => each.dataset.lane === 'Bed');
        const canvas = lane.querySelector('canvas');
        const context = canvas.getContext('2d');
        const clip = lane.querySelector('.clip').getBoundingClientRect();
        const body = canvas.getBoundingClientRect();
        const per_n = clip.width / LENGTH;
        const bright = (at, from, to) => {
            const x = Math.round((clip.left - body.left + at * per_n) * canvas.width / body.width);
            const pixels = context.getImageData(x - 30, from, 60, to - from).data;
            let count = 0;
            const amber = (i) => pixels[i] > 190 && pixels[i + 1] > 120 && pixels[i + 2] < 160;
            for (let i = 0; i < pixels.length; i += 4) if (amber(i)) count += 1;
            return count;
        };
        const glow = (at) => {
            const x = Math.round((clip.left - body.left + at * per_n) * canvas.width / body.width);
            return context.getImageData(x, canvas.height - 9, 1, 1).data[0];
        };
        const wave_h = canvas.height - 20;
        return [bright(in_talk, 0, wave_h), bright(between, 0, wave_h), glow(in_talk), glow(between)];
    }""".replace("LENGTH", str(lane_of(doc, "Bed")["clips"][0]["length_n"]))
    flat = 60 * 2  # until its sound has come, a line two pixels high
    page.wait_for_function(f"(at) => Math.max(...({look})(at).slice(0, 2)) !== {flat}", arg=[in_talk, between])
    small, large, dim, bright = page.evaluate(look, [in_talk, between])
    assert large > 1.7 * small > 0
    assert bright > 2 * dim
