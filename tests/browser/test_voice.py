"""The Voice card of Level: parts switched and set, starting points, a suggestion, places spared, before and after."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser import views
from tests.browser.hands import lane_of

RATE = 48_000


@pytest.fixture
def voice(page: Page, ducked_project) -> Page:
    """The Voice card of a project with talk."""
    views.voice(page)
    return page


def after(page: Page, score, deed) -> dict:
    """Do something to the voice; the document once the care of Talk, or of its clip, is another: treating in the
    background makes a new revision, too."""
    was = care_of(score())
    deed()
    for _ in range(200):
        doc = score()
        if care_of(doc) != was:
            return doc
        page.wait_for_timeout(50)
    raise AssertionError("Nothing was done to the voice.")


def care_of(doc: dict) -> list:
    lane = lane_of(doc, "Talk")
    return [lane["care"], [clip["care"] for clip in lane["clips"]]]


def undo_says(page: Page, words: str) -> None:
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", re.compile(words))


def test_a_part_is_switched_on_set_by_keys_and_typed_and_off_again(voice: Page, score):
    switch, field = voice.get_by_role("switch", name="Low cut"), voice.get_by_role("textbox", name="Low cut")
    doc = after(voice, score, switch.check)
    assert lane_of(doc, "Talk")["care"] == {"low_cut": 80}
    undo_says(voice, "Voice of Talk: Low cut 80 Hz")
    doc = after(voice, score, lambda: field.press("ArrowUp"))
    assert lane_of(doc, "Talk")["care"] == {"low_cut": 85}
    field.fill("120")
    doc = after(voice, score, lambda: field.press("Enter"))
    assert lane_of(doc, "Talk")["care"] == {"low_cut": 120}
    switch.focus()
    doc = after(voice, score, lambda: voice.keyboard.press("Space"))
    assert lane_of(doc, "Talk")["care"] == {}
    expect(field).to_have_value("80")


def test_a_slider_is_one_step_and_nonsense_is_refused(voice: Page, score):
    after(voice, score, voice.get_by_role("switch", name="Hush").check)
    slider = voice.get_by_label("Hush slider")
    slider.evaluate(
        "(each) => { for (const value of [12, 14, 16]) {"
        " each.value = value; each.dispatchEvent(new Event('input', { bubbles: true })); }"
        " each.dispatchEvent(new Event('change', { bubbles: true })); }"
    )
    undo_says(voice, "Hush 16 dB")
    voice.get_by_role("button", name="Undo", exact=True).click()
    undo_says(voice, "Hush 10 dB")
    field = voice.get_by_role("textbox", name="Hush")
    field.fill("very much")
    field.press("Enter")
    expect(voice.get_by_text("is not understood here")).to_be_visible()
    assert lane_of(score(), "Talk")["care"] == {"hush": 10}


def test_a_starting_point_and_everything_off_and_a_clip_alone(voice: Page, score):
    doc = after(voice, score, lambda: voice.get_by_label("Starting point").select_option("close microphone"))
    assert lane_of(doc, "Talk")["care"] == {"low_cut": 80, "evenness": 3, "soft_s": 4, "breaths": 8}
    expect(voice.locator(".voice-said")).to_contain_text("LU")
    voice.get_by_label("Voice of").select_option("clip")
    doc = after(voice, score, voice.get_by_role("switch", name="Presence").check)
    [clip] = lane_of(doc, "Talk")["clips"]
    assert clip["care"] == {**lane_of(doc, "Talk")["care"], "presence": 2}
    doc = after(voice, score, lambda: voice.get_by_label("Voice of").select_option("lane"))
    assert lane_of(doc, "Talk")["clips"][0]["care"] is None
    doc = after(voice, score, lambda: voice.get_by_label("Starting point").select_option("off"))
    assert lane_of(doc, "Talk")["care"] == {}


def test_places_are_shown_heard_and_spared(voice: Page, score):
    after(voice, score, voice.get_by_role("switch", name="Softer s").check)
    places = voice.locator(".voice-places")
    places.locator("summary").click()
    expect(places.locator(".place").first).to_be_visible()
    doc = after(voice, score, lambda: places.get_by_role("button", name="Spare").first.click())
    [clip] = lane_of(doc, "Talk")["clips"]
    assert len(clip["care"]["spared"]) == 1
    expect(voice.locator(".voice-places summary")).to_contain_text("1 spared")


def test_before_is_the_mix_with_nothing_done_and_after_is_not(voice: Page, score):
    doc = after(voice, score, lambda: voice.get_by_label("Starting point").select_option("telephone"))
    at = doc["passages"][0]["start_n"] + RATE // 2

    def heard(variant: str) -> np.ndarray:
        body = voice.request.get(f"/projects/{doc['id']}/listen/{variant}?start={at}&stop={at + RATE // 4}").body()
        return np.frombuffer(body, "<f4")

    assert np.abs(heard("bare") - heard("ducked")).max() > 1e-3
    voice.get_by_role("button", name="Before", exact=True).click()
    expect(voice.get_by_role("button", name="Before", exact=True)).to_have_attribute("aria-pressed", "true")
    assert voice.evaluate("window.jayLantern.player.variant") == "bare"
    voice.get_by_role("button", name="Before", exact=True).click()
    assert voice.evaluate("window.jayLantern.player.variant") == "ducked"


def test_without_anybody_who_speaks_the_card_says_so(page: Page, new_project):
    new_project()
    page.locator('.steps a[data-step="level"]').click()
    page.locator('[data-level-tab="voice"]').click()
    expect(page.locator("#voice-heard")).to_contain_text("Nobody speaks yet")
    expect(page.get_by_role("switch", name="Hush")).to_be_disabled()
