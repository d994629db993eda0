"""Lay out, by hand: fades, crossfades, gain, channels, sound settings of many clips; lanes and their levels."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import RATE, after, click, clip, drag, lane_of, middle, n_per_px, split_talk, spot

pytestmark = pytest.mark.usefixtures("ducked_project")


# — clip sound —


def test_a_corner_dragged_fades_and_its_curve_is_chosen(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    click(page, middle(clip(page, "Bed")))
    x, y = spot(clip(page, "Bed"), 0, 0)
    doc = after(page, score, lambda: drag(page, (x + 2, y + 5), (x + 62, y + 5), keys=("Alt",)))
    bed = lane_of(doc, "Bed")["clips"][0]
    assert bed["fade_in_n"] == pytest.approx(60 * n_per_px(page), abs=3 * n_per_px(page))
    doc = after(page, score, lambda: page.get_by_label("Shape of the fade in").select_option("late"))
    assert lane_of(doc, "Bed")["clips"][0]["fade_in_shape"] == "late"
    x, y = spot(clip(page, "Bed"), 1, 0)
    doc = after(page, score, lambda: drag(page, (x - 2, y + 5), (x - 42, y + 5), keys=("Alt",)))
    assert lane_of(doc, "Bed")["clips"][0]["fade_out_n"] > 0


def test_overlapping_clips_cross_over_the_whole_overlap(page: Page, score):
    doc = split_talk(page, score, at_s=10)
    second = lane_of(doc, "Talk")["clips"][1]["id"]
    clip(page, "Talk", 1).focus()
    doc = after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowLeft"))
    first, then = lane_of(doc, "Talk")["clips"]
    assert then["id"] == second
    assert first["heard_out_n"] == then["heard_in_n"] == RATE


def test_gain_in_db_and_percent_channels_and_mute_of_many_clips_at_once(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    click(page, middle(clip(page, "Talk")))
    click(page, middle(clip(page, "Bed")), keys=("Control",))
    field = page.get_by_label("Clip gain in percent")
    field.fill("500")
    after(page, score, lambda: field.press("Enter"))
    expect(page.get_by_label("Clip gain in dB")).to_have_value("14.0 dB")
    doc = score()
    gains = [lane_of(doc, name)["clips"][0]["gain_db"] for name in ("Talk", "Bed")]
    assert gains == pytest.approx([13.98, 13.98], abs=0.01)  # 20·lg 5
    expect(page.get_by_role("button", name="mono", exact=True)).to_be_disabled()  # these files have one channel
    field.press("Escape")  # out of the field, back to the film
    doc = after(page, score, lambda: page.keyboard.press("h"))
    assert all(lane_of(doc, name)["clips"][0]["muted"] for name in ("Talk", "Bed"))
    expect(page.locator("#checkup")).to_contain_text("Talk.wav is tagged dialogue but muted")


def test_of_two_channels_the_left_the_right_or_their_mean_is_played(page: Page, files, score):
    page.get_by_role("link", name="Lay out").click()
    page.locator("#pick").set_input_files(files["song"])
    expect(page.locator('.lane[data-lane="Song"]')).to_be_visible()
    clip(page, "Song").focus()
    doc = after(page, score, lambda: page.get_by_role("button", name="left", exact=True).click())
    assert lane_of(doc, "Song")["clips"][0]["channels"] == "left"
    expect(page.get_by_role("button", name="left", exact=True)).to_have_attribute("aria-pressed", "true")


def test_the_sound_settings_of_one_clip_are_given_to_others(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    click(page, middle(clip(page, "Talk")))
    field = page.get_by_label("Clip gain in dB")
    field.fill("-3")
    after(page, score, lambda: field.press("Enter"))
    click(page, middle(clip(page, "Bed")))
    click(page, middle(clip(page, "Talk")), keys=("Control",))
    doc = after(page, score, lambda: page.get_by_role("button", name="Copy sound to the others").click())
    assert lane_of(doc, "Bed")["clips"][0]["gain_db"] == -3


# — lanes —


def test_lanes_are_added_named_reordered_folded_resized_and_removed(page: Page, score):
    after(page, score, lambda: page.keyboard.press("Shift+N"))
    name = next(lane["name"] for lane in score()["lanes"] if not lane["clips"])
    field = page.get_by_label(f"Name of lane {name}")
    field.fill("Spare")
    after(page, score, lambda: field.press("Enter"))
    spare = page.locator('.lane[data-lane="Spare"]')
    spare.scroll_into_view_if_needed()
    was = spare.bounding_box()["height"]
    edge = spare.locator(".lane-edge")
    x, y = middle(edge)
    drag(page, (x, y), (x, y + 30))
    assert spare.bounding_box()["height"] == pytest.approx(was + 30, abs=2)
    page.get_by_label("Fold lane Spare").click()
    assert spare.bounding_box()["height"] < 30
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    assert spare.bounding_box()["height"] < 30  # how lanes are shown outlasts a reload
    page.get_by_label("Unfold lane Spare").click()
    grip = spare.locator(".lane-grip")
    top = page.locator('.lane[data-lane="Talk"]').bounding_box()
    doc = after(page, score, lambda: drag(page, middle(grip), (top["x"] + 30, top["y"] + 3)))
    names = [lane["name"] for lane in doc["lanes"]]
    assert names.index("Spare") < names.index("Talk")
    page.get_by_label("Menu of lane Spare").click()
    after(page, score, lambda: page.get_by_role("menuitem", name="Remove lane").click())
    expect(page.locator(".lane")).to_have_count(4)
    after(page, score, lambda: page.keyboard.press("Control+z"))
    expect(page.locator(".lane")).to_have_count(5)


def test_several_lanes_are_soloed_and_every_lane_shows_its_level(page: Page, score):
    page.get_by_role("button", name="Solo Talk").click()
    page.get_by_role("button", name="Solo Bed").click()
    expect(page.get_by_role("button", name="Solo Bed")).to_have_attribute("aria-pressed", "true")
    assert [lane["name"] for lane in score()["lanes"] if lane["soloed"]] == ["Talk", "Bed"]
    page.keyboard.press("Space")
    page.wait_for_function("""() => {
        const level = document.querySelector('.lane[data-lane=Bed] .lane-level i');
        return new DOMMatrix(getComputedStyle(level).transform).a > 0.3;
    }""")
    page.keyboard.press("Space")
