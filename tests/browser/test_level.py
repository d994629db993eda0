"""Level in the page: what is measured is shown, a match is seen before it is done, targets, the limiter's places."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect


@pytest.fixture
def level(page: Page, ducked_project) -> Page:
    page.keyboard.press("4")
    expect(page.locator("tr.loud-mix")).to_be_visible()
    return page


def figure(text: str) -> float:
    return float(text.replace("−", "-"))


def whole(page: Page) -> float:
    return figure(page.locator("tr.loud-mix td").first.inner_text())


def test_the_mix_is_brought_to_its_target_and_back(level: Page, score):
    before = whole(level)
    level.get_by_role("button", name="Bring the mix there").click()
    expect(level.locator("#undo")).to_have_attribute("title", re.compile("Match loudness of 3 clips to −23 LUFS"))
    expect(level.get_by_text("on target")).to_be_visible()
    assert abs(whole(level) + 23) < 0.5
    level.locator("#undo").click()
    expect(level.locator("tr.loud-mix td").first).to_have_text(f"{before:.1f}".replace("-", "−"))


def test_a_match_is_seen_before_it_is_done(level: Page, score):
    target = level.get_by_label("Target of the match")
    target.fill("−20")
    row = level.locator(".matches tbody tr", has_text="Talk.wav")
    expect(row.locator("td").nth(1)).to_have_text("−20.0")
    wanted = figure(row.locator("td").nth(3).inner_text())
    level.get_by_role("button", name="Match 1 clip").click()
    expect(level.get_by_role("button", name="All lie there already")).to_be_disabled()
    [gain] = [
        clip["gain_db"]
        for lane in score()["lanes"]
        for clip in lane["clips"]
        if clip["name"] == "Talk.wav" and lane["name"] == "Talk"
    ]
    assert abs(gain - wanted) < 0.06


def test_leaving_the_target_for_the_button_draws_nothing_anew_under_the_pointer(level: Page):
    """Clicking takes the focus from the field: what is then swapped between press and release would lose the click."""
    target = level.get_by_label("Target of the match")
    target.fill("−20")
    button = level.get_by_role("button", name="Match 1 clip")
    expect(level.locator(".matches tbody tr", has_text="Talk.wav").locator("td").nth(1)).to_have_text("−20.0")
    level.evaluate(
        "() => { window.swaps = 0; document.addEventListener('htmx:beforeRequest', () => (window.swaps += 1)); }"
    )
    button.hover()
    level.mouse.down()
    assert level.evaluate("document.activeElement.id") != "match-target"
    assert level.evaluate("window.swaps") == 0
    level.mouse.up()
    expect(level.get_by_role("button", name="All lie there already")).to_be_disabled()


def test_another_subject_has_another_target_and_the_mix_takes_one_amount(level: Page):
    level.get_by_label("What is matched").select_option("mix")
    expect(level.get_by_label("How", exact=True)).to_be_disabled()
    level.get_by_label("What is matched").select_option("music")
    expect(level.get_by_label("How", exact=True)).to_be_enabled()
    level.get_by_label("By", exact=True).select_option("true_peak")
    expect(level.locator("#match-unit")).to_have_text("dBTP")
    expect(level.locator("#match-target")).to_have_value("−1")


def test_the_limiters_places_are_gone_to(level: Page, score):
    level.evaluate("window.jayLantern.pageDoc.do('set_settings', { settings: { ceiling_dbtp: -12 } })")
    place = level.locator(".places button").first
    expect(place).to_be_visible()
    level.wait_for_timeout(800)  # no newer measure takes its place
    at_s = int(place.get_attribute("data-go")) / 48_000
    place.click()
    expect(level.locator("#now")).not_to_have_value("00:00.000")
    assert at_s - 1.5 < level.evaluate("window.jayLantern.timeline.playhead_n") / 48_000 <= at_s  # heard coming
    assert level.evaluate("window.jayLantern.timeline.loudness._drawn.reduction_db.some((db) => db > 0.1)")


def test_a_target_of_ones_own_is_added_and_taken(level: Page, score):
    level.get_by_role("button", name="Targets").click()
    card = level.get_by_role("dialog", name="Targets")
    card.get_by_label("Name of the target").fill("Museum hall")
    card.get_by_label("Loudness in LUFS").fill("−19,5")
    card.get_by_label("True peak in dBTP").fill("−2")
    card.get_by_role("button", name="Add").click()
    card.get_by_role("button", name="Museum hall −19.5 LUFS").click()
    expect(level.locator("#knob-target_lufs")).to_have_value("−19.5")
    settings = score()["settings"]
    assert (settings["target_lufs"], settings["ceiling_dbtp"]) == (-19.5, -2)
    level.get_by_role("button", name="Targets").click()
    card.get_by_role("button", name="Remove Museum hall").click()
    expect(card.get_by_text("Museum hall")).to_have_count(0)


def test_the_strip_is_there_under_level_alone(level: Page):
    strip = level.locator(".tl-loud")
    expect(strip).to_be_visible()
    level.keyboard.press("3")
    expect(strip).to_be_hidden()
    level.keyboard.press("4")
    expect(strip).to_be_visible()


def test_speech_is_evened_out_and_the_line_is_drawn(level: Page, score):
    field = level.locator("#knob-even_out_db")
    field.fill("6")
    field.press("Enter")
    expect(level.locator("#undo")).to_have_attribute("title", re.compile("Even out"))
    rides = [clip["ride"] for lane in score()["lanes"] for clip in lane["clips"] if lane["name"] == "Talk"]
    assert rides[0] is not None
    assert max(abs(db) for db in rides[0]["gain_db"]) <= 6
    level.wait_for_function("window.jayLantern.pageDoc.doc.lanes.some((lane) => lane.clips.some((clip) => clip.ride))")


def test_the_report_is_a_page_of_its_own(level: Page):
    level.keyboard.press("6")
    with level.expect_popup() as popup:
        level.get_by_role("link", name="Report").click()
    report = popup.value
    expect(report.get_by_role("heading", name="Ducked film")).to_be_visible()
    expect(report.get_by_role("img", name="Gain of the music over the film")).to_be_visible()
    assert report.locator("table").last.locator("tbody tr").count() == 2


def test_a_lane_over_full_scale_is_marked_until_the_mark_is_clicked_away(page: Page, ducked_project):
    bed = page.locator(".lane-head", has=page.get_by_label("Name of lane Bed"))
    bed.locator(".fader-said").fill("24")
    page.keyboard.press("Enter")
    expect(bed.locator(".lane-level")).not_to_have_class(re.compile("clipped"))
    page.keyboard.press("Space")
    expect(bed.locator(".lane-level")).to_have_class(re.compile("clipped"))
    talk = page.locator(".lane-head", has=page.get_by_label("Name of lane Talk"))
    expect(talk.locator(".lane-level")).not_to_have_class(re.compile("clipped"))
    page.keyboard.press("Space")
    expect(bed.locator(".lane-level")).to_have_class(re.compile("clipped"))  # it stays when nothing plays any more
    expect(page.locator("#clip-mark")).to_be_disabled()  # the limiter keeps the mix itself under its ceiling
    bed.locator(".lane-level").click()
    expect(bed.locator(".lane-level")).not_to_have_class(re.compile("clipped"))


def test_clips_are_measured_by_themselves_and_the_usual_band_of_peaks_is_shown(page: Page, ducked_project):
    page.keyboard.press("4")
    expect(page.locator(".loud-lane")).not_to_have_count(0)
    page.locator("#measured-of").select_option("clips")
    expect(page.locator(".loud-clip", has_text="Talk.wav")).to_be_visible()
    expect(page.locator(".loud-lane")).to_have_count(0)
    band = page.locator("#peak-band")
    band.click()
    expect(page.locator("body")).to_have_class(re.compile("peak-band"))
    page.keyboard.press("3")
    expect(page.locator("body")).not_to_have_class(re.compile("peak-band"))
    page.keyboard.press("4")
    expect(band).to_have_attribute("aria-pressed", "true")
