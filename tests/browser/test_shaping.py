"""Duck, by hand: passages corrected, dips of their own, points dragged, perches, presets, compressor, listening."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import drag, px_of

RATE = 48_000


@pytest.fixture
def duck(page: Page, ducked_project):
    """The Duck tray of a project with talk and bed."""
    expect(page.locator("tr[data-passage]")).to_have_count(2)
    return page


def undo_says(page: Page, words: str) -> None:
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", re.compile(words))


def body(page: Page, lane: str) -> dict:
    return page.locator(f'.lane[data-lane="{lane}"] .lane-body').bounding_box()


def point(page: Page, score, index: int) -> tuple[float, float]:
    """Where a point of the music's curve is drawn."""
    doc = score()
    curve = doc["curves"][doc["leading"]]
    box = body(page, "Bed")
    floor = min(-18.0, ((min(curve["gain_db"]) - 3) // 6) * 6)
    y = 9 + (box["height"] - 27 - 9) * curve["gain_db"][index] / floor
    return px_of(page, curve["time_n"][index]), box["y"] + y


def test_a_passage_is_no_speech_then_lifted(duck: Page, score):
    duck.locator("tr[data-passage]").first.click()
    duck.keyboard.press("d")
    expect(duck.locator("tr[data-passage]")).to_have_count(1)
    undo_says(duck, "is not speech")
    duck.keyboard.press("Control+z")
    expect(duck.locator("tr[data-passage]")).to_have_count(2)


def test_the_end_of_a_passage_is_dragged_and_shows_as_a_pin(duck: Page, score):
    stop_n = score()["passages"][0]["stop_n"]
    x, y = px_of(duck, stop_n), body(duck, "Talk")["y"] + 4
    drag(duck, (x - 1, y), (px_of(duck, stop_n + 2 * RATE), y), keys=("Alt",))
    undo_says(duck, "Passage 1 ends at")
    expect(duck.locator("tr[data-passage]").first.locator(".pin-sign").first).to_be_visible()
    assert score()["passages"][0]["stop_n"] - stop_n == pytest.approx(2 * RATE, abs=RATE / 3)
    duck.get_by_role("button", name="Lift", exact=True).click()
    expect(duck.locator(".pin-sign")).to_have_count(0)
    assert score()["passages"][0]["stop_n"] == stop_n


def test_speech_is_marked_from_in_to_out_and_passages_are_joined_and_split(duck: Page, score):
    first, second = score()["passages"]
    duck.locator("tr[data-passage]").first.click()
    duck.get_by_role("button", name="Join", exact=True).click()
    expect(duck.locator("tr[data-passage]")).to_have_count(1)
    duck.evaluate("(at_n) => window.jayLantern.player.seek(at_n)", (first["stop_n"] + second["start_n"]) // 2)
    duck.keyboard.press("Shift+j")
    expect(duck.locator("tr[data-passage]")).to_have_count(2)


def test_a_passage_of_its_own_amount_and_then_no_dip(duck: Page, score):
    duck.locator("tr[data-passage]").nth(1).click()
    duck.get_by_label("Set for").select_option("passage")
    field = duck.get_by_label("Duck amount", exact=True)
    field.fill("-20")
    field.press("Enter")
    expect(duck.locator("tr[data-passage]").nth(1)).to_contain_text("−20")
    expect(duck.locator("tr[data-passage]").first).to_contain_text("−14")
    assert score()["passages"][1]["own"] == {"amount_db": -20}
    corner = duck.get_by_role("slider", name="Corner of hold and duck amount")
    corner.focus()
    corner.press("ArrowUp")
    expect(field).to_have_value("−19.5")
    assert score()["settings"]["amount_db"] == -14
    field.dblclick()
    expect(field).to_have_value("−14")
    duck.get_by_role("button", name="No dip", exact=True).click()
    expect(duck.locator("tr[data-passage]").nth(1)).to_contain_text("none")
    expect(duck.locator("#dip-said")).to_contain_text("no dip")


def test_a_point_is_dragged_typed_exactly_taken_away_and_all_are_lifted(duck: Page, score):
    before = score()["curves"][score()["leading"]]
    x, y = point(duck, score, 1)
    drag(duck, (x, y), (x + 6, y - 16))
    undo_says(duck, "Move a point of Bed")
    curve = score()["curves"][score()["leading"]]
    [[index, _]] = curve["pins"]
    assert curve["gain_db"][index] > -13
    duck.mouse.dblclick(*point(duck, score, index))
    duck.get_by_label("Gain of the point in dB").fill("-7.25")
    duck.get_by_role("button", name="Set", exact=True).click()
    undo_says(duck, "7.25 dB")
    assert score()["curves"][score()["leading"]]["gain_db"][index] == -7.25
    duck.keyboard.press("Alt+ArrowUp")
    undo_says(duck, "6.75 dB")
    duck.mouse.click(*point(duck, score, index))
    duck.keyboard.press("Delete")
    undo_says(duck, "Take away a point of Bed")
    assert len(score()["curves"][score()["leading"]]["time_n"]) == len(before["time_n"]) - 1
    assert len(score()["lanes"]) > 1
    duck.locator("#show-points").click()
    duck.get_by_role("button", name="Lift all by hand").click()
    undo_says(duck, "Lift the points of Bed")
    after = score()["curves"][score()["leading"]]
    assert (after["time_n"], after["gain_db"]) == (before["time_n"], before["gain_db"])


def test_a_point_is_added_by_double_click_and_the_curve_frozen_and_set_free(duck: Page, score):
    doc = score()
    middle = (doc["passages"][0]["start_n"] + doc["passages"][0]["stop_n"]) // 2
    x = px_of(duck, middle)
    _, y = point(duck, score, 1)
    duck.mouse.dblclick(x, y)
    undo_says(duck, "Add a point to Bed")
    duck.locator("#show-points").click()
    card = duck.get_by_role("dialog", name="Points")
    card.get_by_role("button", name="Freeze").first.click()
    undo_says(duck, r"Freeze Bed: \d+ points, within 0\.\d\d dB")
    expect(card).to_contain_text("frozen")
    duck.keyboard.press("Escape")
    expect(card).to_be_hidden()
    frozen = score()["curves"][score()["leading"]]
    field = duck.get_by_label("Duck amount", exact=True)
    field.fill("-30")
    field.press("Enter")
    undo_says(duck, "Duck amount −30")
    assert score()["curves"][score()["leading"]] == frozen
    duck.locator("#show-points").click()
    card.get_by_role("button", name="Follow the speech again").click()
    undo_says(duck, "follow the speech again")
    assert min(score()["curves"][score()["leading"]]["gain_db"]) == -30


def test_compressor_and_even_bed_lose_nothing(duck: Page, score):
    drawn = score()["curves"]
    duck.get_by_role("button", name="Compressor", exact=True).click()
    expect(duck.locator("#transfer")).to_be_visible()
    field = duck.get_by_label("Threshold", exact=True)
    field.fill("-45 dBFS")
    field.press("Enter")
    undo_says(duck, "Threshold −45 dBFS")
    assert min(score()["curves"][score()["leading"]]["gain_db"]) < -3
    duck.locator("#play").click()
    expect(duck.locator("#transfer-said")).to_contain_text("key")
    duck.locator("#play").click()
    duck.get_by_role("button", name="Even bed", exact=True).click()
    expect(duck.locator("#checkup")).to_contain_text("No ducking: music and atmosphere lie at −12 dB throughout")
    duck.get_by_role("button", name="Passages", exact=True).click()
    expect(duck.locator("#checkup")).to_contain_text("No flutter")
    assert score()["curves"] == drawn


def test_a_preset_is_taken_over_and_ones_own_is_kept_and_removed(duck: Page, score, tmp_path):
    duck.locator("#show-presets").click()
    card = duck.get_by_role("dialog", name="Presets")
    card.get_by_role("button", name="Strong").click()
    undo_says(duck, "Preset Strong")
    assert score()["settings"]["amount_db"] == -18
    expect(card.get_by_role("button", name="Strong")).to_have_attribute("aria-current", "true")
    card.get_by_label("Name for what is set now").fill("My quay")
    card.get_by_role("button", name="Keep", exact=True).click()
    expect(card.get_by_role("button", name="My quay", exact=True)).to_be_visible()
    with duck.expect_download() as got:
        card.get_by_role("link", name="All as a file").click()
    [kept] = json.loads(got.value.path().read_text())["presets"]
    assert kept["settings"]["amount_db"] == -18
    card.get_by_role("button", name="Remove").click()
    card.get_by_role("button", name="Put it back").click()
    expect(card.get_by_role("button", name="My quay", exact=True)).to_be_visible()
    card.get_by_role("button", name="Remove").click()
    expect(card.get_by_role("button", name="Put it back")).to_be_visible()
    file = tmp_path / "broken.json"
    file.write_text("[]")
    card.get_by_label("A file of presets").set_input_files(file)
    expect(duck.locator("#said")).to_contain_text("no file of presets")


def test_only_one_part_is_heard_and_plain_as_loud_as_ducked(duck: Page):
    duck.get_by_role("button", name="Only …").click()
    duck.get_by_role("menuitemcheckbox", name="Only what is taken away").click()
    expect(duck.locator("#hear-only")).to_have_text("Taken away")
    assert duck.evaluate("window.jayLantern.player.variant") == "taken"
    duck.keyboard.press("Shift+B")
    expect(duck.locator("#said")).to_contain_text("played equally loud")
    duck.locator("#hear-plain").click()
    duck.locator("#play").click()
    expect(duck.locator("body.playing")).to_be_visible()
    level = duck.evaluate("window.jayLantern.player.amplitude")
    match_db = duck.evaluate("window.jayLantern.pageDoc.doc.match_db")
    assert level == pytest.approx(10 ** (match_db / 20))
    assert match_db < 0


def test_perches_are_set_where_they_are_drawn(duck: Page, score):
    duck.get_by_role("link", name="Tag").click()
    field = duck.get_by_label("music under dialogue")
    field.fill("-21")
    field.press("Enter")
    undo_says(duck, "music under dialogue: Duck amount −21")
    assert score()["settings"]["amount_db"] == -21
    assert min(score()["curves"][score()["leading"]]["gain_db"]) == -21
    duck.get_by_role("button", name="+ under effects: let music give way to it").click()
    expect(duck.get_by_label("music under effects")).to_have_value("−9")
    duck.get_by_role("button", name="dialogue lower").click()
    undo_says(duck, "Perch of dialogue moved")
    duck.locator(".perched", has_text="Talk").click()
    undo_says(duck, "Talk on a perch of its own")


def test_the_trigger_of_a_clip_is_chosen_from_its_menu(duck: Page, score):
    duck.locator('.lane[data-lane="Talk"] .clip').first.click()
    duck.keyboard.press("Shift+V")
    duck.get_by_role("menuitemcheckbox", name="Clip: its being there").click()
    undo_says(duck, "Trigger of Talk.wav: clip")
    expect(duck.locator("tr[data-passage]")).to_have_count(1)
    duck.keyboard.press("Shift+V")
    duck.get_by_role("menuitemcheckbox", name="Level: whatever is loud enough").click()
    undo_says(duck, "Trigger of Talk.wav: level")
    duck.keyboard.press("Shift+V")
    duck.get_by_role("menuitem", name="counts from −36 dBFS").click()
    duck.get_by_label("Threshold in dBFS").fill("−27,5 dBFS")
    duck.keyboard.press("Enter")
    undo_says(duck, "Threshold of Talk.wav: −27.5 dBFS")
