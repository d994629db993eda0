"""The Tag tray by hand: many clips at once, suggestions, bystanders, sort and filter, what is missing, remedies."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import after, click, clip, lane_of, middle, put_playhead

RATE = 48_000


@pytest.fixture
def untagged(page: Page, new_project, files) -> None:
    """Talk, bed and a mute film, nothing tagged, with the Tag tray open."""
    new_project("Untagged film")
    page.locator("#place").select_option("start")
    page.locator("#pick").set_input_files([files["talk"], files["bed"], files["mute film"]])
    expect(page.locator(".lane")).to_have_count(3)
    page.get_by_role("link", name="Tag").click()
    expect(page.locator("tr[data-clip]")).to_have_count(3)


def row(page: Page, name: str):
    return page.locator("tr[data-clip]", has_text=name)


def test_suggestions_say_why_and_wait_for_the_person(page: Page, untagged, score):
    talk = page.locator("tr.suggestion", has_text="speech in")
    expect(talk).to_contain_text(re.compile(r"dialogue speech in \d+% of what sounds"))
    expect(page.locator("tr.suggestion", has_text="held notes")).to_contain_text("music")
    assert {each["shown_tag"] for lane in score()["lanes"] for each in lane["clips"]} == {"untagged"}
    talk.get_by_role("button", name="Accept dialogue for Talk.wav").click()
    expect(row(page, "Talk.wav")).to_contain_text("dialogue lane's")  # all clips of the lane are: the lane is
    expect(row(page, "Talk.wav")).to_contain_text("on top")
    expect(page.locator("tr.suggestion")).to_have_count(1)
    assert lane_of(score(), "Talk")["tag"] == "dialogue"


def test_all_suggestions_are_accepted_in_one_step_and_the_music_dips(page: Page, untagged, score):
    doc = after(page, score, lambda: page.get_by_role("button", name="Accept all").click())
    assert len(doc["passages"]) == 2
    expect(page.locator("#missing")).to_contain_text("Ready to duck")
    page.keyboard.press("Control+z")
    expect(page.locator("tr.suggestion")).to_have_count(2)


def test_suggestions_are_ignored_one_or_all_and_can_be_shown_again(page: Page, untagged, score):
    page.get_by_role("button", name="Ignore the suggestion for Bed.flac").click()
    expect(page.locator("tr.suggestion")).to_have_count(1)
    page.get_by_role("button", name="Ignore all").click()
    expect(page.locator("tr.suggestion")).to_have_count(0)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator("tr.suggestion")).to_have_count(0)
    page.get_by_role("button", name="Show them again").click()
    expect(page.locator("tr.suggestion")).to_have_count(2)
    assert score()["undo"].startswith("Bring in")  # nothing of the film was changed


def test_what_is_missing_is_said_and_put_right_by_its_button(page: Page, untagged, score):
    missing = page.locator("#missing")
    expect(missing).to_contain_text("Nothing is tagged dialogue")
    missing.get_by_role("button", name="Tag Talk as dialogue").click()
    expect(missing).not_to_contain_text("Nothing is tagged dialogue")
    missing.get_by_role("button", name="Tag Bed as music").click()
    expect(missing).to_contain_text("Ready to duck")
    page.get_by_role("button", name="Mute Talk").click()
    expect(missing).to_contain_text("tagged dialogue but muted")
    missing.get_by_role("button", name="Unmute Talk").click()
    expect(missing).to_contain_text("Ready to duck")
    row(page, "Bed.flac").get_by_role("button", name="Bed.flac").click()
    page.locator(".tag-bar").get_by_role("button", name="bystander").click()
    expect(missing).to_contain_text("All music stands outside the pecking order")
    expect(row(page, "Bed.flac")).to_contain_text("bystander")
    assert score()["lanes"]
    missing.get_by_role("button", name="Bed back into the pecking order").click()
    expect(missing).to_contain_text("Ready to duck")
    assert len(score()["passages"]) == 2


def test_an_empty_film_says_what_to_do_first(page: Page, new_project):
    new_project("Nothing in it")
    page.get_by_role("link", name="Tag").click()
    expect(page.locator("#missing")).to_contain_text("The timeline is empty")
    expect(page.locator("#missing button", has_text="Bring in files")).to_be_visible()
    expect(page.locator("#clip-table")).to_contain_text("no sound to tag yet")


def test_a_clip_without_sound_is_seen_to_be_so(page: Page, untagged):
    expect(row(page, "Mute film.mkv")).to_contain_text("no sound")
    page.get_by_label("Show only").select_option("silent")
    expect(page.locator("tr[data-clip]")).to_have_count(1)
    expect(clip(page, "Mute film")).to_have_text("Mute film.mkv · no sound")


def test_the_list_is_sorted_filtered_and_searched(page: Page, ducked_project):
    page.get_by_role("link", name="Tag").click()
    names = page.locator("tr[data-clip] .clip-name")
    page.get_by_label("Sort by").select_option("name")
    expect(names).to_have_text(["Bed.flac", "Film.mp4", "Talk.wav"])
    page.get_by_label("Sort by").select_option("tag")
    expect(names.first).to_have_text("Talk.wav")
    page.get_by_label("Show only").select_option("music")
    expect(names).to_have_text(["Bed.flac"])
    page.get_by_label("Show only").select_option("")
    page.get_by_label("Find a clip or lane").fill("tal")
    expect(names).to_have_text(["Talk.wav"])
    page.get_by_label("Find a clip or lane").fill("nothing like it")
    expect(page.locator("#clip-table")).to_contain_text("No clip is like that")


def test_what_is_chosen_in_the_list_is_chosen_on_the_timeline_and_back(page: Page, ducked_project):
    page.get_by_role("link", name="Tag").click()
    row(page, "Talk.wav").click()
    expect(clip(page, "Talk")).to_have_class(re.compile("chosen"))
    click(page, middle(clip(page, "Bed")))
    expect(row(page, "Bed.flac")).to_have_class("chosen")
    expect(row(page, "Talk.wav")).not_to_have_class("chosen")
    row(page, "Talk.wav").click(modifiers=["Control"])
    expect(page.locator(".clip.chosen")).to_have_count(2)
    expect(page.locator("#tag-count")).to_have_text("2 chosen")


def test_many_clips_are_tagged_by_the_bar_by_key_and_by_lane(page: Page, ducked_project, score):
    clip(page, "Talk").focus()
    put_playhead(page, 10 * RATE)
    after(page, score, lambda: page.keyboard.press("s"))
    page.get_by_role("link", name="Tag").click()
    page.keyboard.press("Shift+A")
    doc = after(page, score, lambda: page.locator(".tag-bar").get_by_role("button", name="effects").click())
    assert [each["tag"] for each in lane_of(doc, "Talk")["clips"]] == ["effects", "effects"]
    page.keyboard.press("t")
    expect(page.get_by_role("menu")).to_contain_text("atmosphere")
    doc = after(page, score, lambda: page.keyboard.press("a"))
    assert {each["shown_tag"] for each in lane_of(doc, "Talk")["clips"]} == {"atmosphere"}
    page.keyboard.press("t")
    doc = after(page, score, lambda: page.keyboard.press("l"))  # cleared: as its lane
    assert {each["tag"] for each in lane_of(doc, "Talk")["clips"]} == {None}
    page.keyboard.press("t")
    after(page, score, lambda: page.keyboard.press("e"))
    page.get_by_label("Menu of lane Talk").click()
    menu = page.get_by_role("menuitem", name="Tag lane and clips as dialogue")
    doc = after(page, score, lambda: menu.click())
    assert {(each["shown_tag"], each["tag"]) for each in lane_of(doc, "Talk")["clips"]} == {("dialogue", None)}


def test_a_lane_that_stands_outside_neither_ducks_nor_makes_others_duck(page: Page, ducked_project, score):
    page.get_by_label("Menu of lane Talk").click()
    doc = after(page, score, lambda: page.get_by_role("menuitemcheckbox", name="Bystander").click())
    assert doc["passages"] == []
    assert lane_of(doc, "Talk")["clips"][0]["role"] == "outside"
    expect(page.locator("#checkup")).to_contain_text("All dialogue stands outside the pecking order")
    doc = after(page, score, lambda: page.keyboard.press("Control+z"))
    assert len(doc["passages"]) == 2


def test_the_row_of_a_clip_that_is_chosen_does_not_stop_below_the_head_of_the_table(page: Page, untagged):
    table = page.locator("#clip-table")
    table.evaluate("(box) => { box.style.maxHeight = '4.5rem'; box.scrollTop = 1e6; }")
    first = table.locator("tr[data-clip]").first
    page.evaluate("(id) => window.jayLantern.selection.choose([Number(id)])", first.get_attribute("data-clip"))
    head = table.locator("th").first.bounding_box()
    page.wait_for_function("(box) => box.scrollTop < 40", arg=table.element_handle())
    assert first.bounding_box()["y"] >= head["y"] + head["height"] - 1


def test_enter_in_the_field_that_finds_clips_stays_on_the_page_and_finds(page: Page, untagged):
    page.evaluate("() => { window.hereStill = true; }")
    find = page.get_by_label("Find a clip or lane")
    find.fill("tal")
    find.press("Enter")
    expect(page.locator("tr[data-clip]")).to_have_count(1)
    page.wait_for_timeout(300)
    assert page.evaluate("() => window.hereStill")
    assert "find=" not in page.url
    expect(find).to_be_focused()
